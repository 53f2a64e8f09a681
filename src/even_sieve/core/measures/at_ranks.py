"""What the measures of values at certain ranks have in common."""

from collections.abc import Sequence

import numpy as np

from even_sieve.core.cells import Cell
from even_sieve.core.measures.many import between
from even_sieve.core.measures.measure import Gathered, Measure, Need
from even_sieve.core.measures.ranked import Ranked
from even_sieve.core.measures.ranks import GroupedRanks, start_search
from even_sieve.core.table.lanes import Array, FixedLane, FloatLane


class AtRank(Measure):
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

    def _rows_between(
        self, gathered: Gathered, groups: Array, low: Array, high: Array
    ) -> tuple[list[tuple[int, ...]], Array, Array]:
        """Return the rows that hold the values at two ranks of each of many groups.

        With them, how many there are, and whether the values differ.
        """
        ranked = self._ranked(gathered)
        lower, upper = (ranked.cells[ranked.at(groups, each)] for each in (low, high))
        differ, every = lower != upper, ranked.found.reshape(-1)
        found = every[lower] + np.where(differ, every[upper], 0)
        rows = ranked.first.of_many(lower)
        places = np.flatnonzero(differ)
        for place, others in zip(places.tolist(), ranked.first.of_many(upper[places]), strict=True):
            rows[place] = tuple(sorted((*rows[place], *others)))
        return rows, found, differ

    def _holders(
        self, gathered: Gathered, group: int, ranks: Sequence[int]
    ) -> tuple[tuple[int, ...], int]:
        ranked = self._ranked(gathered)
        return ranked.holders(group, [ranked.key(group, rank) for rank in ranks])
