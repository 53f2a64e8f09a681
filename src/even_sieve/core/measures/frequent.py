"""The most frequent value, and the number of different ones: a census, and who holds a value."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np

from even_sieve.core.cells import Kind
from even_sieve.core.measures.cell_filter import CellFilter
from even_sieve.core.measures.cells import BlockCells
from even_sieve.core.measures.census import Batch, Spread, Standing, ValueCounts, start_census
from even_sieve.core.measures.holders import Holders
from even_sieve.core.table.lanes import Array


@dataclass
class Frequent(Holders):
    """The rows that hold the most frequent value of each group."""

    standing: Standing


class ModeState:
    """A census and, after its last pass, the rows of the most frequent values."""

    def __init__(self, census: "ValueCounts | Batch | Spread") -> None:
        self.census = census

    def add(self, cells: BlockCells) -> None:
        """Take in a block."""
        if self.census.filter.ordinals is not None:
            self.census.add(cells)

    def merge(self, other: "ModeState") -> None:
        """Take in what another one gathered."""
        self.census.merge(other.census)  # type: ignore[arg-type]

    def following(self) -> "Callable[[], ModeState | Frequent]":
        """Return the census's next pass or, after the last, the search for rows."""
        more = self.census.following()
        if more is not None:
            return lambda: ModeState(more())
        if isinstance(self.census, Spread):
            raise RuntimeError("a spread is always followed by a batch")
        standing = self.census.standing
        keys, asked = standing.key.reshape(-1, 1), (standing.top > 1).reshape(-1, 1)
        return lambda: Frequent(keys, asked, standing)


class Different:
    """The number of different values of each group, over all kinds that a column holds.

    A kept blank is one more value.
    """

    def __init__(
        self,
        parts: "list[ValueCounts | Batch | Spread]",
        filter: CellFilter,
        groups: int,
    ) -> None:
        self.parts, self.filter, self.groups = parts, filter, groups
        self.done = np.zeros(groups, dtype=np.int64)
        self.blank = np.zeros(groups, dtype=bool)

    def add(self, cells: BlockCells) -> None:
        """Take in a block."""
        for part in self.parts:
            part.add(cells.of(part.filter))
        if self.filter.keep_blanks:
            self.blank |= cells.has_blank()

    def merge(self, other: "Different") -> None:
        """Take in what another one gathered."""
        for part, others in zip(self.parts, other.parts, strict=True):
            part.merge(others)  # type: ignore[arg-type]
        self.blank |= other.blank

    def following(self) -> "Callable[[], Different] | None":
        """Return the next pass of those kinds that need one; the others are done."""
        open_, done, blank = [], self.done.copy(), self.blank
        for part in self.parts:
            more = part.following()
            if more is not None:
                open_.append(more)
            elif not isinstance(part, Spread):
                done += part.standing.different
        if not open_:
            self.done, self.parts = done, []
            return None

        def begin() -> Different:
            state = Different([more() for more in open_], self.filter, self.groups)
            state.done, state.blank = done.copy(), blank.copy()
            return state

        return begin

    def count(self, group: int) -> int:
        """Return how many different values a group has."""
        return int(self.done[group]) + bool(self.blank[group])

    def counts(self, groups: Array) -> list[Any]:
        """Return how many different values many groups have."""
        found: list[Any] = (self.done[groups] + self.blank[groups]).tolist()
        return found


def start_different(used: CellFilter, groups: int) -> Different:
    """Return the state of the first pass over the values of all kinds of a column."""
    kinds = [kind for kind in used.column.lanes if kind is not Kind.ERROR]
    parts = [start_census(CellFilter(used.column, kind), groups) for kind in kinds]
    return Different(parts, used, groups)
