"""How a column takes a condition: which of its cells are asked, and what a value means to it."""

import numpy as np

from even_sieve.core.cells import Kind, read_date
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
from even_sieve.core.criteria.periods import read_year
from even_sieve.core.criteria.probes import (
    AllOf,
    Between,
    Constant,
    Opposite,
    Probe,
)
from even_sieve.core.table import Column

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
    to one that holds dates and no numbers.
    """
    holds = column.counts
    if isinstance(value, YesNo) and Kind.YES_NO not in holds:
        return Text(value.text)
    if isinstance(value, Period) and Kind.DATE not in holds and Kind.TEXT in holds:
        return value if read_date(value.text) else Text(value.text)
    if isinstance(value, Number) and Kind.DATE in holds and Kind.NUMBER not in holds:
        return read_year(value.text) or value
    return value
