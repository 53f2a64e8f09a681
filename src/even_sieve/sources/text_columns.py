"""Columns of strings of which each is a text, whatever it looks like: from Arrow and pandas."""

from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from even_sieve.core.cells import Kind
from even_sieve.core.table import Column
from even_sieve.core.table.coded_column import column_of_places
from even_sieve.sources.arrow_buffers import Bytes, scalar_of, stored, take
from even_sieve.sources.bulk_strings import trim
from even_sieve.sources.column_piece import Piece, column_of_piece
from even_sieve.sources.string_columns import has_many


def column_of_texts(name: str, strings: Any) -> Column:
    """Return a column of an Arrow array of strings; null and nothing but space as a blank."""
    if has_many(strings):
        return _each(name, strings)
    return column_of_coded_texts(name, strings.dictionary_encode())


def column_of_coded_texts(name: str, array: Any) -> Column:
    """Return a column of a dictionary-encoded Arrow array of strings, null as a blank."""
    words = array.dictionary
    if words.null_count:
        return _each(name, array.cast(words.type))
    return column_of_places(_each(name, words), places_of(array))


def places_of(array: Any) -> Any:
    """Return the place of each cell of a dictionary-encoded array (int32), -1 of null."""
    places = pc.fill_null(pc.cast(array.indices, pa.int32()), scalar_of(-1, pa.int32()))
    return stored(places, np.int32)


def _each(name: str, strings: Any) -> Column:
    trimmed, _ = trim(pc.fill_null(strings, scalar_of("", strings.type)))
    rows = np.flatnonzero(Bytes.of(trimmed).lengths)
    states = np.full(len(trimmed), Kind.BLANK, dtype=np.uint8)
    states[rows] = Kind.TEXT
    piece = Piece(len(trimmed), {}, states, take(trimmed, rows) if len(rows) else None)
    return column_of_piece(name, piece, ())
