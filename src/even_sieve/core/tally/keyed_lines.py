"""Lines of a breakdown under their keys, made when they are asked for; columns of them without."""

from bisect import bisect_right
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from itertools import accumulate
from types import NoneType
from typing import TYPE_CHECKING, Any

import numpy as np

from even_sieve.core.cells import Cell
from even_sieve.core.lazy import LazySequence
from even_sieve.core.table.arrays import pick, spans, zeros
from even_sieve.core.table.lanes import MOST_EXACT, Array

if TYPE_CHECKING:
    from even_sieve.core.tally.answers import Tallies, Tally


class _All:
    """Stands for all values of an axis in the key of a subtotal.

    >>> import even_sieve
    >>> calls = even_sieve.table_from({"zone": ["A", "A"], "use": ["x", "y"], "dues": [1, 2]})
    >>> calls.tally("sum of dues", by=["zone", "use"])["A", even_sieve.ALL_VALUES][0].value
    3
    """

    __slots__ = ()

    def __repr__(self) -> str:
        return "ALL"

    def __reduce__(self) -> str:
        return "ALL_VALUES"


ALL_VALUES = _All()


def identified(key: tuple[Any, ...]) -> tuple[tuple[bool, Any], ...]:
    """Return a key by which yes is not 1: Python takes them for equal."""
    return tuple((isinstance(part, bool), part) for part in key)


@dataclass(frozen=True)
class Line:
    """One line of a breakdown: the values that its rows share, and its tallies.

    In the key of a subtotal `ALL_VALUES` stands where rows of all values are in it.

    >>> import even_sieve
    >>> calls = even_sieve.table_from({"zone": ["Outer", "Inner"], "dues": [120, 80]})
    >>> line = calls.tally("sum of dues", by="zone").lines[0]
    >>> line.key, line["sum of dues"].value
    (('Inner',), 80)
    """

    key: tuple[Any, ...]
    tallies: "Tallies"

    def __getitem__(self, name: int | str) -> "Tally":
        """Return a tally by its position or its name. Raises `NoSuchFigure` naming the closest."""
        return self.tallies[name]


@dataclass(frozen=True)
class Told:
    """What lines with a value say beside it and their keys.

    `accounts` are the counts of a measure's accounts, shape (n, 9); `found_at` the numbers of the
    rows that gave each figure, None for a line that says more. Lines without a value, or with 0,
    may always say more.
    """

    accounts: Array
    found_at: Sequence[tuple[int, ...] | None]


class LazyLines(LazySequence[Line]):
    """So many lines: what makes one, keys alone, and the values of one measure at these places.

    `groups` are the numbers of their groups, where they are the lines of a level; `told`
    gives what lines say, as `told_at` does.

    A line holds a tally with its account for every measure; by the ten thousand, keys and values
    are had many times faster as columns.
    """

    def __init__(
        self,
        length: int,
        make: Callable[[int], Line],
        keys: Callable[[Array], list[Sequence[Any]]],
        values: Callable[[int, Array], list[Cell]],
        groups: Array | None = None,
        told: Callable[[int, Array], Told | None] = lambda position, places: None,
    ) -> None:
        super().__init__(length, make)
        self._keys, self._values, self.groups = keys, values, groups
        self._told = told

    def key_columns(self) -> list[Sequence[Any]]:
        """Return the keys of all lines, a column for each axis."""
        return self._keys(np.arange(len(self)))

    def values(self, position: int) -> list[Cell]:
        """Return the values of the measure at this position on all lines."""
        return self._values(position, np.arange(len(self)))

    def keys_at(self, lines: slice) -> list[Sequence[Any]]:
        """Return the keys of a stretch of lines, a column for each axis."""
        return self._keys(np.arange(lines.start, lines.stop))

    def values_at(self, position: int, lines: slice) -> list[Cell]:
        """Return the values of a measure on a stretch of lines."""
        return self._values(position, np.arange(lines.start, lines.stop))

    def told_at(self, position: int, lines: slice) -> Told | None:
        """Return what a stretch of lines says of a measure; None where they may say more."""
        return self._told(position, np.arange(lines.start, lines.stop))

    def anew(self, place: int) -> Line:
        """Return a line, made for this once and not kept."""
        return self._made.get(place) or self._make(place)

    def picked(self, order: Sequence[int] | Array) -> "LazyLines":
        """Return these lines, in this order."""
        chosen = np.asarray(order, dtype=np.int64)
        return LazyLines(
            len(chosen),
            lambda i: self.anew(int(chosen[i])),
            lambda places: self._keys(chosen[places]),
            lambda position, places: self._values(position, chosen[places]),
            None if self.groups is None else pick(self.groups, chosen),
            lambda position, places: self._told(position, chosen[places]),
        )


def chained(parts: Sequence[LazyLines], axes: int) -> Sequence[Line]:
    """Return lines of several levels one after the other, each still made when it is asked for."""
    starts = [0, *accumulate(map(len, parts))]

    def line(place: int) -> Line:
        part = bisect_right(starts, place) - 1
        return parts[part][place - starts[part]]

    def apart(places: Array) -> Iterator[tuple[Array, LazyLines]]:
        """Yield where the places in each part stand, and its lines at these."""
        which = np.searchsorted(starts, places, side="right") - 1
        for number, part in enumerate(parts):
            here = np.flatnonzero(which == number)
            if len(here):
                yield here, part.picked(places[here] - starts[number])

    def keys(places: Array) -> list[Sequence[Any]]:
        columns: list[list[Any]] = [[None] * len(places) for _ in range(axes)]
        for here, part in apart(places):
            for column, own in zip(columns, part.key_columns(), strict=True):
                _put(column, here, own)
        return [*columns]

    def values(position: int, places: Array) -> list[Cell]:
        found: list[Cell] = [None] * len(places)
        for here, part in apart(places):
            _put(found, here, part.values(position))
        return found

    return LazyLines(starts[-1], line, keys, values)


def _put(into: list[Any], places: Array, items: Sequence[Any]) -> None:
    for place, item in zip(places.tolist(), items, strict=True):
        into[place] = item


def keys_of(lines: Sequence[Line]) -> list[tuple[Any, ...]]:
    """Return the keys of lines."""
    if isinstance(lines, LazyLines):
        return [*zip(*lines.key_columns(), strict=True)]
    return [line.key for line in lines]


def key_columns_of(lines: Sequence[Line], axes: int) -> list[Sequence[Any]]:
    """Return the keys of lines as a column for each of so many axes."""
    if isinstance(lines, LazyLines):
        return lines.key_columns()
    return [[line.key[place] for line in lines] for place in range(axes)]


def told_of(lines: Sequence[Line], position: int) -> Told | None:
    """Return what lines say of one measure, as `told_at` does, on all lines."""
    if isinstance(lines, LazyLines):
        return lines.told_at(position, slice(0, len(lines)))
    return None


def values_of(lines: Sequence[Line], position: int) -> list[Cell]:
    """Return the values of one measure on lines."""
    if isinstance(lines, LazyLines):
        return lines.values(position)
    return [line.tallies[position].value for line in lines]


def stretches_of(lines: Sequence[Line], position: int) -> Iterator[list[Cell]]:
    """Yield the values of one measure on a stretch of lines after the other."""
    if not isinstance(lines, LazyLines):
        yield values_of(lines, position)
        return
    for some in spans(len(lines)):
        yield lines.values_at(position, some)


def numbers_of(lines: Sequence[Line], position: int) -> Array | None:
    """Return the values of one measure on lines as doubles; None if one is another value.

    Where there is no value stands one that is no number. Whole numbers that no double holds are
    other values.
    """
    if not isinstance(lines, LazyLines):
        return None
    numbers = zeros(len(lines), np.float64)
    for rows in spans(len(lines)):
        values = lines.values_at(position, rows)
        kinds = set(map(type, values))
        if not kinds <= {int, float, NoneType}:
            return None
        if int in kinds and max(abs(v) for v in values if type(v) is int) >= MOST_EXACT:
            return None
        numbers[rows] = values  # none becomes what is no number
    return numbers


def picked(lines: Sequence[Line], order: Sequence[int] | Array) -> Sequence[Line]:
    """Return some lines, in this order."""
    if isinstance(lines, LazyLines):
        return lines.picked(order)
    return tuple(lines[int(i)] for i in order)
