"""Which cells of a column a measure uses, and the bucket that each cell falls into."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from even_sieve.core.cells import Kind
from even_sieve.core.measures.ordinals import Ordinals
from even_sieve.core.table import Column
from even_sieve.core.table.lanes import Array, ErrorLane, FixedLane, Lane


@dataclass(frozen=True)
class CellFilter:
    """Which cells of a column a measure uses.

    `kind` is the one kind that it uses, or None for every cell that holds something.
    Kept blanks count as zero among numbers; kept errors are used. With a `weight`, a
    column of numbers too, a cell is used only if the weight beside it is.
    """

    column: Column
    kind: Kind | None
    keep_blanks: bool = False
    keep_errors: bool = False
    weight: Column | None = None

    @cached_property
    def lane(self) -> Lane | None:
        """The lane that the used values stand in, where they are of one kind.

        In a column without numbers kept blanks are zeros all the same.
        """
        return None if self.kind is None else self._lane_of(self.column, self.kind)

    @cached_property
    def weight_lane(self) -> Lane | None:
        """The lane of the weights, if there are any."""
        return None if self.weight is None else self._lane_of(self.weight, Kind.NUMBER)

    def _lane_of(self, column: Column, kind: Kind) -> Lane | None:
        if self.keep_blanks and kind not in column.lanes:
            return FixedLane(np.zeros(column.length, dtype=np.int64), 0)
        return column.lanes.get(kind)

    @cached_property
    def ordinals(self) -> Ordinals | None:
        """The values of the lane as whole numbers in their order."""
        lane = self.lane
        return None if lane is None or isinstance(lane, ErrorLane) else Ordinals(lane)

    @property
    def columns(self) -> tuple[Column, ...]:
        """The column and, if there is one, the column of weights."""
        return (self.column,) if self.weight is None else (self.column, self.weight)

    def states(self, start: int, stop: int) -> Array | None:
        """Return the kind that decides of each of these rows, uint8, shape (rows,).

        That is the kind of the cell or, if the cell is used, of the weight beside it. None where
        all are `only_kind`.
        """
        if self.weight is None or self._all_numbers():
            states = self.column.states
            return None if states is None else states[start:stop]
        first, second = (
            np.full(stop - start, each.only_kind, dtype=np.uint8)
            if each.states is None
            else each.states[start:stop]
            for each in self.columns
        )
        by_weight = (self.bucket_of[first] == Bucket.USED) & (first != Kind.ERROR)
        return np.where(by_weight, second, first)

    def _all_numbers(self) -> bool:
        return all(
            each.states is None and (not each.length or each.only_kind is Kind.NUMBER)
            for each in self.columns
        )

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
        kept = self.keep_blanks, self.keep_errors
        return hash((*map(id, self.columns), self.kind, *kept))


class Bucket:
    """The buckets that a matched row can fall into by the cell it has."""

    BLANK, ERROR, NOT_A_NUMBER, USED = range(4)
    COUNT = 4
