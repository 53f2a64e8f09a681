"""Lanes of what one pass told of cells: numbers as doubles, and the cells of a few rows put in."""

from decimal import Decimal
from typing import Any

import numpy as np

from even_sieve.core.cells.dates import DAY
from even_sieve.core.table.arrays import spans
from even_sieve.core.table.lanes import Array, DateLane, FloatLane
from even_sieve.core.table.number_lanes import LARGEST_SCALE
from even_sieve.core.table.shortest import shortest_decimals

_BOUND, _TEN = 2**63, 10
#: Whole numbers below, and these powers of ten, are doubles.
_EXACT, _TENS = 2**53, 10.0 ** np.arange(23)
#: So many long numbers are compared with their doubles at once.
_AT_ONCE = 1 << 10


def fit_together(most: int, least: int, largest: list[int]) -> bool:
    """Tell whether numbers of so many decimals, the largest of each, go into 64 bits together."""
    if least < 0 or most > LARGEST_SCALE:
        return False
    return all(e * _TEN ** (most - at) < _BOUND for at, e in enumerate(largest[: most + 1]))


def nearest_doubles(whole: Array, places: Array) -> tuple[Array, Array]:
    """Return the nearest doubles of decimals, and the places of those that need their digits."""
    exact = (np.abs(whole) < _EXACT) & (places >= 0) & (places < len(_TENS))
    doubles = whole / _TENS[np.where(exact, places, 0)]  # of two doubles: rounded once
    return doubles, np.flatnonzero(~exact)


def first_lost(tokens: Any, doubles: Array) -> str:
    """Return the first number that its double does not give back; "" for none."""
    for rows in spans(len(doubles), _AT_ONCE):
        written = map(Decimal, tokens[rows].to_pylist())
        for each, near in zip(written, doubles[rows].tolist(), strict=True):
            if each != Decimal(repr(near)):
                return str(each)
    return ""


def with_numbers(lane: FloatLane, rows: Array, other: FloatLane) -> FloatLane:
    """Return the lane with the numbers of another one at these rows."""
    given = [each.given or shortest_decimals(each.values) for each in (lane, other)]
    values, (whole, places) = lane.values.copy(), (each.copy() for each in given[0])
    values[rows], whole[rows], places[rows] = other.values, *given[1]
    return FloatLane(values, (whole, places), lane.lost or other.lost)


def with_dates(lane: DateLane, rows: Array, other: DateLane) -> DateLane:
    """Return the lane with the dates of another one at these rows."""
    timed = lane.has_time or other.has_time
    values, others = (
        each.values * np.int64(DAY if timed and not each.has_time else 1) for each in (lane, other)
    )
    values[rows] = others
    return DateLane(values if timed else values.astype(np.int32), timed)
