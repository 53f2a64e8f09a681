"""Columns of many different strings whose cells were told apart in one pass over their bytes."""

import re
from collections.abc import Sequence
from dataclasses import replace
from decimal import Decimal
from typing import Any

import numpy as np

from even_sieve.core.cells import Cell, Kind
from even_sieve.core.cells.written import Conventions, read_ordered_date, read_written_number
from even_sieve.core.table import Column, column_from_codes
from even_sieve.sources.arrow_buffers import stored, strings_of, take
from even_sieve.sources.bulk_strings import trim
from even_sieve.sources.column_piece import Piece, column_of_piece
from even_sieve.sources.currencies import told_as_mixed
from even_sieve.sources.growing_cells import read_apart
from even_sieve.sources.like_dates import with_date_notice
from even_sieve.sources.set_aside import without_blanks
from even_sieve.sources.shown_by_source import PERCENT
from even_sieve.sources.source_options import SourceOptions
from even_sieve.sources.tokens import TokenReader
from even_sieve.sources.told_cells import UNSURE, Fact, Told
from even_sieve.sources.written_shapes import written_notice

#: So many different strings are read one by one.
_ALONE, _FEW, _LOOKED_AT = 1 << 12, 1 << 8, 64
#: Fewer are read sooner than told apart.
_SOME = 16
#: What numbers are made of that show no currency and no percent.
_BARE = re.compile(r"[-+0-9.,'’ \u00a0\u202feE]+")


def column_told(
    name: str, strings: Any, options: SourceOptions, texts_too: bool = True
) -> Column | None:
    """Return the column of an Arrow array of strings without nulls.

    None where nothing tells its cells apart, where all of its texts may be numbers as people write
    them (whether they are hangs on all of them), and where there are texts and these are not asked
    for.
    """
    mark, order = options.decimal_mark, options.date_order
    trimmed = 0
    if options.blank_as:
        strings, trimmed = trim(strings)
        strings = without_blanks(strings, options.blank_as)
    told = Told.of(strings, mark, order)
    if told is not None and told[Fact.SPACED] and not options.blank_as:
        strings, trimmed = trim(strings)
        told = Told.of(strings, mark, order)
    if told is None or told.unsure == len(strings) or (told[Fact.TEXTS] and not texts_too):
        return None
    reader = TokenReader((), mark)
    rest = _rest(told, options, reader) if told.unsure else Piece(0, {}, told.states[:0])
    if rest is None:
        return None
    agreed = mark == "." and told[Fact.WRITTEN] > 0 and _agree(told, rest)
    as_written = agreed or mark != "."
    texts = told[Fact.TEXTS] or rest.words is not None or (told[Fact.WRITTEN] and not as_written)
    if texts and (not texts_too or not _differ(told, rest, mark)):
        return None
    piece = told.piece(reader, as_written)
    if piece is not None and told.unsure:
        piece = told.with_rest(piece, rest)
    if piece is None:
        return None
    told_of = reader.notices(name)
    if as_written:
        told_of = (*told_of, *told_as_mixed(name, told.signs))
    if agreed:
        first = strings[told[Fact.FIRST]].as_py()
        told_of = (*told_of, written_notice(name, first, read_written_number(first)))
    column = replace(
        column_of_piece(name, piece, told_of),
        conventions=Conventions(mark, order, as_written),
        trimmed=trimmed,
        shown=_shown(told, rest) if as_written and told[Fact.WRITTEN] else "",
    )
    return with_date_notice(column)


def cells_of_tokens(tokens: Sequence[str], reader: TokenReader) -> list[Cell]:
    """Return what the reader reads of each token; what is certain to be a text is not read.

    >>> cells_of_tokens(["12.5", "Pier"] * 8, TokenReader())[:2]
    [Decimal('12.5'), 'Pier']
    """
    told = None
    if len(tokens) >= _SOME and not reader.blank_as:
        told = Told.of(strings_of(tokens), reader.decimal)
    if told is None:
        return [reader.read(token) for token in tokens]
    texts = (told.states == Kind.TEXT).tolist()
    return [t if text else reader.read(t) for t, text in zip(tokens, texts, strict=True)]


def _agree(told: Told, rest: Piece) -> bool:
    """Tell whether all texts are numbers as people write them, and nothing speaks against it."""
    against = told[Fact.TEXTS] or told[Fact.DATES] or rest.words is not None
    return not against and not {Kind.DATE, Kind.YES_NO} & rest.lanes.keys()


def _differ(told: Told, rest: Piece, mark: str) -> bool:
    """Tell whether it is certain that not all texts are numbers as people write them."""
    if told[Fact.WORDS] or told[Fact.DATES]:
        return True
    some = [] if rest.words is None else rest.words[:_LOOKED_AT].to_pylist()
    return any(read_written_number(each, mark) is None for each in some)


def _shown(told: Told, rest: Piece) -> str:
    """Return how all numbers are shown."""
    numbers = told[Fact.NUMBERS] + told[Fact.WRITTEN] + (Kind.NUMBER in rest.lanes)
    if told[Fact.PERCENTS] == numbers:
        return PERCENT
    return told.signs[0] if told[Fact.SIGNED] == numbers and len(told.signs) == 1 else ""


def _rest(told: Told, options: SourceOptions, reader: TokenReader) -> Piece | None:
    """Return what was left over; None where it is better read with all others."""
    strings = take(told.strings, np.flatnonzero(told.states == UNSURE))
    few = len(strings) <= _FEW
    if options.decimal_mark == "." and options.date_order is None and not few:
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
