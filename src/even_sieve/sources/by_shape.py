"""Columns of many different strings of which most are numbers as people write them.

Whether a string is one hangs on its shape: of all strings of a shape one is looked at. What is of
no such shape is read in bulk or, where it may be a number or a date of another form, alone.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
import pyarrow as pa

from even_sieve.core.cells import Kind, read_number
from even_sieve.core.cells.dates import spans_of_date
from even_sieve.core.cells.written import Conventions, read_written_number
from even_sieve.core.table import Column
from even_sieve.core.table.build import assemble
from even_sieve.core.table.lanes import Array
from even_sieve.sources.arrow_buffers import Bytes, strings_of, take
from even_sieve.sources.column_piece import Piece, column_of_piece
from even_sieve.sources.currencies import currency_signs, mixed_currencies
from even_sieve.sources.growing_cells import read_apart, read_in_bulk
from even_sieve.sources.ordered_dates import ORDERS, date_form, known_dates
from even_sieve.sources.set_aside import ASIDE, MAY_COUNT, are_words
from even_sieve.sources.shaped import Shaped
from even_sieve.sources.shaped_numbers import Form, fitting_together, fixed_by
from even_sieve.sources.shown_by_source import shown_in_text
from even_sieve.sources.source_options import SourceOptions
from even_sieve.sources.woven import in_order
from even_sieve.sources.written_shapes import NEEDLESS, written_notice

_PLAIN = "1"


def read_by_shape(
    name: str, strings: pa.Array, options: SourceOptions, bulk: Callable[[], Column | None]
) -> Column | None:
    """Return the column of trimmed strings, read as each alone would be; None where it cannot.

    Empty ones are blanks, whatever others the options name. `bulk` reads them in bulk, where they
    can be: what they are where not all texts agree.
    """
    filled = np.flatnonzero(Bytes.of(strings).lengths)
    tokens = take(strings, filled)
    mark = options.decimal_mark
    rows, some = _no_words(tokens, options)
    numbers = _Numbers.of(some, mark)
    if numbers is None or (not numbers.fits.any() and _is_plain(options)):
        return None
    others = _Others.of(name, tokens, rows, numbers, options)
    agreed = others.agree and numbers.written.any()
    if not agreed and numbers.written.any():
        texts_apart = bulk()
        if texts_apart is not None:
            return texts_apart
    shown = numbers.fits & (agreed | ~numbers.written)
    unread = numbers.fits & ~shown
    parts = list(others.parts)
    if shown.any():
        column = numbers.column(name, shown)
        if column is None:
            return None
        parts.append((rows[shown], column))
        if column.states is not None:  # some are beyond any number
            shown[np.flatnonzero(shown)[column.states != Kind.NUMBER]] = False
    met = [*numbers.shapes(shown), *others.numbers]
    told = mixed_currencies(name, currency_signs(strings_of(met))) if met else ()
    if agreed:
        first = some.strings[int(numbers.written.argmax())].as_py()
        told = (*told, written_notice(name, first, read_written_number(first, mark)))
    texts = np.sort(np.concatenate([others.texts, rows[unread]]))
    parts = [(filled[own], column) for own, column in parts]
    joined = _with_texts(in_order(name, len(strings), parts), filled[texts], take(tokens, texts))
    new = {notice.code for notice in joined.notices}
    read = (n for _, column in parts for n in column.notices if n.code not in new)
    return replace(
        joined,
        notices=(*read, *told, *joined.notices),
        conventions=Conventions(mark, options.date_order, bool(agreed) or mark != "."),
        shown=shown_in_text(strings_of(met)) if met else "",
    )


def _is_plain(options: SourceOptions) -> bool:
    return options.decimal_mark == "." and options.date_order is None


def _no_words(tokens: Any, options: SourceOptions) -> tuple[Array, Shaped]:
    """Return the places of the strings that are not certain to be words, and these.

    Where all strings have few shapes, none is set apart.
    """
    every = Shaped(tokens)
    if _is_plain(options) or every.shapes is not None:
        return np.arange(len(tokens)), every
    rows = np.flatnonzero(~are_words(tokens))
    some = Shaped(take(tokens, rows))
    if some.shapes is None:
        left = np.flatnonzero(~some.fit(ASIDE) | some.fit(date_form(options.date_order)))
        rows, some = rows[left], some.take(left)
    if some.shapes is None:
        left = np.flatnonzero(some.fit(MAY_COUNT))
        rows, some = rows[left], some.take(left)
    return rows, some


@dataclass(frozen=True)
class _Numbers:
    """Which strings have the shape of a number, and of one with more than digits and a point."""

    tokens: Shaped
    fits: Array
    written: Array
    #: For each shape that is read by its digits alone, how.
    forms: Sequence[Form | None]
    mark: str

    @classmethod
    def of(cls, tokens: Shaped, mark: str) -> "_Numbers | None":
        """Return what the shapes tell; None where there are too many."""
        if tokens.shapes is None:
            return None
        read = [read_written_number(shape, mark) for shape in tokens.shapes]
        forms = [
            None if number is None else Form.of(shape, number)
            for shape, number in zip(tokens.shapes, read, strict=True)
        ]
        fixed = fitting_together(forms)
        forms = [form if fits else None for form, fits in zip(forms, fixed, strict=True)]
        fits, written = [], []
        for shape, number, by_digits in zip(tokens.shapes, read, fixed, strict=True):
            plain = read_number(shape) is not None if mark == "." else "%" not in shape
            # Plain numbers of many digits, or with exponents, are read in bulk.
            fits.append(number is not None and (by_digits or mark != "." or not plain))
            written.append(fits[-1] and not plain)
        own = tokens.codes
        fit, as_written = (np.array(each, dtype=bool)[own] for each in (fits, written))
        return cls(tokens, fit, as_written, forms, mark)

    def shapes(self, which: Array) -> list[str]:
        """Return the shapes of those of the numbers, in the order first met."""
        used = np.flatnonzero(np.bincount(self.tokens.codes[which]))
        return [(self.tokens.shapes or [])[at] for at in used.tolist()]

    def column(self, name: str, which: Array) -> Column | None:
        """Return the column of those of the numbers; None where one is best read alone."""
        by_digits = np.array([each is not None for each in self.forms], dtype=bool)
        fixed = by_digits[self.tokens.codes[which]]
        rows = np.flatnonzero(which)
        parts = []
        if fixed.any():
            lane = fixed_by(self.tokens.at(rows[fixed]), self.forms)
            column = Column(name, len(lane.values), {Kind.NUMBER: lane}, None)
            if fixed.all():
                return column
            parts.append((np.flatnonzero(fixed), column))
        long = self.tokens.take(rows[~fixed])
        if any("%" in shape or ("(" in shape and "-" in shape) for shape in long.shapes or ()):
            return None
        column = read_in_bulk(name, long.without(*NEEDLESS[self.mark]))
        if not {*column.counts} <= {Kind.NUMBER, Kind.ERROR}:
            return None
        parts.append((np.flatnonzero(~fixed), column))
        return in_order(name, len(rows), parts)


@dataclass(frozen=True)
class _Others:
    """The strings that have no shape of a number: columns of some at their places.

    `texts` are the places of those that are texts. `agree` tells that there are none, and nothing
    that speaks against numbers; `numbers` are strings that stand for the numbers among them.
    """

    parts: list[tuple[Array, Column]]
    texts: Array
    agree: bool
    numbers: list[str]

    @classmethod
    def of(
        cls, name: str, tokens: Any, rows: Array, numbers: _Numbers, options: SourceOptions
    ) -> "_Others":
        """Return the strings that are none of these numbers, which stand at these places."""
        parts: list[tuple[Array, Column]] = []
        left = np.ones(len(tokens), dtype=bool)
        left[rows[numbers.fits]] = False
        rest = np.flatnonzero(~numbers.fits)
        some = numbers.tokens.take(rest)
        if options.date_order is not None:
            days = _ordered(some, options.date_order)
            lane, good = known_dates(some.take(days), options.date_order)
            if lane is not None:
                days = rows[rest[days[good]]]
                parts.append((days, Column(name, len(days), {Kind.DATE: lane}, None)))
                left[days] = False
        texts = np.empty(0, dtype=np.int64)
        if options.decimal_mark != ".":
            # What would be a number with a point is none with a comma.
            texts = rows[rest[_fitting(some, lambda shape: read_number(shape) is not None)]]
            texts = texts[left[texts]]
            left[texts] = False
        places = np.flatnonzero(left)
        column, words = _in_bulk(name, take(tokens, places))
        parts.append((places, column))
        texts = np.concatenate([texts, places[words]])
        against = any({*own.counts} & {Kind.DATE, Kind.YES_NO} for _, own in parts)
        met = [_PLAIN] * (Kind.NUMBER in column.counts)
        return cls(parts, texts, not len(texts) and not against, met)


def _in_bulk(name: str, strings: Any) -> tuple[Column, Array]:
    """Return the column of strings read in bulk, its texts as blanks, and where these stand."""
    piece, reader = read_apart(strings)
    lanes, states = piece.but_for_texts()
    words = states == Kind.TEXT
    states = np.where(words, np.uint8(Kind.BLANK), states)
    column = assemble(name, len(states), lanes, states, reader.notices(name))
    return column, np.flatnonzero(words)


def _with_texts(column: Column, rows: Array, strings: Any) -> Column:
    """Return the column with texts at these rows, which ascend, where it holds blanks."""
    if not len(rows):
        return column
    assert column.states is not None  # there are blanks
    states = column.states.copy()
    states[rows] = Kind.TEXT
    piece = Piece(column.length, dict(column.lanes), states, strings)
    return column_of_piece(column.name, piece, column.notices)


def _ordered(some: Shaped, order: str) -> Array:
    """Return the places of strings that have the form of a date in this order, ascending."""
    days = some.matching(np.arange(len(some.strings)), date_form(order))
    if order in ORDERS:
        return days
    iso = _fitting(some, lambda shape: spans_of_date(shape) is not None)
    return np.setdiff1d(days, iso, assume_unique=True)  # of these the offsets are told


def _fitting(some: Shaped, test: Callable[[str], bool]) -> Array:
    """Return the places of strings whose shape passes a test, ascending."""
    passing = np.array([test(shape) for shape in some.shapes or ()], dtype=bool)
    return np.flatnonzero(passing[some.codes])
