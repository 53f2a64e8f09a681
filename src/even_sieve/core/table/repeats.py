"""Suspected subtotals: rows whose numbers equal the sum of the run above them.

A search by arithmetic. A row is suspected if, in most of the columns of numbers that it
fills, its number is the sum of a run of rows that ends just above it: the rows since the
last suspected row, or, one level up, the suspected rows since the last one of that level.
Rounding of each number to its column's decimals is allowed for.
"""

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import chain
from typing import Any

import numpy as np

from even_sieve.core.cells import CellError, Kind
from even_sieve.core.table.lanes import Array
from even_sieve.core.table.marks import Mark
from even_sieve.core.table.summed_numbers import ROUNDING, Numbers
from even_sieve.core.table.table import Table
from even_sieve.core.table.total_labels import labels_of_totals
from even_sieve.core.table.totals import Misfit, Suspect, Totals

#: A suspect without a label is sure if chance would make fewer than so many in the table.
_CHANCE = 0.01
_MOST_LEVELS = 4
#: So many rows are looked at together, twice as many each time that none is found.
_FIRST_LOOK, _LONGEST_LOOK = 1 << 6, 1 << 16


def find_subtotals(table: Table) -> tuple[Suspect, ...]:
    """Return the rows that look like subtotals of rows above them, in order: see `find_totals`."""
    return find_totals(table).suspects


def find_totals(table: Table) -> Totals:
    """Return the rows that look like totals of rows above them, each judged by itself.

    Rows whose text speaks of a total are tried first, rounding allowed for; those that do not
    add up are told beside. If none of these is a sum, every row is tried: it must then be the
    exact sum of at least two rows, in at least two columns, or in the one that the table has.
    Of several sources each is searched by itself: a total stands below rows of its own.
    """
    if table.origins is None:
        return _totals_in(table)
    return _totals_of_runs(table, table.origins.runs)


def unmarked_totals(table: Table) -> Totals:
    """Return the totals as `find_totals` does, of sources in which no row is marked as one."""
    marks = table.marks
    runs = ((0, table.length),) if table.origins is None else table.origins.runs
    if marks is not None:
        runs = tuple(run for run in runs if not (marks[slice(*run)] & Mark.SUBTOTAL).any())
    return _totals_of_runs(table, runs)


def _totals_of_runs(table: Table, runs: Sequence[tuple[int, int]]) -> Totals:
    if runs == ((0, table.length),):
        return _totals_in(table)
    found = [_totals_in(table.take(np.arange(*run))).from_row(run[0]) for run in runs]
    return Totals(
        tuple(suspect for each in found for suspect in each.suspects),
        tuple(misfit for each in found for misfit in each.misfits),
    )


@np.errstate(over="ignore", invalid="ignore")  # sums beyond any double are sums of no row
def _totals_in(table: Table) -> Totals:
    columns = [Numbers.of(column) for column in table.columns if Kind.NUMBER in column.counts]
    if not columns:
        return Totals()
    labels = labels_of_totals(table)
    search = _Search(columns, exact=False)
    looked = [(row, search.look(row, labels[row])) for row in search.these_rows(sorted(labels))]
    suspects = tuple(each for _, each in looked if isinstance(each, Suspect))
    misfits = tuple(
        misfit
        for _, each in looked
        if isinstance(each, _Open) and (misfit := each.misfit(table, labels)) is not None
    )
    if suspects:
        return Totals(suspects, misfits)
    return Totals(_without_labels(columns, table.length), misfits)


def _without_labels(columns: "Sequence[Numbers]", length: int) -> tuple[Suspect, ...]:
    """Return the suspects among all rows, with a word on whether each is sure."""
    search = _Search(columns, exact=True)
    found = []
    units: dict[str, float] = {}
    for row in search.any_rows(length):
        suspect = search.look(row, None)
        if isinstance(suspect, Suspect):
            chance, agreeing = float(length), frozenset(suspect.columns)
            for column in columns:
                if column.name in agreeing:
                    if column.name not in units:
                        units[column.name] = column.unit()
                    chance /= max(abs(column.value(row)) / units[column.name], 1.0)
            found.append(replace(suspect, sure=chance < _CHANCE))
    return tuple(found)


@dataclass(frozen=True)
class _Open:
    """A labelled row that is no sum: where its run begins, and what that gives by column."""

    row: int
    first: int
    sums: "tuple[tuple[Numbers, Any], ...]"

    def misfit(self, table: Table, labels: dict[int, str]) -> Misfit | None:
        """Return what does not fit: the first column that is off, or holds an error."""
        if self.first >= self.row:
            return None
        for numbers, total in self.sums:
            column = table.column(numbers.name)
            cell = column.cell(self.row)
            if isinstance(cell, CellError) or (total and numbers.value(self.row)):
                gives = numbers.shown(total)
                return Misfit(self.row, labels[self.row], numbers.name, cell, gives, self.first)
        return None


class _Rows:
    """Rows that ascend, kept as the runs that they make."""

    def __init__(self) -> None:
        self._runs: list[range] = []
        self._count = 0

    def __len__(self) -> int:
        return self._count

    def __iter__(self) -> Iterator[int]:
        return chain.from_iterable(self._runs)

    def add(self, run: range) -> None:
        """Take in rows that come after all of these."""
        self._count += len(run)
        if self._runs and self._runs[-1].stop == run.start:
            run = range(self._runs.pop().start, run.stop)
        self._runs.append(run)


class _Search:
    """Goes down the rows with a stack of levels, each the rows since its last total."""

    def __init__(self, columns: Sequence[Numbers], *, exact: bool) -> None:
        self.columns, self.exact = columns, exact
        self.levels = [_Rows() for _ in range(_MOST_LEVELS)]
        self.sums: list[list[Any]] = [[0] * len(columns) for _ in self.levels]
        #: The rows since the last labelled row that was no sum, and what they give.
        self.since: tuple[int, list[Any]] = (0, [0] * len(columns))

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
                values, sums = column.between(start, stop), self.sums[level][i]
                if level == 0:
                    sums = column.sums_before(start, stop, sums)[:-1]
                near = np.abs(values - sums) <= self._allowed(column, values, counts)
                agreeing += (near & (values != 0) & (sums != 0)).astype(np.int64)
                filled += (values != 0).astype(np.int64)
            enough = (counts >= 2) & (agreeing >= min(2, len(self.columns)))
            found |= enough & (2 * agreeing > filled)
        return found

    def _allowed(self, column: Numbers, values: Any, count: Any) -> Any:
        """Return how far sums of so many rows may lie from these values."""
        if column.whole:
            return 0 if self.exact else column.tolerance * (count + 1)
        return (column.tolerance + np.abs(values) * ROUNDING) * (count + 1)

    def look(self, row: int, label: str | None) -> "Suspect | _Open | None":
        """Return the row as a suspect or, with a label, as one that is no sum.

        What is no sum is taken in as a record; the next total may also add up from there.
        """
        for level, rows in enumerate(self.levels):
            agreeing = self._agreeing(row, self.sums[level], len(rows))
            if rows and self._convincing(row, agreeing, len(rows), label):
                return self._suspect(row, tuple(rows), agreeing, label, level)
        first, sums = self.since
        run = tuple(range(first, row))
        agreeing = self._agreeing(row, sums, len(run))
        if label is not None and run and self._convincing(row, agreeing, len(run), label):
            return self._suspect(row, run, agreeing, label, 0)
        found = _Open(row, first, tuple(zip(self.columns, sums, strict=True)))
        self._take(row, row + 1)
        if label is None:
            return None
        self.since = row + 1, [0] * len(self.columns)
        return found

    def _suspect(
        self, row: int, rows: tuple[int, ...], agreeing: list[int], label: str | None, level: int
    ) -> Suspect:
        self._close(row, level)
        self.since = row + 1, [0] * len(self.columns)
        return Suspect(row, rows, tuple(self.columns[i].name for i in agreeing), label)

    def _take(self, start: int, stop: int) -> None:
        """Take rows in as records."""
        if start < stop:
            self.levels[0].add(range(start, stop))
            self.sums[0], since = (
                [
                    column.sum_after(start, stop, before)
                    for column, before in zip(self.columns, sums, strict=True)
                ]
                for sums in (self.sums[0], self.since[1])
            )
            self.since = self.since[0], since

    def _agreeing(self, row: int, sums: Sequence[Any], count: int) -> list[int]:
        found = []
        for i, column in enumerate(self.columns):
            value, total = column.value(row), sums[i]
            if value and total and abs(value - total) <= self._allowed(column, value, count):
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
            self.levels[lower] = _Rows()
            self.sums[lower] = [0] * len(self.columns)
        if level + 1 < _MOST_LEVELS:
            self.levels[level + 1].add(range(row, row + 1))
            sums = self.sums[level + 1]
            for i, column in enumerate(self.columns):
                sums[i] = sums[i] + column.value(row)
