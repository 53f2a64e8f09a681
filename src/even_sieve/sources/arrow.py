"""Arrow arrays to NumPy and back by their buffers.

pyarrow's own conversions import pandas, which a read has no use for.
"""

from collections.abc import Iterator, Sequence
from functools import cached_property
from typing import Any, overload

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


class Strings(Sequence[str]):
    """An Arrow array of strings as a sequence: made into Python strings when all are asked for.

    Looking a few up, as a binary search does, leaves the others where they are.
    """

    def __init__(self, array: Any) -> None:
        self._array = array

    @cached_property
    def _all(self) -> tuple[str, ...]:
        return tuple(self._array.to_pylist())

    def __len__(self) -> int:
        return len(self._array)

    def __iter__(self) -> Iterator[str]:
        return iter(self._all)

    @overload
    def __getitem__(self, key: int) -> str: ...

    @overload
    def __getitem__(self, key: slice) -> Sequence[str]: ...

    def __getitem__(self, key: int | slice) -> str | Sequence[str]:
        if "_all" in self.__dict__:
            return self._all[key]
        if isinstance(key, slice):
            return tuple(self._array[key].to_pylist())
        return str(self._array[int(key)].as_py())


def first_bytes(strings: Any) -> Array:
    """Return the first byte of each string (UTF-8), uint8, shape (n,); 0 for an empty one."""
    wide = pa.types.is_large_string(strings.type)
    offsets: Array = np.frombuffer(strings.buffers()[1], dtype=np.int64 if wide else np.int32)
    offsets = offsets[strings.offset : strings.offset + len(strings) + 1]
    data = strings.buffers()[2]
    found = np.zeros(len(strings), dtype=np.uint8)
    filled = offsets[1:] > offsets[:-1]
    if data is not None:
        found[filled] = np.frombuffer(data, dtype=np.uint8)[offsets[:-1][filled]]
    return found


def is_utf8(content: bytes) -> bool:
    """Tell whether bytes are UTF-8, without a copy of them."""
    ends = pa.py_buffer(np.array([0, len(content)], dtype=np.int64))
    whole = pa.Array.from_buffers(pa.large_string(), 1, [None, ends, pa.py_buffer(content)])
    try:
        whole.validate(full=True)
    except pa.ArrowInvalid:
        return False
    return True


def take(array: Any, rows: Array) -> Any:
    """Return the rows of an Arrow array at these positions, which ascend."""
    if len(rows) == len(array):
        return array
    positions = np.ascontiguousarray(rows, dtype=np.int64)
    buffer = pa.py_buffer(positions)
    return array.take(pa.Array.from_buffers(pa.int64(), len(positions), [None, buffer]))
