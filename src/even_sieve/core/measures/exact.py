"""Exact sums. What comes out depends on the values alone: not on order, blocks, threads.

Everything adds up in integers: fixed point in one unit, numbers of many digits in a unit for
each number of decimals that occurs. Totals that 64 bits may not hold are gathered in halves.
"""

from dataclasses import dataclass, field
from fractions import Fraction

import numpy as np

from even_sieve.core.table.lanes import Array

_HALF = np.int64(2**32 - 1)
_BITS = 53
_MOST = 2**62
#: Numbers with one number of decimals are added by themselves where so many have it.
_NEARLY_ALL = 0.75


@dataclass
class ExactSums:
    """Exact totals, one a group, as Python integers of `unit` each.

    Sums of blocks wait in an array of int64 as long as they fit; `room` is what still does.
    """

    groups: int
    unit: Fraction
    _totals: list[int] = field(default_factory=list)
    _waiting: list[Array] = field(default_factory=list, repr=False)
    _room: list[int] = field(default_factory=lambda: [_MOST, _MOST], repr=False)

    def __post_init__(self) -> None:
        self._totals = self._totals or [0] * self.groups

    @property
    def totals(self) -> list[int]:
        """The totals, one a group."""
        for shift, waiting in zip((0, 32), self._waiting, strict=False):
            more = waiting.tolist()
            self._totals = [a + (b << shift) for a, b in zip(self._totals, more, strict=True)]
        self._waiting, self._room = [], [_MOST, _MOST]
        return self._totals

    @totals.setter
    def totals(self, totals: list[int]) -> None:
        self._totals, self._waiting, self._room = totals, [], [_MOST, _MOST]

    def add(self, sums: Array, bound: int) -> None:
        """Add one int64 a group, all groups together none larger than `bound`."""
        self._add(0, sums, bound)

    def add_high(self, sums: Array, bound: int) -> None:
        """Add 2 ** 32 times one int64 a group."""
        self._add(1, sums, bound)

    def _add(self, half: int, sums: Array, bound: int) -> None:
        if bound > self._room[half]:
            self._totals = self.totals
        if not self._waiting:
            self._waiting = [np.zeros(self.groups, dtype=np.int64) for _ in range(2)]
        self._waiting[half] += sums
        self._room[half] -= bound

    def merge(self, other: "ExactSums", shift: int = 0) -> None:
        """Add another state's totals, times 2 ** shift; the order of merging does not matter."""
        pairs = zip(self.totals, other.totals, strict=True)
        self.totals = [own + (more << shift) for own, more in pairs]

    def total(self, group: int) -> Fraction:
        """Return the exact total of a group."""
        return Fraction(self.totals[group] * self.unit.numerator, self.unit.denominator)

    def together(self) -> Fraction:
        """Return the exact total of all groups."""
        # What waits fits, all groups taken together: the bounds are of whole blocks.
        low, high = (int(each.sum()) for each in self._waiting) if self._waiting else (0, 0)
        return (sum(self._totals) + low + (high << 32)) * self.unit


def sum_integers(values: Array, bound: int) -> int:
    """Return the exact sum of int64 values of at most `bound`."""
    if bound * len(values) < 2**63:
        return int(values.sum(dtype=np.int64))
    return (int((values >> 32).sum()) << 32) + int((values & _HALF).sum())


def add_integers(sums: ExactSums, values: Array, bound: int, groups: Array | None) -> None:
    """Add int64 values of at most `bound` (shape (n,), n at most 2 ** 20) to their groups."""
    if groups is None:
        sums.totals[0] += sum_integers(values, bound)
        return
    whole = bound * len(values)
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

    def total(self, group: int) -> Fraction:
        """Return the exact total of a group."""
        return sum((part.total(group) for part in self.parts.values()), Fraction(0))

    def together(self) -> Fraction:
        """Return the exact total of all groups."""
        return sum((part.together() for part in self.parts.values()), Fraction(0))


AnySums = ExactSums | DecimalSums
