"""The cells of one column on the rows that one selection leaves in a block."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from even_sieve.core.cells import Kind
from even_sieve.core.table import Column
from even_sieve.core.table.lanes import Array, Lane

_TRUE = np.ones(1 << 16, dtype=bool)


def _positions(mask: Array) -> Array:
    """Return where the mask is True, as `np.flatnonzero` does.

    NumPy looks for single Trues where fewer than a tenth are, which is the slower way from
    about a twentieth on; some Trues at the end, cut off again, lead it to the other one.
    """
    count, size = int(np.count_nonzero(mask)), len(mask)
    if size // 22 < count <= size // 9:
        more = _TRUE[: size // 8 - count]
        return np.flatnonzero(np.concatenate((mask, more)))[:count]
    return np.flatnonzero(mask)


@dataclass(frozen=True)
class Wanted:
    """Which cells of a column a measure uses.

    `kind` is the one kind that it uses, or None for every cell that holds something.
    Kept blanks count as zero among numbers; kept errors are used.
    """

    column: Column
    kind: Kind | None
    keep_blanks: bool = False
    keep_errors: bool = False

    @property
    def lane(self) -> Lane | None:
        """The lane that the used values stand in, where they are of one kind."""
        return None if self.kind is None else self.column.lanes.get(self.kind)

    @cached_property
    def bucket_of(self) -> Array:
        """The cell bucket of each kind, uint8, shape (kinds,): see `Bucket`."""
        table = np.empty(len(Kind), dtype=np.uint8)
        for kind in Kind:
            table[kind] = self._bucket(kind)
        return table

    def _bucket(self, kind: Kind) -> int:
        if kind is Kind.BLANK:
            return Bucket.USED if self.keep_blanks else Bucket.BLANK
        if kind is Kind.ERROR:
            return Bucket.USED if self.keep_errors else Bucket.ERROR
        return Bucket.USED if self.kind in (None, kind) else Bucket.NOT_A_NUMBER

    def __hash__(self) -> int:
        return hash((id(self.column), self.kind, self.keep_blanks, self.keep_errors))


class Bucket:
    """The buckets that a matched row can fall into by the cell it has."""

    BLANK, ERROR, NOT_A_NUMBER, USED = range(4)
    COUNT = 4


@dataclass(frozen=True, eq=False)
class BlockCells:
    """What measures see of a block: the used cells of a column, and their groups.

    `mask` (bool, shape (rows,)) are the selected rows of the block, `groups` the group
    number of every row of the block, or None where there is one group alone.
    """

    wanted: Wanted
    start: int
    stop: int
    mask: Array
    group_count: int
    groups: Array | None = None

    @cached_property
    def states(self) -> Array | None:
        """The kinds of the selected cells; None where the column is all of one kind."""
        states = self.wanted.column.states
        return None if states is None else states[self.start : self.stop][self.mask]

    @cached_property
    def selected_groups(self) -> Array | None:
        """The groups of the selected rows."""
        return None if self.groups is None else self.groups[self.mask]

    @cached_property
    def used_mask(self) -> Array:
        """Which rows of the block are used, bool, shape (rows,). Errors never stand in it."""
        states = self.wanted.column.states
        if states is None:
            return self.mask if self._all_used() else np.zeros_like(self.mask)
        here = states[self.start : self.stop]
        used = self.wanted.bucket_of == Bucket.USED
        used[Kind.ERROR] = False
        if used.sum() == 1:
            wanted: Array = here == np.uint8(np.flatnonzero(used)[0])
        else:
            wanted = used[here]
        return wanted & self.mask

    def _all_used(self) -> bool:
        only = next(iter(self.wanted.column.lanes))
        return only is not Kind.ERROR and self.wanted.bucket_of[only] == Bucket.USED

    @cached_property
    def _positions(self) -> Array:
        """The positions of the used rows in the block: faster to gather by than a mask."""
        return _positions(self.used_mask)

    @cached_property
    def values(self) -> Array:
        """The stored values of the used rows, in order."""
        lane = self.wanted.lane
        if lane is None:
            raise RuntimeError("these cells are of several kinds")
        return lane.values[self.start : self.stop][self._positions]

    @cached_property
    def used_groups(self) -> Array | None:
        """The groups of the used rows, in order."""
        return None if self.groups is None else self.groups[self._positions]

    @cached_property
    def rows(self) -> Array:
        """The positions of the used rows in the table, counted from 0, in order."""
        return self._positions + self.start

    def buckets(self) -> Array:
        """Return how many selected rows fall into each bucket, int64, shape (groups, 4)."""
        if self.states is None:
            only = next(iter(self.wanted.column.lanes))
            counts = np.zeros((self.group_count, Bucket.COUNT), dtype=np.int64)
            counts[:, self.wanted.bucket_of[only]] = self._selected()
            return counts
        found = self.wanted.bucket_of[self.states]
        if self.selected_groups is None:
            counts = np.bincount(found, minlength=Bucket.COUNT)
        else:
            pairs = self.selected_groups.astype(np.intp) * Bucket.COUNT + found
            counts = np.bincount(pairs, minlength=self.group_count * Bucket.COUNT)
        return counts.reshape(self.group_count, Bucket.COUNT)

    def _selected(self) -> Array:
        """Return how many rows are selected, int64, shape (groups,)."""
        if self.selected_groups is None:
            used = self.used_mask is self.mask
            return np.array([len(self._positions) if used else np.count_nonzero(self.mask)])
        return np.bincount(self.selected_groups, minlength=self.group_count)

    def first_error(self) -> Array:
        """Return the first selected row that holds an error, shape (groups,), or -1."""
        first = np.full(self.group_count, -1, dtype=np.int64)
        states = self.wanted.column.states
        if states is None:
            wrong = self.mask if Kind.ERROR in self.wanted.column.lanes else self.mask[:0]
        else:
            wrong = self.mask & (states[self.start : self.stop] == Kind.ERROR)
        for row in np.flatnonzero(wrong)[::-1]:
            first[0 if self.groups is None else self.groups[row]] = row + self.start
        return first

    def text_like_numbers(self) -> int:
        """Return how many selected text cells look like numbers, in all groups together."""
        column = self.wanted.column
        like, lane = column.number_like, column.lanes.get(Kind.TEXT)
        if like is None or lane is None:
            return 0
        mask = self.mask
        if column.states is not None:
            mask = mask & (column.states[self.start : self.stop] == Kind.TEXT)
        return int(like[lane.values[self.start : self.stop][mask]].sum())
