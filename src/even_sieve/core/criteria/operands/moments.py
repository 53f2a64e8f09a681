"""Moments in plain English."""

from datetime import date, datetime

from even_sieve.core.cells.dates import DAY, date_from_days, datetime_from_micros

_MONTHS = (
    "January", "February", "March", "April", "May", "June", "July",
    "August", "September", "October", "November", "December",
)  # fmt: skip


def say_moment(micros: int) -> str:
    """Return a day, with the time of it unless it is midnight; microseconds since 1970.

    >>> say_moment(90_061_000_000)
    '2 January 1970 01:01:01'
    """
    if micros % DAY == 0:
        return _day(date_from_days(micros // DAY))
    at: datetime = datetime_from_micros(micros)
    clock = at.strftime("%H:%M:%S.%f").rstrip("0").rstrip(".") if at.microsecond else (
        at.strftime("%H:%M:%S") if at.second else at.strftime("%H:%M")
    )  # fmt: skip
    return f"{_day(at)} {clock}"


def _day(day: date) -> str:
    return f"{day.day} {_MONTHS[day.month - 1]} {day.year}"
