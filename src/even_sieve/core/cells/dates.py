"""Dates as whole days or microseconds since 1970-01-01 (ISO 8601 in and out)."""

import re
from dataclasses import dataclass
from datetime import UTC, date, datetime, timedelta

DAY = 86_400_000_000
_EPOCH_DAY = date(1970, 1, 1).toordinal()
_EPOCH = datetime(1970, 1, 1)
_ISO = re.compile(
    r"(\d{4}-\d{2}-\d{2})(?:[T ](\d{2}:\d{2}(?::\d{2}(?:\.\d{1,6})?)?)"
    r"\s?(Z|[+-]\d{2}(?::?\d{2})?)?)?\Z",
    re.ASCII,
)


@dataclass(frozen=True)
class Moment:
    """A date that was read: microseconds since 1970, and whether it had a time and an offset.

    `offset` is None without one, else minutes east of UTC; `micros` is then in UTC.
    """

    micros: int
    has_time: bool = False
    offset: int | None = None


def read_date(token: str) -> Moment | None:
    """Return the ISO 8601 date, or date and time, that the token writes out, or None.

    >>> read_date("1970-01-02")
    Moment(micros=86400000000, has_time=False, offset=None)
    >>> read_date("1970-01-01T02:00+02:00").micros
    0
    >>> read_date("2031-02-30") is None
    True
    """
    parts = _ISO.match(token)
    if parts is None:
        return None
    day, time, offset = parts.groups()
    try:
        if time is None:
            return Moment(days_of(date.fromisoformat(day)) * DAY)
        value = datetime.fromisoformat(f"{day}T{_pad_fraction(time)}{offset or ''}")
        if value.tzinfo is None:
            return Moment(micros_of(value), True)
        shift = value.utcoffset() or timedelta()
        utc = value.astimezone(UTC).replace(tzinfo=None)
        return Moment(micros_of(utc), True, int(shift.total_seconds() // 60))
    except (ValueError, OverflowError):
        return None


def _pad_fraction(time: str) -> str:
    whole, dot, fraction = time.partition(".")
    return f"{whole}.{fraction:0<6}" if dot else whole


def days_of(value: date) -> int:
    """Return the days from 1970-01-01 to the date."""
    return value.toordinal() - _EPOCH_DAY


def micros_of(value: datetime) -> int:
    """Return the microseconds from 1970-01-01T00:00 to the date and time (no zone)."""
    return (value - _EPOCH) // timedelta(microseconds=1)


def micros(value: date) -> int:
    """Return the microseconds from 1970-01-01T00:00 to a date's first moment, or to a time."""
    return micros_of(value) if isinstance(value, datetime) else days_of(value) * DAY


def date_from_days(days: int) -> date:
    """Return the date that stands so many days after 1970-01-01."""
    return date.fromordinal(days + _EPOCH_DAY)


def datetime_from_micros(micros: int) -> datetime:
    """Return the date and time that stands so many microseconds after 1970-01-01T00:00."""
    return _EPOCH + timedelta(microseconds=micros)


def format_date(value: date) -> str:
    """Return the ISO 8601 text: a day alone for a `date`, no needless zeros in a time.

    >>> format_date(datetime(2031, 1, 5, 14, 30))
    '2031-01-05T14:30'
    """
    if not isinstance(value, datetime):
        return value.isoformat()
    if value.microsecond:
        return value.isoformat(timespec="microseconds").rstrip("0")
    return value.isoformat(timespec="seconds" if value.second else "minutes")
