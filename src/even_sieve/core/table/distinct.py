"""The different values among many, and the place of each row's own, a stretch of rows at a time."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import partial
from itertools import pairwise
from typing import Any, cast

import numpy as np

from even_sieve.core.table.arrays import room, spans, zeros
from even_sieve.core.table.far_arrays import FarArray, worked_out
from even_sieve.core.table.lanes import Array, narrowest

#: Whole numbers that lie so close together are numbered by a table.
_TABLE, _DENSE = 1 << 20, 8
#: Of more different values most are looked up far from one another.
_FEW = 1 << 16
#: So many values are gathered before they are brought together.
_GATHERED = 1 << 22
#: Of the memory that is granted so much is taken for each value that is held, and for no fewer.
_SHARE, _LEAST = 160, 1 << 20
#: Ranges of values are told by so many stretches of so many rows.
_STRETCHES, _STRETCH = 256, 1 << 10


def _same(values: Array) -> Array:
    return values


@dataclass(frozen=True, eq=False)
class Values:
    """A value for each row, which `change` works out from stretches of arrays.

    Only rows of a `kind` count, by their `states`; all of them where there are none.
    """

    arrays: tuple[Array, ...]
    change: Callable[..., Array] = _same
    states: Array | None = None
    kind: int = 0

    def of(self, rows: slice) -> Array:
        """Return the values of a stretch of rows."""
        return self.change(*[each[rows] for each in self.arrays])

    def counting(self, rows: slice) -> Array:
        """Return those of the rows that count."""
        own = self.of(rows)
        return own if self.states is None else own[self.states[rows] == self.kind]

    def __call__(self, start: int, stop: int, _first: int = 0) -> Array:
        """Return the different values of rows from `start` up to `stop`, in order."""
        return different(stop, self.counting, start)


def numbered(values: Values) -> tuple[Array, Array]:
    """Return the different values in order, and each row's place among them, shape (length,).

    The place of a row that does not count is of no meaning.
    """
    length, found = len(values.arrays[0]), None
    long = values.arrays if values.states is None else (*values.arrays, values.states)
    far = next((each for each in long if isinstance(each, FarArray)), None)
    if far is not None:
        found = cast(FarArray, far).there.run(None, values, _both, (long, ()), lambda _: None)
    if found is None:
        found = values(0, length)
    kind = narrowest(len(found))
    return found, worked_out(partial(_numbers, found, values.change), kind, *values.arrays)


def count_codes(codes: Array, count: int) -> Array:
    """Return how many rows have each code from 0 up to a count, wherever the rows stand.

    >>> count_codes(np.array([2, 0, 2]), 4).tolist()
    [1, 0, 2, 0]
    """
    work = partial(_counts, codes, count)
    if isinstance(codes, FarArray) and not codes.is_here:
        found = codes.there.run(None, work, np.add, ((codes,), ()), lambda _: None)
        if found is not None:
            return cast(Array, found)
    return work(0, len(codes))


def _counts(codes: Array, count: int, start: int, stop: int, _first: int = 0) -> Array:
    found = np.zeros(count, dtype=np.int64)
    for rows in spans(stop, start=start):
        found += np.bincount(codes[rows], minlength=count)
    return found


def by_kind(
    states: Array | None, dtype: np.dtype[Any], parts: Sequence[tuple[int, Array, int]]
) -> Array:
    """Return a number for each row: that of its kind, and where the numbers of this kind start.

    `parts` are kinds with the numbers of all rows and a start.
    """
    if states is None:
        raise ValueError("cells of one kind need no states")
    make = partial(_by_kind, dtype, [(kind, start) for kind, _, start in parts])
    return worked_out(make, dtype, states, *[codes for _, codes, _ in parts])


def _by_kind(
    dtype: np.dtype[Any], parts: Sequence[tuple[int, int]], states: Array, *codes: Array
) -> Array:
    together = zeros(len(states), dtype)
    for rows in spans(len(states)):
        for (kind, start), own in zip(parts, codes, strict=True):
            here = states[rows] == kind
            together[rows][here] = own[rows][here].astype(dtype) + dtype.type(start)
    return together


def _both(one: Array, other: Array) -> Array:
    return once_each(np.concatenate([one, other]))


def _numbers(found: Array, change: Callable[..., Array], *arrays: Array) -> Array:
    """Return the place among those found of the value of each row."""
    codes = zeros(len(arrays[0]), narrowest(len(found)))
    place = _places(found)
    for rows in spans(len(codes)):
        codes[rows] = place(change(*[each[rows] for each in arrays]))
    return codes


def different(stop: int, values: Callable[[slice], Array], start: int = 0) -> Array:
    """Return the different values of rows from `start` up to `stop`, in order."""
    found = _found(stop, values, start, None)
    return np.empty(0, dtype=np.int64) if found is None else found


def count_different(stop: int, values: Callable[[slice], Array]) -> tuple[int, Array]:
    """Return how many different values the rows up to `stop` have, the least and the largest.

    Where there is no room for all of them they are counted by ranges, each by a pass of its own.
    There is a value.

    >>> held = np.array([7, 3, 7, 5])
    >>> count_different(4, lambda rows: held[rows])
    (3, array([3, 7]))
    """
    granted = room()
    most = None if granted is None else max(granted // _SHARE, _LEAST)
    found = _found(stop, values, 0, most)
    if found is not None or most is None:
        assert found is not None
        return len(found), found[[0, -1]]
    count, ends = 0, []
    cuts = _cuts(stop, values, 1 + stop // most)
    for low, high in pairwise((None, *cuts, None)):
        own = different(stop, lambda rows: _between(values(rows), low, high))  # noqa: B023
        count += len(own)
        ends += [own[[0, -1]]] if len(own) else []
    return count, np.concatenate(ends)[[0, -1]]


def _cuts(stop: int, values: Callable[[slice], Array], count: int) -> Array:
    """Return where ranges of values begin but for the first, of about as many rows each."""
    step = max(stop // _STRETCHES, _STRETCH)
    some = [values(slice(first, min(first + _STRETCH, stop))) for first in range(0, stop, step)]
    ordered = np.sort(np.concatenate(some))
    places = np.arange(1, count) * len(ordered) // count
    return once_each(ordered[places if len(ordered) else []])


def _between(values: Array, low: Any, high: Any) -> Array:
    """Return the values from one end on and below the other; None for no end."""
    inside = np.ones(len(values), dtype=bool)
    if low is not None:
        inside &= values >= low
    if high is not None:
        inside &= values < high
    found: Array = values[inside]
    return found


def _found(
    stop: int, values: Callable[[slice], Array], start: int, most: int | None
) -> Array | None:
    """Return the different values of rows in order; None where there are more than so many."""
    found: Array | None = None
    gathered: list[Array] = []
    size, at_once = 0, _GATHERED if most is None else min(_GATHERED, most)
    for rows in spans(stop, start=start):
        gathered.append(_unique(values(rows)))
        size += len(gathered[-1])
        if size > at_once and (found is None or size > len(found)):
            found, gathered, size = _together(found, gathered), [], 0
            if most is not None and len(found) > most:
                return None
    return _together(found, gathered)


def _together(found: Array | None, more: list[Array]) -> Array:
    every = [*([] if found is None else [found]), *more]
    if len(every) == 1:
        return every[0]
    return once_each(np.concatenate(every)) if every else np.empty(0, dtype=np.int64)


def once_each(values: Array) -> Array:
    """Return the different ones of some values in order.

    NumPy's own `unique` puts them into a table first, which takes many times as long where most
    are different.

    >>> once_each(np.array([3, 1, 3])).tolist()
    [1, 3]
    """
    ordered = np.sort(values)
    new = np.ones(len(ordered), dtype=bool)
    new[1:] = ordered[1:] != ordered[:-1]
    found: Array = ordered[new]
    return found


def _unique(values: Array) -> Array:
    """Return the different ones of some values in order."""
    if not len(values) or values.dtype.kind != "i":
        return once_each(values)
    low, high = int(values.min()), int(values.max())
    if high - low >= min(_TABLE, _DENSE * len(values)):
        return once_each(values)
    seen = np.zeros(high - low + 1, dtype=bool)
    seen[values - low] = True
    return (np.flatnonzero(seen) + low).astype(values.dtype)


def _places(found: Array) -> Callable[[Array], Array]:
    """Return what gives values their place among those found, and others any place."""
    last = max(len(found) - 1, 0)
    if len(found) and found.dtype.kind == "i":
        low, high = int(found[0]), int(found[-1])
        if high - low < _TABLE:
            table = np.zeros(high - low + 1, dtype=narrowest(len(found)))
            table[(found - low).astype(np.intp)] = np.arange(len(found))
            return lambda values: table[np.clip(values, low, high) - low]
    if len(found) <= _FEW:
        return lambda values: np.minimum(np.searchsorted(found, values), last)

    def places(values: Array) -> Array:
        """Look values up in order: each is then found near the one before."""
        order = np.argsort(values)
        placed = np.empty(len(values), dtype=np.intp)
        placed[order] = np.searchsorted(found, values[order])
        return np.minimum(placed, last)

    return places
