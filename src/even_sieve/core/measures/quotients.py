"""Exact totals over one number, and the doubles nearest to them, of many groups at once."""

from fractions import Fraction

import numpy as np

from even_sieve.core.cells import Cell
from even_sieve.core.measures.exact import ExactSums
from even_sieve.core.measures.measure import Gathered
from even_sieve.core.measures.rounding import as_double
from even_sieve.core.measures.totals import Totals
from even_sieve.core.table.lanes import Array

#: Whole numbers below are doubles without loss.
_WHOLE = 2**53


def total_of(gathered: Gathered, name: str, group: int) -> Fraction:
    """Return the exact total that a state gathered for a group; 0 where nothing adds up."""
    sums = gathered.state(name, Totals).sums
    return Fraction(0) if sums is None else sums.total(group)


def totals_of(gathered: Gathered, name: str, groups: Array) -> tuple[Array, int]:
    """Return the exact totals of many groups (int64, or objects) over one number, and that."""
    sums = gathered.state(name, Totals).sums
    if sums is None:
        return np.zeros(len(groups), dtype=np.int64), 1
    if isinstance(sums, ExactSums):
        found = sums.numbers(groups)
        every = _objects(sums.of(groups)) if found is None else found
        return every, sums.unit.denominator  # a unit is one over a power of ten
    tops, bottom = sums.of(groups)
    return _objects(tops), bottom


def _objects(whole: list[int]) -> Array:
    found = np.empty(len(whole), dtype=object)
    found[:] = whole
    return found


def quotients(tops: Array, bottom: int, counts: Array | None = None) -> list[Cell]:
    """Return whole numbers over `bottom`, and over a count each, rounded once; None over 0.

    >>> quotients(np.array([1, 2, 5]), 10, np.array([2, 0, 1]))
    [0.05, None, 0.5]
    """
    over = np.ones(len(tops), dtype=np.int64) if counts is None else counts
    most = int(over.max(initial=1)) * bottom
    if tops.dtype != object:
        most = max(most, int(tops.max(initial=0)), -int(tops.min(initial=0)))
    if tops.dtype != object and most < _WHOLE:  # doubles without loss
        found: list[Cell] = (tops / (np.maximum(over, 1) * bottom)).tolist()
        for place in np.flatnonzero(over == 0).tolist():
            found[place] = None
        return found
    pairs = zip(tops.tolist(), over.tolist(), strict=True)
    return [as_double(top, bottom * count) if count else None for top, count in pairs]
