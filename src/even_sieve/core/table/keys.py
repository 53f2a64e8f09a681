"""Values of a column in order, made from what its lanes store when they are asked for."""

from bisect import bisect_right
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import accumulate, chain

import numpy as np

from even_sieve.core.cells import Cell
from even_sieve.core.lazy import Anew, many_of
from even_sieve.core.table.lanes import MOST_EXACT, Array, FixedLane, FloatLane, Lane

_BLOCK = 1 << 16
#: Powers of ten up to this one are doubles without loss.
_MOST_POWER = 22


@dataclass(frozen=True, eq=False)
class Identity:
    """Each cell of a column as the number of its value, equal cells alike.

    `codes` has shape (n,); `keys` lists the values in order: numbers, dates, text (first
    spelling met), yes/no, errors, and None for blank at the end. The first `values` of them are
    no errors and no blank.
    """

    codes: Array
    keys: Sequence[Cell]
    values: int


def cells_of(lane: Lane, stored: Array) -> list[Cell]:
    """Return the cells that a lane stores as these, many at once.

    >>> cells_of(FixedLane(np.array([150]), 2), np.array([150, 25]))
    [1.5, 0.25]
    """
    if isinstance(lane, FloatLane) and not lane.longer:
        return [*(stored + 0.0).tolist()]  # -0.0 is 0.0
    if isinstance(lane, FixedLane):
        if not lane.scale:
            return [*stored.tolist()]
        bound = max(int(stored.max()), -int(stored.min())) if len(stored) else 0
        if bound < MOST_EXACT and lane.scale <= _MOST_POWER:
            # Both are doubles without loss: dividing them rounds once.
            return [*(stored / 10.0**lane.scale).tolist()]
    return list(map(lane.to_cell, stored.tolist()))


class StoredCells(Anew[Cell]):
    """Cells of a lane by what it stores of them, an array.

    >>> found = StoredCells(np.array([3, 5, 8]), FixedLane(np.array([8]), 1))
    >>> found[1], list(found), found[1:], found.many(np.array([2, 0]))
    (0.5, [0.3, 0.5, 0.8], (0.5, 0.8), [0.8, 0.3])
    """

    def __init__(self, stored: Array, lane: Lane) -> None:
        self._stored, self._lane = stored, lane

    def __len__(self) -> int:
        return len(self._stored)

    def _at(self, place: int) -> Cell:
        return self._lane.to_cell(self._stored[place].item())

    def __iter__(self) -> Iterator[Cell]:
        for start in range(0, len(self._stored), _BLOCK):
            yield from cells_of(self._lane, self._stored[start : start + _BLOCK])

    def many(self, places: Array) -> list[Cell]:
        """Return the cells of many places."""
        return cells_of(self._lane, self._stored[places])


class ChainedKeys(Anew[Cell]):
    """Several sequences of cells, one after the other.

    >>> found = ChainedKeys([("Inner", "Outer"), (None,)])
    >>> found[2], list(found)
    (None, ['Inner', 'Outer', None])
    """

    def __init__(self, parts: Sequence[Sequence[Cell]]) -> None:
        self._parts = parts
        self._starts = [0, *accumulate(map(len, parts))]

    def __len__(self) -> int:
        return self._starts[-1]

    def _at(self, place: int) -> Cell:
        part = bisect_right(self._starts, place) - 1
        return self._parts[part][place - self._starts[part]]

    def __iter__(self) -> Iterator[Cell]:
        return chain.from_iterable(self._parts)

    def many(self, places: Array) -> list[Cell]:
        """Return the cells of many places."""
        parts = np.searchsorted(self._starts, places, side="right") - 1
        if len(parts) and (parts[1:] >= parts[:-1]).all():  # as they stand
            ends = np.searchsorted(parts, range(len(self._parts) + 1))
            own = (
                many_of(part, places[ends[i] : ends[i + 1]] - self._starts[i])
                for i, part in enumerate(self._parts)
            )
            return [*chain.from_iterable(own)]
        return super().many(places)
