"""Levels of a breakdown: rows grouped by some of its axes, and what a pass brought for each."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from math import prod

import numpy as np

from even_sieve.core.axes import Axis
from even_sieve.core.lazy import Anew
from even_sieve.core.measures import Gathered
from even_sieve.core.table.distinct import Values, numbered
from even_sieve.core.table.lanes import Array
from even_sieve.core.tally.gathering import MeasureJob

#: So many combinations there may be.
_MOST_TOGETHER = 2**62


@dataclass(frozen=True, eq=False)
class Level:
    """Rows grouped by some of the axes: `places` are these, `members` the groups that occur.

    `present` are the groups along each of several axes, shape (members,) each.
    """

    places: tuple[int, ...]
    codes: Array
    members: Sequence[tuple[int, ...]]
    present: tuple[Array, ...] = ()

    def members_of(self, numbers: Array) -> tuple[Array, ...]:
        """Return the group along each of the axes of many combinations."""
        return tuple(own[numbers] for own in self.present) if self.present else (numbers,)

    def number(self, member: tuple[int, ...]) -> int:
        """Return the number of a combination of groups."""
        return member[0] if len(self.places) == 1 else self._numbers[member]

    @cached_property
    def _numbers(self) -> dict[tuple[int, ...], int]:
        return {member: number for number, member in enumerate(self.members)}


@dataclass(frozen=True)
class Alone(Anew[tuple[int, ...]]):
    """So many groups, each of them by itself.

    >>> Alone(3)[1], list(Alone(2))
    ((1,), [(0,), (1,)])
    """

    groups: int

    def __len__(self) -> int:
        return self.groups

    def _at(self, place: int) -> tuple[int, ...]:
        return (place,)


@dataclass(frozen=True)
class Together(Anew[tuple[int, ...]]):
    """Groups that are put together, by their numbers along each axis.

    >>> Together((np.array([0, 1]), np.array([5, 7])))[1]
    (1, 7)
    """

    parts: tuple[Array, ...]

    def __len__(self) -> int:
        return len(self.parts[0])

    def _at(self, place: int) -> tuple[int, ...]:
        return tuple(int(part[place]) for part in self.parts)


def level_of(every: Sequence[Axis], places: tuple[int, ...]) -> Level:
    """Group the rows by some of the axes; a list of labels alone keeps all of its groups."""
    axes = [every[place] for place in places]
    sizes = [len(axis.groups) for axis in axes]
    if len(axes) == 1:
        return Level(places, axes[0].codes, Alone(sizes[0]))
    codes, parts = _combined([axis.codes for axis in axes], sizes)
    return Level(places, codes, Together(parts), parts)


def _combined(every: Sequence[Array], sizes: Sequence[int]) -> tuple[Array, tuple[Array, ...]]:
    """Return the combination of each row, and the parts of those that occur.

    So many groups that the product of their numbers is no whole number of 64 bits are combined
    one after the other.
    """
    if prod(sizes) >= _MOST_TOGETHER and len(sizes) > 2:
        codes, parts = _combined(every[:-1], sizes[:-1])
        codes, (first, last) = _combined([codes, every[-1]], [len(parts[0]), sizes[-1]])
        return codes, (*(part[first] for part in parts), last)

    def together(*codes: Array) -> Array:
        return np.ravel_multi_index(codes, tuple(sizes))

    present, codes = numbered(Values(tuple(every), together))
    return codes, tuple(np.unravel_index(present, tuple(sizes)))


@dataclass(frozen=True, eq=False)
class Found:
    """What a pass brought for every level, and for all rows."""

    jobs: Sequence[MeasureJob]
    levels: dict[tuple[int, ...], tuple[Level, Sequence[Gathered]]]
    whole: Sequence[Gathered]

    def at(
        self, places: tuple[int, ...], members: dict[int, int], position: int
    ) -> tuple[Gathered, int]:
        """Return what a measure gathered along these axes, and the number of the group."""
        if not places:
            return self.whole[position], 0
        level, gathered = self.levels[places]
        return gathered[position], level.number(tuple(members[place] for place in places))
