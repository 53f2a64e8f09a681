"""Suspected subtotals: rows whose numbers equal the sum of the run above them.

A search by arithmetic. A row is suspected if, in most of the columns of numbers that it
fills, its number is the sum of a run of rows that ends just above it: the rows since the
last suspected row, or, one level up, the suspected rows since the last one of that level.
Rounding of each number to its column's decimals is allowed for.
"""

import re
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from even_sieve.core.cells import Kind
from even_sieve.core.table.columns import Column
from even_sieve.core.table.lanes import Array, FixedLane, FloatLane, TextLane
from even_sieve.core.table.table import Table

#: A word that a total's label has, among white space and colons.
_TOTAL = re.compile(r"(?<![^\s:])(?:total|subtotal|sub-total|sum|all)(?![^\s:])")
_MOST_LEVELS = 4
_MOST = 2**62
#: So many rows are looked at together, twice as many each time that none is found.
_FIRST_LOOK, _LONGEST_LOOK = 1 << 6, 1 << 16


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
    search = _Search(columns, exact=labels is None)
    found: list[Suspect] = []
    for row in search.any_rows(length) if labels is None else search.these_rows(sorted(labels)):
        suspect = search.look(row, None if labels is None else labels[row])
        if suspect is not None:
            found.append(suspect)
    return tuple(found)


@dataclass(frozen=True)
class _Numbers:
    """The numbers of a column: stored values (zero where the cell is none), shape (n,)."""

    name: str
    values: Array
    tolerance: float
    whole: bool

    @classmethod
    def of(cls, column: Column) -> "_Numbers":
        lane = column.lanes[Kind.NUMBER]
        if not isinstance(lane, FixedLane | FloatLane):
            raise TypeError("a lane of numbers is needed")
        values: Array = lane.values
        if column.states is not None:
            values = np.where(column.states == Kind.NUMBER, values, 0)
        if isinstance(lane, FixedLane):
            small = lane.bound * (column.length + 1) < _MOST
            return cls(column.name, values if small else values.astype(object), 0.5, True)
        largest = float(np.abs(values).max()) if len(values) else 0.0
        return cls(column.name, values, largest * 1e-12, False)

    def value(self, row: int) -> Any:
        """Return the number at a row as a Python number, 0 where there is none."""
        value = self.values[row]
        return value.item() if isinstance(value, np.generic) else value

    def sums_before(self, start: int, stop: int, sum_before: Any) -> Array:
        """Return the sum up to each of the rows, added from the first on; and that of all."""
        first = np.array([sum_before], dtype=self.values.dtype)
        sums: Array = np.cumsum(np.concatenate((first, self.values[start:stop])))
        return sums


class _Search:
    """Goes down the rows with a stack of levels, each the rows since its last total."""

    def __init__(self, columns: Sequence[_Numbers], *, exact: bool) -> None:
        self.columns, self.exact = columns, exact
        self.levels: list[list[int]] = [[] for _ in range(_MOST_LEVELS)]
        self.sums: list[list[Any]] = [[0] * len(columns) for _ in self.levels]

    def these_rows(self, rows: Iterable[int]) -> Iterator[int]:
        """Yield these rows, which ascend, all between taken in as records."""
        at = 0
        for row in rows:
            self._take(at, row)
            at = row + 1
            yield row

    def any_rows(self, length: int) -> Iterator[int]:
        """Yield the rows that are sums of those above, all between taken in as records."""
        at, size = 0, _FIRST_LOOK
        while at < length:
            stop = min(at + size, length)
            hits = np.flatnonzero(self._convincing_rows(at, stop))
            size = _FIRST_LOOK if len(hits) else min(2 * size, _LONGEST_LOOK)
            end = at + int(hits[0]) if len(hits) else stop
            self._take(at, end)
            at = end
            if len(hits):
                at += 1
                yield end

    def _convincing_rows(self, start: int, stop: int) -> Array:
        """Return which of the rows a level would take for its total, bool, shape (rows,)."""
        found = np.zeros(stop - start, dtype=bool)
        for level, rows in enumerate(self.levels):
            if level and not rows:
                continue
            counts = len(rows) + (np.arange(stop - start) if level == 0 else 0)
            agreeing, filled = np.zeros((2, stop - start), dtype=np.int64)
            for i, column in enumerate(self.columns):
                values, sums = column.values[start:stop], self.sums[level][i]
                if level == 0:
                    sums = column.sums_before(start, stop, sums)[:-1]
                near = np.abs(values - sums) <= self._allowed(column, counts)
                agreeing += (near & (values != 0) & (sums != 0)).astype(np.int64)
                filled += (values != 0).astype(np.int64)
            enough = (counts >= 2) & (agreeing >= min(2, len(self.columns)))
            found |= enough & (2 * agreeing > filled)
        return found

    def _allowed(self, column: _Numbers, count: Any) -> Any:
        return 0 if self.exact and column.whole else column.tolerance * (count + 1)

    def look(self, row: int, label: str | None) -> Suspect | None:
        """Return the row as a suspect, or take it in as a record."""
        for level, rows in enumerate(self.levels):
            agreeing = self._agreeing(row, level, len(rows))
            if rows and self._convincing(row, agreeing, len(rows), label):
                repeats = tuple(rows)
                self._close(row, level)
                names = tuple(self.columns[i].name for i in agreeing)
                return Suspect(row, repeats, names, label)
        self._take(row, row + 1)
        return None

    def _take(self, start: int, stop: int) -> None:
        """Take rows in as records."""
        if start < stop:
            self.levels[0].extend(range(start, stop))
            self.sums[0] = [
                column.sums_before(start, stop, before)[-1]
                for column, before in zip(self.columns, self.sums[0], strict=True)
            ]

    def _agreeing(self, row: int, level: int, count: int) -> list[int]:
        found = []
        for i, column in enumerate(self.columns):
            value, total = column.value(row), self.sums[level][i]
            if value and total and abs(value - total) <= self._allowed(column, count):
                found.append(i)
        return found

    def _convincing(self, row: int, agreeing: list[int], count: int, label: str | None) -> bool:
        filled = sum(1 for column in self.columns if column.value(row))
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
            self.levels[level + 1].append(row)
            sums = self.sums[level + 1]
            for i, column in enumerate(self.columns):
                sums[i] = sums[i] + column.value(row)


def _labels(table: Table) -> dict[int, str]:
    """Return, for rows with a text that speaks of a total, that text."""
    found: dict[int, str] = {}
    for column in table.columns:
        lane = column.lanes.get(Kind.TEXT)
        if not isinstance(lane, TextLane):
            continue
        hints = _speaking_of_total(lane.folded)
        if not len(hints):
            continue
        rows = np.isin(lane.values, hints)
        if column.states is not None:
            rows &= column.states == Kind.TEXT
        for row in np.flatnonzero(rows).tolist():
            found.setdefault(row, str(column.cell(row)))
    return found


def _speaking_of_total(texts: Sequence[str]) -> Array:
    """Return which of the folded texts speak of a total, ascending; found in one search."""
    whole = "\n".join(texts)
    places = [found.start() for found in _TOTAL.finditer(whole)]
    if not places:
        return np.empty(0, dtype=np.intp)
    ends = np.cumsum([len(text) + 1 for text in texts])
    return np.unique(np.searchsorted(ends, places, side="right"))
