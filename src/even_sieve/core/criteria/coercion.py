"""How a column takes a condition: which of its cells are asked, and what a value means to it."""

import re
from datetime import datetime

import numpy as np

from even_sieve.core.cells import Kind, fold, read_date
from even_sieve.core.cells.dates import DAY, micros
from even_sieve.core.cells.written import DateOrder, read_ordered_date, read_written_number
from even_sieve.core.criteria.nodes import (
    Holding,
)
from even_sieve.core.criteria.operands import (
    Number,
    Operand,
    Period,
    Text,
    YesNo,
)
from even_sieve.core.criteria.periods import EXAMPLES, read_year
from even_sieve.core.criteria.probes import (
    AllOf,
    Between,
    Constant,
    Opposite,
    Probe,
)
from even_sieve.core.errors import closest
from even_sieve.core.table import Column
from even_sieve.core.table.lanes import TextLane

_IN_SINGLE = re.compile(r"'[^']+'")
_PERIOD_LIKE = re.compile(r"\d{4}-?[A-Za-z]?\d", re.ASCII)
_KIND_OF = {
    Holding.BLANK: Kind.BLANK,
    Holding.FILLED: Kind.BLANK,
    Holding.ERROR: Kind.ERROR,
    Holding.NUMBER: Kind.NUMBER,
    Holding.TEXT: Kind.TEXT,
    Holding.DATE: Kind.DATE,
    Holding.YES_NO: Kind.YES_NO,
}


def of_kind(column: Column, kind: Kind, probe: Probe) -> Probe:
    """Return the probe restricted to the rows whose cell is of the kind."""
    if column.states is None or (isinstance(probe, Constant) and not probe.holds):
        return probe
    return AllOf((probe, Between(column.states, np.uint8(kind), np.uint8(kind))))


def holding(column: Column, what: Holding) -> Probe:
    """Return the probe that asks what the column's cells hold."""
    kind = _KIND_OF[what]
    if column.states is None:
        probe: Probe = Constant(kind in column.lanes)
    else:
        probe = Between(column.states, np.uint8(kind), np.uint8(kind))
    return Opposite(probe) if what is Holding.FILLED else probe


def suited(value: Operand, column: Column) -> Operand:
    """Return the value as this column takes it.

    A bare `2031-Q1` or `this month` is text to a column without dates (an ISO date is
    always a date), a bare yes is text to one without yes/no, and a bare year is the year
    to one that holds dates and no numbers. What is not in quotes is read as the source of the
    column writes numbers and dates: `1.000` is a thousand where points stand between thousands.
    """
    holds = column.counts
    value = _as_written(_without_single_quotes(value, column), column)
    if isinstance(value, YesNo) and Kind.YES_NO not in holds:
        return Text(value.text, bare=True)
    if isinstance(value, Period) and Kind.DATE not in holds and Kind.TEXT in holds:
        return value if read_date(value.text) else Text(value.text)
    if isinstance(value, Number) and Kind.DATE in holds and Kind.NUMBER not in holds:
        return read_year(value.text) or value
    return value


def _without_single_quotes(value: Operand, column: Column) -> Operand:
    """Return a value in single quotes as one that is quoted, unless a cell holds it with them."""
    if not (isinstance(value, Text) and value.bare and _IN_SINGLE.fullmatch(value.text)):
        return value
    lane = column.lanes.get(Kind.TEXT)
    low, high = lane.range_of(fold(value.text)) if isinstance(lane, TextLane) else (0, 0)
    return value if low < high else Text(value.text[1:-1])


def _as_written(value: Operand, column: Column) -> Operand:
    """Return a bare value as the column's own cells are read."""
    conventions = column.conventions
    if not isinstance(value, Number) and not (isinstance(value, Text) and value.bare):
        return value
    if Kind.NUMBER in column.counts:
        number = conventions.number(value.text)
        if number is not None:
            return Number(number, value.text)
    if Kind.DATE in column.counts and isinstance(value, Text):
        day = conventions.day(value.text)
        if isinstance(day, datetime):
            return Period(micros(day), micros(day) + 1, value.text)
        if day is not None:
            return Period(micros(day), micros(day) + DAY, value.text)
    return value


def nearest_reading(value: Text, column: Column) -> str:
    """Return what a person may have meant by a text where a number or a date is wanted."""
    text = value.text
    if Kind.NUMBER in column.counts:
        for mark in (".", ","):
            number = read_written_number(text, mark)
            if number is not None:
                return f"A number is written {number:f}"
    if Kind.DATE in column.counts:
        found = {read_ordered_date(text, order) for order in DateOrder} - {None}
        if found:
            days = " or ".join(sorted(str(day) for day in found))
            return f"A date is written {days}"
        near = closest(fold(text), EXAMPLES)
        if near or _PERIOD_LIKE.match(text):
            return f"A period is written {near[0] if near else '2031-Q1, 2031-03 or 2031-W07'}"
    return "Write a number or a date; for another column write @ before its name"
