"""Exact sums. What comes out depends on the values alone: not on order, blocks, threads.

Everything adds up in integers: fixed point in one unit, numbers of many digits in a unit for
each number of decimals that occurs. Totals that 64 bits may not hold are gathered in halves.
"""

from dataclasses import dataclass, field
from fractions import Fraction

import numpy as np

from even_sieve.core.measures.scattering import are_many
from even_sieve.core.table.arrays import zeros
from even_sieve.core.table.lanes import Array

_HALF = np.int64(2**32 - 1)
_BITS = 53
_MOST = 2**62
#: Numbers with one number of decimals are added by themselves where so many have it.
_NEARLY_ALL = 0.75


@dataclass
class ExactSums:
    """Exact totals, one a group, in whole numbers of `unit` each.

    Sums of blocks stand in two arrays of int64, ones and multiples of 2 ** 32, as long as they
    fit: `room` is what still does. What no longer fits is kept in Python integers.
    """

    groups: int
    unit: Fraction
    _kept: list[int] = field(default_factory=list, repr=False)
    _waiting: list[Array | None] = field(default_factory=lambda: [None, None], repr=False)
    _room: list[int] = field(default_factory=lambda: [_MOST, _MOST], repr=False)

    @property
    def totals(self) -> list[int]:
        """The totals, one a group."""
        return self.of(np.arange(self.groups))

    @totals.setter
    def totals(self, totals: list[int]) -> None:
        self._kept, self._waiting, self._room = totals, [None, None], [_MOST, _MOST]

    def numbers(self, groups: Array) -> Array | None:
        """Return the totals of these groups as int64; None where they may not fit."""
        low, high = self._waiting
        if self._kept or high is not None:
            return None
        return np.zeros(len(groups), dtype=np.int64) if low is None else low[groups]

    def of(self, groups: Array) -> list[int]:
        """Return the totals of these groups."""
        low, high = (None if each is None else each[groups].tolist() for each in self._waiting)
        found = low or [0] * len(groups)
        if high is not None:
            found = [a + (b << 32) for a, b in zip(found, high, strict=True)]
        if self._kept:
            found = [self._kept[g] + own for g, own in zip(groups.tolist(), found, strict=True)]
        return found

    def add(self, sums: Array, bound: int, groups: Array | None = None) -> None:
        """Add one int64 a group, or to these groups; together none is larger than `bound`."""
        self._add(0, sums, bound, groups)

    def add_high(self, sums: Array, bound: int, groups: Array | None = None) -> None:
        """Add 2 ** 32 times one int64 a group, or to these groups."""
        self._add(1, sums, bound, groups)

    def _add(self, half: int, sums: Array, bound: int, groups: Array | None) -> None:
        if bound > self._room[half]:
            self.totals = self.totals
        waiting = self._waiting[half]
        if waiting is None:
            waiting = self._waiting[half] = zeros(self.groups, np.int64)
        if groups is None:
            waiting += sums
        else:
            np.add.at(waiting, groups, sums)
        self._room[half] -= bound

    def add_at(self, groups: Array, whole: list[int]) -> None:
        """Add whole numbers of any size to these groups, each of which stands there once."""
        bound = sum(map(abs, whole))
        if bound < _MOST:
            self.add(np.array(whole, dtype=np.int64), bound, groups)
            return
        self._kept = self._kept or [0] * self.groups
        for group, more in zip(groups.tolist(), whole, strict=True):
            self._kept[group] += more

    def merge(self, other: "ExactSums", shift: int = 0) -> None:
        """Add another state's totals, times 2 ** shift; the order of merging does not matter."""
        if other._kept or shift:
            pairs = zip(self.totals, other.totals, strict=True)
            self.totals = [own + (more << shift) for own, more in pairs]
            return
        for half, waiting in enumerate(other._waiting):
            if waiting is not None:
                self._add(half, waiting, _MOST - other._room[half], None)

    def total(self, group: int) -> Fraction:
        """Return the exact total of a group."""
        low, high = (0 if each is None else int(each[group]) for each in self._waiting)
        kept = self._kept[group] if self._kept else 0
        return (kept + low + (high << 32)) * self.unit

    def together(self) -> Fraction:
        """Return the exact total of all groups."""
        # What waits fits, all groups taken together: the bounds are of whole blocks.
        low, high = (0 if each is None else int(each.sum()) for each in self._waiting)
        return (sum(self._kept) + low + (high << 32)) * self.unit


def sum_integers(values: Array, bound: int) -> int:
    """Return the exact sum of int64 values of at most `bound`."""
    if bound * len(values) < 2**63:
        return int(values.sum(dtype=np.int64))
    return (int((values >> 32).sum()) << 32) + int((values & _HALF).sum())


def add_integers(sums: ExactSums, values: Array, bound: int, groups: Array | None) -> None:
    """Add int64 values of at most `bound` (shape (n,), n at most 2 ** 20) to their groups."""
    whole = bound * len(values)
    if groups is None:
        total = sum_integers(values, bound)
        if abs(total) < 2**_BITS:
            sums.add(np.array([total]), abs(total))
        else:
            sums.totals = [sums.totals[0] + total]
        return
    if are_many(sums.groups, len(values)):
        if whole < _MOST:
            sums.add(values, whole, groups)
        else:
            sums.add(values & _HALF, len(values) << 32, groups)
            sums.add_high(values >> 32, len(values) << 31, groups)
        return
    if whole < 2**_BITS:
        weighed = np.bincount(groups, weights=values, minlength=sums.groups)
        sums.add(weighed.astype(np.int64), whole)
        return
    high = np.bincount(groups, weights=values >> 32, minlength=sums.groups)
    low = np.bincount(groups, weights=values & _HALF, minlength=sums.groups)
    sums.add(low.astype(np.int64), len(values) << 32)
    sums.add_high(high.astype(np.int64), len(values) << 31)


@dataclass
class DecimalSums:
    """Exact totals of numbers with different numbers of decimals, one a group.

    `parts` holds for each number of decimals the totals in its unit.
    """

    groups: int
    parts: dict[int, ExactSums] = field(default_factory=dict)

    def add(self, whole: Array, places: Array, groups: Array | None) -> None:
        """Add `whole / 10 ** places` (int64 and int16, shape (n,), n at most 2 ** 20)."""
        if not len(whole):
            return
        least = int(places.min())
        counts = np.bincount(places - least)
        most = int(counts.argmax())
        if counts[most] >= _NEARLY_ALL * len(whole):
            others = np.flatnonzero(places != least + most)
            if len(others):
                some = None if groups is None else groups[others]
                self._add_together(whole[others], places[others] - least, least, some)
                whole = whole.copy()
                whole[others] = 0
            bound = max(int(whole.max()), -int(whole.min()))
            add_integers(self.part(least + most), whole, bound, groups)
            return
        self._add_together(whole, places - least, least, groups)

    def _add_together(self, whole: Array, above: Array, least: int, groups: Array | None) -> None:
        """Add in one go: every number of decimals of every group is a place of its own."""
        kinds = int(above.max()) + 1
        if groups is not None and are_many(self.groups * kinds, len(whole)):
            for kind in np.flatnonzero(np.bincount(above)).tolist():
                rows = np.flatnonzero(above == kind)
                add_integers(self.part(least + kind), whole[rows], 2**63 - 1, groups[rows])
            return
        cells = above if groups is None else groups.astype(np.intp) * kinds + above
        found = ExactSums(self.groups * kinds, Fraction(1))
        add_integers(found, whole, 2**63 - 1, cells)
        totals = found.totals
        for kind in range(kinds):
            own = totals[kind::kinds]
            if any(own):
                part = self.part(least + kind)
                part.totals = [a + b for a, b in zip(part.totals, own, strict=True)]

    def part(self, places: int) -> ExactSums:
        """Return the totals of the numbers with so many decimals."""
        if places not in self.parts:
            self.parts[places] = ExactSums(self.groups, Fraction(10) ** -places)
        return self.parts[places]

    def merge(self, other: "DecimalSums", shift: int = 0) -> None:
        """Add another state's totals, times 2 ** shift; the order of merging does not matter."""
        for places, sums in other.parts.items():
            self.part(places).merge(sums, shift)

    def of(self, groups: Array) -> tuple[list[int], int]:
        """Return the totals of these groups over a power of ten, and that."""
        most = max((0, *self.parts))
        found = [0] * len(groups)
        for places, part in self.parts.items():
            times = 10 ** (most - places)
            found = [a + b * times for a, b in zip(found, part.of(groups), strict=True)]
        return found, 10**most

    def total(self, group: int) -> Fraction:
        """Return the exact total of a group."""
        return sum((part.total(group) for part in self.parts.values()), Fraction(0))

    def together(self) -> Fraction:
        """Return the exact total of all groups."""
        return sum((part.together() for part in self.parts.values()), Fraction(0))


AnySums = ExactSums | DecimalSums
