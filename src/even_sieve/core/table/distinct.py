"""The different values among many, and the place of each row's own, a stretch of rows at a time."""

from collections.abc import Callable

import numpy as np

from even_sieve.core.table.arrays import spans, zeros
from even_sieve.core.table.lanes import Array, narrowest

#: Whole numbers that lie so close together are numbered by a table.
_TABLE, _DENSE = 1 << 20, 8
#: So many values are gathered before they are brought together.
_GATHERED = 1 << 22


def numbered(
    length: int, values: Callable[[slice], Array], here: Callable[[slice], Array | None]
) -> tuple[Array, Array]:
    """Return the different values in order, and each row's place among them, shape (length,).

    `values` gives those of a stretch of rows, `here` which of these rows count (bool; None: all).
    The place of a row that does not count is of no meaning.
    """

    def counting(rows: slice) -> Array:
        own, mask = values(rows), here(rows)
        return own if mask is None else own[mask]

    found = different(length, counting)
    codes = zeros(length, narrowest(len(found)))
    place = _places(found)
    for rows in spans(length):
        codes[rows] = place(values(rows))
    return found, codes


def different(length: int, values: Callable[[slice], Array]) -> Array:
    """Return the different values in order."""
    found: Array | None = None
    gathered: list[Array] = []
    size = 0
    for rows in spans(length):
        gathered.append(_unique(values(rows)))
        size += len(gathered[-1])
        if size > _GATHERED and (found is None or size > len(found)):
            found, gathered, size = _together(found, gathered), [], 0
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
    return lambda values: np.minimum(np.searchsorted(found, values), last)
