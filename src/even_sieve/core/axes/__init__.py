"""Axes: what puts each row of a table into one group, and what the rows of a group share."""

from even_sieve.core.axes.axis import Axis, axis_of, refuse_no_dates
from even_sieve.core.axes.calendar import as_derived, is_period, period_before
from even_sieve.core.axes.first_that_holds import FirstThatHolds
from even_sieve.core.axes.groups import Group, OthersGroup

__all__ = [
    "Axis",
    "FirstThatHolds",
    "Group",
    "OthersGroup",
    "as_derived",
    "axis_of",
    "is_period",
    "period_before",
    "refuse_no_dates",
]
