"""Very many different texts read as numbers or dates, because somebody says that they are.

What a text is read as hangs on its form, in which all digits are alike but for a zero before all
others; one of each form is looked at, and the others of it are read as it is.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal

import numpy as np

from even_sieve.core.cells import Cell, Kind
from even_sieve.core.cells.counted_days import AFTER_COUNTED, CLOCKS, FIRST_COUNTED
from even_sieve.core.cells.dates import days_of, spans_of_date
from even_sieve.core.cells.said import date_said, number_said, ways_to_part, without_utc
from even_sieve.core.cells.written import DateOrder
from even_sieve.core.table import Column
from even_sieve.core.table.build import column_from_codes, within_doubles
from even_sieve.core.table.lanes import Array, DateLane
from even_sieve.core.table.offsets import offsets_in
from even_sieve.sources.arrow_buffers import take
from even_sieve.sources.arrow_strings import Strings
from even_sieve.sources.byte_dates import lane_of_moments, moments
from even_sieve.sources.ordered_dates import dates_by_parts
from even_sieve.sources.shaped import Shaped
from even_sieve.sources.shaped_numbers import Form, fitting_together, fixed_by
from even_sieve.sources.text_lanes import text_lane_of
from even_sieve.sources.woven import in_order

_Part = tuple[Array, Column]


@dataclass(frozen=True, eq=False)
class Said:
    """Cells as they are read, which of them were turned (bool), and some that stand for these.

    `offsets` are those of the times among them, in minutes east of UTC, None for none.
    """

    column: Column
    turned: Array
    shown: Sequence[Cell]
    offsets: set[int | None]


def one_by_one(cells: Sequence[Cell], read: Callable[[Cell], Cell]) -> Said:
    """Return cells of which each is read by itself.

    >>> said = one_by_one(["12 EUR", "waived"], number_said)
    >>> list(said.column.cells()), said.turned.tolist(), said.shown
    ([12, 'waived'], [True, False], ['12 EUR'])
    """
    given = list(cells)
    found = [within_doubles(read(each)) for each in given]
    turned = [new is not old for new, old in zip(found, given, strict=True)]
    shown = [cell for cell, changed in zip(given, turned, strict=True) if changed]
    made = column_from_codes("", found, None)
    dated = offsets_in(shown) if Kind.DATE in made.counts else set()
    return Said(made, np.array(turned, dtype=bool), shown, dated)


def numbers_said(texts: Strings, decimal: str) -> Said:
    """Return texts read as `number_said` reads each.

    >>> from even_sieve.sources.arrow_buffers import strings_of
    >>> said = numbers_said(Strings(strings_of(["1,250.00 EUR", "7.5-", "waived"])), ".")
    >>> list(said.column.cells()), said.turned.tolist()
    ([1250.0, -7.5, 'waived'], [True, True, False])
    """
    tokens = Shaped.but_for_digits(texts.array)
    shapes = tokens.shapes or []
    read = [number_said(each, decimal) if _is_plain(each) else None for each in shapes]
    forms = [
        None if isinstance(cell, str | None) else Form.of(shape, Decimal(str(cell)))
        for shape, cell in zip(shapes, read, strict=True)
    ]
    fitting = np.array(fitting_together(forms))[tokens.codes]
    kept = np.array([isinstance(each, str) for each in read])[tokens.codes]
    parts: list[_Part] = []
    rows = np.flatnonzero(fitting)
    if len(rows):
        lane = fixed_by(tokens.at(rows), forms)
        parts.append((rows, Column("", len(rows), {Kind.NUMBER: lane}, None)))
    return _together(tokens, parts, kept, lambda cell: number_said(cell, decimal))


def dates_said(texts: Strings, order: DateOrder | None) -> Said:
    """Return texts read as `date_said` reads each.

    >>> from even_sieve.sources.arrow_buffers import strings_of
    >>> said = dates_said(Strings(strings_of(["5-Jan-2031", "20310106", "soon"])), None)
    >>> list(map(str, said.column.cells())), said.turned.tolist()
    (['2031-01-05', '2031-01-06', 'soon'], [True, True, False])
    """
    tokens = Shaped.but_for_digits(texts.array)
    shapes = tokens.shapes or []
    ways = [ways_to_part(without_utc(shape), order) if _is_plain(shape) else [] for shape in shapes]
    alone = np.array([not _is_plain(shape) for shape in shapes])[tokens.codes]
    parts: list[_Part] = []
    offsets: set[int | None] = set()
    left = ~alone
    found = moments(Shaped(tokens.strings, ([_iso(each) for each in shapes], tokens.codes)))
    if found is not None:
        parts.append((found.places, _dated(lane_of_moments(found.micros))))
        left[found.places] = False
        offsets |= found.offsets
    for turn in range(max(map(len, ways), default=0)):
        own = [each[turn] if turn < len(each) else None for each in ways]
        rows = np.flatnonzero(left & np.array([each is not None for each in own])[tokens.codes])
        if not len(rows):
            continue
        lane, known = dates_by_parts(tokens.at(rows), own)
        if lane is not None:
            parts.append((rows[known], _dated(lane)))
            left[rows[known]] = False
    said = _together(tokens, parts, left, lambda cell: date_said(cell, order))
    return Said(said.column, said.turned, said.shown, said.offsets | offsets)


def counted_said(numbers: Sequence[Cell], zero: date) -> Said:
    """Return numbers read as `date_said` reads each, with dates counted in days since `zero`.

    >>> said = counted_said([12, 47853, 20310106], date(1899, 12, 30))
    >>> list(map(str, said.column.cells())), said.turned.tolist()
    (['12', '2031-01-05', '2031-01-06'], [False, True, True])
    """
    given = list(numbers)
    days = np.array([float(str(each)) for each in given])
    rows = np.flatnonzero((days >= FIRST_COUNTED) & (days < AFTER_COUNTED))
    whole = np.floor(days[rows])
    clock = np.rint((days[rows] - whole) * CLOCKS).astype(np.int64)
    micros = ((whole.astype(np.int64) + days_of(zero)) * CLOCKS + clock) * 1000
    others = np.setdiff1d(np.arange(len(given)), rows, assume_unique=True)
    said = one_by_one([given[at] for at in others.tolist()], date_said)
    turned = np.ones(len(given), dtype=bool)
    turned[others] = said.turned
    parts = [(rows, _dated(lane_of_moments(micros))), (others, said.column)]
    column = in_order("", len(given), [each for each in parts if len(each[0])])
    return Said(column, turned, [*(given[at] for at in rows[:1].tolist()), *said.shown], set())


def _together(
    tokens: Shaped, parts: list[_Part], kept: Array, read: Callable[[Cell], Cell]
) -> Said:
    """Return what parts hold, texts that are kept, and all others read one by one."""
    turned = np.zeros(len(tokens.strings), dtype=bool)
    for rows, _ in parts:
        turned[rows] = True
    shown: list[Cell] = [tokens.strings[int(at)].as_py() for at in _firsts(tokens, turned)]
    offsets: set[int | None] = set()
    others = np.flatnonzero(~(turned | kept))
    if len(others):
        said = one_by_one(take(tokens.strings, others).to_pylist(), read)
        own = np.flatnonzero(said.turned)
        parts.append((others[own], said.column.take(own)))
        turned[others] = said.turned
        shown, offsets = [*shown, *said.shown], said.offsets
    texts = np.flatnonzero(~turned)
    if len(texts):
        lane = text_lane_of(take(tokens.strings, texts))
        parts.append((texts, Column("", len(texts), {Kind.TEXT: lane}, None)))
    return Said(in_order("", len(turned), parts), turned, shown, offsets)


def _firsts(tokens: Shaped, which: Array) -> Array:
    """Return where the first string of each shape stands that is among some, ascending."""
    rows = np.flatnonzero(which)
    first = np.full(len(tokens.shapes or ()), len(which))
    first[tokens.codes[rows][::-1]] = rows[::-1]
    return np.sort(first[first < len(which)])


def _is_plain(shape: str) -> bool:
    """Tell whether the digits in texts of a shape are those of ASCII alone, and none outside."""
    return shape == shape.strip() and (
        shape.isascii() or not any(each.isdecimal() and not each.isascii() for each in shape)
    )


def _iso(shape: str) -> str:
    """Return a shape as that of an ISO date, where it may be one; `UTC` behind it as `Z`."""
    if not _is_plain(shape):
        return ""
    without = without_utc(shape)
    in_utc = f"{without}Z"
    return in_utc if without != shape and spans_of_date(in_utc) is not None else without


def _dated(lane: DateLane) -> Column:
    return Column("", len(lane.values), {Kind.DATE: lane}, None)
