"""Dates as whole days or microseconds since 1970-01-01 (ISO 8601 in and out)."""

import re
from dataclasses import dataclass
from datetime import date, datetime, timedelta

DAY = 86_400_000_000
_MINUTE = 60_000_000
_EPOCH_DAY = date(1970, 1, 1).toordinal()
#: The first and the last day of the calendar, in days from 1970.
FIRST_DAY, LAST_DAY = date.min.toordinal() - _EPOCH_DAY, date.max.toordinal() - _EPOCH_DAY
_EPOCH = datetime(1970, 1, 1)
_OFFSET = r"\s?(Z|[+-]\d{2}(?::?\d{2})?)?"
_EXTENDED = re.compile(
    r"(\d{4})-(\d{2})-(\d{2})"
    rf"(?:(?:T(\d{{2}})|[T ](\d{{2}}):(\d{{2}})(?::(\d{{2}})(?:[.,](\d+))?)?){_OFFSET})?\Z",
    re.ASCII | re.IGNORECASE,
)
_BASIC = re.compile(
    rf"(\d{{4}})(\d{{2}})(\d{{2}})T(\d{{2}})()(?:(\d{{2}})(?:(\d{{2}})(?:[.,](\d+))?)?)?{_OFFSET}\Z",
    re.ASCII | re.IGNORECASE,
)
_LONGEST = 40


@dataclass(frozen=True)
class Moment:
    """A date that was read: microseconds since 1970, and whether it had a time and an offset.

    `offset` is None without one, else minutes east of UTC; `micros` is then in UTC. `cut` tells
    whether digits beyond microseconds were left off.
    """

    micros: int
    has_time: bool = False
    offset: int | None = None
    cut: bool = False


def read_date(token: str) -> Moment | None:
    """Return the ISO 8601 date, or date and time, that the token writes out, or None.

    Times stand in the extended form (`T14:30`, `T14`, with a blank for the `T`) or in the basic
    one (`20310105T1430`); `24:00` is the first moment of the next day.

    >>> read_date("1970-01-02")
    Moment(micros=86400000000, has_time=False, offset=None, cut=False)
    >>> read_date("1970-01-01T02:00+02:00").micros, read_date("19700101T000001,5").micros
    (0, 1500000)
    >>> read_date("2031-02-30") is None
    True
    """
    parts = _parts_of(token)
    if parts is None:
        return None
    year, month, day, alone, hour, minute, second, fraction, offset = parts.groups()
    hour = hour or alone
    try:
        start = days_of(date(int(year), int(month), int(day))) * DAY
        if hour is None:
            return Moment(start)
        time = _micros_of_day(int(hour), int(minute or 0), int(second or 0), fraction or "")
        shift = _offset_minutes(offset)
        found = start + time - (shift or 0) * _MINUTE
        datetime_from_micros(found)
        return Moment(found, True, shift, bool((fraction or "")[6:].strip("0")))
    except (ValueError, OverflowError):
        return None


def spans_of_date(shape: str) -> list[tuple[int, int]] | None:
    """Return where year, month, day, hour, minute, second, decimals and offset stand in a token.

    That is of any token with digits at these places; (-1, -1) is a part that is not there. None
    where such a token is no date.

    >>> spans_of_date("2031-01-05T14:30Z")
    [(0, 4), (5, 7), (8, 10), (11, 13), (14, 16), (-1, -1), (-1, -1), (16, 17)]
    """
    parts = _parts_of(shape)
    if parts is None:
        return None
    year, month, day, alone, hour, *rest = (parts.span(number) for number in range(1, 10))
    return [year, month, day, hour if alone == (-1, -1) else alone, *rest]


def _parts_of(token: str) -> re.Match[str] | None:
    if len(token) > _LONGEST:
        return None
    return _EXTENDED.match(token) or (_BASIC.match(token) if "t" in token[8:9].lower() else None)


def _micros_of_day(hour: int, minute: int, second: int, fraction: str) -> int:
    """Return the microseconds since midnight. Raises `ValueError` for what no clock shows."""
    found = ((hour * 60 + minute) * 60 + second) * 1_000_000 + int(f"{fraction[:6]:0<6}")
    if minute > 59 or second > 59 or found > DAY or (found == DAY and hour != 24):
        raise ValueError("no time of a day")
    return found


def _offset_minutes(offset: str | None) -> int | None:
    """Return minutes east of UTC. Raises `ValueError` for a day and more."""
    if not offset:
        return None
    if offset in "Zz":
        return 0
    digits = offset[1:].replace(":", "")
    minutes = int(digits[:2]) * 60 + int(digits[2:] or 0)
    if minutes >= 24 * 60 or int(digits[2:] or 0) > 59:
        raise ValueError("no offset")
    return -minutes if offset[0] == "-" else minutes


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
