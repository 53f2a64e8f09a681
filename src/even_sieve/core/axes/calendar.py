"""Calendar periods as groups of an axis: their numbers, first days, labels, and order."""

import re
from collections.abc import Callable
from datetime import date

import numpy as np

from even_sieve.core.cells.dates import date_from_days, days_of
from even_sieve.core.cells.quoting import match_unquoted, quoted, unquoted
from even_sieve.core.table.lanes import Array

BY_PERIOD = re.compile(r"(.+?)\s+by\s+(year|quarter|month|week|day)\Z", re.IGNORECASE | re.DOTALL)


#: Parts of dates that are axes, by the words of the derived column that each is.
DATE_PARTS = {"weekday": "weekday", "month of year": "month name", "hour": "hour"}
_BY_PART = re.compile(
    rf"(.+?)\s+by\s+({'|'.join(DATE_PARTS)})\Z".replace(" of ", r"\s+of\s+"),
    re.IGNORECASE | re.DOTALL,
)


def as_derived(axis: str) -> tuple[str, str] | None:
    """Return the column of an axis by a part of dates, and the derived column that it goes by.

    None for other axes.

    >>> as_derived("arrived by weekday"), as_derived("arrived by month")
    (('arrived', '"arrived by weekday" = weekday of arrived'), None)
    """
    found = match_unquoted(_BY_PART, axis.strip())
    if found is None:
        return None
    part = DATE_PARTS[" ".join(found[1].lower().split())]
    column = found[0].strip()
    return unquoted(column), f"{quoted(axis.strip())} = {part} of {column}"


def _months(days: Array) -> Array:
    months: Array = days.astype("M8[D]").astype("M8[M]").astype(np.int64)
    return months


def _month(number: int) -> int:
    """Return the first day of a month as a number of days; also after year 9999."""
    return int(np.datetime64(number, "M").astype("M8[D]").astype(np.int64))


def _week_label(first: date) -> str:
    year, week, _ = first.isocalendar()
    return f"{year:04d}-W{week:02d}"


#: For each unit: the number of its period from days, the first day of one as days, its label.
UNITS: dict[str, tuple[Callable[[Array], Array], Callable[[int], int], Callable[[date], str]]] = {
    "year": (
        lambda days: _months(days) // 12,
        lambda n: _month(12 * n),
        lambda d: f"{d.year:04d}",
    ),
    "quarter": (
        lambda days: _months(days) // 3,
        lambda n: _month(3 * n),
        lambda d: f"{d.year:04d}-Q{(d.month + 2) // 3}",
    ),
    "month": (_months, _month, lambda d: f"{d.year:04d}-{d.month:02d}"),
    # 1970-01-01 was a Thursday: weeks begin three days before.
    "week": (
        lambda days: (days + 3) // 7,
        lambda n: 7 * n - 3,
        _week_label,
    ),
    "day": (lambda days: days, int, date.isoformat),
}


def is_period(name: str) -> bool:
    """Tell whether an axis, by its name, goes by periods."""
    return match_unquoted(BY_PERIOD, name) is not None


def period_before(name: str, label: object) -> str | None:
    """Return the label of the period before, on an axis by periods; None if it is none.

    >>> period_before("arrived by quarter", "2031-Q1"), period_before("arrived by week", "2032-W01")
    ('2030-Q4', '2031-W52')
    """
    found = match_unquoted(BY_PERIOD, name)
    if found is None or not isinstance(label, str):
        return None
    unit = found[1].lower()
    number, start, written = UNITS[unit]
    try:
        first = _first_day(unit, label)
        before = int(number(np.array([days_of(first) - 1]))[0])
        return written(date_from_days(start(before)))
    except (ValueError, OverflowError):
        return None


def _first_day(unit: str, label: str) -> date:
    """Return the first day of a period from its label. Raises `ValueError` if it is none."""
    if unit == "week":
        return date.fromisoformat(f"{label}-1")
    if unit == "quarter":
        year, _, quarter = label.partition("-Q")
        return date(int(year), 3 * int(quarter) - 2, 1)
    return date.fromisoformat(label + {"year": "-01-01", "month": "-01", "day": ""}[unit])
