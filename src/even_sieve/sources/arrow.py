"""Arrow arrays to NumPy and back by their buffers.

pyarrow's own conversions import pandas, which a read has no use for.
"""

from typing import Any

import numpy as np
import pyarrow as pa

from even_sieve.core.table.lanes import Array


def stored(array: Any, kind: Any) -> Array:
    """Return what an Arrow array without nulls stores, as a NumPy array of this type."""
    values = np.frombuffer(array.buffers()[1], dtype=kind)
    return values[array.offset : array.offset + len(array)]


def mask_of(array: Any) -> Array:
    """Return an Arrow array of booleans without nulls as a NumPy array, bool."""
    bits = np.frombuffer(array.buffers()[1], dtype=np.uint8)
    bits = np.unpackbits(bits, bitorder="little", count=array.offset + len(array))
    return bits[array.offset :].astype(bool)


def take(array: Any, rows: Array) -> Any:
    """Return the rows of an Arrow array at these positions."""
    positions = np.ascontiguousarray(rows, dtype=np.int64)
    buffer = pa.py_buffer(positions)
    return array.take(pa.Array.from_buffers(pa.int64(), len(positions), [None, buffer]))
