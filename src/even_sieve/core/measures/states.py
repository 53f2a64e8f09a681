"""Mergeable states: what measures gather from blocks.

Each starts from an identity, adds blocks, merges with another of its sort in any order,
and holds one entry a group.
"""

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Protocol, Self

import numpy as np

from even_sieve.core.measures.cell_filter import Bucket, CellFilter
from even_sieve.core.measures.cells import BlockCells
from even_sieve.core.measures.holders import MOST_ROWS, first_of_each
from even_sieve.core.table.lanes import Array, TextLane


class State(Protocol):
    """What is gathered from the blocks for one measure, one entry a group."""

    def add(self, cells: BlockCells) -> None:
        """Take in the used cells of a block."""

    def merge(self, other: Self) -> None:
        """Take in what another state of the same sort gathered."""

    def following(self) -> "Callable[[], State] | None":
        """Return what begins the states of the next pass; None if this was the last one."""


class OnePass:
    """What one pass is enough for."""

    def following(self) -> None:
        """Nothing follows."""


@dataclass
class Counts:
    """How many selected rows fall into each bucket, and what else is counted on the way."""

    groups: int
    buckets: Array = field(init=False)
    first_error: Array = field(init=False)
    text_like_numbers: int = 0

    def __post_init__(self) -> None:
        self.buckets = np.zeros((self.groups, Bucket.COUNT), dtype=np.int64)
        self.first_error = np.full(self.groups, -1, dtype=np.int64)

    def add(self, cells: BlockCells) -> None:
        """Take in a block."""
        self.buckets += cells.buckets()
        if cells.filter.keep_errors:
            self.first_error = _earlier(self.first_error, cells.first_error())
        if cells.filter.kind is not None:
            self.text_like_numbers += cells.text_like_numbers()

    def merge(self, other: "Counts") -> None:
        """Add up the counts; the first error is the earliest row."""
        self.buckets += other.buckets
        self.first_error = _earlier(self.first_error, other.first_error)
        self.text_like_numbers += other.text_like_numbers


def _earlier(first: Array, second: Array) -> Array:
    """Return the smaller of two rows where -1 stands for none."""
    return np.where((second >= 0) & ((first < 0) | (second < first)), second, first)


@dataclass
class Places(OnePass):
    """The first used rows of each group, and the last one."""

    groups: int
    first: tuple[Array, Array] = field(init=False)
    last: Array = field(init=False)

    def __post_init__(self) -> None:
        nothing = np.empty(0, dtype=np.int64)
        self.first = nothing, nothing
        self.last = np.full(self.groups, -1, dtype=np.int64)

    def add(self, cells: BlockCells) -> None:
        """Take in a block."""
        rows, groups = cells.rows, cells.used_groups
        if not len(rows):
            return
        own = np.zeros(len(rows), np.int64) if groups is None else groups.astype(np.int64)
        np.maximum.at(self.last, own, rows)
        self._join(*first_of_each(own, rows))

    def merge(self, other: "Places") -> None:
        """Keep the first rows of both, and the later last one."""
        np.maximum(self.last, other.last, out=self.last)
        self._join(*other.first)

    def _join(self, groups: Array, rows: Array) -> None:
        together = [np.concatenate(pair) for pair in zip(self.first, (groups, rows), strict=True)]
        order = np.lexsort((together[1], together[0]))
        self.first = first_of_each(together[0][order], together[1][order])

    def rows(self, group: int) -> tuple[int, ...]:
        """Return the first used rows of a group, ascending."""
        start, stop = np.searchsorted(self.first[0], [group, group + 1])
        return tuple(self.first[1][start:stop].tolist())


@dataclass
class Extremes(OnePass):
    """The smallest (or largest) used value of each group, and the first rows that hold it.

    Values are compared as stored; texts by their folded value.
    """

    groups: int
    filter: CellFilter
    largest: bool
    best: list[int | float | None] = field(init=False)
    found: list[int] = field(init=False)
    rows: list[Array] = field(init=False)

    def __post_init__(self) -> None:
        self.best = [None] * self.groups
        self.found = [0] * self.groups
        self.rows = [np.empty(0, dtype=np.int64)] * self.groups

    def add(self, cells: BlockCells) -> None:
        """Take in a block."""
        if self.filter.lane is None:
            return
        values = _ranked(self.filter, cells.values)
        if not len(values):
            return
        if cells.used_groups is None:
            best = values.max() if self.largest else values.min()
            if not self._worse(best.item(), 0):
                hits = np.flatnonzero(values == best)
                self._take(0, best.item(), len(hits), cells.rows[hits[:MOST_ROWS]])
            return
        self._add_groups(values, cells.used_groups, cells.rows)

    def _add_groups(self, values: Array, groups: Array, rows: Array) -> None:
        order = np.argsort(groups, kind="stable")
        values, groups, rows = values[order], groups[order], rows[order]
        starts = np.flatnonzero(np.concatenate(([True], groups[1:] != groups[:-1])))
        reduce = np.maximum if self.largest else np.minimum
        bests = reduce.reduceat(values, starts)
        ends = np.append(starts[1:], len(values))
        for start, end, best in zip(starts.tolist(), ends.tolist(), bests.tolist(), strict=True):
            group = int(groups[start])
            if not self._worse(best, group):
                hits = np.flatnonzero(values[start:end] == best)
                self._take(group, best, len(hits), rows[start:end][hits[:MOST_ROWS]])

    def _worse(self, value: float, group: int) -> bool:
        best = self.best[group]
        return best is not None and (value < best if self.largest else value > best)

    def _take(self, group: int, value: int | float, found: int, rows: Array) -> None:
        """Take in rows that hold a value which is at least as good as the best so far."""
        if self.best[group] == value:
            self.found[group] += found
            together = np.concatenate((self.rows[group], rows))
            self.rows[group] = np.sort(together)[:MOST_ROWS]
        else:
            self.best[group], self.found[group], self.rows[group] = value, found, rows

    def merge(self, other: "Extremes") -> None:
        """Keep the better value of each group, or the rows of both where they are equal."""
        for group, value in enumerate(other.best):
            if value is not None and not self._worse(value, group):
                self._take(group, value, other.found[group], other.rows[group])


def _ranked(used: CellFilter, values: Array) -> Array:
    lane = used.lane
    if isinstance(lane, TextLane) and len(lane.group_starts) < len(lane.spellings):
        return lane.groups[values]
    return values
