"""Columns of many different strings whose cells were told apart in one pass over their bytes."""

import re
from dataclasses import replace
from decimal import Decimal
from typing import Any

import numpy as np

from even_sieve.core.cells import Cell, Kind
from even_sieve.core.cells.written import Conventions, read_ordered_date
from even_sieve.core.table import Column, column_from_codes
from even_sieve.sources.arrow_buffers import stored, take
from even_sieve.sources.bulk_strings import trim
from even_sieve.sources.column_piece import Piece, column_of_piece
from even_sieve.sources.growing_cells import read_apart
from even_sieve.sources.like_dates import with_date_notice
from even_sieve.sources.set_aside import without_blanks
from even_sieve.sources.source_options import SourceOptions
from even_sieve.sources.tokens import TokenReader
from even_sieve.sources.told_cells import UNSURE, Told, with_rest

#: So many different strings are read one by one.
_ALONE = 1 << 12
#: What numbers are made of that show no currency and no percent.
_BARE = re.compile(r"[-+0-9.,'’ \u00a0\u202feE]+")


def column_told(name: str, strings: Any, options: SourceOptions) -> Column | None:
    """Return the column of an Arrow array of strings without nulls.

    None where nothing tells its cells apart, and where all of its texts may be numbers as people
    write them: whether they are hangs on all of them.
    """
    mark, order = options.decimal_mark, options.date_order
    trimmed = 0
    if options.blank_as:
        strings, trimmed = trim(strings)
        strings = without_blanks(strings, options.blank_as)
    told = Told.of(strings, mark, order)
    if told is not None and told.spaced and not options.blank_as:
        strings, trimmed = trim(strings)
        told = Told.of(strings, mark, order)
    if told is None or told.unsure == len(strings):
        return None
    if told.has_texts and not told.has_words:
        return None
    reader = TokenReader((), mark)
    piece = told.piece(reader)
    if piece is None:
        return None
    if told.unsure:
        rows = np.flatnonzero(told.states == UNSURE)
        rest = _rest(take(strings, rows), options, reader)
        if rest is None or (rest.words is not None and not told.has_words):
            return None
        piece = with_rest(piece, rows, rest, strings)
        if piece is None:
            return None
    column = column_of_piece(name, piece, reader.notices(name))
    column = replace(column, conventions=Conventions(mark, order, mark != "."), trimmed=trimmed)
    return with_date_notice(column)


def _rest(strings: Any, options: SourceOptions, reader: TokenReader) -> Piece | None:
    """Return what was left over; None where it is better read with all others."""
    if options.decimal_mark == "." and options.date_order is None:
        piece, own = read_apart(strings)
        reader.merge(own)
        return piece
    coded = strings.dictionary_encode()
    if len(coded.dictionary) > _ALONE:
        return None
    tokens = coded.dictionary.to_pylist()
    cells = [_read(token, options, reader) for token in tokens]
    pairs = zip(tokens, cells, strict=True)
    if any(isinstance(cell, Decimal) and not _BARE.fullmatch(token) for token, cell in pairs):
        return None  # how they are shown is told of all
    codes = stored(coded.indices, np.int32)
    texts = np.array([isinstance(cell, str) for cell in cells])[codes]
    others = [None if isinstance(cell, str) else cell for cell in cells]
    column = column_from_codes("", others, codes)
    states = np.full(len(codes), column.only_kind, dtype=np.uint8)
    states = np.where(
        texts, np.uint8(Kind.TEXT), states if column.states is None else column.states
    )
    words = take(strings, np.flatnonzero(texts)) if texts.any() else None
    return Piece(len(codes), dict(column.lanes), states, words)


def _read(token: str, options: SourceOptions, reader: TokenReader) -> Cell:
    cell = reader.read(token)
    if isinstance(cell, str) and options.date_order is not None:
        return read_ordered_date(cell, options.date_order) or cell
    return cell
