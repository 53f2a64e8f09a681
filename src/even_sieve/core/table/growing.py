"""A column that grows piece by piece, as if all of its cells had come at once.

A cell stays what it is: numbers of different scales come to one, days among times become
midnights, texts share their spellings, first met first. The lanes are made for all rows that may
come, and filled in place.
"""

from collections.abc import Callable, Iterable, Sequence
from dataclasses import replace
from fractions import Fraction
from typing import Any, Protocol

import numpy as np

from even_sieve.core.cells import Kind
from even_sieve.core.cells.dates import DAY
from even_sieve.core.cells.written import PLAIN
from even_sieve.core.table.arrays import full, spans, zeros
from even_sieve.core.table.build import assemble
from even_sieve.core.table.coded_lanes import error_lane, text_lane
from even_sieve.core.table.columns import Column
from even_sieve.core.table.lanes import (
    Array,
    DateLane,
    FixedLane,
    FloatLane,
    Lane,
    YesNoLane,
    narrowest,
)
from even_sieve.core.table.shortest import shortest_decimals

_INT64 = 2**63 - 1
#: Up to here whole numbers are doubles, and so are the powers of ten of every scale.
_MOST_EXACT = 2**53


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
            self._conventions = column.conventions
        if Kind.NUMBER in column.lanes:
            self._shown.add(column.shown)

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

    def column(self) -> Column:
        """Return the column of all rows; its notices are new ones alone."""
        end = self._end
        lanes = {kind: self._stores[kind].lane(end) for kind in Kind if kind in self._stores}
        states = None if self._states is None else self._states[:end]
        if states is None and len(lanes) != 1:
            states = full(end, Kind.BLANK, np.uint8)
        made = assemble(self._name, end, lanes, states)
        shown = next(iter(self._shown)) if len(self._shown) == 1 else ""
        return replace(made, trimmed=self._trimmed, conventions=self._conventions, shown=shown)


class _Numbers:
    """Decimals of one scale as long as they go into whole numbers; else doubles."""

    def __init__(self, most: int) -> None:
        self._values = zeros(most, np.int64)
        self._end, self._scale, self._bound = 0, 0, 0
        self._fixed = True
        self._given: tuple[Array, Array] | None = None
        self._lost = ""

    def put(self, lane: Any, start: int) -> None:
        """Put the lane of the rows from `start` on."""
        if self._fixed and not (isinstance(lane, FixedLane) and self._scaled(lane)):
            self._to_doubles(lane)
        rows = slice(start, start + len(lane.values))
        if self._fixed:
            self._put_scaled(lane, rows)
        else:
            self._values[rows] = _doubles(lane)
            self._put_given(lane, rows)
            self._lost = self._lost or getattr(lane, "lost", "")
        self._end = rows.stop

    def _put_scaled(self, lane: FixedLane, rows: slice) -> None:
        if lane.scale == self._scale:
            self._values[rows] = lane.values
        else:
            np.multiply(lane.values, 10 ** (self._scale - lane.scale), out=self._values[rows])

    def _scaled(self, lane: FixedLane) -> bool:
        """Bring what is here to the scale of both; False where that does not go."""
        scale = max(self._scale, lane.scale)
        here = self._bound * 10 ** (scale - self._scale)
        bound = max(here, lane.bound * 10 ** (scale - lane.scale))
        if bound > _INT64:
            return False
        if scale > self._scale and self._bound:
            for rows in spans(self._end):
                self._values[rows] *= 10 ** (scale - self._scale)
        self._scale, self._bound = scale, bound
        return True

    def _to_doubles(self, lane: Any) -> None:
        """Go on as doubles, with the decimals that they were written as."""
        values = zeros(len(self._values), np.float64)
        if self._end:
            self._begin_given()
        for rows in spans(self._end):
            own = FixedLane(self._values[rows], self._scale)
            values[rows] = _doubles(own)
            self._put_given(own, rows)
        self._values, self._fixed = values, False

    def _begin_given(self) -> None:
        most = len(self._values)
        self._given = zeros(most, np.int64), zeros(most, np.int16)

    def _put_given(self, lane: Any, rows: slice) -> None:
        """Keep how numbers were written, from the first on that their doubles do not tell."""
        if self._given is None:
            if isinstance(lane, FloatLane) and lane.given is None:
                return
            self._begin_given()
            for before in spans(rows.start):
                self._keep(shortest_decimals(self._values[before]), before)
        if isinstance(lane, FixedLane):
            self._keep((lane.values, lane.scale), rows)
        else:
            self._keep(lane.given or shortest_decimals(lane.values), rows)

    def _keep(self, given: tuple[Any, Any], rows: slice) -> None:
        if self._given is not None:
            self._given[0][rows], self._given[1][rows] = given

    def lane(self, end: int) -> Lane:
        """Return the lane of all rows."""
        values = self._values[:end]
        if self._fixed:
            return FixedLane(values, self._scale)
        given = None if self._given is None else (self._given[0][:end], self._given[1][:end])
        return FloatLane(values, given, self._lost)


def _doubles(lane: FixedLane | FloatLane) -> Array:
    """Return the nearest doubles of a lane's numbers."""
    if isinstance(lane, FloatLane):
        return lane.values
    found: Array = lane.values / 10.0**lane.scale
    long = np.flatnonzero(np.abs(lane.values) >= _MOST_EXACT)
    found[long] = [float(Fraction(each, 10**lane.scale)) for each in lane.values[long].tolist()]
    return found


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
            wide = zeros(len(self._codes), kind)
            for rows in spans(self._end):
                wide[rows] = self._codes[rows]
            self._codes = wide
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
    Kind.NUMBER: _Numbers,
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
