"""A column that grows piece by piece, as if all of its cells had come at once.

A cell stays what it is: numbers of different scales come to one, days among times become
midnights, texts share their spellings, first met first. The lanes are made for all rows that may
come, and filled in place.
"""

from collections.abc import Callable, Iterable, Sequence
from dataclasses import replace
from datetime import date
from typing import Any, Protocol

import numpy as np

from even_sieve.core.cells import Kind
from even_sieve.core.cells.dates import DAY
from even_sieve.core.cells.written import PLAIN
from even_sieve.core.table.arrays import full, spans, widened, zeros
from even_sieve.core.table.build import assemble
from even_sieve.core.table.coded_lanes import error_lane, text_lane
from even_sieve.core.table.columns import Column
from even_sieve.core.table.growing_numbers import Numbers
from even_sieve.core.table.lanes import (
    Array,
    DateLane,
    Lane,
    YesNoLane,
    narrowest,
)


class Growing:
    """One column while its pieces come in; `most` is how many rows may come.

    `texts` is what keeps its texts, if not what is usual.

    >>> from even_sieve.core.table import column_from
    >>> grown = Growing("dues", 3)
    >>> for cells in ([120], [80.5, "-"]):
    ...     grown.add(column_from("dues", cells))
    >>> list(grown.column().cells())
    [120.0, 80.5, '-']
    """

    def __init__(
        self, name: str, most: int, texts: "Callable[[int], _Store] | None" = None
    ) -> None:
        self._name, self._most, self._end, self._trimmed = name, most, 0, 0
        self._begin = _STORES if texts is None else {**_STORES, Kind.TEXT: texts}
        self._states: Array | None = None
        self._only: Kind | None = None
        self._stores: dict[Kind, _Store] = {}
        self._conventions = PLAIN
        self._zeros: set[date | None] = set()
        self._shown: set[str] = set()

    def add(self, column: Column) -> None:
        """Take in the next rows."""
        start, self._end = self._end, self._end + column.length
        if not column.length:
            return
        self._put_states(column, start)
        for kind, lane in column.lanes.items():
            if kind not in self._stores:
                self._stores[kind] = self._begin[kind](self._most)
            self._stores[kind].put(lane, start)
        self._trimmed += column.trimmed
        if self._conventions == PLAIN:
            self._conventions = replace(column.conventions, day_zero=PLAIN.day_zero)
        if Kind.NUMBER in column.lanes:
            self._shown.add(column.shown)
            self._zeros.add(column.conventions.day_zero)

    def _put_states(self, column: Column, start: int) -> None:
        """Keep what kind each cell is of; of cells that are all of one, that one."""
        only = column.only_kind if column.states is None else None
        if self._states is None:
            if only is not None and self._only in (None, only):
                self._only = only
                return
            self._states = zeros(self._most, np.uint8)
            if self._only is not None:
                self._states[:start] = self._only
        self._states[start : self._end] = only if column.states is None else column.states

    def gathered(self) -> tuple[dict[Kind, Lane], Array]:
        """Return the lanes of all rows, and what kind each cell is of."""
        lanes, states = self._gathered()
        if states is None:
            states = full(self._end, self._only or Kind.BLANK, np.uint8)
        return lanes, states

    def _gathered(self) -> tuple[dict[Kind, Lane], Array | None]:
        end = self._end
        lanes = {kind: self._stores[kind].lane(end) for kind in Kind if kind in self._stores}
        return lanes, None if self._states is None else self._states[:end]

    def column(self) -> Column:
        """Return the column of all rows; its notices are new ones alone."""
        lanes, states = self._gathered()
        if len(lanes) != 1:
            lanes, states = self.gathered()
        made = assemble(self._name, self._end, lanes, states)
        shown = next(iter(self._shown)) if len(self._shown) == 1 else ""
        zero = next(iter(self._zeros)) if len(self._zeros) == 1 else None
        conventions = replace(self._conventions, day_zero=zero if self._zeros else PLAIN.day_zero)
        return replace(made, trimmed=self._trimmed, conventions=conventions, shown=shown)


class _Dates:
    """Days, or microseconds from the first piece with a time on."""

    def __init__(self, most: int) -> None:
        self._values, self._end, self._timed = zeros(most, np.int32), 0, False

    def put(self, lane: Any, start: int) -> None:
        """Put the lane of the rows from `start` on."""
        if lane.has_time and not self._timed:
            values = zeros(len(self._values), np.int64)
            for rows in spans(self._end):
                np.multiply(self._values[rows], DAY, out=values[rows], dtype=np.int64)
            self._values, self._timed = values, True
        self._end = start + len(lane.values)
        unit = DAY if self._timed and not lane.has_time else 1
        own = self._values[start : self._end]
        np.multiply(lane.values, unit, out=own, dtype=own.dtype)

    def lane(self, end: int) -> Lane:
        """Return the lane of all rows."""
        return DateLane(self._values[:end], self._timed)


class Coded:
    """Texts, or errors, as numbers in the order first met."""

    def __init__(
        self, most: int, words: Callable[[Any], Iterable[Any]], make: Callable[[Any, Array], Lane]
    ) -> None:
        self._words, self._make = words, make
        self._numbers: dict[Any, int] = {}
        self._codes, self._end = zeros(most, np.uint8), 0

    def put(self, lane: Any, start: int) -> None:
        """Put the lane of the rows from `start` on."""
        numbers = self._numbers
        own = [numbers.setdefault(each, len(numbers)) for each in self._words(lane)]
        kind = narrowest(len(numbers))
        if kind.itemsize > self._codes.itemsize:
            self._codes = widened(self._codes, kind, self._end)
        self._end = start + len(lane.codes)
        numbering = np.array(own or [0], dtype=self._codes.dtype)
        np.take(numbering, lane.codes, out=self._codes[start : self._end], mode="clip")

    @property
    def count(self) -> int:
        """How many different ones there are."""
        return len(self._numbers)

    def taken(self) -> tuple[list[Any], Array]:
        """Return the different ones, and the numbers of all rows so far, to go on with."""
        return list(self._numbers), self._codes

    def lane(self, end: int) -> Lane:
        """Return the lane of all rows."""
        return self._make(list(self._numbers), self._codes[:end])


def few_texts(most: int) -> Coded:
    """Return what keeps texts of which few are different."""
    return Coded(most, lambda lane: lane.spellings, text_lane)


class _Store(Protocol):
    """What keeps the cells of one kind."""

    def put(self, lane: Any, start: int) -> None:
        """Put the lane of the rows from `start` on."""

    def lane(self, end: int) -> Lane:
        """Return the lane of all rows."""


class _YesNo:
    """Yes and no."""

    def __init__(self, most: int) -> None:
        self._values = zeros(most, np.bool_)

    def put(self, lane: Any, start: int) -> None:
        """Put the lane of the rows from `start` on."""
        self._values[start : start + len(lane.values)] = lane.values

    def lane(self, end: int) -> Lane:
        """Return the lane of all rows."""
        return YesNoLane(self._values[:end])


_STORES: dict[Kind, Callable[[int], _Store]] = {
    Kind.NUMBER: Numbers,
    Kind.DATE: _Dates,
    Kind.TEXT: few_texts,
    Kind.YES_NO: _YesNo,
    Kind.ERROR: lambda most: Coded(most, lambda lane: lane.errors, error_lane),
}


def join_columns(name: str, columns: Sequence[Column]) -> Column:
    """Return the cells of all columns, in order, as one column; its notices are new ones alone."""
    grown = Growing(name, sum(column.length for column in columns))
    for column in columns:
        grown.add(column)
    return grown.column()
