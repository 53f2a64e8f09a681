"""The cells of a lane as Python values, many at once."""

from collections.abc import Callable
from typing import Any

import numpy as np

from even_sieve.core.cells import Cell
from even_sieve.core.table.lanes import (
    MOST_EXACT,
    Array,
    DateLane,
    ErrorLane,
    FixedLane,
    FloatLane,
    Lane,
    TextLane,
    YesNoLane,
)

#: Powers of ten up to this one are doubles.
_EXACT_POWERS = 22


def cells_of(lane: Lane, rows: Array) -> list[Cell]:
    """Return the cells of some rows, each the same as `lane.cell` gives it.

    >>> cells_of(FixedLane(np.array([1250, 7]), 2), np.arange(2))
    [12.5, 0.07]
    """
    return _READ[type(lane)](lane, rows)


def _fixed(lane: FixedLane, rows: Array) -> Any:
    stored = lane.values[rows]
    if not lane.scale:
        return stored.tolist()
    if lane.bound < MOST_EXACT and lane.scale <= _EXACT_POWERS:
        return (stored / float(10**lane.scale)).tolist()  # of whole doubles: the nearest double
    return list(map(lane.to_cell, stored.tolist()))


def _floats(lane: FloatLane, rows: Array) -> Any:
    if lane.longer:  # what was written may be another number than its double
        return list(map(lane.cell, rows.tolist()))
    return (lane.values[rows] + 0.0).tolist()  # -0.0 is 0.0


def _dates(lane: DateLane, rows: Array) -> Any:
    return lane.values[rows].astype(f"datetime64[{'us' if lane.has_time else 'D'}]").tolist()


def _coded(lane: TextLane | ErrorLane, rows: Array) -> Any:
    shown = lane.spellings if isinstance(lane, TextLane) else lane.errors
    return list(map(shown.__getitem__, lane.codes[rows].tolist()))


def _plain(lane: YesNoLane, rows: Array) -> Any:
    return lane.values[rows].tolist()


_READ: dict[type, Callable[[Any, Array], list[Cell]]] = {
    FixedLane: _fixed,
    FloatLane: _floats,
    DateLane: _dates,
    TextLane: _coded,
    ErrorLane: _coded,
    YesNoLane: _plain,
}


def cells_of_kinds(lanes: dict[Any, Lane], states: Array, rows: Array) -> list[Cell]:
    """Return the cells of some rows of which `states` says the kind; None where there is no lane.

    `rows` are counted from 0, shape (n,); `states` has one item for each of them.
    """
    found: list[Cell] = [None] * len(states)
    for kind, lane in lanes.items():
        own = np.flatnonzero(states == kind)
        for at, cell in zip(own.tolist(), cells_of(lane, rows[own]), strict=True):
            found[at] = cell
    return found
