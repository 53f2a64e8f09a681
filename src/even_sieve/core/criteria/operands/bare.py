"""What a value without quotes is: by itself, and to a column that writes it in its own way."""

import re
from datetime import datetime

from even_sieve.core.cells import Kind, fold, read_number
from even_sieve.core.cells.dates import DAY, micros
from even_sieve.core.criteria.operands.number import Number
from even_sieve.core.criteria.operands.operand import Operand
from even_sieve.core.criteria.operands.period import NamedPeriod, Period
from even_sieve.core.criteria.operands.period_names import read_period, read_year
from even_sieve.core.criteria.operands.text import Text
from even_sieve.core.criteria.operands.yes_no import YES_NO, YesNo
from even_sieve.core.table import Column
from even_sieve.core.table.lanes import TextLane

_IN_SINGLE = re.compile(r"'[^']+'")


def read_plain(written: str) -> Number | Period | NamedPeriod | YesNo | Text:
    """Return a number, a date or period, yes/no, or text: what a bare value is.

    >>> read_plain("500").value, read_plain("yes").value
    (Decimal('500'), True)
    """
    number = read_number(written)
    if number is not None:
        return Number(number, written)
    period = read_period(written)
    if period is not None:
        return period
    if written.lower() in YES_NO:
        return YesNo(YES_NO[written.lower()], written)
    return Text(written, bare=True)


def suited(value: Operand, column: Column) -> Operand:
    """Return the value as this column takes it.

    A bare `2031-Q1` or `this month` is text to a column without dates (an ISO date is
    always a date), a bare yes is text to one without yes/no, and a bare year is the year
    to one that holds dates and no numbers. What is not in quotes is read as the source of the
    column writes numbers and dates: `1.000` is a thousand where points stand between thousands.
    """
    return _as_written(_without_single_quotes(value, column), column).suited(column)


def _without_single_quotes(value: Operand, column: Column) -> Operand:
    """Return a value in single quotes as one that is quoted, unless a cell holds it with them."""
    if not (isinstance(value, Text) and value.bare and _IN_SINGLE.fullmatch(value.text)):
        return value
    lane = column.lanes.get(Kind.TEXT)
    low, high = lane.range_of(fold(value.text)) if isinstance(lane, TextLane) else (0, 0)
    return value if low < high else Text(value.text[1:-1])


def _as_written(value: Operand, column: Column) -> Operand:
    """Return a bare value as the column's own cells are read."""
    if not isinstance(value, Number) and not (isinstance(value, Text) and value.bare):
        return value
    if Kind.NUMBER in column.counts:
        number = column.conventions.number(value.text)
        if number is not None:
            return Number(number, value.text)
    if Kind.DATE in column.counts and isinstance(value, Text):
        year = read_year(value.text)  # `0001` is no number, and the first year
        if year is not None and Kind.NUMBER not in column.counts:
            return year
        day = column.conventions.day(value.text)
        if day is not None:
            length = 1 if isinstance(day, datetime) else DAY
            return Period(micros(day), micros(day) + length, value.text)
    return value
