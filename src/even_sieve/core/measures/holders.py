"""The rows that hold certain values: a last pass after an order statistic or a mode."""

from dataclasses import dataclass, field

import numpy as np

from even_sieve.core.measures.cells import BlockCells
from even_sieve.core.table.lanes import Array

MOST_ROWS = 100


@dataclass
class Holders:
    """For each group and each key wanted of it: how many rows hold it, and the first ones.

    `wanted` are the keys, uint64, shape (groups, k); where `asked` (bool, same shape) is
    False there is none.
    """

    wanted: Array
    asked: Array
    found: Array = field(init=False)
    _cells: list[Array] = field(init=False, default_factory=list)
    _rows: list[Array] = field(init=False, default_factory=list)
    _starts: list[int] | None = field(init=False, default=None)

    def __post_init__(self) -> None:
        self.found = np.zeros(self.wanted.shape, dtype=np.int64)

    def add(self, cells: BlockCells) -> None:
        """Take in a block."""
        if not self.asked.any():
            return
        keys, width = cells.keys, self.wanted.shape[1]
        for place in range(width):
            if cells.used_groups is None:
                if not self.asked[0, place]:
                    continue
                hits = np.flatnonzero(keys == self.wanted[0, place])
                groups = np.zeros(len(hits), dtype=np.int64)
            else:
                same = keys == self.wanted[cells.used_groups, place]
                hits = np.flatnonzero(same & self.asked[cells.used_groups, place])
                groups = cells.used_groups[hits].astype(np.int64)
            self.found[:, place] += np.bincount(groups, minlength=len(self.wanted))
            self._keep(groups * width + place, cells.rows[hits])

    def _keep(self, cells: Array, rows: Array) -> None:
        cells, rows = first_of_each(cells, rows)
        self._cells.append(cells)
        self._rows.append(rows)
        self._starts = None

    def merge(self, other: "Holders") -> None:
        """Take in what another one found."""
        self.found += other.found
        self._cells += other._cells
        self._rows += other._rows
        self._starts = None

    def following(self) -> None:
        """Nothing follows."""

    def rows(self, group: int, place: int) -> tuple[int, ...]:
        """Return the first rows that hold the key, ascending."""
        if self._starts is None:
            cells, rows = self._together()
            self._cells, self._rows = [cells], [rows]
            self._starts = np.searchsorted(cells, np.arange(self.wanted.size + 1)).tolist()
        cell = group * self.wanted.shape[1] + place
        return tuple(self._rows[0][self._starts[cell] : self._starts[cell + 1]].tolist())

    def _together(self) -> tuple[Array, Array]:
        if len(self._cells) == 1:
            return self._cells[0], self._rows[0]
        if not self._cells:
            return np.empty(0, dtype=np.int64), np.empty(0, dtype=np.int64)
        cells, rows = np.concatenate(self._cells), np.concatenate(self._rows)
        order = np.lexsort((rows, cells))
        return first_of_each(cells[order], rows[order])


def first_of_each(cells: Array, rows: Array, most: int = MOST_ROWS) -> tuple[Array, Array]:
    """Return the first rows of each cell, sorted by cell; the rows come in ascending order."""
    if len(cells) and cells[0] == cells[-1] and (cells == cells[0]).all():
        return cells[:most], rows[:most]
    order = np.argsort(cells, kind="stable")
    cells, rows = cells[order], rows[order]
    starts = np.flatnonzero(np.concatenate(([True], cells[1:] != cells[:-1])))
    sizes = np.diff(np.append(starts, len(cells)))
    kept = np.arange(len(cells)) - np.repeat(starts, sizes) < most
    return cells[kept], rows[kept]
