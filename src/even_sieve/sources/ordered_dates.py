"""Dates of which it is told where day, month and year stand, by the shapes of their strings."""

import re
from collections.abc import Sequence
from functools import cache

import numpy as np

from even_sieve.core.cells.date_parts import NOWHERE, SPACES, DateParts, Span
from even_sieve.core.cells.dates import DAY
from even_sieve.core.cells.written import DateOrder, parts_in_order
from even_sieve.core.table.lanes import Array, DateLane
from even_sieve.sources.shaped import Shaped
from even_sieve.sources.side_by_side import side_by_side

#: Two letters stand where only those of a half of the day are ones of a date.
_CLOCK = (
    r"(?:[ T,]+(?:[01]?\d|2[0-3])[:h.][0-5]\d(?:[:.][0-5]\d(?:[.,]\d{1,6})?)?"
    rf"(?:[{SPACES}]?[A-Za-z]\.?[A-Za-z]\.?)?)?$"
)
#: A date in either order, with a time of day or without.
ORDERED_DATE = r"^\d{1,2}(?:/\d{1,2}/|\.\d{1,2}\.|-\d{1,2}-)\d{4}" + _CLOCK
_YEAR_FIRST = r"^\d{4}(?:/\d{1,2}/|\.\d{1,2}\.|-\d{1,2}-)\d{1,2}" + _CLOCK
#: An ISO date among them.
ISO_DATE = r"^\d{4}-\d\d-\d\d(?:[T ]\d\d:\d\d(?::\d\d)?)?$"
ORDERS = (DateOrder.DAY_FIRST, DateOrder.MONTH_FIRST)
#: In a shape any letters are alike.
_ANY_HALF = re.compile(r"(?<=a)(\.?)a(?=\.?$)")
#: How many digits are looked at for the year, the month, the day, and the parts of a time.
_WIDTHS, _MICROS = (4, 2, 2, 2, 2, 2), 6
_NONE = -1
_MONTHS, _SECOND, _HALF = 12, DAY // 86_400, 12
_PM, _AM, _M = b"pP", b"aA", b"mM"


@cache
def first_days() -> Array:
    """Return the day on which each month begins, from January of the year 0 to that of 10000.

    In days from 1970-01-01.
    """
    begins = np.arange("0000-01", "10000-02", dtype="datetime64[M]").astype("datetime64[D]")
    return begins.astype(np.int32)


def days_of_calendar(year: Array, month: Array, day: Array) -> tuple[Array, Array]:
    """Return days from 1970-01-01, and which of them the calendar has, bool.

    >>> days, known = days_of_calendar(*np.array([[1970, 2031], [1, 2], [2, 30]]))
    >>> days[known].tolist(), known.tolist()
    ([1], [True, False])
    """
    known = (year > 0) & (month > 0) & (month <= _MONTHS) & (day > 0)
    at = np.where(known, year * _MONTHS + month - 1, 0)
    days = first_days()[at] + day - 1
    return days, known & (days < first_days()[at + 1])


def date_form(order: str | None) -> str:
    """Return the pattern of dates in an order; what fits may be in no calendar."""
    return _YEAR_FIRST if order == DateOrder.YEAR_FIRST else ORDERED_DATE


def dates_of(tokens: Shaped, order: DateOrder | None) -> DateLane | None:
    """Return dates in this order, ISO dates among them; None where one is in no calendar.

    They have the form of such dates.

    >>> from even_sieve.sources.arrow_buffers import strings_of
    >>> tokens = Shaped(strings_of(["5.4.2031", "12.04.2031 06:30"]))
    >>> dates_of(tokens, DateOrder.DAY_FIRST).values.tolist()
    [1933113600000000, 1933741800000000]
    """
    lane, known = known_dates(tokens, order)
    return lane if known.all() else None


def known_dates(tokens: Shaped, order: DateOrder | None) -> tuple[DateLane | None, Array]:
    """Return those of the dates that are in the calendar, and which they are, bool."""
    if not tokens.shapes:
        return None, np.zeros(len(tokens.strings), dtype=bool)
    parts = [_parts(_ANY_HALF.sub(r"\1m", shape), order) for shape in tokens.shapes]
    found = side_by_side(lambda rows: dates_by_parts(tokens.part(rows), parts), len(tokens.strings))
    return _one_lane([lane for lane, _ in found]), np.concatenate([known for _, known in found])


def _one_lane(lanes: Sequence[DateLane | None]) -> DateLane | None:
    """Return the dates of several lanes, one after the other."""
    own = [each for each in lanes if each is not None]
    if len(own) < 2:
        return own[0] if own else None
    timed = any(each.has_time for each in own)
    days = [each.values * np.int64(1 if each.has_time or not timed else DAY) for each in own]
    return DateLane(np.concatenate(days).astype(np.int64 if timed else np.int32), timed)


def _parts(shape: str, order: DateOrder | None) -> DateParts | None:
    """Return where the parts stand in strings of a shape; of ISO dates too."""
    found = None if order is None else parts_in_order(shape, order)
    return found or parts_in_order(shape, DateOrder.YEAR_FIRST)


def dates_by_parts(
    tokens: Shaped, parts: Sequence[DateParts | None]
) -> tuple[DateLane | None, Array]:
    """Return the dates among strings, and which they are, bool.

    `parts` tell for each shape where the parts of a date stand; None, that there is none.

    >>> from even_sieve.sources.arrow_buffers import strings_of
    >>> tokens = Shaped(strings_of(["1970-01-02", "1970-01-02 00:01", "1970-02-30", "Pier"]))
    >>> lane, known = dates_by_parts(tokens, [_parts(each, None) for each in tokens.shapes])
    >>> lane.values.tolist(), known.tolist()
    ([86400000000, 86460000000], [True, True, False, False])
    """
    shapes = tokens.shapes or []
    plans = [
        DateParts(NOWHERE, NOWHERE, NOWHERE) if each is None else _in_bytes(each, shape)
        for shape, each in zip(shapes, parts, strict=True)
    ]

    def number(spans: Sequence[Span], width: int, after: bool = False) -> Array:
        return tokens.numbers([_places(span, width, after) for span in spans])

    year, month, day = (
        number([(each.year, each.month, each.day)[at] for each in plans], width)
        for at, width in enumerate(_WIDTHS[:3])
    )
    month = month + np.array([each.named for each in plans])[tokens.codes]
    hour, minute, second = (
        number([each.clock[at] for each in plans], width) for at, width in enumerate(_WIDTHS[3:])
    )
    hour, known = _of_whole_day(tokens, plans, hour)
    days, there = days_of_calendar(year, month, day)
    known &= there & (hour < 24) & (minute < 60) & (second < 60)
    time = ((hour * 60 + minute) * 60 + second) * _SECOND
    time += number([each.clock[3] for each in plans], _MICROS, after=True)
    if not known.any():
        return None, known
    days, time = days[known], time[known]
    if not time.any():
        return DateLane(days.astype(np.int32), False), known
    return DateLane(days * np.int64(DAY) + time, True), known


def _of_whole_day(tokens: Shaped, plans: Sequence[DateParts], hour: Array) -> tuple[Array, Array]:
    """Return the hours with those after noon beyond twelve, and which there are, bool."""
    if all(each.half == NOWHERE for each in plans):
        return hour, np.ones(len(hour), dtype=bool)
    halved = np.array([each.half != NOWHERE for each in plans])[tokens.codes]
    first = tokens.bytes_at([each.half[0] for each in plans])
    dotted = tokens.bytes_at([each.half[1] if each.half != NOWHERE else _NONE for each in plans])
    later = [each.half[1] + 1 if each.half != NOWHERE else _NONE for each in plans]
    last = np.where(dotted == ord("."), tokens.bytes_at(later), dotted)
    afternoon = np.isin(first, list(_PM))
    known = (afternoon | np.isin(first, list(_AM))) & np.isin(last, list(_M))
    known &= (hour > 0) & (hour <= _HALF)
    return np.where(halved, hour % _HALF + _HALF * afternoon, hour), known | ~halved


def _in_bytes(parts: DateParts, shape: str) -> DateParts:
    """Return where the parts stand among the bytes of a shape, of which letters may take more."""
    if shape.isascii():
        return parts

    def span(each: Span) -> Span:
        start, stop = (len(shape[: max(end, 0)].encode()) for end in each)
        return each if each == NOWHERE else (start, stop)

    hour, minute, second, decimals = map(span, parts.clock)
    return DateParts(
        span(parts.year), span(parts.month), span(parts.day), parts.named,
        (hour, minute, second, decimals), span(parts.half),
    )  # fmt: skip


def _places(span: Span, width: int, after: bool) -> list[int]:
    """Return where so many digits of a part stand; zeros stand before them, or after them."""
    there = list(range(*span)) if span != NOWHERE else []
    none = [_NONE] * (width - len(there))
    return there + none if after else none + there
