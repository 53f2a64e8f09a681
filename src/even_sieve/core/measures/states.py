"""Mergeable states: what measures gather from blocks.

Each starts from an identity, adds blocks, merges with another of its sort in any order,
and holds one entry a group.
"""

from dataclasses import dataclass, field
from typing import Protocol, Self

import numpy as np

from even_sieve.core.measures.cells import BlockCells, Bucket, Wanted
from even_sieve.core.measures.exact import ExactSums, add_fixed, add_floats, start_sums
from even_sieve.core.table.lanes import Array, FixedLane, FloatLane, TextLane

MOST_ROWS = 100
_LARGEST_TABLE = 1 << 26


class State(Protocol):
    """What is gathered from the blocks for one measure, one entry a group."""

    def add(self, cells: BlockCells) -> None:
        """Take in the used cells of a block."""

    def merge(self, other: Self) -> None:
        """Take in what another state of the same sort gathered."""


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
        if cells.wanted.keep_errors:
            self.first_error = _earlier(self.first_error, cells.first_error())
        if cells.wanted.kind is not None:
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
class Sums:
    """Exact sums of the used numbers."""

    groups: int
    wanted: Wanted
    sums: ExactSums | None = field(init=False)

    def __post_init__(self) -> None:
        lane = self.wanted.lane
        numeric = isinstance(lane, FixedLane | FloatLane)
        self.sums = start_sums(lane, self.groups) if numeric else None  # type: ignore[arg-type]

    def add(self, cells: BlockCells) -> None:
        """Take in a block."""
        lane = self.wanted.lane
        if self.sums is None:
            return
        if isinstance(lane, FixedLane):
            add_fixed(self.sums, lane, cells.values, cells.used_groups)
        else:
            add_floats(self.sums, cells.values, cells.used_groups)

    def merge(self, other: "Sums") -> None:
        """Add up the totals, exactly."""
        if self.sums is not None and other.sums is not None:
            self.sums.merge(other.sums)


@dataclass
class Extremes:
    """The smallest (or largest) used value of each group, and the first rows that hold it.

    Values are compared as stored; texts by their folded value.
    """

    groups: int
    wanted: Wanted
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
        if self.wanted.lane is None:
            return
        values = _ranked(self.wanted, cells.values)
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


def _ranked(wanted: Wanted, values: Array) -> Array:
    lane = wanted.lane
    if isinstance(lane, TextLane) and len(lane.group_starts) < len(lane.spellings):
        return lane.groups[values]
    return values


@dataclass
class Distinct:
    """The different values among the used cells of each group."""

    groups: int
    wanted: Wanted
    seen: Array = field(init=False)

    def __post_init__(self) -> None:
        pairs = self.groups * self._values
        self._dense = pairs <= _LARGEST_TABLE
        self._counts: Array | None = None
        self.seen = np.zeros(pairs, bool) if self._dense else np.empty(0, dtype=np.int64)

    @property
    def _values(self) -> int:
        return len(self.wanted.column.identity.keys)

    def add(self, cells: BlockCells) -> None:
        """Take in a block."""
        self._counts = None
        codes = self.wanted.column.identity.codes[cells.start : cells.stop][cells.used_mask]
        pairs = codes.astype(np.int64)
        if cells.used_groups is not None:
            pairs += cells.used_groups.astype(np.int64) * self._values
        if self._dense:
            self.seen[pairs] = True
        else:
            self.seen = np.union1d(self.seen, pairs)

    def merge(self, other: "Distinct") -> None:
        """Unite what was seen."""
        self._counts = None
        self.seen = self.seen | other.seen if self._dense else np.union1d(self.seen, other.seen)

    def counts(self) -> Array:
        """Return how many different values each group has, shape (groups,)."""
        if self._counts is None:
            if self._dense:
                seen = self.seen.reshape(self.groups, self._values)
                self._counts = np.asarray(seen.sum(axis=1))
            else:
                groups = self.seen // max(self._values, 1)
                self._counts = np.bincount(groups, minlength=self.groups)
        return self._counts
