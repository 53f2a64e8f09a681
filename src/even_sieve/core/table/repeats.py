"""Suspected subtotals: rows whose numbers equal the sum of the run above them.

A search by arithmetic. A row is suspected if, in most of the columns of numbers that it
fills, its number is the sum of a run of rows that ends just above it: the rows since the
last suspected row, or, one level up, the suspected rows since the last one of that level.
Rounding of each number to its column's decimals is allowed for.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from even_sieve.core.cells import Kind, fold
from even_sieve.core.table.columns import Column
from even_sieve.core.table.lanes import Array, FixedLane, FloatLane, TextLane
from even_sieve.core.table.table import Table

_WORDS = ("total", "subtotal", "sum", "all", "grand total", "sub-total")
_MOST_LEVELS = 4


@dataclass(frozen=True)
class Suspect:
    """A row that looks like a subtotal, and the rows that it repeats (positions from 0).

    `columns` are those whose numbers agree, `label` the text that hints at a total, if any.
    """

    row: int
    repeats: tuple[int, ...]
    columns: tuple[str, ...]
    label: str | None = None


def find_subtotals(table: Table) -> tuple[Suspect, ...]:
    """Return the rows that look like subtotals of rows above them, in order.

    Rows whose text speaks of a total are tried first, rounding allowed for. If none of
    these is a sum, every row is: it must then be the exact sum of at least two rows, in at
    least two columns, or in the one that the table has.
    """
    columns = [_Numbers.of(column) for column in table.columns if Kind.NUMBER in column.counts]
    if not columns:
        return ()
    labels = _labels(table)
    return _searched(columns, labels, table.length) or _searched(columns, None, table.length)


def _searched(
    columns: "Sequence[_Numbers]", labels: dict[int, str] | None, length: int
) -> tuple[Suspect, ...]:
    """Return the suspects among the labelled rows, or among all rows without labels."""
    if labels is not None and not labels:
        return ()
    search = _Search(columns, exact=labels is None)
    found: list[Suspect] = []
    for row in range(length):
        label = None if labels is None else labels.get(row)
        if labels is not None and label is None:
            search.take(row)
        elif (suspect := search.look(row, label)) is not None:
            found.append(suspect)
    return tuple(found)


@dataclass(frozen=True)
class _Numbers:
    """The numbers of a column as Python numbers, None where the cell is none."""

    name: str
    values: list[int | float | None]
    tolerance: float
    whole: bool

    @classmethod
    def of(cls, column: Column) -> "_Numbers":
        lane = column.lanes[Kind.NUMBER]
        if not isinstance(lane, FixedLane | FloatLane):
            raise TypeError("a lane of numbers is needed")
        values: list[int | float | None] = lane.values.tolist()
        if column.states is not None:
            held: Array = column.states == Kind.NUMBER
            values = [v if h else None for v, h in zip(values, held.tolist(), strict=True)]
        fixed = isinstance(lane, FixedLane)
        largest = max((abs(float(v)) for v in values if v is not None), default=0.0)
        return cls(column.name, values, 0.5 if fixed else float(largest) * 1e-12, fixed)


class _Search:
    """Goes down the rows with a stack of levels, each the rows since its last total."""

    def __init__(self, columns: Sequence[_Numbers], *, exact: bool) -> None:
        self.columns, self.exact = columns, exact
        self.levels: list[list[int]] = [[] for _ in range(_MOST_LEVELS)]
        self.sums: list[list[Any]] = [[0] * len(columns) for _ in self.levels]

    def look(self, row: int, label: str | None) -> Suspect | None:
        """Return the row as a suspect, or take it in as a record."""
        for level, rows in enumerate(self.levels):
            agreeing = self._agreeing(row, level, len(rows))
            if rows and self._convincing(row, agreeing, len(rows), label):
                repeats = tuple(rows)
                self._close(row, level)
                names = tuple(self.columns[i].name for i in agreeing)
                return Suspect(row, repeats, names, label)
        self.take(row)
        return None

    def take(self, row: int) -> None:
        """Take the row in as a record."""
        self._add(row, 0)

    def _agreeing(self, row: int, level: int, count: int) -> list[int]:
        found = []
        for i, column in enumerate(self.columns):
            value = column.values[row]
            if value is None or not value:
                continue
            allowed = 0 if self.exact and column.whole else column.tolerance * (count + 1)
            if abs(value - self.sums[level][i]) <= allowed and self.sums[level][i]:
                found.append(i)
        return found

    def _convincing(self, row: int, agreeing: list[int], count: int, label: str | None) -> bool:
        filled = sum(1 for column in self.columns if column.values[row])
        if not agreeing or 2 * len(agreeing) <= filled:
            return False
        if label is not None:
            return True
        return count >= 2 and len(agreeing) >= min(2, len(self.columns))

    def _close(self, row: int, level: int) -> None:
        """Start the level anew below the total, which counts as a record one level up."""
        for lower in range(level + 1):
            self.levels[lower] = []
            self.sums[lower] = [0] * len(self.columns)
        if level + 1 < _MOST_LEVELS:
            self._add(row, level + 1)

    def _add(self, row: int, level: int) -> None:
        self.levels[level].append(row)
        sums = self.sums[level]
        for i, column in enumerate(self.columns):
            value = column.values[row]
            if value is not None:
                sums[i] = sums[i] + value


def _labels(table: Table) -> dict[int, str]:
    """Return, for rows with a text that speaks of a total, that text."""
    found: dict[int, str] = {}
    for column in table.columns:
        lane = column.lanes.get(Kind.TEXT)
        if not isinstance(lane, TextLane):
            continue
        hints = {i for i, text in enumerate(lane.spellings) if _speaks_of_total(text)}
        if not hints:
            continue
        rows = np.isin(lane.values, list(hints))
        if column.states is not None:
            rows &= column.states == Kind.TEXT
        for row in np.flatnonzero(rows).tolist():
            found.setdefault(row, str(column.cell(row)))
    return found


def _speaks_of_total(text: str) -> bool:
    words = fold(text).replace(":", " ").split()
    return any(word in words for word in _WORDS)
