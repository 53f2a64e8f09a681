"""The cells of one column on the rows that one selection leaves in a block."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from even_sieve.core.cells import Kind, all_like_numbers
from even_sieve.core.measures.cell_filter import Bucket, CellFilter
from even_sieve.core.measures.scattering import are_many, count_in
from even_sieve.core.table import Column
from even_sieve.core.table.lanes import Array, Lane, TextLane

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


@dataclass(frozen=True, eq=False)
class Selected:
    """The selected rows of a block, from `start` up to `stop`: what all measures of them share.

    `mask` is bool, shape (rows,), `groups` the group number of every row of the block, or
    None where there is one group alone. `first` is the place in the table of the first of the
    rows that are here, from which `start` and `stop` are counted.
    """

    start: int
    stop: int
    mask: Array
    group_count: int
    every_group: Array | None = None
    first: int = 0

    @cached_property
    def groups(self) -> Array | None:
        """The groups of all rows, as the type that counting by them takes."""
        return None if self.every_group is None else self.every_group.astype(np.intp, copy=False)

    @cached_property
    def has_all(self) -> bool:
        """Whether every row is selected."""
        return bool(self.mask.all())

    @cached_property
    def own_groups(self) -> Array | None:
        """The groups of the selected rows."""
        return self.groups if self.groups is None or self.has_all else self.groups[self.mask]

    def count_in(self, totals: Array) -> None:
        """Add how many rows are selected to totals (int64, shape (groups,))."""
        own = self.own_groups
        if own is not None and are_many(self.group_count, len(own)):
            count_in(totals, own)
        else:
            totals += self._counts

    @cached_property
    def _counts(self) -> Array:
        if self.own_groups is None:
            return np.array([np.count_nonzero(self.mask)])
        return np.bincount(self.own_groups, minlength=self.group_count)


@dataclass(frozen=True, eq=False)
class BlockCells:
    """What measures see of a block: the used cells of a column, and their groups."""

    filter: CellFilter
    selected: Selected

    @property
    def start(self) -> int:
        """The first row of the block, counted from 0 among the rows that are here."""
        return self.selected.start

    @property
    def stop(self) -> int:
        """The row after the last one of the block."""
        return self.selected.stop

    @property
    def mask(self) -> Array:
        """The selected rows, bool, shape (rows,)."""
        return self.selected.mask

    @property
    def groups(self) -> Array | None:
        """The group number of every row, or None where there is one group alone."""
        return self.selected.groups

    @property
    def group_count(self) -> int:
        """How many groups there are."""
        return self.selected.group_count

    @cached_property
    def states(self) -> Array | None:
        """The kinds of the selected cells; None where the column is all of one kind."""
        return None if self._every_state is None else self._every_state[self.mask]

    @cached_property
    def _every_state(self) -> Array | None:
        """The kinds that decide of all rows of the block."""
        return self.filter.states(self.start, self.stop)

    @cached_property
    def selected_groups(self) -> Array | None:
        """The groups of the selected rows."""
        return self.selected.own_groups

    @cached_property
    def _every_row(self) -> bool:
        """Whether every row of the block is used: then arrays are taken as they are."""
        return self.selected.has_all and bool(self.used_mask.all())

    @cached_property
    def used_mask(self) -> Array:
        """Which rows of the block are used, bool, shape (rows,). Errors never stand in it."""
        here = self._every_state
        if here is None:
            return self.mask if self._all_used() else np.zeros_like(self.mask)
        used = self.filter.bucket_of == Bucket.USED
        used[Kind.ERROR] = False
        if used.sum() == 1:
            wanted: Array = here == np.uint8(np.flatnonzero(used)[0])
        else:
            wanted = used[here]
        return wanted & self.mask

    def _all_used(self) -> bool:
        only = self.filter.column.only_kind
        return only is not Kind.ERROR and self.filter.bucket_of[only] == Bucket.USED

    @cached_property
    def _positions(self) -> Array:
        """The positions of the used rows in the block: faster to gather by than a mask."""
        return _positions(self.used_mask)

    @cached_property
    def values(self) -> Array:
        """The stored values of the used rows, in order. Not to be changed."""
        return self._stored(self.filter.lane)

    @cached_property
    def weights(self) -> Array:
        """The stored weights of the used rows, in order."""
        return self._stored(self.filter.weight_lane)

    def _stored(self, lane: Lane | None) -> Array:
        if lane is None:
            raise RuntimeError("these cells are not of one kind")
        return self.stored(lane.values)

    def stored(self, values: Array) -> Array:
        """Return what an array, one value a row of the table, holds for the used rows, in order."""
        here = values[self.start : self.stop]
        return here if self._every_row else here[self._positions]

    def of(self, wanted: CellFilter) -> "BlockCells":
        """Return the cells that another measure wants of the same rows."""
        return BlockCells(wanted, self.selected)

    def has_blank(self) -> Array:
        """Return which groups have a blank among the selected cells, bool, shape (groups,)."""
        blank = np.zeros(self.group_count, dtype=bool)
        if self.states is not None:
            hits = np.flatnonzero(self.states == Kind.BLANK)
            blank[0 if self.selected_groups is None else self.selected_groups[hits]] |= (
                len(hits) > 0
            )
        return blank

    @cached_property
    def keys(self) -> Array:
        """The used values as whole numbers in their order, uint64: see `Ordinals`."""
        if self.filter.ordinals is None:
            raise RuntimeError("these cells are not of one kind")
        return self.filter.ordinals.keys(self.values)

    @cached_property
    def used_groups(self) -> Array | None:
        """The groups of the used rows, in order."""
        if self.groups is None or self._every_row:
            return self.groups
        return self.groups[self._positions]

    @cached_property
    def rows(self) -> Array:
        """The positions of the used rows in the table, counted from 0, in order."""
        return self._positions + (self.start + self.selected.first)

    def count_in(self, buckets: Array) -> None:
        """Add how many selected rows fall into each bucket (int64, shape (groups, 4))."""
        if self.states is None:
            only = self.filter.column.only_kind
            self.selected.count_in(buckets[:, self.filter.bucket_of[only]])
            return
        found = self.filter.bucket_of[self.states].astype(np.intp)
        found *= self.group_count
        if self.selected_groups is not None:
            found += self.selected_groups
        count_in(buckets.T.reshape(-1), found)

    def first_errors(self) -> tuple[Array, Array]:
        """Return the groups with an error among the selected rows, and the first row of each."""
        states = self._every_state
        if states is None:
            wrong = self.mask if Kind.ERROR in self.filter.column.lanes else self.mask[:0]
        else:
            wrong = self.mask & (states == Kind.ERROR)
        rows = np.flatnonzero(wrong)
        own = np.zeros(len(rows), dtype=np.intp) if self.groups is None else self.groups[rows]
        groups, first = np.unique(own, return_index=True)
        return groups, rows[first] + (self.start + self.selected.first)

    def text_like_numbers(self) -> int:
        """Return how many selected text cells look like numbers, in all groups together."""
        return sum(map(self._like_numbers, self.filter.columns))

    def _like_numbers(self, column: Column) -> int:
        lane = column.lanes.get(Kind.TEXT)
        if not isinstance(lane, TextLane):
            return 0
        waiting = lane.of_rows
        if waiting is not None:
            rows = waiting.rows_like(all_like_numbers)
            here = None if rows is None else rows[self.start : self.stop]
            return 0 if here is None else int(np.count_nonzero(here & self.mask))
        like, mask = column.number_like, self.mask
        if like is None:
            return 0
        if column.states is not None:
            mask = mask & (column.states[self.start : self.stop] == Kind.TEXT)
        return int(like[lane.values[self.start : self.stop][mask]].sum())
