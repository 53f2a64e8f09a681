"""Lanes of numbers that are given one by one: whole ones, doubles and decimals, as they are."""

from decimal import Decimal
from typing import Any

import numpy as np

from even_sieve.core.table.lanes import Array, FixedLane, FloatLane, Lane, changed
from even_sieve.core.table.shortest import shortest_decimal, shortest_decimals

LARGEST_SCALE = 18
_INT64 = 2**63 - 1
#: Whole numbers up to here are doubles.
_EXACT = 2**53
#: The decimals of the smallest doubles.
_MOST_PLACES = 350


def scattered(values: Array, where: Array, length: int) -> Array:
    """Return an array of a length with values at some places, and zeros elsewhere."""
    out = np.zeros(length, dtype=values.dtype)
    out[where] = values
    return out


def number_lane(cells: list[Any], where: Array, length: int) -> Lane:
    """Return the lane of so many rows with numbers at some of them, exactly.

    >>> number_lane([12.5, 3], np.array([0, 2]), 3)
    FixedLane(values=array([125,   0,  30]), scale=1)
    """
    lane = lane_of_numbers(cells, set(map(type, cells)))
    if lane is not None:
        return changed(lane, lambda values: scattered(values, where, length))
    exact = [_mantissa(cell) for cell in cells]
    scale = max((decimals for _, decimals in exact), default=0)
    if scale <= LARGEST_SCALE:
        stored = [whole * 10 ** (scale - decimals) for whole, decimals in exact]
        if all(abs(value) <= _INT64 for value in stored):
            return FixedLane(scattered(np.array(stored, dtype=np.int64), where, length), scale)
    doubles = scattered(np.array([float(cell) for cell in cells]), where, length)
    given, lost = zip(*map(kept, cells), strict=True)
    whole, places = (np.array(part) for part in zip(*given, strict=True))
    written = (
        scattered(whole.astype(np.int64), where, length),
        scattered(places.astype(np.int16), where, length),
    )
    return FloatLane(doubles, written, next(filter(None, lost), ""))


def lane_of_numbers(cells: list[Any], types: set[type]) -> Lane | None:
    """Return the lane of whole numbers and doubles, their types among these; None for others.

    >>> lane_of_numbers([12.5, 3], {float, int}), lane_of_numbers([True], {bool})
    (FixedLane(values=array([125,  30]), scale=1), None)
    """
    if not types <= {int, float}:
        return None
    try:
        if types == {int}:
            whole = np.array(cells, dtype=np.int64)
            return FixedLane(whole, 0) if whole.min() >= -_INT64 else None
        doubles = np.array(cells, dtype=np.float64)
    except OverflowError:
        return None
    if not np.isfinite(doubles).all():
        return None
    if int in types and np.abs(doubles).max() > _EXACT:  # a whole number may not be that double
        return None
    fixed = _fixed(doubles)
    return FloatLane(doubles) if fixed is None else FixedLane(*fixed)


def _fixed(doubles: Array) -> tuple[Array, int] | None:
    """Return doubles as whole numbers of so many decimals; None if one does not fit."""
    whole, places = shortest_decimals(doubles)
    places = np.where(whole == 0, 0, places.astype(np.int64))
    for power in (16, 8, 4, 2, 1):  # zeros at the end that no decimal needs
        needless = (places >= power) & (whole % 10**power == 0)
        whole[needless] //= 10**power
        places[needless] -= power
    scale = max(0, int(places.max(initial=0)))
    up = scale - places
    if scale > LARGEST_SCALE or up.max(initial=0) > LARGEST_SCALE:
        return None
    grown = 10**up
    return None if (np.abs(whole) > _INT64 // grown).any() else (whole * grown, scale)


def kept(cell: int | float | Decimal) -> tuple[tuple[int, int], str]:
    """Return what is kept of a number, and the number in words if that is not all of it."""
    whole, places = exact = _mantissa(cell)
    if abs(whole) <= _INT64 and places <= _MOST_PLACES:
        return exact, ""
    near = shortest_decimal(float(cell))
    lost = isinstance(cell, int | Decimal) and exact != _shortened(*near)
    return near, str(cell) if lost else ""


def _mantissa(cell: int | float | Decimal) -> tuple[int, int]:
    """Return a number as a whole one and how many of its digits are decimals, as few as can be.

    >>> _mantissa(Decimal("12.500")), _mantissa(1e3)
    ((125, 1), (1000, 0))
    """
    if isinstance(cell, int):
        return cell, 0
    digits, _, exponent = str(cell).partition("e" if isinstance(cell, float) else "E")
    before, _, after = digits.partition(".")
    after = after.rstrip("0")
    return _shortened(int(before + after), len(after) - int(exponent or 0))


def _shortened(whole: int, places: int) -> tuple[int, int]:
    """Return a number with as few decimals as can be, none of them below 0."""
    if places <= 0 or not whole:
        return whole * 10**-places if whole else 0, 0
    while places and not whole % 10:
        whole, places = whole // 10, places - 1
    return whole, places
