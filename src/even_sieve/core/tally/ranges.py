"""What measures gather of so many groups that it is gathered a range of groups at a time."""

from collections.abc import Callable
from dataclasses import dataclass, field
from types import NoneType

import numpy as np

from even_sieve.core.cells import Cell
from even_sieve.core.measures import Gathered, Measure
from even_sieve.core.table.arrays import room, zeros
from even_sieve.core.table.lanes import MOST_EXACT, Array

#: What is gathered of a group takes so many bytes, times its rows up to so many.
_A_GROUP, _MOST_ROWS = 256, 4
#: Of the memory that is granted a part is left to all else.
_SHARE = 2
#: So few groups are gathered together, whatever memory there is.
_LEAST = 1 << 16
#: With so many times more looks at another range than there are ranges, all are gathered at once.
_PATIENCE = 4
_ALL = -1


def size_of_range(groups: int, rows: int, jobs: int) -> int:
    """Return of how many groups so many jobs, over so many rows, gather together."""
    granted = room()
    if granted is None or groups <= _LEAST:
        return groups
    each = _A_GROUP * min(max(rows // groups, 1), _MOST_ROWS) * max(jobs, 1)
    return min(groups, max(granted // _SHARE // each, _LEAST))


@dataclass(frozen=True)
class _Numbers:
    """Values that are all numbers of one type, or none, in the store of the process.

    `lack` stands for none.
    """

    stored: Array
    lack: Array | None

    @classmethod
    def of(cls, values: list[Cell]) -> "_Numbers | None":
        """Return values so; None where they are others, or whole numbers that are too large."""
        kinds = set(map(type, values))
        whole = kinds <= {int, NoneType}
        if not whole and not kinds <= {float, NoneType}:
            return None
        if any(isinstance(each, int) and abs(each) >= MOST_EXACT for each in values):
            return None
        stored, lack = zeros(len(values), np.int64 if whole else np.float64), None
        if NoneType in kinds:
            lack = zeros(len(values), np.bool_)
            lack[:] = [value is None for value in values]
            values = [0 if value is None else value for value in values]
        stored[:] = values
        return cls(stored, lack)

    def at(self, places: Array) -> list[Cell]:
        """Return the values at these places."""
        found: list[Cell] = self.stored[places].tolist()
        if self.lack is not None:
            for place in np.flatnonzero(self.lack[places]).tolist():
                found[place] = None
        return found


@dataclass(frozen=True, eq=False)
class ByRanges(Gathered):
    """What was gathered for one measure: counts of all groups, the states of a range at a time.

    `gather` does that for so many groups from a first one on, by a pass of its own.
    """

    size: int = field(kw_only=True)
    gather: Callable[[int, int], Gathered] = field(kw_only=True)
    _made: dict[int, Gathered] = field(default_factory=dict)
    _looks: list[int] = field(default_factory=list)
    _values: dict[int, _Numbers | list[Cell]] = field(default_factory=dict)

    @property
    def groups(self) -> int:
        """How many groups there are."""
        return len(self.counts.buckets)

    def within(self, group: int) -> tuple[Gathered, int]:
        """Return what was gathered of a range that holds the group, and its number in that."""
        number, place = divmod(group, self.size)
        there = self._range(number)
        return there, group if there.counts.groups == self.groups else place

    def _range(self, number: int) -> Gathered:
        found = self._made.get(number) or self._made.get(_ALL)
        if found is not None:
            return found
        self._looks.append(number)
        self._made.clear()  # one range alone is held
        if len(self._looks) > _PATIENCE * -(-self.groups // self.size):
            self._made[_ALL] = found = self.gather(0, self.groups)
            return found
        first = number * self.size
        self._made[number] = found = self.gather(first, min(self.size, self.groups - first))
        return found

    def _keep(self, number: int, values: list[Cell]) -> None:
        """Keep the values of a range: all that are numbers, of others those of one range."""
        numbers = _Numbers.of(values)
        if numbers is None:
            for other in [key for key, kept in self._values.items() if isinstance(kept, list)]:
                del self._values[other]
        else:
            self._made.clear()  # all that was wanted of the range is kept
        self._values[number] = values if numbers is None else numbers

    def values_of(self, measure: Measure, groups: Array) -> list[Cell]:
        """Return the values of the figures of many groups (int64, shape (n,)).

        Those of a range are worked out together.
        """
        if _ALL in self._made:
            return measure.values(self._made[_ALL], groups)
        found: list[Cell] = [None] * len(groups)
        ranges = groups // self.size
        for number in np.flatnonzero(np.bincount(ranges)).tolist():
            if number not in self._values:
                first = number * self.size
                count = min(self.size, self.groups - first)
                there, place = self.within(first)
                own = np.arange(place, place + count)
                values = measure.values(there, own)
                self._keep(number, values)
            here = np.flatnonzero(ranges == number)
            places, kept = groups[here] - number * self.size, self._values[number]
            if isinstance(kept, _Numbers):
                some = kept.at(places)
            else:
                some = [kept[place] for place in places.tolist()]
            for at, value in zip(here.tolist(), some, strict=True):
                found[at] = value
        return found
