"""Percentiles and quartiles: values that lie between two neighbours in proportion."""

from collections.abc import Sequence
from fractions import Fraction
from math import floor

import numpy as np

from even_sieve.core.cells import Cell
from even_sieve.core.measures.arithmetic import Numeric
from even_sieve.core.measures.at_ranks import AtRank
from even_sieve.core.measures.cell_filter import Bucket
from even_sieve.core.measures.many import to_exact, where
from even_sieve.core.measures.measure import Figure, Gathered
from even_sieve.core.measures.rounding import TOO_LARGE, to_double
from even_sieve.core.notices import counted
from even_sieve.core.table.distinct import once_each
from even_sieve.core.table.lanes import Array


class Percentile(AtRank, Numeric):
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
        known, low, some, whole = self._steps(gathered.counts.buckets[groups, Bucket.USED])

        def cells(own: Array) -> list[Cell]:
            if not len(own):
                return []
            ranks = low[own], low[own] + (some[own] > 0)
            return self._between_ranks(gathered, groups[own], ranks, (some[own], whole[own]))

        return where(known, cells)

    def _rows_at_once(self, gathered: Gathered, groups: Array) -> list[tuple[int, ...] | None]:
        """Return the rows that hold the neighbours of many groups."""
        known, low, some, _ = self._steps(gathered.counts.buckets[groups, Bucket.USED])

        def rows_at(own: Array) -> list[tuple[int, ...]]:
            high = low[own] + (some[own] > 0)
            return self._rows_between(gathered, groups[own], low[own], high)[0]

        return where(known, rows_at)

    def _steps(self, used: Array) -> tuple[Array, Array, Array, Array]:
        """Return where the figures of many groups of so many values stand.

        That is whether there is one, the rank below it, and the part of the way to the next as a
        numerator and a denominator.
        """
        counts = once_each(used)
        which = np.searchsorted(counts, used)
        places = [self._place(count) if count else None for count in counts.tolist()]
        known = [Fraction(0) if place is None else place for place in places]
        low = np.array([floor(place) for place in known], dtype=np.int64)[which]
        some, whole = (
            np.array([getattr(place % 1, name) for place in known], dtype=np.int64)[which]
            for name in ("numerator", "denominator")
        )
        return np.array([place is not None for place in places])[which], low, some, whole


class Quartile(Percentile):
    """The percentile of 25 times Q."""

    kind = "quartile"

    @property
    def _unit(self) -> int:
        return 25
