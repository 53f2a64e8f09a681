"""The numbers of columns that are worked with: as decimals, and as fractions."""

from dataclasses import dataclass

import numpy as np

from even_sieve.core.cells import Kind
from even_sieve.core.derive.fractions_at_once import Fractions, Whole, times
from even_sieve.core.table import Column
from even_sieve.core.table.lanes import Array, FixedLane, FloatLane, Rows

#: Doubles of so many decimals, or so many zeros before them, are worked with as fractions.
_MOST_PLACES = 60
#: Powers of ten up to this one are whole numbers of 64 bits.
_LARGEST_POWER = 18
#: Products of two whole numbers up to here, and powers of ten, are mostly of 64 bits.
_FEW_DIGITS = 10**12


@dataclass(frozen=True, eq=False)
class DecimalsOfRows:
    """Numbers of some rows: whole ones, and how many of their digits are decimals.

    They are 0 in rows that are `blank`, and in those `left` that hold what is none.
    """

    whole: Array
    places: Array
    blank: Array
    left: Array


def has_many_digits(column: Column) -> bool:
    """Tell whether what is worked out of a column's numbers mostly goes beyond 64 bits."""
    lane = column.lanes.get(Kind.NUMBER)
    return isinstance(lane, FloatLane) or (isinstance(lane, FixedLane) and lane.bound > _FEW_DIGITS)


def decimals_of_rows(column: Column, rows: Rows) -> DecimalsOfRows:
    """Return the numbers of some rows of a column as decimals."""
    lane, states = column.lanes.get(Kind.NUMBER), kinds_of(column, rows)
    blank, here = states == Kind.BLANK, states == Kind.NUMBER
    left = ~(here | blank)
    whole: Array = np.zeros(len(states), dtype=np.int64)
    places: Array = np.zeros(len(states), dtype=np.int64)
    if isinstance(lane, FixedLane):
        whole, places = lane.values[rows], np.full(len(states), lane.scale)
    elif isinstance(lane, FloatLane):
        whole, places = (each[rows] for each in lane.decimals)
        left |= here & ((places < -_MOST_PLACES) | (places > _MOST_PLACES))
        places = np.where(here & ~left, places, 0).astype(np.int64)
    if blank.any() or left.any():
        whole = np.where(here & ~left, whole, 0)
    return DecimalsOfRows(whole, places, blank, left)


def fractions_of(column: Column, rows: Rows) -> tuple[Fractions, Array]:
    """Return the numbers of some rows, and which of them hold what is none and no blank."""
    found, lane = decimals_of_rows(column, rows), column.lanes.get(Kind.NUMBER)
    blank = found.blank if found.blank.any() else None
    if isinstance(lane, FixedLane):
        return Fractions(found.whole, 10**lane.scale, blank), found.left
    over = np.asarray(times(found.whole, _powers_of_ten(-found.places)))
    return Fractions(over, _powers_of_ten(found.places), blank), found.left


def kinds_of(column: Column, rows: Rows) -> Array:
    """Return of what kind each cell of some rows is."""
    if column.states is None:
        count = rows.stop - rows.start if isinstance(rows, slice) else len(rows)
        return np.full(count, column.only_kind, dtype=np.uint8)
    return column.states[rows]


def _powers_of_ten(powers: Array) -> Whole:
    """Return powers of ten, 1 for negative ones."""
    powers = np.maximum(powers, 0)
    if not len(powers) or (powers == powers[0]).all():
        return 10 ** int(powers[0]) if len(powers) else 1
    ten = 10 if powers.max() <= _LARGEST_POWER else np.array(10, dtype=object)
    found: Array = ten**powers
    return found
