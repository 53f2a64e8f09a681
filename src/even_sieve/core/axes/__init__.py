"""Axes: what puts each row of a table into one group, and what the rows of a group share."""

from even_sieve.core.axes.axis import Axis, axis_of, first_that_holds
from even_sieve.core.axes.calendar import is_period, period_before
from even_sieve.core.axes.groups import Group, OthersGroup

__all__ = [
    "Axis",
    "Group",
    "OthersGroup",
    "axis_of",
    "first_that_holds",
    "is_period",
    "period_before",
]
