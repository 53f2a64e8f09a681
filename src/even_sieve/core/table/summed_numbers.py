"""The numbers of a column as they are summed in the search for totals."""

from dataclasses import dataclass
from fractions import Fraction
from typing import Any

import numpy as np

from even_sieve.core.cells import Cell, Kind
from even_sieve.core.table.columns import Column
from even_sieve.core.table.lanes import Array, FixedLane, FloatLane

_MOST = 2**62
#: Sums of doubles are off by so much of them; a quarter of all numbers are smaller than usual.
ROUNDING, _USUAL = 1e-12, 0.25
#: Of so many numbers, or some more, it is taken what is usual.
_LOOKED_AT = 1 << 20


@dataclass(frozen=True)
class Numbers:
    """The numbers of a column: stored values (zero where the cell is none), shape (n,)."""

    name: str
    values: Array
    tolerance: float
    whole: bool
    scale: int = 0

    @classmethod
    def of(cls, column: Column) -> "Numbers":
        """Return those of a column that holds some."""
        lane = column.lanes[Kind.NUMBER]
        if not isinstance(lane, FixedLane | FloatLane):
            raise TypeError("a lane of numbers is needed")
        values: Array = lane.values
        if column.states is not None:
            values = np.where(column.states == Kind.NUMBER, values, 0)
        if isinstance(lane, FixedLane):
            small = lane.bound * (column.length + 1) < _MOST
            stored = values if small else values.astype(object)
            return cls(column.name, stored, 0.5, True, lane.scale)
        # Of what is usual, not of the largest: beside one of those all others were alike.
        some = values[:: 1 + len(values) // _LOOKED_AT]
        sizes = np.abs(some[some != 0])
        usual = float(np.quantile(sizes, _USUAL, method="lower")) if len(sizes) else 0.0
        return cls(column.name, values, usual * ROUNDING, False)

    def value(self, row: int) -> Any:
        """Return the number at a row as a Python number, 0 where there is none."""
        value = self.values[row]
        return value.item() if isinstance(value, np.generic) else value

    def unit(self) -> float:
        """Return what all values are multiples of: how finely the numbers can differ."""
        if not self.whole:
            return max(self.tolerance, 1e-300)
        return float(max(int(np.gcd.reduce(np.abs(self.values))), 1)) if len(self.values) else 1.0

    def shown(self, stored: Any) -> Cell:
        """Return a stored sum as a number of the column."""
        if self.whole and not self.scale:
            return int(stored)
        return float(Fraction(int(stored), 10**self.scale)) if self.whole else float(stored)

    def sums_before(self, start: int, stop: int, sum_before: Any) -> Array:
        """Return the sum up to each of the rows, added from the first on; and that of all."""
        first = np.array([sum_before], dtype=self.values.dtype)
        sums: Array = np.cumsum(np.concatenate((first, self.values[start:stop])))
        return sums
