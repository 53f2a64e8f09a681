"""Calendar names for spans of time (ISO 8601), and those that hang on the as-of date."""

import re
from dataclasses import dataclass
from datetime import date

from even_sieve.core.cells import fold, read_date
from even_sieve.core.cells.dates import DAY, days_of
from even_sieve.core.criteria.operands.period import NamedPeriod, Period
from even_sieve.core.errors import CallError, closest

_MONTH = re.compile(r"(\d{4})-(\d{2})\Z", re.ASCII)
_QUARTER = re.compile(r"(\d{4})-?[Qq]([1-4])\Z", re.ASCII)
_WEEK = re.compile(r"(\d{4})-?[Ww](\d{2})\Z", re.ASCII)
_YEAR = re.compile(r"\d{4}\Z", re.ASCII)
_FISCAL = re.compile(r"fy ?(\d{4})(?:-?q([1-4]))?\Z", re.ASCII)
_ROLLING = re.compile(r"(last|next) (\d{1,4}) (day|week|month|quarter|year)s?\Z", re.ASCII)
_CALENDAR = re.compile(
    r"(this|previous|next) (week|month|quarter|year|fiscal quarter|fiscal year)\Z"
)
_TO_DATE = re.compile(r"(week|month|quarter|year|fiscal quarter|fiscal year) to date\Z")
_DAYS = {"yesterday": -1, "today": 0, "tomorrow": 1}
_MONTHS = {"month": 1, "quarter": 3, "year": 12, "fiscal quarter": 3, "fiscal year": 12}
_STEPS = {"previous": -1, "this": 0, "next": 1}

#: Names to suggest for a period that cannot be read.
_EXAMPLES = (
    *(f"{which} {unit}" for which in _STEPS for unit in ("week", *_MONTHS)),
    *(f"{unit} to date" for unit in ("week", *_MONTHS)),
    *(f"{which} 30 {unit}" for which in ("last", "next") for unit in ("days", "weeks", "months")),
    *_DAYS,
)
#: Other words for them.
_WAYS = {"past": "last", "previous": "last", "prior": "last", "coming": "next", "following": "next"}
_COUNTED = re.compile(rf"({'|'.join(_WAYS)}) (\d{{1,4}}) (day|week|month|quarter|year)s?")
_WHOLE = {
    "last": "previous", "past": "previous", "prior": "previous", "current": "this",
    "coming": "next", "following": "next",
}  # fmt: skip
_SAID = {
    **{f"{way} {unit}": f"{_WHOLE[way]} {unit}" for way in _WHOLE for unit in ("week", *_MONTHS)},
    **{f"{unit[0]}td": f"{unit} to date" for unit in ("week", "month", "quarter", "year")},
}


@dataclass(frozen=True)
class Calendar:
    """What named periods hang on: the as-of date and the first month of the fiscal year."""

    as_of: date
    fiscal_start: int = 1


def periods_meant(text: str) -> list[str]:
    """Return the names of periods that a text may mean, the closest first.

    >>> [periods_meant(each) for each in ("last month", "past 7 days", "ytd", "Monday")]
    [['previous month'], ['last 7 days'], ['year to date'], []]
    """
    folded = " ".join(fold(text).split())
    counted = _COUNTED.fullmatch(folded)
    if counted is not None:
        return [f"{_WAYS[counted[1]]} {counted[2]} {counted[3]}s"]
    known = [each for each in (*_EXAMPLES, *_SAID) if each[:1] == folded[:1]]
    near = [folded] if folded in _SAID else closest(folded, known)
    return list(dict.fromkeys(_SAID.get(each, each) for each in near))


def read_period(text: str) -> Period | NamedPeriod | None:
    """Return the day, moment, month, quarter, ISO week or named period; None if it is none.

    A bare year is a number here: `read_year` reads it where a date is wanted.

    >>> quarter = read_period("2031-Q1")
    >>> (quarter.end - quarter.start) // 86_400_000_000
    90
    """
    moment = read_date(text)
    if moment is not None:
        length = 1 if moment.has_time else DAY
        return Period(moment.micros, moment.micros + length, text)
    named = " ".join(text.lower().split())
    if any(form.match(named) for form in (_FISCAL, _ROLLING, _CALENDAR, _TO_DATE)):
        return NamedPeriod(named.upper() if named.startswith("fy") else named)
    if named in _DAYS:
        return NamedPeriod(named)
    try:
        return _calendar_period(text)
    except ValueError:
        return None


def _calendar_period(text: str) -> Period | None:
    if found := _MONTH.match(text):
        return _months(int(found[1]), int(found[2]), 1, text)
    if found := _QUARTER.match(text):
        return _months(int(found[1]), 3 * int(found[2]) - 2, 3, text)
    if found := _WEEK.match(text):
        first = date.fromisocalendar(int(found[1]), int(found[2]), 1)
        return _span(days_of(first), 7, text)
    return None


def read_year(text: str) -> Period | None:
    """Return the calendar year, or None if the text is not four digits."""
    return _months(int(text), 1, 12, text) if _YEAR.match(text) and int(text) else None


def _span(start: int, days: int, text: str) -> Period:
    """Return so many days from one on, as far as the calendar goes: years 1 to 9999."""
    return Period(_within(start) * DAY, _within(start + days) * DAY, text)


def _within(day: int) -> int:
    """Return a day, or the nearest one that the calendar has; the one after the last counts."""
    return min(max(day, days_of(date.min)), days_of(date.max) + 1)


def _months(year: int, month: int, count: int, text: str) -> Period:
    if not 1 <= month <= 12:
        raise ValueError(f"no month {month}")
    return Period(_month_start(year, month), _month_start(year, month + count), text)


def _month_start(year: int, month: int) -> int:
    """Return the first microsecond of a month; months run on past 12 and below 1."""
    year, month = year + (month - 1) // 12, (month - 1) % 12 + 1
    if year > date.max.year:
        return (days_of(date.max) + 1) * DAY
    if year < date.min.year:
        return days_of(date.min) * DAY
    return days_of(date(year, month, 1)) * DAY


def resolve_period(named: NamedPeriod, calendar: Calendar) -> Period:
    """Return the span that the name means on the as-of date.

    `last 30 days` are the 30 days that end with the as-of date; `last 3 months` begin the
    day after the same day three months before. A fiscal year bears the number of the
    calendar year in which it ends.

    >>> from datetime import date
    >>> span = resolve_period(NamedPeriod("last 30 days"), Calendar(date(2031, 3, 31)))
    >>> span == read_period("2031-03-02").__class__(span.start, span.end)
    True
    """
    name, today = named.name.lower(), calendar.as_of
    if name in _DAYS:
        return _known(_span(days_of(today) + _DAYS[name], 1, named.name), named.name)
    if found := _FISCAL.match(name):
        return _known(_fiscal(int(found[1]), found[2], calendar, named.name), named.name)
    if found := _ROLLING.match(name):
        rolling = _rolling(found[1], int(found[2]), found[3], today, named.name)
        return _known(rolling, named.name)
    if found := _CALENDAR.match(name):
        return _known(_whole(found[2], _STEPS[found[1]], calendar, named.name), named.name)
    unit = name.removesuffix(" to date")
    whole = _whole(unit, 0, calendar, named.name)
    return Period(whole.start, (days_of(today) + 1) * DAY, named.name)


def _known(period: Period, name: str) -> Period:
    """Return a period of which the calendar has a day. Raises `CallError` for any other."""
    if period.start >= period.end:
        raise CallError(f"'{name}' lies outside of the calendar\nIt goes from year 1 to 9999")
    return period


def _fiscal(year: int, quarter: str | None, calendar: Calendar, text: str) -> Period:
    first = year if calendar.fiscal_start == 1 else year - 1
    month = calendar.fiscal_start + (3 * (int(quarter) - 1) if quarter else 0)
    count = 3 if quarter else 12
    return Period(_month_start(first, month), _month_start(first, month + count), text)


def _rolling(way: str, count: int, unit: str, today: date, text: str) -> Period:
    here = days_of(today)
    if unit in ("day", "week"):
        days = count * (7 if unit == "week" else 1)
        first, last = (here - days + 1, here) if way == "last" else (here + 1, here + days)
    else:
        months = count * _MONTHS[unit]
        other = _same_day(today, -months if way == "last" else months)
        first, last = (other + 1, here) if way == "last" else (here + 1, other)
    return Period(_within(first) * DAY, _within(last + 1) * DAY, text)


def _same_day(today: date, months: int) -> int:
    """Return the day number of the same day so many months on, or of that month's last day."""
    start = _month_start(today.year, today.month + months) // DAY
    following = _month_start(today.year, today.month + months + 1) // DAY
    return min(start + today.day - 1, following - 1)


def _whole(unit: str, step: int, calendar: Calendar, text: str) -> Period:
    today = calendar.as_of
    if unit == "week":
        return _span(days_of(today) - today.weekday() + 7 * step, 7, text)
    count = _MONTHS[unit]
    first = calendar.fiscal_start if unit.startswith("fiscal") else 1
    into = (today.month - first) % count
    month = today.month - into + step * count
    return Period(_month_start(today.year, month), _month_start(today.year, month + count), text)
