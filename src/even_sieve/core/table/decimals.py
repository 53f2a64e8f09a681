"""Numbers that come a stretch of rows at a time, and the lane that they make together."""

from collections.abc import Iterable
from dataclasses import dataclass
from decimal import Decimal

import numpy as np

from even_sieve.core.table.arrays import spans, zeros
from even_sieve.core.table.lanes import Array, FixedLane, FloatLane
from even_sieve.core.table.number_lanes import LARGEST_SCALE, kept
from even_sieve.core.table.shortest import shortest_decimals, take_zeros_off

_INT64 = 2**63 - 1
#: Whole numbers up to here, and powers of ten up to this one, are doubles.
_MOST_EXACT, _LARGEST_POWER = 2**53, 22


@dataclass(eq=False)
class Decimals:
    """A number for each row: a whole one (int64), and how many of its digits are decimals (int16).

    `exact` are those that were given so; of the others, that were given as doubles, it is the
    shortest decimal. Rows without a number hold 0. `lost` is the first that was given with more
    digits than are kept.
    """

    whole: Array
    places: Array
    exact: Array
    doubles: Array | None = None
    lost: str = ""

    @classmethod
    def of(cls, length: int) -> "Decimals":
        """Return room for so many rows."""
        return cls(zeros(length, np.int64), zeros(length, np.int16), zeros(length, np.bool_))

    def put(self, rows: Array, whole: Array, places: Array) -> None:
        """Put decimals at these rows."""
        self.whole[rows], self.places[rows], self.exact[rows] = whole, places, True

    def put_doubles(self, rows: Array, doubles: Array) -> None:
        """Put doubles at these rows."""
        if self.doubles is None:
            self.doubles = zeros(len(self.whole), np.float64)
        self.whole[rows], self.places[rows] = shortest_decimals(doubles)
        self.doubles[rows] = doubles

    def put_cells(self, cells: Iterable[tuple[int, int | float | Decimal]]) -> None:
        """Put single numbers at their rows."""
        doubles: dict[int, float] = {}
        for row, cell in cells:
            self.exact[row] = not isinstance(cell, float)
            if isinstance(cell, float):
                doubles[row] = cell
                continue
            (self.whole[row], self.places[row]), lost = kept(cell)
            self.lost = self.lost or lost
        if doubles:
            self.put_doubles(np.array([*doubles]), np.array([*doubles.values()]))

    def lane(self) -> FixedLane | FloatLane:
        """Return the lane of all rows: decimals of one scale if they all go into whole numbers.

        >>> numbers = Decimals.of(3)
        >>> numbers.put_cells([(0, Decimal("12.50")), (2, 3)])
        >>> numbers.lane()
        FixedLane(values=array([125,   0,  30]), scale=1)
        """
        scale = self._shorten()
        if scale <= LARGEST_SCALE and self._fit(scale):
            values = zeros(len(self.whole), np.int64)
            for rows in spans(len(values)):
                values[rows] = self.whole[rows] * self._up(rows, scale)
            return FixedLane(values, scale)
        doubles = zeros(len(self.whole), np.float64) if self.doubles is None else self.doubles
        for rows in spans(len(doubles)):
            self._put_nearest(doubles[rows], rows)
        given = (self.whole, self.places) if self.exact.any() else None
        return FloatLane(doubles, given, self.lost)

    def _shorten(self) -> int:
        """Take zeros off the ends of decimals; return how many decimals there are at the most."""
        most = 0
        for rows in spans(len(self.whole)):
            take_zeros_off(self.whole[rows], self.places[rows])
            most = max(most, int(self.places[rows].max(initial=0)))
        return most

    def _fit(self, scale: int) -> bool:
        for rows in spans(len(self.whole)):
            up = scale - self.places[rows].astype(np.int64)
            if up.max(initial=0) > LARGEST_SCALE:
                return False
            if (np.abs(self.whole[rows]) > _INT64 // 10**up).any():
                return False
        return True

    def _up(self, rows: slice, scale: int) -> Array:
        power: Array = 10 ** (scale - self.places[rows].astype(np.int64))
        return power

    def _put_nearest(self, doubles: Array, rows: slice) -> None:
        """Put the doubles that come nearest to decimals."""
        whole, places, exact = self.whole[rows], self.places[rows], self.exact[rows]
        short = exact & (np.abs(whole) <= _MOST_EXACT) & (places >= 0) & (places <= _LARGEST_POWER)
        doubles[short] = whole[short] / 10.0 ** places[short]
        for at in np.flatnonzero(exact & ~short).tolist():
            above, below = int(whole[at]), int(places[at])
            doubles[at] = above / 10**below if below >= 0 else float(above * 10**-below)
