"""The values at the wanted ranks of each group, and the rows that hold them."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from even_sieve.core.measures.cell_filter import CellFilter
from even_sieve.core.measures.first_rows import MOST_ROWS
from even_sieve.core.measures.holders import Holders
from even_sieve.core.table.distinct import once_each
from even_sieve.core.table.lanes import Array

#: Which ranks (from 0, ascending) are wanted of so many used values.
Target = Callable[[int], Sequence[int]]


@dataclass(frozen=True, eq=False)
class Places:
    """Wanted ranks of groups, int64, shape (n,) each: in the order of groups, then of ranks.

    The rank of a place is counted `within` one of the `cells` that are looked at.
    """

    groups: Array
    ranks: Array
    cells: Array
    within: Array

    def __len__(self) -> int:
        return len(self.groups)

    def moved(self, cells: Array, within: Array) -> "Places":
        """Return the places where their ranks are counted in other cells."""
        return replace(self, cells=cells, within=within)


@dataclass(frozen=True, eq=False)
class Search:
    """What is looked for: the ranks that each target wants of each group."""

    used: CellFilter
    groups: int
    targets: tuple[Target, ...]

    def places(self, counts: Array) -> Places:
        """Return the ranks wanted, each once, given how many values each group has."""
        different = once_each(counts)
        ranks = [self._ranks(count) for count in different.tolist()]
        table = np.full((len(ranks), max(map(len, ranks), default=0)), -1, dtype=np.int64)
        for number, own in enumerate(ranks):
            table[number, : len(own)] = own
        wanted = table[np.searchsorted(different, counts)]
        groups, columns = np.nonzero(wanted >= 0)
        found = wanted[groups, columns]
        return Places(groups, found, groups, found)

    def _ranks(self, count: int) -> list[int]:
        return sorted({rank for target in self.targets for rank in target(count)} if count else ())


@dataclass(frozen=True, eq=False)
class Spotted:
    """The key at each of some places, how many rows hold it, and the first of these rows.

    `rows` are those of all places, one place after the other, `listed` how many each has.
    """

    places: Places
    keys: Array
    holding: Array
    rows: Array
    listed: Array

    @classmethod
    def among(
        cls, places: Places, spots: Array, keys: Array, cells: Array, rows: Array
    ) -> "Spotted":
        """Return what stands at these spots of sorted keys (by cell, key and row)."""
        new = np.ones(len(keys) + 1, dtype=bool)
        new[1:-1] = (keys[1:] != keys[:-1]) | (cells[1:] != cells[:-1])
        bounds = np.flatnonzero(new)
        runs = np.searchsorted(bounds, spots, "right")
        starts, stops = bounds[runs - 1], bounds[runs]
        listed = np.minimum(stops - starts, MOST_ROWS)
        first = rows[np.repeat(starts, listed) + _within(listed)]
        return cls(places, keys[spots], stops - starts, first, listed)


def _within(sizes: Array) -> Array:
    """Return 0, 1, … for each run of these sizes."""
    found: Array = np.arange(sizes.sum()) - np.repeat(np.cumsum(sizes) - sizes, sizes)
    return found


def begin_ranked(search: Search, places: Places, keys: Array) -> "Callable[[], Ranked]":
    """Return the last pass, which finds the rows that hold the key of each place."""
    groups = places.groups
    order = np.lexsort((keys, groups))
    own, sorted_keys = groups[order], keys[order]
    new = np.ones(len(order), dtype=bool)
    new[1:] = (own[1:] != own[:-1]) | (sorted_keys[1:] != sorted_keys[:-1])
    once, values = own[new], sorted_keys[new]
    column = np.arange(len(once)) - np.searchsorted(once, once)
    width = int(column.max()) + 1 if len(column) else 0
    wanted = np.zeros((search.groups, width), dtype=np.uint64)
    asked = np.zeros((search.groups, width), dtype=bool)
    wanted[once, column], asked[once, column] = values, True
    columns = np.empty(len(order), dtype=np.int64)
    columns[order] = column[np.cumsum(new) - 1]
    return lambda: Ranked(wanted, asked, places, keys, columns)


def ranked_of(search: Search, parts: Sequence[Spotted]) -> "Ranked":
    """Return what was spotted, in parts of groups that ascend, as the last pass would find it."""
    every = [each.places for each in parts]
    groups, ranks = (
        np.concatenate([getattr(each, name) for each in every]) for name in ("groups", "ranks")
    )
    keys, holding, listed, rows = (
        np.concatenate([getattr(each, name) for each in parts])
        for name in ("keys", "holding", "listed", "rows")
    )
    found = begin_ranked(search, Places(groups, ranks, groups, ranks), keys)()
    cells = found.cells
    first = np.ones(len(cells), dtype=bool)  # places of one key stand side by side
    first[1:] = cells[1:] != cells[:-1]
    found.found.reshape(-1)[cells[first]] = holding[first]
    kept = np.repeat(first, listed)
    found.first.add(np.repeat(cells, listed)[kept], rows[kept])
    return found


@dataclass
class Ranked(Holders):
    """The key at each wanted rank, and the rows that hold it: in this column of `wanted`."""

    places: Places
    keys: Array
    columns: Array

    @property
    def ranked(self) -> "Ranked":
        """Itself: the last pass has been."""
        return self

    @property
    def cells(self) -> Array:
        """The cell of each place, under which its rows are kept."""
        found: Array = self.places.groups * self.wanted.shape[1] + self.columns
        return found

    def at(self, groups: Array, ranks: Array) -> Array:
        """Return the place of a rank of each of many groups; it is one of those wanted."""
        found = np.searchsorted(self.places.groups, groups)
        while len(others := np.flatnonzero(self.places.ranks[found] != ranks)):
            found[others] += 1
        return found

    def key(self, group: int, rank: int) -> int:
        """Return the key at a rank of a group."""
        place = int(np.searchsorted(self.places.groups, group))
        while self.places.ranks[place] != rank:
            place += 1
        return int(self.keys[place])

    def holders(self, group: int, keys: Sequence[int]) -> tuple[tuple[int, ...], int]:
        """Return the first rows that hold one of the keys, and how many hold one."""
        pairs = enumerate(zip(self.wanted[group].tolist(), self.asked[group].tolist(), strict=True))
        places = [place for place, (key, asked) in pairs if asked and key in keys]
        rows = sorted(row for p in places for row in self.rows(group, p))
        return tuple(rows), int(sum(self.found[group, p] for p in places))
