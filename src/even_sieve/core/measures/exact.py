"""Exact sums. What comes out depends on the values alone: not on order, blocks, threads.

Fixed point adds up in integers. Doubles are split by a power of two into parts of which
any number within a block add up without rounding (extraction: Rump, Ogita and Oishi,
"Accurate floating-point summation part I", SIAM J. Sci. Comput. 31 (2008), section 3);
the parts are gathered in Python integers, which do not overflow.
"""

from dataclasses import dataclass, field
from fractions import Fraction
from math import frexp

import numpy as np

from even_sieve.core.table.lanes import Array, FixedLane, FloatLane

_HALF = np.int64(2**32 - 1)
_BITS = 53
_MOST = 2**62
#: Every double is a whole multiple of 2 ** -1074.
SMALLEST = 1074
#: So many doubles are split at once: few enough to stay near the processor.
CHUNK = 1 << 15
_TOO_BIG = 2.0**960
_SHRINK = 2.0**-128


@dataclass
class ExactSums:
    """Exact totals, one a group, as Python integers of `unit` each.

    Sums of blocks wait in an array of int64 as long as they fit; `room` is what still does.
    """

    groups: int
    unit: Fraction
    _totals: list[int] = field(default_factory=list)
    _waiting: Array | None = field(default=None, repr=False)
    _room: int = _MOST

    def __post_init__(self) -> None:
        self._totals = self._totals or [0] * self.groups

    @property
    def totals(self) -> list[int]:
        """The totals, one a group."""
        if self._waiting is not None:
            waiting = self._waiting.tolist()
            self._totals = [a + b for a, b in zip(self._totals, waiting, strict=True)]
            self._waiting, self._room = None, _MOST
        return self._totals

    @totals.setter
    def totals(self, totals: list[int]) -> None:
        self._totals, self._waiting, self._room = totals, None, _MOST

    def add(self, sums: Array, bound: int) -> None:
        """Add one int64 a group, none larger than `bound`."""
        if bound > self._room:
            self._totals = self.totals
        if self._waiting is None:
            self._waiting = np.zeros(self.groups, dtype=np.int64)
        self._waiting += sums
        self._room -= bound

    def merge(self, other: "ExactSums") -> None:
        """Add another state's totals to these; the order of merging does not matter."""
        self.totals = [a + b for a, b in zip(self.totals, other.totals, strict=True)]

    def total(self, group: int) -> Fraction:
        """Return the exact total of a group."""
        return Fraction(self.totals[group] * self.unit.numerator, self.unit.denominator)

    def together(self) -> Fraction:
        """Return the exact total of all groups."""
        # What waits fits, all groups taken together: the bounds are of whole blocks.
        waiting = 0 if self._waiting is None else int(self._waiting.sum())
        return (sum(self._totals) + waiting) * self.unit


def start_sums(lane: FixedLane | FloatLane, groups: int) -> ExactSums:
    """Return the identity of merging for sums of this lane's values."""
    if isinstance(lane, FixedLane):
        return ExactSums(groups, Fraction(1, 10**lane.scale))
    return ExactSums(groups, Fraction(1, 2**SMALLEST))


def add_fixed(sums: ExactSums, lane: FixedLane, values: Array, groups: Array | None) -> None:
    """Add stored int64 values (shape (n,), n at most 2 ** 20) to the totals of their groups."""
    add_integers(sums, values, lane.bound, groups)


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
    for group, total in _grouped_integers(values, groups, sums.groups):
        sums.totals[group] += total


def _grouped_integers(values: Array, groups: Array, count: int) -> list[tuple[int, int]]:
    """Return (group, total) for the groups that occur; every float on the way is exact."""
    present = np.flatnonzero(np.bincount(groups, minlength=count))
    high = np.bincount(groups, weights=values >> 32, minlength=count)[present]
    low = np.bincount(groups, weights=values & _HALF, minlength=count)[present]
    totals = [(int(a) << 32) + int(b) for a, b in zip(high.tolist(), low.tolist(), strict=True)]
    return list(zip(present.tolist(), totals, strict=True))


def add_floats(sums: ExactSums, values: Array, groups: Array | None, shift: int = 0) -> None:
    """Add finite float64 values (shape (n,)) times 2 ** shift to the totals of their groups.

    A shift may be negative where the values are whole multiples of that many units.
    """
    for start in range(0, len(values), CHUNK):
        part = slice(start, start + CHUNK)
        _add_chunk(sums, values[part], None if groups is None else groups[part], shift)


def _add_chunk(sums: ExactSums, values: Array, groups: Array | None, shift: int) -> None:
    largest = _largest(values)
    if largest >= _TOO_BIG:
        big = np.abs(values) >= _TOO_BIG
        some = None if groups is None else groups[big]
        _extract(sums, values[big] * _SHRINK, some, shift + 128)
        values = values[~big]
        groups = None if groups is None else groups[~big]
        largest = _largest(values)
    _extract(sums, values, groups, shift, largest)


def _largest(values: Array) -> float:
    return max(float(values.max()), -float(values.min())) if len(values) else 0.0


def _extract(
    sums: ExactSums,
    values: Array,
    groups: Array | None,
    shift: int,
    largest: float | None = None,
) -> None:
    """Add the values times 2 ** shift, peeling off the leading bits of all of them at once."""
    rest, part = values, np.empty_like(values)
    largest = _largest(values) if largest is None else largest
    while largest:
        # 2 ** top is a power of two above n times the largest value.
        sigma = np.ldexp(1.0, frexp(largest)[1] + len(rest).bit_length() + 1)
        np.subtract(np.add(rest, sigma, out=part), sigma, out=part)
        rest = np.subtract(rest, part, out=None if rest is values else rest)
        _gather(sums, part, groups, shift)
        largest = _largest(rest)


def _gather(sums: ExactSums, part: Array, groups: Array | None, shift: int) -> None:
    if groups is None:
        sums.totals[0] += _shifted(_as_integer(float(part.sum())), shift)
        return
    totals = np.bincount(groups, weights=part, minlength=sums.groups)
    for group in np.flatnonzero(totals):
        sums.totals[group] += _shifted(_as_integer(float(totals[group])), shift)


def _shifted(whole: int, shift: int) -> int:
    return whole << shift if shift >= 0 else whole >> -shift


def _as_integer(value: float) -> int:
    """Return the value as a whole number of 2 ** -1074."""
    fraction, exponent = frexp(value)
    whole, shift = int(fraction * 2**_BITS), exponent - _BITS + SMALLEST
    return _shifted(whole, shift)
