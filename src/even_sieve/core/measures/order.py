"""Order statistics: ranks from either end, and the median."""

from collections.abc import Sequence
from datetime import date

import numpy as np

from even_sieve.core.cells import Cell, Kind, format_date
from even_sieve.core.measures.at_ranks import AtRank
from even_sieve.core.measures.cell_filter import Bucket
from even_sieve.core.measures.extremes import Ordered
from even_sieve.core.measures.many import to_exact, where
from even_sieve.core.measures.measure import ONE_OF, Figure, Gathered
from even_sieve.core.measures.rounding import to_double
from even_sieve.core.notices import Code, Notice, counted
from even_sieve.core.table.keys import cells_of
from even_sieve.core.table.lanes import Array, TextLane


class Smallest(AtRank, Ordered):
    """The value that stands K-th from the smallest; equal values each have a place."""

    kind = "smallest"

    def _ranks(self, count: int) -> Sequence[int]:
        place = self._rank(count)
        return () if place is None else (place,)

    def _rank(self, count: int) -> int | None:
        rank = int(self._ranks_of(np.array([count]))[0])
        return None if rank < 0 else rank

    @property
    def _place(self) -> int:
        return int(self.request.number or 1)

    def finish(self, gathered: Gathered, group: int) -> Figure:
        """Return the value with the rows that hold it. No value if fewer are used."""
        kept, used = self._kept_error(gathered, group), gathered.used(group)
        if kept is not None or not used:
            return kept or self._nothing(gathered, self._kind)
        rank = self._rank(used)
        if rank is None:
            verb = "was" if used == 1 else "were"
            reason = f"only {counted(used, ONE_OF[self._kind])} {verb} used"
            return Figure(None, reason, (), self._like(gathered))
        rows, found = self._holders(gathered, group, (rank,))
        value = self._cell(self._stored(gathered, group, rank), rows)
        return Figure(value, None, rows, self._like(gathered) + self._many(found))

    def _at_once(self, gathered: Gathered, groups: Array) -> list[Cell]:
        ranks = self._ranks_of(gathered.counts.buckets[groups, Bucket.USED])
        return where(ranks >= 0, lambda own: self._cells_at(gathered, groups[own], ranks[own]))

    def _rows_at_once(self, gathered: Gathered, groups: Array) -> list[tuple[int, ...] | None]:
        """Return the rows that hold the values of many groups."""
        used = gathered.counts.buckets[groups, Bucket.USED]
        low, high = self._ranks_of(used), self._upper_of(used)

        def rows_at(own: Array) -> list[tuple[int, ...] | None]:
            rows, found, differ = self._rows_between(gathered, groups[own], low[own], high[own])
            listed = self._listed(rows, found)
            if self._kind is Kind.NUMBER:
                return listed
            # Of two middle values a notice tells.
            return [None if two else rows for rows, two in zip(listed, differ, strict=True)]

        return where(low >= 0, rows_at)

    def _upper_of(self, used: Array) -> Array:
        """Return the rank of the other value that the figure lies at, or its own."""
        return self._ranks_of(used)

    def _ranks_of(self, used: Array) -> Array:
        """Return the rank of the figure among so many values each, -1 where there is none."""
        return np.where(self._place <= used, self._place - 1, -1)

    def _cells_at(self, gathered: Gathered, groups: Array, ranks: Array) -> list[Cell]:
        """Return the cells at a rank of many groups; of texts as they are first spelt."""
        if not len(groups):
            return []
        lane = self._lane()
        if not isinstance(lane, TextLane):
            return cells_of(lane, self._stored_at(gathered, groups, ranks))
        ranked = self._ranked(gathered)
        rows = ranked.first.firsts(ranked.cells[ranked.at(groups, ranks)])
        return [*self._column().cells(rows.tolist())]

    def _cell(self, stored: int | float, rows: tuple[int, ...]) -> Cell:
        lane = self._lane()
        if isinstance(lane, TextLane):
            return self._column().cell(rows[0])
        return lane.to_cell(stored)  # type: ignore[arg-type]


class Largest(Smallest):
    """The value that stands K-th from the largest; equal values each have a place."""

    kind = "largest"

    def _ranks_of(self, used: Array) -> Array:
        return np.where(self._place <= used, used - self._place, -1)


class Median(Smallest):
    """The middle value; between two middle numbers their mean, else the lower one."""

    kind = "median"

    def _ranks(self, count: int) -> Sequence[int]:
        return sorted({(count - 1) // 2, count // 2})

    def finish(self, gathered: Gathered, group: int) -> Figure:
        """Return the median with the rows that hold the middle values."""
        kept, used = self._kept_error(gathered, group), gathered.used(group)
        if kept is not None or not used:
            return kept or self._nothing(gathered, self._kind)
        low, high = (used - 1) // 2, used // 2
        lower, upper = (self._stored(gathered, group, rank) for rank in (low, high))
        rows, found = self._holders(gathered, group, (low, high))
        notices = self._like(gathered) + self._many(found)
        if lower == upper:
            return Figure(self._cell(lower, rows), None, rows, notices)
        if self._kind is Kind.NUMBER:
            lane = self._lane()
            exact = (to_exact(lane, lower) + to_exact(lane, upper)) / 2
            return Figure(to_double(exact), None, rows, notices, exact)
        below, above = (self._holders(gathered, group, (rank,))[0] for rank in (low, high))
        value = self._cell(lower, below)
        return Figure(value, None, below, (*notices, self._between(self._cell(upper, above))))

    def _ranks_of(self, used: Array) -> Array:
        return (used - 1) // 2

    def _upper_of(self, used: Array) -> Array:
        return used // 2

    def _cells_at(self, gathered: Gathered, groups: Array, ranks: Array) -> list[Cell]:
        if self._kind is not Kind.NUMBER or not len(groups):
            return super()._cells_at(gathered, groups, ranks)
        upper = self._upper_of(gathered.counts.buckets[groups, Bucket.USED])
        one = np.ones(len(groups), dtype=np.int64)
        return self._between_ranks(gathered, groups, (ranks, upper), (one, 2 * one))

    def _between(self, upper: Cell) -> Notice:
        text = (
            f"{self.request.words}: an even count has two middle values; this is the lower "
            f"one, the upper one is {format_date(upper) if isinstance(upper, date) else upper}"
        )
        return Notice(Code.MEDIAN_BETWEEN, text)
