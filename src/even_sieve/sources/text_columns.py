"""Columns of strings of which each is a text, whatever it looks like: from Arrow and pandas."""

from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from even_sieve.core.cells import Kind
from even_sieve.core.table import Column, column_from_cells
from even_sieve.core.table.arrays import pick
from even_sieve.core.table.build import assemble
from even_sieve.core.table.lanes import changed, narrowest
from even_sieve.sources.arrow_buffers import Bytes, scalar_of, stored, take
from even_sieve.sources.bulk_strings import Piece, column_of_piece, trim
from even_sieve.sources.string_columns import has_many


def column_of_texts(name: str, strings: Any) -> Column:
    """Return a column of an Arrow array of strings; null and nothing but space as a blank."""
    if has_many(strings):
        return _each(name, strings)
    return column_of_coded(name, strings.dictionary_encode())


def column_of_coded(name: str, array: Any) -> Column:
    """Return a column from a dictionary-encoded Arrow array, null as a blank."""
    words = array.dictionary
    plain = _plainly_coded(name, words, array) if not array.null_count else None
    if plain is not None:
        return plain
    if not (pa.types.is_string(words.type) or pa.types.is_large_string(words.type)):
        values = column_from_cells(name, [*words.to_pylist(), None])
    elif words.null_count:
        return _each(name, array.cast(words.type))
    else:
        values = _each(name, pa.concat_arrays([words, pa.nulls(1, words.type)]))
    blank = len(words)
    filled = pc.fill_null(pc.cast(array.indices, pa.int32()), scalar_of(blank, pa.int32()))
    codes = stored(filled, np.int32)
    codes = codes.astype(narrowest(blank + 1))
    lanes = {k: changed(lane, lambda each: pick(each, codes)) for k, lane in values.lanes.items()}
    states = values.states  # none only where there is nothing but the blank
    states = np.full(values.length, Kind.BLANK, dtype=np.uint8) if states is None else states
    return assemble(name, len(codes), lanes, pick(states, codes))


def _plainly_coded(name: str, words: Any, array: Any) -> Column | None:
    """Return the column where every cell is one of the words, and none of these is a blank."""
    if not (pa.types.is_string(words.type) or pa.types.is_large_string(words.type)):
        return None
    if words.null_count or not len(words):
        return None
    values = _each(name, words)
    if values.counts != {Kind.TEXT: len(words)}:
        return None
    codes = stored(pc.cast(array.indices, pa.int32()), np.int32)
    lane = changed(values.lanes[Kind.TEXT], lambda each: pick(each, codes))
    return assemble(name, len(codes), {Kind.TEXT: lane}, None)


def _each(name: str, strings: Any) -> Column:
    trimmed, _ = trim(pc.fill_null(strings, scalar_of("", strings.type)))
    rows = np.flatnonzero(Bytes.of(trimmed).lengths)
    states = np.full(len(trimmed), Kind.BLANK, dtype=np.uint8)
    states[rows] = Kind.TEXT
    piece = Piece(len(trimmed), {}, states, take(trimmed, rows) if len(rows) else None)
    return column_of_piece(name, piece, ())
