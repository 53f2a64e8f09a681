"""Lanes of what one pass told of cells: numbers as doubles, and the cells of a few rows put in."""

from decimal import Decimal
from typing import Any

import numpy as np

from even_sieve.core.cells.dates import DAY
from even_sieve.core.table.arrays import spans
from even_sieve.core.table.lanes import Array, DateLane, FloatLane
from even_sieve.core.table.number_lanes import LARGEST_SCALE
from even_sieve.core.table.shortest import shortest_decimals
from even_sieve.sources import at_hand
from even_sieve.sources.arrow_buffers import Bytes, take
from even_sieve.sources.side_by_side import side_by_side

_BOUND, _TEN = 2**63, 10
#: Whole numbers below, and these powers of ten, are doubles.
_EXACT, _TENS = 2**53, 10.0 ** np.arange(23)
#: So many long numbers are compared with their doubles at once.
_AT_ONCE = 1 << 10
#: What stands for the decimals of a number of more digits than 64 bits hold.
LONG = 2**15 - 1
#: How many bytes an end has where it has 64 bits.
_FAR_ENDS = 8


def fit_together(most: int, least: int, largest: list[int]) -> bool:
    """Tell whether numbers of so many decimals, the largest of each, go into 64 bits together."""
    if least < 0 or most > LARGEST_SCALE:
        return False
    return all(e * _TEN ** (most - at) < _BOUND for at, e in enumerate(largest[: most + 1]))


def drop_last_zeros(whole: Array, places: Array, among: Array) -> None:
    """Leave off the zeros that the decimals of some numbers end with."""
    ends = np.flatnonzero(among & (places > 0) & (whole % _TEN == 0) & (whole != 0))
    while len(ends):
        whole[ends] //= _TEN
        places[ends] -= 1
        ends = ends[(places[ends] > 0) & (whole[ends] % _TEN == 0)]


def nearest_doubles(
    strings: Any, mark: str, rows: Array, whole: Array, places: Array
) -> tuple[Array, Array]:
    """Return the nearest doubles of numbers in rows, and the places of those left for others.

    Of long numbers the decimals that give their doubles back are put in.
    """
    if (places == LONG).all():
        doubles, others = np.empty(len(rows)), np.arange(len(rows))
    else:
        exact = (np.abs(whole) < _EXACT) & (places >= 0) & (places < len(_TENS))
        doubles = whole / _TENS[np.where(exact, places, 0)]  # of two doubles: rounded once
        others = np.flatnonzero(~exact)
    if at_hand.compiled is None or not len(others):
        return doubles, others
    text, near = Bytes.of(strings), at_hand.compiled.near
    every, far = len(others) == len(rows), text.offsets.itemsize == _FAR_ENDS
    own = [doubles, whole, places]
    if not every:
        own, rows = [each[others] for each in own], rows[others]
    done = np.zeros(len(rows), dtype=np.uint8)

    def read(some: slice) -> None:
        parts = (each[some] for each in (*own, done))
        near(text.data, text.offsets, far, rows[some], ord(mark), *parts)

    side_by_side(read, len(rows))
    if not every:
        doubles[others], whole[others], places[others] = own
    return doubles, others[done == 0]


def first_lost(strings: Any, rows: Array, doubles: Array, among: Array) -> str:
    """Return the first of some numbers in rows that its double does not give back; "" for none."""
    for some in spans(len(among), _AT_ONCE):
        own = among[some]
        written = map(Decimal, take(strings, rows[own]).to_pylist())
        for each, near in zip(written, doubles[own].tolist(), strict=True):
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
