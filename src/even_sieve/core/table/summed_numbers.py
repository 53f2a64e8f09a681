"""The numbers of a column as they are summed in the search for totals."""

from dataclasses import dataclass
from fractions import Fraction
from math import gcd
from typing import Any

import numpy as np

from even_sieve.core.cells import Cell, Kind
from even_sieve.core.table.arrays import spans
from even_sieve.core.table.columns import Column
from even_sieve.core.table.lanes import Array, FixedLane, FloatLane

_MOST = 2**62
#: Sums of doubles are off by so much of them; a quarter of all numbers are smaller than usual.
ROUNDING, _USUAL = 1e-12, 0.25
#: Of so many numbers, or some more, it is taken what is usual.
_LOOKED_AT = 1 << 20


@dataclass(frozen=True)
class Numbers:
    """The numbers of a column: stored values, shape (n,), of which those of cells of numbers count.

    `wide` says that sums of them may be beyond 64 bits.
    """

    name: str
    stored: Array
    states: Array | None
    tolerance: float
    whole: bool
    scale: int = 0
    wide: bool = False

    @classmethod
    def of(cls, column: Column) -> "Numbers":
        """Return those of a column that holds some."""
        lane = column.lanes[Kind.NUMBER]
        if not isinstance(lane, FixedLane | FloatLane):
            raise TypeError("a lane of numbers is needed")
        values, states = lane.values, column.states
        if isinstance(lane, FixedLane):
            wide = lane.bound * (column.length + 1) >= _MOST
            return cls(column.name, values, states, 0.5, True, lane.scale, wide)
        # Of what is usual, not of the largest: beside one of those all others were alike.
        step = 1 + len(values) // _LOOKED_AT
        some = values[::step] if states is None else _counting(values[::step], states[::step])
        sizes = np.abs(some[some != 0])
        usual = float(np.quantile(sizes, _USUAL, method="lower")) if len(sizes) else 0.0
        return cls(column.name, values, states, usual * ROUNDING, False)

    def between(self, start: int, stop: int) -> Array:
        """Return the numbers of some rows, zero where there is none, shape (stop - start,)."""
        values = self.stored[start:stop]
        if self.states is not None:
            values = _counting(values, self.states[start:stop])
        return values.astype(object) if self.wide else values

    def value(self, row: int) -> Any:
        """Return the number at a row as a Python number, 0 where there is none."""
        value = self.between(row, row + 1)[0]
        return value.item() if isinstance(value, np.generic) else value

    def unit(self) -> float:
        """Return what all values are multiples of: how finely the numbers can differ."""
        if not self.whole:
            return max(self.tolerance, 1e-300)
        found = 0
        for rows in spans(len(self.stored)):
            found = gcd(found, int(np.gcd.reduce(np.abs(self.between(rows.start, rows.stop)))))
        return float(max(found, 1))

    def shown(self, stored: Any) -> Cell:
        """Return a stored sum as a number of the column."""
        if self.whole and not self.scale:
            return int(stored)
        return float(Fraction(int(stored), 10**self.scale)) if self.whole else float(stored)

    def sums_before(self, start: int, stop: int, sum_before: Any) -> Array:
        """Return the sum up to each of the rows, added from the first on; and that of all."""
        own = self.between(start, stop)
        sums: Array = np.cumsum(np.concatenate((np.array([sum_before], dtype=own.dtype), own)))
        return sums

    def sum_after(self, start: int, stop: int, sum_before: Any) -> Any:
        """Return the sum of all the rows, added from the first on, and of what was before."""
        for rows in spans(stop, start=start):
            sum_before = self.sums_before(rows.start, rows.stop, sum_before)[-1]
        return sum_before


def _counting(values: Array, states: Array) -> Array:
    """Return the values, with zero where the cell is no number."""
    return np.where(states == Kind.NUMBER, values, values.dtype.type(0))
