"""Order statistics: ranks from either end, the median, percentiles."""

from collections.abc import Sequence
from datetime import date
from fractions import Fraction
from math import floor

import numpy as np

from even_sieve.core.cells import Cell, Kind, format_date
from even_sieve.core.measures.arithmetic import Numeric
from even_sieve.core.measures.cell_filter import Bucket
from even_sieve.core.measures.extremes import Ordered
from even_sieve.core.measures.many import between, to_exact, where
from even_sieve.core.measures.measure import ONE_OF, Figure, Gathered, Measure, Need
from even_sieve.core.measures.ranked import Ranked
from even_sieve.core.measures.ranks import GroupedRanks, start_search
from even_sieve.core.measures.rounding import TOO_LARGE, to_double
from even_sieve.core.notices import Code, Notice, counted
from even_sieve.core.table.distinct import once_each
from even_sieve.core.table.keys import cells_of
from even_sieve.core.table.lanes import Array, FixedLane, FloatLane, TextLane


class _AtRank(Measure):
    """A measure of the values at certain ranks of the used ones."""

    def needs(self) -> tuple[Need, ...]:
        """Gather the values at the ranks, and their rows."""
        used = self.cell_filter()
        if used is None:
            raise RuntimeError(f"{self.kind} needs cells")
        begin = lambda groups, targets: start_search(used, groups, targets)  # noqa: E731
        return (Need("ranks", begin, (self._ranks,)),)

    def _ranks(self, count: int) -> Sequence[int]:
        """Return the ranks (from 0, ascending) that are needed of so many values."""
        raise NotImplementedError

    def _ranked(self, gathered: Gathered) -> Ranked:
        found = gathered.states["ranks"]
        if not isinstance(found, Ranked | GroupedRanks):
            raise TypeError(f"the state 'ranks' is a {type(found).__name__}")
        return found.ranked

    def _stored(self, gathered: Gathered, group: int, rank: int) -> int | float:
        if self.cells is None or self.cells.ordinals is None:
            raise RuntimeError(f"{self.kind} needs values")
        return self.cells.ordinals.stored(self._ranked(gathered).key(group, rank))

    def _stored_at(self, gathered: Gathered, groups: Array, ranks: Array) -> Array:
        """Return the stored value at a rank of each of many groups."""
        if self.cells is None or self.cells.ordinals is None:
            raise RuntimeError(f"{self.kind} needs values")
        ranked = self._ranked(gathered)
        return self.cells.ordinals.stored_of(ranked.keys[ranked.at(groups, ranks)])

    def _between_ranks(
        self,
        gathered: Gathered,
        groups: Array,
        ranks: tuple[Array, Array],
        part: tuple[Array, Array],
    ) -> list[Cell]:
        """Return what lies a part of the way from one rank to another, of many groups."""
        low, high = (self._stored_at(gathered, groups, own) for own in ranks)
        lane = self._lane()
        if not isinstance(lane, FixedLane | FloatLane):
            raise TypeError("numbers stand in fixed point or as doubles")
        return between(lane, (low, high), part)

    def _holders(
        self, gathered: Gathered, group: int, ranks: Sequence[int]
    ) -> tuple[tuple[int, ...], int]:
        ranked = self._ranked(gathered)
        return ranked.holders(group, [ranked.key(group, rank) for rank in ranks])


class Smallest(_AtRank, Ordered):
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

    def _cells_at(self, gathered: Gathered, groups: Array, ranks: Array) -> list[Cell]:
        if self._kind is not Kind.NUMBER or not len(groups):
            return super()._cells_at(gathered, groups, ranks)
        upper = gathered.counts.buckets[groups, Bucket.USED] // 2
        one = np.ones(len(groups), dtype=np.int64)
        return self._between_ranks(gathered, groups, (ranks, upper), (one, 2 * one))

    def _between(self, upper: Cell) -> Notice:
        text = (
            f"{self.request.words}: an even count has two middle values; this is the lower "
            f"one, the upper one is {format_date(upper) if isinstance(upper, date) else upper}"
        )
        return Notice(Code.MEDIAN_BETWEEN, text)


class Percentile(_AtRank, Numeric):
    """The value below which P of a hundred lie, between two neighbours in proportion.

    Inclusive is type 7, exclusive type 6 of Hyndman and Fan, "Sample quantiles in
    statistical packages", The American Statistician 50 (1996).
    """

    kind = "percentile"
    no_dates = "a percentile lies between numbers"

    def _place(self, count: int) -> Fraction | None:
        """Return where it stands among the ranks, from 0; None where it is not defined."""
        part = Fraction(self.request.number or 0) * self._unit / 100
        if self.request.way != "exclusive":
            return (count - 1) * part
        place = (count + 1) * part - 1
        return place if 0 <= place <= count - 1 else None

    @property
    def _unit(self) -> int:
        return 1

    def _ranks(self, count: int) -> Sequence[int]:
        place = self._place(count)
        if place is None:
            return ()
        return sorted({floor(place), min(floor(place) + (place % 1 > 0), count - 1)})

    def finish(self, gathered: Gathered, group: int) -> Figure:
        """Return the value with the rows that hold its neighbours."""
        kept, used = self._kept_error(gathered, group), gathered.used(group)
        if kept is not None or not used:
            return kept or self._no_number(gathered)
        place, ranks = self._place(used), self._ranks(used)
        if place is None:
            low, high = Fraction(100, used + 1), Fraction(100 * used, used + 1)
            reason = (
                f"{counted(used, 'number')} used: an exclusive percentile lies from "
                f"{float(low):.4g} to {float(high):.4g} percent"
            )
            return Figure(None, reason, (), self._notices(gathered))
        lane, rows = self._lane(), self._holders(gathered, group, ranks)[0]
        stored = [self._stored(gathered, group, rank) for rank in ranks]
        notices = self._notices(gathered)
        if stored[0] == stored[-1]:
            return Figure(lane.to_cell(stored[0]), None, rows, notices)  # type: ignore[arg-type]
        lower, upper = (to_exact(lane, each) for each in stored)
        exact = lower + (place % 1) * (upper - lower)
        value = to_double(exact)
        return Figure(value, TOO_LARGE if value is None else None, rows, notices, exact)

    def _at_once(self, gathered: Gathered, groups: Array) -> list[Cell]:
        used = gathered.counts.buckets[groups, Bucket.USED]
        counts = once_each(used)
        which = np.searchsorted(counts, used)
        places = [self._place(count) if count else None for count in counts.tolist()]
        known = [Fraction(0) if place is None else place for place in places]
        low = np.array([floor(place) for place in known], dtype=np.int64)[which]
        some, whole = (
            np.array([getattr(place % 1, name) for place in known], dtype=np.int64)[which]
            for name in ("numerator", "denominator")
        )

        def cells(own: Array) -> list[Cell]:
            if not len(own):
                return []
            ranks = low[own], low[own] + (some[own] > 0)
            return self._between_ranks(gathered, groups[own], ranks, (some[own], whole[own]))

        return where(np.array([place is not None for place in places])[which], cells)


class Quartile(Percentile):
    """The percentile of 25 times Q."""

    kind = "quartile"

    @property
    def _unit(self) -> int:
        return 25
