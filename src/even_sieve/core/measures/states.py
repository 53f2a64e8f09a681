"""Mergeable states: what measures gather from blocks.

Each starts from an identity, adds blocks, merges with another of its sort in any order,
and holds one entry a group.
"""

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Protocol, Self

import numpy as np

from even_sieve.core.cells import Kind
from even_sieve.core.measures.cell_filter import Bucket
from even_sieve.core.measures.cells import BlockCells
from even_sieve.core.measures.first_rows import FirstRows
from even_sieve.core.table.arrays import zeros
from even_sieve.core.table.lanes import Array


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
        # A bucket stands beside itself: those that nothing falls into take up no memory.
        every = zeros(self.groups * Bucket.COUNT, np.int64)
        self.buckets = every.reshape(int(Bucket.COUNT), self.groups).T
        self.first_error = np.broadcast_to(np.int64(-1), self.groups)  # takes up no memory

    def add(self, cells: BlockCells) -> None:
        """Take in a block."""
        cells.count_in(self.buckets)
        if cells.filter.keep_errors:
            self._put_errors(*cells.first_errors())
        if cells.filter.kind is Kind.NUMBER:  # such texts are told of where numbers are used
            self.text_like_numbers += cells.text_like_numbers()

    def merge(self, other: "Counts") -> None:
        """Add up the counts; the first error is the earliest row."""
        self.buckets += other.buckets
        found = np.flatnonzero(other.first_error >= 0)
        self._put_errors(found, other.first_error[found])
        self.text_like_numbers += other.text_like_numbers

    def _put_errors(self, groups: Array, rows: Array) -> None:
        if len(groups):
            if not self.first_error.flags.writeable:
                self.first_error = self.first_error.copy()
            self.first_error[groups] = _earlier(self.first_error[groups], rows)


def _earlier(first: Array, second: Array) -> Array:
    """Return the smaller of two rows where -1 stands for none."""
    return np.where((second >= 0) & ((first < 0) | (second < first)), second, first)


@dataclass
class Places(OnePass):
    """The first used rows of each group, and the last one."""

    groups: int
    first: FirstRows = field(init=False, default_factory=FirstRows)
    last: Array = field(init=False)

    def __post_init__(self) -> None:
        self.last = np.full(self.groups, -1, dtype=np.int64)

    def add(self, cells: BlockCells) -> None:
        """Take in a block."""
        rows, groups = cells.rows, cells.used_groups
        if not len(rows):
            return
        own = np.zeros(len(rows), np.int64) if groups is None else groups.astype(np.int64)
        np.maximum.at(self.last, own, rows)
        self.first.add(own, rows)

    def merge(self, other: "Places") -> None:
        """Keep the first rows of both, and the later last one."""
        np.maximum(self.last, other.last, out=self.last)
        self.first.merge(other.first)
