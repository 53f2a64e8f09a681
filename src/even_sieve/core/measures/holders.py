"""The rows that hold certain values: a last pass after an order statistic or a mode."""

from dataclasses import dataclass, field

import numpy as np

from even_sieve.core.measures.cells import BlockCells
from even_sieve.core.measures.first_rows import FirstRows
from even_sieve.core.measures.scattering import count_in
from even_sieve.core.table.lanes import Array


@dataclass
class Holders:
    """For each group and each key wanted of it: how many rows hold it, and the first ones.

    `wanted` are the keys, uint64, shape (groups, k); where `asked` (bool, same shape) is
    False there is none.
    """

    wanted: Array
    asked: Array
    found: Array = field(init=False)
    first: FirstRows = field(init=False, default_factory=FirstRows)

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
            count_in(self.found[:, place], groups)
            self.first.add(groups * width + place, cells.rows[hits])

    def merge(self, other: "Holders") -> None:
        """Take in what another one found."""
        self.found += other.found
        self.first.merge(other.first)

    def following(self) -> None:
        """Nothing follows."""

    def rows(self, group: int, place: int) -> tuple[int, ...]:
        """Return the first rows that hold the key, ascending."""
        return self.first.of(group * self.wanted.shape[1] + place)
