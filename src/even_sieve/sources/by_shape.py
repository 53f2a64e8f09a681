"""Columns of many different strings of which most are numbers as people write them.

Whether a string is one hangs on its shape: of all strings of a shape one is looked at. What is of
no such shape is read in bulk or, where it may be a number or a date of another form, alone.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from datetime import date
from decimal import Decimal

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from even_sieve.core.cells import Kind, read_number
from even_sieve.core.cells.written import Conventions, read_ordered_date, read_written_number
from even_sieve.core.table import Column, column_from_codes
from even_sieve.core.table.growing import join_columns
from even_sieve.core.table.joined import blanks
from even_sieve.core.table.lanes import Array, FixedLane, TextLane
from even_sieve.sources.arrow_buffers import Bytes, stored, strings_of, take
from even_sieve.sources.currencies import currency_signs, mixed_currencies
from even_sieve.sources.growing_cells import read_in_bulk
from even_sieve.sources.ordered_dates import ORDERED_DATE, ORDERS, known_dates
from even_sieve.sources.shaped import Shaped
from even_sieve.sources.shaped_numbers import MOST_DIGITS, NO_DIGITS, digits_in, without_zeros
from even_sieve.sources.shown_by_source import shown_in_text
from even_sieve.sources.source_options import SourceOptions
from even_sieve.sources.text_lanes import text_lane_of
from even_sieve.sources.tokens import TokenReader
from even_sieve.sources.written_shapes import ASIDE, without_blanks, written_notice

_PLAIN = "1"
_TEN = 10


def read_by_shape(
    name: str, strings: pa.Array, options: SourceOptions, bulk: Callable[[], Column | None]
) -> Column | None:
    """Return the column of trimmed strings, read as each alone would be; None where it cannot.

    `bulk` reads them in bulk, where they can be: what they are where not all texts agree.
    """
    strings = without_blanks(strings, options.blank_as)
    if strings is None:
        return None
    filled = np.flatnonzero(Bytes.of(strings).lengths)
    tokens = Shaped(take(strings, filled))
    mark = options.decimal_mark
    numbers = _Numbers.of(tokens, mark)
    if numbers is None:
        return None
    others = _Others.of(name, tokens, np.flatnonzero(~numbers.fits), options)
    if others is None:
        return None
    agreed = others.agree and numbers.written.any()
    if not agreed and numbers.written.any():
        texts_apart = bulk()
        if texts_apart is not None:
            return texts_apart
    shown = numbers.fits if agreed else numbers.fits & ~numbers.written
    parts = list(others.parts)
    if shown.any():
        parts.append((np.flatnonzero(shown), numbers.column(name, shown)))
    texts = np.flatnonzero(numbers.fits & ~shown)
    if len(texts):
        parts.append((texts, _texts(name, take(tokens.strings, texts))))
    parts = [(filled[rows], column) for rows, column in parts if column.length]
    met = [*numbers.shapes(shown), *others.numbers]
    told = mixed_currencies(name, currency_signs(strings_of(met))) if met else ()
    if agreed:
        first = tokens.strings[int(numbers.written.argmax())].as_py()
        told = (*told, written_notice(name, first, read_written_number(first, mark)))
    joined = _in_order(name, len(strings), parts)
    new = {notice.code for notice in joined.notices}
    read = (n for _, column in parts for n in column.notices if n.code not in new)
    return replace(
        joined,
        notices=(*read, *told, *joined.notices),
        conventions=Conventions(mark, options.date_order, bool(agreed) or mark != "."),
        shown=shown_in_text(strings_of(met)) if met else "",
    )


@dataclass(frozen=True)
class _Numbers:
    """Which strings have the shape of a number, and of one with more than digits and a point."""

    tokens: Shaped
    fits: Array
    written: Array
    #: For each shape: how many of its digits are decimals, and its sign.
    places: Sequence[int]
    signs: Sequence[int]

    @classmethod
    def of(cls, tokens: Shaped, mark: str) -> "_Numbers | None":
        """Return what the shapes tell; None where there are none, or too many."""
        if not tokens.shapes:
            return None
        fits, written, places, signs = [], [], [], []
        for shape in tokens.shapes:
            found = None if any(map(str.isalpha, shape)) else read_written_number(shape, mark)
            fits.append(found is not None and digits_in(shape) <= MOST_DIGITS)
            plain = read_number(shape) is not None if mark == "." else "%" not in shape
            written.append(fits[-1] and not plain)
            after = digits_in(shape.partition(mark)[2])
            places.append(after + 2 * ("%" in shape))
            signs.append(-1 if "-" in shape or "(" in shape else 1)
        if not any(fits):
            return None
        if mark == "." and not _fit_together(tokens.shapes, fits, places):
            fits = written  # plain numbers are read in bulk
        if not any(fits) or not _fit_together(tokens.shapes, fits, places):
            return None
        own = tokens.codes
        return cls(tokens, np.array(fits)[own], np.array(written)[own], places, signs)

    def shapes(self, which: Array) -> list[str]:
        """Return the shapes of those of the numbers, in the order first met."""
        used = np.flatnonzero(np.bincount(self.tokens.codes[which]))
        return [(self.tokens.shapes or [])[at] for at in used.tolist()]

    def column(self, name: str, which: Array) -> Column:
        """Return the column of those of the numbers."""
        some = self.tokens.take(np.flatnonzero(which))
        codes = self.tokens.codes[which]
        scale = max(self.places[each] for each in np.flatnonzero(np.bincount(codes)).tolist())
        units = [
            sign * _TEN ** max(scale - own, 0)
            for sign, own in zip(self.signs, self.places, strict=True)
        ]
        digits = stored(pc.cast(some.without(NO_DIGITS), pa.int64()), np.int64)
        values = digits * np.array(units, dtype=np.int64)[codes]
        lane = FixedLane(*without_zeros(values, scale))
        return Column(name, len(values), {Kind.NUMBER: lane}, None)


def _fit_together(shapes: Sequence[str], which: Sequence[bool], places: Sequence[int]) -> bool:
    """Tell whether numbers of some shapes are whole numbers of 64 bits with one scale."""
    used = [at for at, own in enumerate(which) if own]
    whole = max((digits_in(shapes[at]) - places[at] for at in used), default=0)
    return whole + max((places[at] for at in used), default=0) <= MOST_DIGITS


@dataclass(frozen=True)
class _Others:
    """The strings that have no shape of a number: columns of some at their places.

    `agree` tells that they are no texts and nothing that speaks against numbers; `numbers` are
    strings that stand for the numbers among them.
    """

    parts: list[tuple[Array, Column]]
    agree: bool
    numbers: list[str]

    @classmethod
    def of(cls, name: str, tokens: Shaped, left: Array, options: SourceOptions) -> "_Others | None":
        """Return these strings; None where they are best read one by one, with all others."""
        parts: list[tuple[Array, Column]] = []
        rest = tokens.take(left)
        if options.date_order in ORDERS:
            days = rest.matching(np.arange(len(left)), ORDERED_DATE)
            lane, good = known_dates(rest.take(days), options.date_order)
            if lane is not None:
                days = days[good]
                parts.append((left[days], Column(name, len(days), {Kind.DATE: lane}, None)))
                kept = np.ones(len(left), dtype=bool)
                kept[days] = False
                left, rest = left[kept], rest.take(np.flatnonzero(kept))
        plain = options.decimal_mark == "." and options.date_order is None
        aside = np.ones(len(left), dtype=bool) if plain else rest.fit(ASIDE)
        numbers: list[str] = []
        if aside.any():
            places = np.flatnonzero(aside)
            column = read_in_bulk(name, take(rest.strings, places), ())
            parts.append((left[places], column))
            numbers += [_PLAIN] * (Kind.NUMBER in column.counts)
        if not aside.all():
            places = np.flatnonzero(~aside)
            column, met, dated = _alone(name, take(rest.strings, places), options)
            if dated and any(Kind.DATE in each.counts for _, each in parts):
                return None  # their offsets are told together
            parts.append((left[places], column))
            numbers += met
        agree = _agree(parts, options.decimal_mark)
        return None if agree is None else cls(parts, agree, numbers)


def _agree(parts: list[tuple[Array, Column]], mark: str) -> bool | None:
    """Tell whether columns hold no text and nothing that speaks against numbers.

    None where all of their texts are numbers as people write them.
    """
    if any({*column.counts} & {Kind.DATE, Kind.YES_NO} for _, column in parts):
        return False
    texts = (column.lanes.get(Kind.TEXT) for _, column in parts)
    words = [lane.spellings for lane in texts if isinstance(lane, TextLane) and len(lane.spellings)]
    if not words:
        return True
    read = (read_written_number(each, mark) for spelt in words for each in spelt)
    return None if all(number is not None for number in read) else False


def _alone(name: str, strings: pa.Array, options: SourceOptions) -> tuple[Column, list[str], bool]:
    """Return strings each read alone, those that are numbers, and whether any is an ISO date."""
    coded = strings.dictionary_encode()
    words = coded.dictionary.to_pylist()
    reader = TokenReader((), options.decimal_mark)
    cells = [reader.read(each) for each in words]
    dated = any(isinstance(cell, date) for cell in cells)
    if options.date_order is not None:
        order = options.date_order
        cells = [
            (read_ordered_date(cell, order) or cell) if isinstance(cell, str) else cell
            for cell in cells
        ]
    numbers = [w for w, cell in zip(words, cells, strict=True) if isinstance(cell, Decimal)]
    codes = stored(coded.indices, np.int32)
    return column_from_codes(name, cells, codes, reader.notices(name)), numbers, dated


def _texts(name: str, strings: pa.Array) -> Column:
    """Return the column of texts."""
    return Column(name, len(strings), {Kind.TEXT: text_lane_of(strings)}, None)


def _in_order(name: str, length: int, parts: list[tuple[Array, Column]]) -> Column:
    """Return the column of so many rows, with the cells of parts at their rows, else blanks."""
    blank = np.ones(length, dtype=bool)
    for rows, _ in parts:
        blank[rows] = False
    parts = [*parts, (np.flatnonzero(blank), blanks(name, int(np.count_nonzero(blank))))]
    order = np.empty(length, dtype=np.int64)
    order[np.concatenate([rows for rows, _ in parts])] = np.arange(length)
    return join_columns(name, [column for _, column in parts]).take(order)
