"""The first rows of each of many cells, gathered block by block."""

import numpy as np

from even_sieve.core.table.lanes import Array

#: So many rows of a cell are kept.
MOST_ROWS = 100
#: So many rows wait at the least before they are put in order.
_WAITING = 1 << 20


class FirstRows:
    """The first rows of each cell, in bounded memory: those beyond the first hundred go.

    >>> found = FirstRows()
    >>> found.add(np.array([1, 0, 1]), np.array([4, 5, 6]))
    >>> found.of(1), found.firsts(np.array([0, 2])).tolist()
    ((4, 6), [5, -1])
    """

    def __init__(self) -> None:
        self._cells: list[Array] = []
        self._rows: list[Array] = []
        self._held = self._least = 0

    def add(self, cells: Array, rows: Array) -> None:
        """Take in rows, which ascend, and the cell of each."""
        if len(rows):
            self._take(*first_of_each(cells, rows))

    def merge(self, other: "FirstRows") -> None:
        """Take in what another one gathered."""
        for cells, rows in zip(other._cells, other._rows, strict=True):
            self._take(cells, rows)

    def _take(self, cells: Array, rows: Array) -> None:
        self._cells.append(cells)
        self._rows.append(rows)
        self._held += len(rows)
        if self._held > 2 * self._least + _WAITING:
            self._together()

    def _together(self) -> tuple[Array, Array]:
        """Return the cells, ascending, and their rows."""
        if not self._cells:
            nothing = np.empty(0, dtype=np.int64)
            return nothing, nothing
        if len(self._cells) > 1:
            cells, rows = in_order(np.concatenate(self._cells), np.concatenate(self._rows))
            self._cells, self._rows = [cells], [rows]
            self._held = self._least = len(rows)
        return self._cells[0], self._rows[0]

    def of_many(self, wanted: Array) -> list[tuple[int, ...]]:
        """Return the first rows of each of many cells, ascending."""
        return rows_of_each(*self._together(), wanted)

    def of(self, cell: int) -> tuple[int, ...]:
        """Return the first rows of a cell, ascending."""
        cells, rows = self._together()
        start, stop = np.searchsorted(cells, [cell, cell + 1])
        return tuple(rows[start:stop].tolist())

    def firsts(self, wanted: Array) -> Array:
        """Return the first row of each of many cells, -1 where there is none."""
        cells, rows = self._together()
        if not len(cells):
            return np.full(len(wanted), -1, dtype=np.int64)
        places = np.minimum(np.searchsorted(cells, wanted), len(cells) - 1)
        found: Array = np.where(cells[places] == wanted, rows[places], -1)
        return found


def rows_of_each(cells: Array, rows: Array, wanted: Array) -> list[tuple[int, ...]]:
    """Return the rows of each of many cells; `cells`, those of the rows, ascend."""
    starts, stops = (np.searchsorted(cells, wanted, side=side) for side in ("left", "right"))
    pairs = zip(starts.tolist(), stops.tolist(), strict=True)
    return [tuple(rows[start:stop].tolist()) for start, stop in pairs]


def in_order(cells: Array, rows: Array) -> tuple[Array, Array]:
    """Return the first rows of each cell, sorted by cell, of rows in any order."""
    order = np.lexsort((rows, cells))
    return first_of_each(cells[order], rows[order])


def first_of_each(cells: Array, rows: Array, most: int = MOST_ROWS) -> tuple[Array, Array]:
    """Return the first rows of each cell, sorted by cell; the rows come in ascending order."""
    if len(cells) and cells[0] == cells[-1] and (cells == cells[0]).all():
        return cells[:most].copy(), rows[:most].copy()  # what these are a part of goes
    if (cells[1:] < cells[:-1]).any():
        order = np.argsort(cells, kind="stable")
        cells, rows = cells[order], rows[order]
    starts = np.flatnonzero(np.concatenate(([len(cells) > 0], cells[1:] != cells[:-1])))
    sizes = np.diff(np.append(starts, len(cells)))
    if not len(sizes) or int(sizes.max()) <= most:
        return cells, rows
    kept = np.arange(len(cells)) - np.repeat(starts, sizes) < most
    return cells[kept], rows[kept]
