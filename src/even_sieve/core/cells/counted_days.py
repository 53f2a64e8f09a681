"""Dates that stand as numbers of days, as ISO/IEC 29500 and ISO/IEC 26300 store them."""

from datetime import date
from decimal import Decimal

from even_sieve.core.cells.dates import DAY, date_from_days, datetime_from_micros, days_of

#: Day 0 where a source names no other.
DAY_ZERO = date(1899, 12, 30)
#: Of five digits before the mark, from 1927 to 2173: with fewer it may be a year, with more a
#: date of six or eight digits.
FIRST_COUNTED, AFTER_COUNTED = 10_000, 100_000
CLOCKS = 86_400_000


def counted_date(days: float | Decimal, zero: date | None = DAY_ZERO) -> date | None:
    """Return the day, or the moment to the millisecond, that a number of days since `zero` is.

    None for a number that may be something else: of fewer or more than five digits; and without
    a day 0.

    >>> counted_date(47853), counted_date(47853.75), counted_date(2031)
    (datetime.date(2031, 1, 5), datetime.datetime(2031, 1, 5, 18, 0), None)
    >>> counted_date(46391, date(1904, 1, 1))
    datetime.date(2031, 1, 5)
    """
    if zero is None or not FIRST_COUNTED <= days < AFTER_COUNTED:
        return None
    number = float(days)
    whole = int(number)
    clock = round((number - whole) * CLOCKS)
    if clock in (0, CLOCKS):
        return date_from_days(days_of(zero) + whole + (clock > 0))
    return datetime_from_micros((days_of(zero) + whole) * DAY + clock * 1000)
