"""Cells of many groups at once: where there are any, and what lies between two of them."""

from collections.abc import Callable, Iterator
from fractions import Fraction
from math import lcm
from typing import TypeVar

import numpy as np

from even_sieve.core.cells import Cell
from even_sieve.core.measures.quotients import quotients
from even_sieve.core.measures.rounding import as_double
from even_sieve.core.table.keys import cells_of
from even_sieve.core.table.lanes import Array, FixedLane, FloatLane
from even_sieve.core.table.shortest import exact_decimal, shortest_decimals

_ROOM = 2**62
_Any = TypeVar("_Any")


def where(has: Array, of: Callable[[Array], list[_Any]]) -> list[_Any | None]:
    """Return what is `of` the places where `has` (bool, shape (n,)) says so, None elsewhere.

    >>> where(np.array([True, False, True]), lambda places: [int(each) for each in places])
    [0, None, 2]
    """
    places = np.flatnonzero(has)
    found = of(places)
    if len(found) == len(has):
        return [*found]
    every: list[_Any | None] = [None] * len(has)
    for place, each in zip(places.tolist(), found, strict=True):
        every[place] = each
    return every


def between(
    lane: FixedLane | FloatLane, ends: tuple[Array, Array], part: tuple[Array, Array]
) -> list[Cell]:
    """Return what lies a part of the way from one stored number to another, each rounded once.

    `part` are whole numbers: so many out of so many. Where both ends are one number it is that.
    """
    (low, high), (some, whole) = ends, part
    found = cells_of(lane, low)
    differ = np.flatnonzero(low != high)
    low, high, some, whole = (each[differ] for each in (low, high, some, whole))
    if isinstance(lane, FixedLane):
        bound = max(int(np.abs(each).max(initial=0)) for each in (low, high))
        if 2 * bound * int(whole.max(initial=1)) >= _ROOM:
            low, high, some, whole = (e.astype(object) for e in (low, high, some, whole))
        tops = low * whole + some * (high - low)
        worked_out = quotients(tops, 10**lane.scale, whole)
    else:
        parts = zip(_alike(lane, low, high), some.tolist(), whole.tolist(), strict=True)
        worked_out = [
            as_double(first * of + (last - first) * part, of * unit)
            for (first, last, unit), part, of in parts
        ]
    for place, value in zip(differ.tolist(), worked_out, strict=True):
        found[place] = value
    return found


def apart(lane: FloatLane, low: Array, high: Array) -> list[Cell]:
    """Return how far stored doubles lie from others, each rounded once."""
    return [as_double(last - first, unit) for first, last, unit in _alike(lane, low, high)]


def _alike(lane: FloatLane, low: Array, high: Array) -> Iterator[tuple[int, int, int]]:
    """Yield two stored doubles as whole numbers over a third one."""
    if lane.longer:
        for first, last in zip(low.tolist(), high.tolist(), strict=True):
            one, other = to_exact(lane, first), to_exact(lane, last)
            unit = lcm(one.denominator, other.denominator)
            yield int(one * unit), int(other * unit), unit
        return
    columns = (each.tolist() for end in (low, high) for each in shortest_decimals(end))
    for one, places, other, more in zip(*columns, strict=True):
        most = max(places, more, 0)
        yield one * 10 ** (most - places), other * 10 ** (most - more), 10**most


def to_exact(lane: object, stored: int | float) -> Fraction:
    """Return the number that a lane stores, exactly."""
    if isinstance(lane, FixedLane):
        return Fraction(int(stored), 10**lane.scale)
    if isinstance(lane, FloatLane):
        cell = lane.to_cell(float(stored))
        return exact_decimal(cell) if isinstance(cell, float) else Fraction(cell)
    raise TypeError("numbers stand in fixed point or as doubles")
