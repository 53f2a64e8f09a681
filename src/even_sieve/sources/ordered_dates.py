"""Dates that are written with day, month and year in an order that is told."""

import re
from collections.abc import Iterator, Sequence
from functools import cache

import numpy as np

from even_sieve.core.cells.dates import DAY
from even_sieve.core.cells.written import DateOrder
from even_sieve.core.table.lanes import Array, DateLane
from even_sieve.sources.shaped import Shaped

_CLOCK = r"(?:[ T]+(?P<h>[01]?\d|2[0-3])[:h.](?P<m>[0-5]\d)(?:[:.](?P<s>[0-5]\d))?)?$"
#: A date in either order, with a time of day or without.
ORDERED_DATE = r"^\d{1,2}(?:/\d{1,2}/|\.\d{1,2}\.|-\d{1,2}-)\d{4}" + _CLOCK
#: An ISO date among them.
ISO_DATE = r"^\d{4}-\d\d-\d\d(?:[T ]\d\d:\d\d(?::\d\d)?)?$"
ORDERS = (DateOrder.DAY_FIRST, DateOrder.MONTH_FIRST)
_DIGITS = re.compile("[01]+")
#: How many digits are looked at for the year, the month, the day, and the parts of a time.
_WIDTHS = (4, 2, 2, 2, 2, 2)
_NONE = -1
_MONTHS, _SECOND = 12, DAY // 86_400


@cache
def first_days() -> Array:
    """Return the day on which each month begins, from January of the year 0 to that of 10000.

    In days from 1970-01-01.
    """
    begins = np.arange("0000-01", "10000-02", dtype="datetime64[M]").astype("datetime64[D]")
    return begins.astype(np.int32)


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
    year, month, day, hour, minute, second = _parts(tokens, order)
    known = (year > 0) & (month > 0) & (month <= _MONTHS) & (day > 0)
    known &= (hour < 24) & (minute < 60) & (second < 60)
    at = np.where(known, year * _MONTHS + month - 1, 0)
    days = first_days()[at] + day - 1
    known &= days < first_days()[at + 1]
    seconds = ((hour * 60 + minute) * 60 + second)[known]
    days = days[known]
    if not seconds.any():
        return DateLane(days.astype(np.int32), False), known
    return DateLane(days * np.int64(DAY) + seconds * _SECOND, True), known


def _parts(tokens: Shaped, order: DateOrder | None) -> Iterator[Array]:
    """Yield the years, months, days, hours, minutes and seconds, by their digits."""
    plans = [_plan(shape, order) for shape in tokens.shapes or ()]
    for part in range(len(_WIDTHS)):
        yield tokens.numbers([plan[part] for plan in plans])


def _plan(shape: str, order: DateOrder | None) -> list[list[int]]:
    """Return where the digits of each part stand in strings of a shape, last ones last."""
    runs = [range(*each.span()) for each in _DIGITS.finditer(shape)]
    first, second, third = runs[:3]
    if len(first) == _WIDTHS[0]:
        parts: Sequence[range] = (first, second, third)
    else:
        parts = (third, second, first) if order is DateOrder.DAY_FIRST else (third, first, second)
    parts = (*parts, *runs[3:])
    parts = (*parts, *[range(0)] * (len(_WIDTHS) - len(parts)))
    return [
        [_NONE] * (width - len(run)) + list(run) for width, run in zip(_WIDTHS, parts, strict=True)
    ]
