"""The smallest, or largest, value of each group, and the first rows that hold it."""

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np

from even_sieve.core.measures.cell_filter import CellFilter
from even_sieve.core.measures.cells import BlockCells
from even_sieve.core.measures.first_rows import first_of_each, in_order, rows_of_each
from even_sieve.core.table.lanes import Array, FloatLane, TextLane
from even_sieve.core.table.texts_of_rows import EndInOrder, TextsOfRows

#: So many rows wait at the least before those that hold no best value any more are let go.
_WAITING = 1 << 20


@dataclass
class Extremes:
    """The smallest (or largest) used value of each group, and the first rows that hold it.

    Values are compared as stored; texts by their folded value. `best` has shape (groups,), and
    `found`: how many rows hold it, 0 where there is none. Of texts that are `waiting` to be put in
    order only those that come first, or last, are: where none of these was used another pass
    follows.
    """

    groups: int
    filter: CellFilter
    largest: bool
    waiting: TextsOfRows | None = None
    best: Array = field(init=False)
    found: Array = field(init=False)
    _end: EndInOrder | None = field(init=False, default=None)
    _waiting: list[tuple[Array, Array, Array]] = field(init=False, default_factory=list)
    _held: int = field(init=False, default=0)
    _least: int = field(init=False, default=0)

    def __post_init__(self) -> None:
        kind = np.float64 if isinstance(self.filter.lane, FloatLane) else np.int64
        self.best = np.zeros(self.groups, dtype=kind)
        self.found = np.zeros(self.groups, dtype=np.int64)
        if self.waiting is not None and self.groups == 1:
            self._end = self.waiting.end_in_order(self.largest)

    def following(self) -> "Callable[[], Extremes] | None":
        """Return what begins another pass, where the value may be any of the texts not in order."""
        if self._end is None or not self.found[0] or self.best[0] != self._end.beyond:
            return None
        return lambda: Extremes(self.groups, self.filter, self.largest)

    def add(self, cells: BlockCells) -> None:
        """Take in a block."""
        if self.filter.lane is None:
            return
        end = self._end
        values = _ranked(self.filter, cells.values) if end is None else cells.stored(end.places)
        if not len(values):
            return
        if cells.used_groups is not None:
            self._add_groups(values, cells.used_groups, cells.rows)
            return
        best = values.max() if self.largest else values.min()
        if not self.found[0] or not self._worse(best, self.best[0]):
            hits = np.flatnonzero(values == best)
            one = np.zeros(1, dtype=np.intp)
            self._take(one, best.reshape(1), np.array([len(hits)]))
            self._wait(np.zeros(len(hits), dtype=np.intp), cells.rows[hits])

    def _add_groups(self, values: Array, groups: Array, rows: Array) -> None:
        order = np.argsort(groups, kind="stable")
        values, groups, rows = values[order], groups[order], rows[order]
        starts = np.flatnonzero(np.concatenate(([True], groups[1:] != groups[:-1])))
        reduce = np.maximum if self.largest else np.minimum
        bests, sizes = reduce.reduceat(values, starts), np.diff(np.append(starts, len(values)))
        hits = values == np.repeat(bests, sizes)
        taken = self._take(groups[starts], bests, np.add.reduceat(hits.astype(np.int64), starts))
        hits &= np.repeat(taken, sizes)
        self._wait(groups[hits], rows[hits])

    def _worse(self, values: Array, than: Array) -> Array:
        return values < than if self.largest else values > than

    def _take(self, groups: Array, bests: Array, found: Array) -> Array:
        """Take in the best value of each of some groups; tell which are as good as any before."""
        before = self.best[groups]
        taken: Array = (self.found[groups] == 0) | ~self._worse(bests, before)
        equal = taken & (bests == before)
        own = groups[taken]
        self.best[own] = bests[taken]
        self.found[own] = np.where(equal, self.found[groups], 0)[taken] + found[taken]
        return taken

    def _wait(self, groups: Array, rows: Array) -> None:
        """Keep the first rows that hold a best value of now."""
        groups, rows = first_of_each(groups, rows)
        self._waiting.append((groups, rows, self.best[groups]))
        self._held += len(rows)
        if self._held > 2 * self._least + _WAITING:
            self._together()

    def _together(self) -> tuple[Array, Array]:
        """Return the groups, ascending, and the first rows that hold their best values."""
        if not self._waiting:
            nothing = np.empty(0, dtype=np.int64)
            return nothing, nothing
        if len(self._waiting) > 1:
            groups, rows, values = map(np.concatenate, zip(*self._waiting, strict=True))
            left = np.flatnonzero(values == self.best[groups])
            groups, rows = in_order(groups[left], rows[left])
            self._waiting = [(groups, rows, self.best[groups])]
            self._held = self._least = len(rows)
        return self._waiting[0][:2]

    def merge(self, other: "Extremes") -> None:
        """Keep the better value of each group, or the rows of both where they are equal."""
        groups = np.flatnonzero(other.found)
        self._take(groups, other.best[groups], other.found[groups])
        self._waiting += other._waiting
        self._held += other._held

    def rows(self, group: int) -> tuple[int, ...]:
        """Return the first rows that hold the best value of a group, ascending."""
        groups, rows = self._together()
        start, stop = np.searchsorted(groups, [group, group + 1])
        return tuple(rows[start:stop].tolist())

    def rows_of_many(self, wanted: Array) -> list[tuple[int, ...]]:
        """Return the first rows that hold the best value of each of many groups."""
        return rows_of_each(*self._together(), wanted)

    def firsts(self, wanted: Array) -> Array:
        """Return the first row that holds the best value of each of many groups with one."""
        groups, rows = self._together()
        found: Array = rows[np.searchsorted(groups, wanted)]
        return found


def _ranked(used: CellFilter, values: Array) -> Array:
    lane = used.lane
    if isinstance(lane, TextLane) and len(lane.group_starts) < len(lane.spellings):
        return lane.groups[values]
    return values
