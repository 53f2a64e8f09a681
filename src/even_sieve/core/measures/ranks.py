"""Order statistics by radix selection: the exact value at a rank, in bounded memory.

A first pass counts the used keys by their leading bits. The bins that hold the wanted
ranks are all that later passes look at: they are counted by the bits that follow, until
so few keys are left that they are gathered and sorted, with their rows. A table of few rows
is gathered at once. Where counting alone tells the values, a last pass finds the rows.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np

from even_sieve.core.measures.cell_filter import CellFilter
from even_sieve.core.measures.cells import BlockCells
from even_sieve.core.measures.holders import MOST_ROWS, Holders
from even_sieve.core.table.lanes import Array

#: So many keys are gathered and sorted rather than counted once more.
MOST_GATHERED = 1 << 20
_BINS = 18
_MOST_BITS = 16
_FEWEST_BITS = 4

#: Which ranks (from 0, ascending) are wanted of so many used values.
Target = Callable[[int], Sequence[int]]
#: A wanted rank of a group.
Place = tuple[int, int]


@dataclass(frozen=True, eq=False)
class Search:
    """What is looked for: the ranks that each target wants of each group."""

    used: CellFilter
    groups: int
    targets: tuple[Target, ...]

    def places(self, counts: Sequence[int]) -> list[Place]:
        """Return the ranks wanted, each once, given how many values each group has."""
        ranks = {count: self._ranks(count) for count in set(counts)}
        return [(group, rank) for group, count in enumerate(counts) for rank in ranks[count]]

    def _ranks(self, count: int) -> list[int]:
        return sorted({rank for target in self.targets for rank in target(count)} if count else ())


@dataclass(frozen=True, eq=False)
class RankBins:
    """One step of the search: the bits from `shift` on, `bins` of them a cell.

    `following` (int64, shape (cells * bins,)) is the cell of the next level for each bin,
    -1 where nothing is looked for.
    """

    shift: int
    bins: int
    following: Array

    def index(self, cells: Array | None, keys: Array) -> Array:
        """Return the bin of each key within its cell, counted through all cells."""
        bins = (keys >> np.uint64(self.shift)).view(np.int64) & (self.bins - 1)
        return bins if cells is None else bins + cells * self.bins


def followed(
    levels: Sequence[RankBins], keys: Array, groups: Array | None
) -> tuple[Array | None, Array, Array | None]:
    """Return the cells that keys have come to, the keys still looked at, and their positions.

    The cells are None where all are in one, the positions where all keys are looked at.
    """
    cells, kept = None if groups is None else groups.astype(np.int64), None
    for level in levels:
        cells = level.following[level.index(cells, keys)]
        left = np.flatnonzero(cells >= 0)
        cells, keys = cells[left], keys[left]
        kept = left if kept is None else kept[left]
    return cells, keys, kept


def start_search(
    used: CellFilter, groups: int, targets: tuple[Target, ...]
) -> "GroupedRanks | Counting":
    """Return the state of the first pass."""
    search = Search(used, groups, targets)
    if used.column.length <= MOST_GATHERED or used.ordinals is None:
        return GroupedRanks(search)
    return Counting(search, (), groups, used.ordinals.span.bit_length())


@dataclass
class GroupedRanks:
    """Gathers the keys that are looked at, and their rows.

    `open` names for each wanted place the cell in which its rank is counted, and the rank
    there; None where the ranks hang on how many keys there are. `known` are places whose
    keys are known already.
    """

    search: Search
    levels: tuple[RankBins, ...] = ()
    open: dict[Place, tuple[int, int]] | None = None
    known: dict[Place, int] = field(default_factory=dict)
    _cells: list[Array] = field(init=False, default_factory=list)
    _keys: list[Array] = field(init=False, default_factory=list)
    _rows: list[Array] = field(init=False, default_factory=list)

    def add(self, cells: BlockCells) -> None:
        """Take in a block."""
        if self.search.used.ordinals is None:
            return
        found, keys, kept = followed(self.levels, cells.keys, cells.used_groups)
        if found is not None:
            self._cells.append(found)
        self._keys.append(keys)
        self._rows.append(cells.rows if kept is None else cells.rows[kept])

    def merge(self, other: "GroupedRanks") -> None:
        """Take in what another one gathered."""
        self._cells += other._cells
        self._keys += other._keys
        self._rows += other._rows

    def following(self) -> None:
        """Nothing follows: the rows are here."""

    @cached_property
    def ranked(self) -> "Ranked":
        """The keys at the wanted ranks, and the rows that hold them."""
        keys = np.concatenate(self._keys) if self._keys else np.empty(0, dtype=np.uint64)
        rows = np.concatenate(self._rows) if self._rows else np.empty(0, dtype=np.int64)
        if not self._cells:
            return self._of_one_cell(keys, rows)
        cells = np.concatenate(self._cells)
        order = np.lexsort((rows, keys, cells))
        keys, cells, rows = keys[order], cells[order], rows[order]
        count = max(int(cells[-1]) + 1 if len(cells) else 0, self.search.groups)
        starts = np.searchsorted(cells, np.arange(count + 1)).tolist()
        places = self._places(np.diff(starts)[: self.search.groups].tolist())
        spots = np.array([starts[cell] + rank for cell, rank in places.values()], dtype=np.int64)
        at = dict(zip(places, keys[spots].tolist(), strict=True))
        found = begin_ranked(self.search, self.known | at)()
        new = np.ones(len(keys) + 1, dtype=bool)
        new[1:-1] = (keys[1:] != keys[:-1]) | (cells[1:] != cells[:-1])
        bounds = np.flatnonzero(new)
        runs = np.searchsorted(bounds, spots, "right")
        found.put_all(list(places), bounds[runs - 1], bounds[runs], rows)
        return found

    def _places(self, counts: list[int]) -> dict[Place, tuple[int, int]]:
        if self.open is not None:
            return self.open
        return {place: place for place in self.search.places(counts)}

    def _of_one_cell(self, keys: Array, rows: Array) -> "Ranked":
        """Put only the wanted ranks into their places: faster than sorting all keys."""
        places = self._places([len(keys)])
        ranks = sorted({rank for _, rank in places.values()})
        parted = np.partition(keys, ranks) if ranks else keys
        at = {place: int(parted[rank]) for place, (_, rank) in places.items()}
        found = begin_ranked(self.search, self.known | at)()
        for place, key in at.items():
            found.put(place, np.sort(rows[keys == np.uint64(key)]))
        return found


@dataclass
class Counting:
    """Counts the keys that are looked at by their next bits."""

    search: Search
    levels: tuple[RankBins, ...]
    cells: int
    bits: int
    open: dict[Place, tuple[int, int]] | None = None
    known: dict[Place, int] = field(default_factory=dict)
    prefixes: list[int] = field(default_factory=list)
    counts: Array = field(init=False)

    def __post_init__(self) -> None:
        most = max(_FEWEST_BITS, min(_MOST_BITS, _BINS - (self.cells - 1).bit_length()))
        self._width = min(most, self.bits)
        self._level = RankBins(
            self.bits - self._width, 1 << self._width, np.empty(0, dtype=np.int64)
        )
        self.counts = np.zeros(self.cells << self._width, dtype=np.int64)

    def add(self, cells: BlockCells) -> None:
        """Take in a block."""
        found, keys, _ = followed(self.levels, cells.keys, cells.used_groups)
        bins = self._level.index(found, keys)
        self.counts += np.bincount(bins, minlength=len(self.counts))

    def merge(self, other: "Counting") -> None:
        """Add up the counts."""
        self.counts += other.counts

    def following(self) -> "Callable[[], Counting | GroupedRanks | Ranked]":
        """Return the next pass: what is looked for lies in the bins that hold the ranks."""
        table = self.counts.reshape(self.cells, -1)
        if self.open is None:
            whole = table.sum(axis=1).tolist()
            self.open = {place: place for place in self.search.places(whole)}
            self.prefixes = [0] * self.cells
        upto = np.cumsum(table, axis=1)
        chosen: dict[int, int] = {}
        following: dict[Place, tuple[int, int]] = {}
        for place, (cell, rank) in self.open.items():
            bin_ = int(np.searchsorted(upto[cell], rank, side="right"))
            before = int(upto[cell, bin_ - 1]) if bin_ else 0
            number = (cell << self._width) + bin_
            following[place] = chosen.setdefault(number, len(chosen)), rank - before
        prefixes = [
            (self.prefixes[number >> self._width] << self._width)
            | (number & (1 << self._width) - 1)
            for number in chosen
        ]
        left = self.bits - self._width
        if not left:
            known = {place: prefixes[cell] for place, (cell, _) in following.items()}
            return begin_ranked(self.search, self.known | known)
        return self._next(chosen, following, prefixes, left)

    def _next(
        self,
        chosen: dict[int, int],
        following: dict[Place, tuple[int, int]],
        prefixes: list[int],
        left: int,
    ) -> "Callable[[], Counting | GroupedRanks]":
        table = np.full(len(self.counts), -1, dtype=np.int64)
        numbers = list(chosen)
        table[numbers] = np.arange(len(numbers))
        level = RankBins(self._level.shift, self._level.bins, table)
        levels = (*self.levels, level)
        search, known = self.search, self.known
        if int(self.counts[numbers].sum()) <= MOST_GATHERED:
            return lambda: GroupedRanks(search, levels, following, known)
        return lambda: Counting(search, levels, len(numbers), left, following, known, prefixes)


def begin_ranked(search: Search, keys: dict[Place, int]) -> "Callable[[], Ranked]":
    """Return the last pass, which finds the rows of these keys."""
    by_group: dict[int, list[int]] = {}
    for (group, _), key in sorted(keys.items()):
        own = by_group.setdefault(group, [])
        if key not in own:
            own.append(key)
    width = max(map(len, by_group.values()), default=0)
    wanted = np.zeros((search.groups, width), dtype=np.uint64)
    asked = np.zeros((search.groups, width), dtype=bool)
    for group, own in by_group.items():
        wanted[group, : len(own)], asked[group, : len(own)] = own, True
    return lambda: Ranked(wanted, asked, keys)


@dataclass
class Ranked(Holders):
    """The key at each wanted rank, and the rows that hold it."""

    at: dict[Place, int]

    @property
    def ranked(self) -> "Ranked":
        """Itself: the last pass has been."""
        return self

    def put(self, place: Place, rows: Array) -> None:
        """Put in the rows that hold the key at a place, ascending."""
        group, key = place[0], np.uint64(self.at[place])
        column = int(np.flatnonzero((self.wanted[group] == key) & self.asked[group])[0])
        if not self.found[group, column]:
            self.found[group, column] = len(rows)
            self._keep(np.full(len(rows), group * self.wanted.shape[1] + column), rows)

    def put_all(self, places: Sequence[Place], starts: Array, stops: Array, rows: Array) -> None:
        """Put in the rows from `starts` to `stops` (int64, a place each) that hold the keys."""
        groups = np.array([group for group, _ in places], dtype=np.int64)
        keys = np.array([self.at[place] for place in places], dtype=np.uint64)
        columns = np.argmax((self.wanted[groups] == keys[:, None]) & self.asked[groups], axis=1)
        cells, first = np.unique(groups * self.wanted.shape[1] + columns, return_index=True)
        starts, stops = starts[first], stops[first]
        self.found.reshape(-1)[cells] = stops - starts
        counts = np.minimum(stops - starts, MOST_ROWS)
        within = np.arange(counts.sum()) - np.repeat(np.cumsum(counts) - counts, counts)
        self._keep(np.repeat(cells, counts), rows[np.repeat(starts, counts) + within])

    def key(self, group: int, rank: int) -> int:
        """Return the key at a rank of a group."""
        return self.at[group, rank]

    def holders(self, group: int, keys: Sequence[int]) -> tuple[tuple[int, ...], int]:
        """Return the first rows that hold one of the keys, and how many hold one."""
        pairs = enumerate(zip(self.wanted[group].tolist(), self.asked[group].tolist(), strict=True))
        places = [place for place, (key, asked) in pairs if asked and key in keys]
        rows = sorted(row for p in places for row in self.rows(group, p))
        return tuple(rows), int(sum(self.found[group, p] for p in places))
