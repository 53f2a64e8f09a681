"""How often each value occurs: what the most frequent one and the number of different ones need.

Few possible keys are counted in a table. Otherwise keys are gathered and sorted; where a
table of many rows has too many of them, they come in batches of neighbouring keys, one a
pass, so that memory stays bounded.
"""

from collections.abc import Callable
from dataclasses import dataclass, field
from itertools import pairwise

import numpy as np

from even_sieve.core.measures.cell_filter import CellFilter
from even_sieve.core.measures.cells import BlockCells
from even_sieve.core.measures.ranks import MOST_GATHERED
from even_sieve.core.measures.scattering import count_in
from even_sieve.core.table.arrays import room_for
from even_sieve.core.table.lanes import Array

_LARGEST_TABLE = 1 << 21
_BITS = 14
#: Keys take so many bytes each while they are counted; at most so many are gathered at once.
_OF_PACKED, _OF_OTHERS, _AT_ONCE = 48, 128, 1 << 23
_WORD = 64


def _bits(used: CellFilter) -> int:
    """Return how many bits a key has."""
    return 0 if used.ordinals is None else used.ordinals.span.bit_length()


def _pack(used: CellFilter, groups: int) -> bool:
    return groups == 1 or _bits(used) + (groups - 1).bit_length() < _WORD


def _most_gathered(used: CellFilter, groups: int) -> int:
    """Return how many keys are gathered at once, each on its way some bytes in several arrays."""
    each = _OF_PACKED if _pack(used, groups) else _OF_OTHERS
    return room_for(each, MOST_GATHERED, _AT_ONCE)


@dataclass
class Standing:
    """What is known of each group: different values, the top count, its key, how many share it."""

    different: Array
    top: Array
    key: Array
    sharing: Array

    @classmethod
    def of(cls, groups: int) -> "Standing":
        """Return the standing before any value."""
        zeros = (np.zeros(groups, dtype=np.int64) for _ in range(3))
        different, top, sharing = zeros
        return cls(different, top, np.zeros(groups, dtype=np.uint64), sharing)

    def take(self, groups: Array, keys: Array, counts: Array) -> None:
        """Take in values, each with its count: sorted by group and key, none met before.

        Keys are larger than those of earlier calls, so the least of several is the first.
        """
        if not len(groups):
            return
        starts = np.flatnonzero(np.concatenate(([True], groups[1:] != groups[:-1])))
        sizes = np.diff(np.append(starts, len(groups)))
        own = groups[starts]
        best = np.maximum.reduceat(counts, starts)
        is_best = counts == np.repeat(best, sizes)
        sharing = np.add.reduceat(is_best.astype(np.int64), starts)
        places = np.flatnonzero(is_best)
        first = places[np.searchsorted(places, starts)]
        self.different[own] += sizes
        better, equal = best > self.top[own], best == self.top[own]
        self.sharing[own[equal]] += sharing[equal]
        chosen = own[better]
        self.top[chosen], self.key[chosen] = best[better], keys[first[better]]
        self.sharing[chosen] = sharing[better]


def start_census(used: CellFilter, groups: int) -> "ValueCounts | Batch | Spread":
    """Return the state of the first pass over the values of one kind."""
    if used.ordinals is None:
        return Batch(used, groups, Standing.of(groups), ())
    span = used.ordinals.span + 1
    if span * groups <= _LARGEST_TABLE:
        return ValueCounts(used, groups, span)
    if used.column.length <= _most_gathered(used, groups):
        return Batch(used, groups, Standing.of(groups), ((0, span),))
    return Spread(used, groups, max(span.bit_length() - _BITS, 0))


@dataclass
class ValueCounts:
    """A count for every key that there can be, in every group."""

    filter: CellFilter
    groups: int
    span: int
    counts: Array = field(init=False)

    def __post_init__(self) -> None:
        self.counts = np.zeros(self.groups * self.span, dtype=np.int64)

    def add(self, cells: BlockCells) -> None:
        """Take in a block."""
        index = cells.keys.view(np.int64)
        if cells.used_groups is not None:
            index = index + cells.used_groups.astype(np.int64) * self.span
        count_in(self.counts, index)

    def merge(self, other: "ValueCounts") -> None:
        """Add up the counts."""
        self.counts += other.counts

    def following(self) -> None:
        """Nothing follows."""

    @property
    def standing(self) -> Standing:
        """What is known of each group."""
        found = np.flatnonzero(self.counts)
        standing = Standing.of(self.groups)
        groups, keys = found // self.span, (found % self.span).astype(np.uint64)
        standing.take(groups, keys, self.counts[found])
        return standing


@dataclass
class Spread:
    """Counts keys by their leading bits, to find batches that are not too large."""

    filter: CellFilter
    groups: int
    shift: int
    counts: Array = field(init=False)

    def __post_init__(self) -> None:
        self.counts = np.zeros(1 << (_BITS + 1), dtype=np.int64)

    def add(self, cells: BlockCells) -> None:
        """Take in a block."""
        bins = (cells.keys >> np.uint64(self.shift)).view(np.int64)
        self.counts += np.bincount(bins, minlength=len(self.counts))

    def merge(self, other: "Spread") -> None:
        """Add up the counts."""
        self.counts += other.counts

    def following(self) -> "Callable[[], Batch]":
        """Return the first batch."""
        ends, held, most = [0], 0, _most_gathered(self.filter, self.groups)
        for bin_, count in enumerate(self.counts.tolist()):
            if held and held + count > most:
                ends.append(bin_ << self.shift)
                held = 0
            held += count
        ends.append(1 + (0 if self.filter.ordinals is None else self.filter.ordinals.span))
        batches = tuple(pairwise(ends))
        used, groups, standing = self.filter, self.groups, Standing.of(self.groups)
        return lambda: Batch(used, groups, standing, batches)


@dataclass
class Batch:
    """Gathers the keys of the first of the batches, each from an end up to the next."""

    filter: CellFilter
    groups: int
    before: Standing
    batches: tuple[tuple[int, int], ...]
    _groups: list[Array] = field(init=False, default_factory=list)
    _keys: list[Array] = field(init=False, default_factory=list)
    _counts: list[Array] = field(init=False, default_factory=list)
    _held: int = field(init=False, default=0)

    def add(self, cells: BlockCells) -> None:
        """Take in a block."""
        if not self.batches:
            return
        low, high = self.batches[0]
        keys, groups = cells.keys, cells.used_groups
        if low or len(self.batches) > 1:
            kept = np.flatnonzero((keys >= np.uint64(low)) & (keys <= np.uint64(high - 1)))
            keys, groups = keys[kept], None if groups is None else groups[kept]
        own = np.zeros(len(keys), np.int8) if groups is None else groups
        if self._packs and self.groups > 1:
            keys = own.astype(np.uint64) << np.uint64(_bits(self.filter)) | keys
        if not self._packs:
            self._groups.append(own)
        self._keys.append(keys)
        self._counts.append(np.ones(len(keys), dtype=np.int8))
        self._held += len(keys)
        if self._held > 2 * _most_gathered(self.filter, self.groups):  # a few keys on many rows
            self._condense()

    def merge(self, other: "Batch") -> None:
        """Take in what another one gathered."""
        self._groups += other._groups
        self._keys += other._keys
        self._counts += other._counts
        self._held += other._held

    def _condense(self) -> tuple[Array, Array, Array]:
        """Return groups, keys and counts, each pair once, in order."""
        if not self._keys:
            nothing = np.empty(0, dtype=np.int64)
            return nothing, nothing.astype(np.uint64), nothing
        keys, counts = np.concatenate(self._keys), np.concatenate(self._counts)
        groups = np.concatenate(self._groups) if self._groups else None
        self._groups, self._keys, self._counts = [], [], []
        if groups is None and counts.dtype == np.int8:  # each of them is one
            keys.sort()
        else:
            order = np.argsort(keys) if groups is None else np.lexsort((keys, groups))
            keys, counts = keys[order], counts[order]
            groups = None if groups is None else groups[order]
        new = np.ones(len(keys), dtype=bool)
        new[1:] = keys[1:] != keys[:-1]
        if groups is not None:
            new[1:] |= groups[1:] != groups[:-1]
        starts = np.flatnonzero(new)
        counts = np.add.reduceat(counts, starts, dtype=np.int64) if len(starts) else counts
        keys = keys[starts]
        self._keys, self._counts, self._held = [keys], [counts], len(keys)
        if groups is not None:
            self._groups = [groups[starts]]
            return groups[starts].astype(np.int64), keys, counts
        if self.groups == 1:
            return np.zeros(len(keys), np.int64), keys, counts
        bits = _bits(self.filter)
        of_key = np.uint64((1 << bits) - 1)
        return (keys >> np.uint64(bits)).astype(np.int64), keys & of_key, counts

    @property
    def _packs(self) -> bool:
        """Whether a group and a key go into one number, in which they are sorted sooner."""
        return _pack(self.filter, self.groups)

    def following(self) -> "Callable[[], Batch] | None":
        """Return the next batch, if there is one."""
        if len(self.batches) < 2:
            return None
        used, groups, standing, rest = self.filter, self.groups, self.standing, self.batches[1:]
        return lambda: Batch(used, groups, standing, rest)

    @property
    def standing(self) -> Standing:
        """What is known of each group, this batch among it."""
        before = self.before
        standing = Standing(
            *(part.copy() for part in (before.different, before.top, before.key, before.sharing))
        )
        standing.take(*self._condense())
        return standing
