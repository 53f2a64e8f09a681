"""Columns of Arrow arrays of bytes, which are texts."""

from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from even_sieve.core.cells import CellError
from even_sieve.core.table import Column, column_from_cells
from even_sieve.core.table.coded_column import column_of_places
from even_sieve.sources.arrow_buffers import scalar_of
from even_sieve.sources.text_columns import column_of_texts, places_of

#: How many bytes an identifier has, how many letters, and which of these are no dashes.
_OCTETS, _WRITTEN = 16, 36
_NO_DASH = [place for place in range(_WRITTEN) if place not in (8, 13, 18, 23)]
_HEX = np.frombuffer(bytes(range(256)).hex().encode(), dtype=np.uint8).reshape(256, 2)


def is_bytes(kind: Any) -> bool:
    """Tell whether a type of Arrow is one of bytes."""
    tests = (pa.types.is_binary, pa.types.is_large_binary, pa.types.is_fixed_size_binary)
    return kind == pa.binary_view() or any(test(kind) for test in tests)


def texts_of_bytes(name: str, array: Any) -> Column:
    """Return the column of bytes: a text where they are one in UTF-8, an error elsewhere.

    Some writers do not say of their texts that they are such.
    """
    wide = pc.cast(array, pa.large_binary())
    try:
        return column_of_texts(name, pc.cast(wide, pa.large_string()))
    except pa.ArrowInvalid:
        coded = wide.dictionary_encode()
        cells = [_text_of(each) for each in coded.dictionary.to_pylist()]
        return column_of_places(column_from_cells(name, cells), places_of(coded))


def identifiers(name: str, array: Any) -> Column:
    """Return the column of universally unique identifiers as they are written (RFC 9562, 4)."""
    stored_at = np.frombuffer(array.buffers()[1] or b"", dtype=np.uint8).reshape(-1, _OCTETS)
    octets = stored_at[array.offset : array.offset + len(array)]
    letters = np.full((len(octets), _WRITTEN), ord("-"), dtype=np.uint8)
    letters[:, _NO_DASH] = _HEX[octets].reshape(len(octets), 2 * _OCTETS)
    ends = np.arange(len(octets) + 1, dtype=np.int64) * _WRITTEN
    buffers = [None, pa.py_buffer(ends), pa.py_buffer(letters)]
    texts = pa.Array.from_buffers(pa.large_string(), len(octets), buffers)
    nothing = scalar_of("", texts.type)
    return column_of_texts(name, pc.if_else(array.is_valid(), texts, nothing))


def _text_of(octets: bytes) -> str | CellError:
    try:
        return octets.decode()
    except UnicodeDecodeError:
        return CellError("#bytes", "the cell holds bytes that are no text")
