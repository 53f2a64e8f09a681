"""Order statistics by radix selection: the exact value at a rank, in bounded memory.

A first pass counts the used keys by their leading bits. The bins that hold the wanted
ranks are all that later passes look at: they are counted by the bits that follow, until
so few keys are left that they are gathered and sorted, with their rows. A table of few rows
is gathered at once, and one of very many groups by ranges of them. Where counting alone tells
the values, a last pass finds the rows.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np

from even_sieve.core.measures.cell_filter import CellFilter
from even_sieve.core.measures.cells import BlockCells
from even_sieve.core.measures.ranked import (
    Places,
    Ranked,
    Search,
    Spotted,
    Target,
    begin_ranked,
    ranked_of,
)
from even_sieve.core.measures.scattering import count_in
from even_sieve.core.table.arrays import room, room_for
from even_sieve.core.table.distinct import once_each
from even_sieve.core.table.lanes import Array

#: So many keys are gathered and sorted rather than counted once more.
MOST_GATHERED = 1 << 20
#: So many bins are counted in: more where memory is ample.
_BINS, _MOST_BINS, _AMPLE = 18, 21, 1 << 29
_MOST_BITS = 16
_FEWEST_BITS = 4
#: Of more groups those of so many rows are gathered in a pass, however their keys begin.
_MANY_GROUPS, _MOST_TOGETHER = 1 << 12, 1 << 22
#: Of more groups than this in any case.
_MOST_GROUPS = 1 << 16
#: A row that is gathered takes so many bytes.
_OF_EACH = 100
#: So many places are looked for at once.
_PLACES = 1 << 14


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
) -> "GroupedRanks | GroupSizes | Counting":
    """Return the state of the first pass."""
    search = Search(used, groups, targets)
    if used.column.length <= MOST_GATHERED or used.ordinals is None:
        return GroupedRanks(search)
    bits = used.ordinals.span.bit_length()
    if groups > _MANY_GROUPS:
        by_ranges = -(-used.column.length // _most_together())
        if groups > _MOST_GROUPS or by_ranges <= -(-bits // _width(groups)):
            return GroupSizes(search)
    return Counting(search, (), groups, bits)


def _most_together() -> int:
    """Return how many rows of many groups are gathered in a pass."""
    return room_for(_OF_EACH, MOST_GATHERED, _MOST_TOGETHER)


def _width(cells: int) -> int:
    """Return by how many bits the keys of so many cells are counted in a pass."""
    granted = room()
    bins = _BINS if granted is not None and granted < _AMPLE else _MOST_BINS
    return max(_FEWEST_BITS, min(_MOST_BITS, bins - (cells - 1).bit_length()))


@dataclass
class GroupedRanks:
    """Gathers the keys that are looked at, and their rows.

    `open` are the wanted places; None where the ranks hang on how many keys there are. Of very
    many groups on many rows some are looked at in a pass, from one number up to another: the
    first of `ranges`; `done` is what there is of those before.
    """

    search: Search
    levels: tuple[RankBins, ...] = ()
    open: Places | None = None
    ranges: tuple[tuple[int, int], ...] = ()
    done: tuple[Spotted, ...] = ()
    _cells: list[Array] = field(init=False, default_factory=list)
    _keys: list[Array] = field(init=False, default_factory=list)
    _rows: list[Array] = field(init=False, default_factory=list)

    def add(self, cells: BlockCells) -> None:
        """Take in a block."""
        if self.search.used.ordinals is None:
            return
        found, keys, kept = followed(self.levels, cells.keys, cells.used_groups)
        if found is not None and self.ranges:
            low, high = self.ranges[0]
            kept = np.flatnonzero((found >= low) & (found < high))
            found, keys = found[kept], keys[kept]
        if found is not None:
            self._cells.append(found)
        self._keys.append(keys)
        self._rows.append(cells.rows if kept is None else cells.rows[kept])

    def merge(self, other: "GroupedRanks") -> None:
        """Take in what another one gathered."""
        self._cells += other._cells
        self._keys += other._keys
        self._rows += other._rows

    def following(self) -> "Callable[[], GroupedRanks] | None":
        """Return the pass over the next groups; nothing follows where all rows are here."""
        if len(self.ranges) < 2:
            return None
        search, rest, done = self.search, self.ranges[1:], (*self.done, self._spotted())
        self._cells, self._keys, self._rows = [], [], []
        return lambda: GroupedRanks(search, ranges=rest, done=done)

    @cached_property
    def ranked(self) -> Ranked:
        """The keys at the wanted ranks, and the rows that hold them."""
        return ranked_of(self.search, (*self.done, self._spotted()))

    def _spotted(self) -> Spotted:
        keys = np.concatenate(self._keys) if self._keys else np.empty(0, dtype=np.uint64)
        rows = np.concatenate(self._rows) if self._rows else np.empty(0, dtype=np.int64)
        if not self._cells:
            return self._of_one_cell(keys, rows)
        cells = np.concatenate(self._cells)
        order = np.lexsort((rows, keys, cells))
        keys, cells, rows = keys[order], cells[order], rows[order]
        count = max(int(cells[-1]) + 1 if len(cells) else 0, self.search.groups)
        starts = np.searchsorted(cells, np.arange(count + 1))
        places = self.open
        if places is None:
            places = self.search.places(np.diff(starts)[: self.search.groups])
        return Spotted.among(places, starts[places.cells] + places.within, keys, cells, rows)

    def _of_one_cell(self, keys: Array, rows: Array) -> Spotted:
        """Put only the wanted ranks into their places: faster than sorting all keys."""
        places = self.search.places(np.array([len(keys)])) if self.open is None else self.open
        wanted = once_each(places.within)
        if len(wanted):
            found = np.partition(keys, wanted)[wanted]
            left = np.flatnonzero(np.isin(keys, found))
            keys, rows = keys[left], rows[left]
            order = np.lexsort((rows, keys))
            keys, rows = keys[order], rows[order]
            at = found[np.searchsorted(wanted, places.within)]
            spots = np.searchsorted(keys, at)
        else:
            spots = wanted
        return Spotted.among(places, spots, keys, np.zeros(len(keys), dtype=np.int64), rows)


@dataclass
class GroupSizes:
    """Counts the values of each of very many groups, to gather those of some at a time."""

    search: Search
    sizes: Array = field(init=False)

    def __post_init__(self) -> None:
        self.sizes = np.zeros(self.search.groups, dtype=np.int64)

    def add(self, cells: BlockCells) -> None:
        """Take in a block."""
        if cells.used_groups is not None:
            count_in(self.sizes, cells.used_groups)

    def merge(self, other: "GroupSizes") -> None:
        """Add up the counts."""
        self.sizes += other.sizes

    def following(self) -> Callable[[], GroupedRanks]:
        """Return the pass over the first groups."""
        upto, low, ranges, most = np.cumsum(self.sizes), 0, [], _most_together()
        while low < len(upto):
            before = int(upto[low - 1]) if low else 0
            high = int(np.searchsorted(upto, before + most, side="right"))
            ranges.append((low, max(high, low + 1)))
            low = ranges[-1][1]
        return lambda: GroupedRanks(self.search, ranges=tuple(ranges))


@dataclass
class Counting:
    """Counts the keys that are looked at by their next bits."""

    search: Search
    levels: tuple[RankBins, ...]
    cells: int
    bits: int
    open: Places | None = None
    prefixes: Array | None = None
    counts: Array = field(init=False)

    def __post_init__(self) -> None:
        self._width = min(_width(self.cells), self.bits)
        self._level = RankBins(
            self.bits - self._width, 1 << self._width, np.empty(0, dtype=np.int64)
        )
        self.counts = np.zeros(self.cells << self._width, dtype=np.int64)

    def add(self, cells: BlockCells) -> None:
        """Take in a block."""
        found, keys, _ = followed(self.levels, cells.keys, cells.used_groups)
        count_in(self.counts, self._level.index(found, keys))

    def merge(self, other: "Counting") -> None:
        """Add up the counts."""
        self.counts += other.counts

    def following(self) -> "Callable[[], Counting | GroupedRanks | Ranked]":
        """Return the next pass: what is looked for lies in the bins that hold the ranks."""
        table, width = self.counts.reshape(self.cells, -1), self._width
        places = self.search.places(table.sum(axis=1)) if self.open is None else self.open
        before = np.zeros(self.cells, dtype=np.uint64) if self.prefixes is None else self.prefixes
        upto = np.cumsum(table, axis=1)
        bins = np.empty(len(places), dtype=np.int64)
        for start in range(0, len(places), _PLACES):
            some = slice(start, start + _PLACES)
            bins[some] = (upto[places.cells[some]] <= places.within[some, None]).sum(axis=1)
        numbers = (places.cells << width) + bins
        within = places.within - (upto - table)[places.cells, bins]
        chosen = once_each(numbers)
        bits = (chosen & ((1 << width) - 1)).astype(np.uint64)
        prefixes = before[chosen >> width] << np.uint64(width) | bits
        moved = places.moved(np.searchsorted(chosen, numbers), within)
        if self.bits == width:
            return begin_ranked(self.search, places, prefixes[moved.cells])
        return self._next(chosen, moved, prefixes)

    def _next(
        self, chosen: Array, places: Places, prefixes: Array
    ) -> "Callable[[], Counting | GroupedRanks]":
        table = np.full(len(self.counts), -1, dtype=np.int64)
        table[chosen] = np.arange(len(chosen))
        level = RankBins(self._level.shift, self._level.bins, table)
        search, levels, left = self.search, (*self.levels, level), self.bits - self._width
        if int(self.counts[chosen].sum()) <= MOST_GATHERED:
            return lambda: GroupedRanks(search, levels, places)
        return lambda: Counting(search, levels, len(chosen), left, places, prefixes)
