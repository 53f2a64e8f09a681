"""The numbers of a growing column, one lane of all its pieces' numbers."""

from fractions import Fraction
from typing import Any

import numpy as np

from even_sieve.core.table.arrays import spans, zeros
from even_sieve.core.table.lanes import Array, FixedLane, FloatLane, Lane
from even_sieve.core.table.shortest import shortest_decimals

_INT64 = 2**63 - 1
#: Up to here whole numbers are doubles, and so are the powers of ten of every scale.
_MOST_EXACT = 2**53


class Numbers:
    """Decimals of one scale as long as they go into whole numbers; else doubles."""

    def __init__(self, most: int) -> None:
        self._values = zeros(most, np.int64)
        self._end, self._scale, self._bound = 0, 0, 0
        self._fixed = True
        self._given: tuple[Array, Array] | None = None
        self._lost = ""

    def put(self, lane: Any, start: int) -> None:
        """Put the lane of the rows from `start` on."""
        if self._fixed and not (isinstance(lane, FixedLane) and self._scaled(lane)):
            self._to_doubles(lane)
        rows = slice(start, start + len(lane.values))
        if self._fixed:
            self._put_scaled(lane, rows)
        else:
            self._values[rows] = _doubles(lane)
            self._put_given(lane, rows)
            self._lost = self._lost or getattr(lane, "lost", "")
        self._end = rows.stop

    def _put_scaled(self, lane: FixedLane, rows: slice) -> None:
        if lane.scale == self._scale:
            self._values[rows] = lane.values
        else:
            np.multiply(lane.values, 10 ** (self._scale - lane.scale), out=self._values[rows])

    def _scaled(self, lane: FixedLane) -> bool:
        """Bring what is here to the scale of both; False where that does not go."""
        scale = max(self._scale, lane.scale)
        here = self._bound * 10 ** (scale - self._scale)
        bound = max(here, lane.bound * 10 ** (scale - lane.scale))
        if bound > _INT64:
            return False
        if scale > self._scale and self._bound:
            for rows in spans(self._end):
                self._values[rows] *= 10 ** (scale - self._scale)
        self._scale, self._bound = scale, bound
        return True

    def _to_doubles(self, lane: Any) -> None:
        """Go on as doubles, with the decimals that they were written as."""
        values = zeros(len(self._values), np.float64)
        if self._end:
            self._begin_given()
        for rows in spans(self._end):
            own = FixedLane(self._values[rows], self._scale)
            values[rows] = _doubles(own)
            self._put_given(own, rows)
        self._values, self._fixed = values, False

    def _begin_given(self) -> None:
        most = len(self._values)
        self._given = zeros(most, np.int64), zeros(most, np.int16)

    def _put_given(self, lane: Any, rows: slice) -> None:
        """Keep how numbers were written, from the first on that their doubles do not tell."""
        if self._given is None:
            if isinstance(lane, FloatLane) and lane.given is None:
                return
            self._begin_given()
            for before in spans(rows.start):
                self._keep(shortest_decimals(self._values[before]), before)
        if isinstance(lane, FixedLane):
            self._keep((lane.values, lane.scale), rows)
        else:
            self._keep(lane.given or shortest_decimals(lane.values), rows)

    def _keep(self, given: tuple[Any, Any], rows: slice) -> None:
        if self._given is not None:
            self._given[0][rows], self._given[1][rows] = given

    def lane(self, end: int) -> Lane:
        """Return the lane of all rows."""
        values = self._values[:end]
        if self._fixed:
            return FixedLane(values, self._scale)
        given = None if self._given is None else (self._given[0][:end], self._given[1][:end])
        return FloatLane(values, given, self._lost)


def _doubles(lane: FixedLane | FloatLane) -> Array:
    """Return the nearest doubles of a lane's numbers."""
    if isinstance(lane, FloatLane):
        return lane.values
    found: Array = lane.values / 10.0**lane.scale
    long = np.flatnonzero(np.abs(lane.values) >= _MOST_EXACT)
    found[long] = [float(Fraction(each, 10**lane.scale)) for each in lane.values[long].tolist()]
    return found
