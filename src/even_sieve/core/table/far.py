"""Tables whose rows stand elsewhere, in pieces: what is known of their columns is here.

A sketch of a column holds a few cells that have all that is told of the whole: its kinds, the
ends and the scale of its numbers, its different texts in the order first met. Sketches of pieces
are joined by the very code that joins columns, so that a column of far rows is stored, row by
row, as the column of all rows would be.
"""

from collections.abc import Callable, Sequence
from dataclasses import replace
from functools import partial
from threading import Lock
from typing import Any, Protocol, cast

from even_sieve.core.cells import Kind
from even_sieve.core.table.columns import Column
from even_sieve.core.table.far_arrays import FarArray
from even_sieve.core.table.lanes import (
    Array,
    FloatLane,
    Lane,
    changed,
)
from even_sieve.core.table.sketch import Sketch, refuse_unlike, with_facts
from even_sieve.core.table.table import Table


class Work(Protocol):
    """What is done with a stretch of rows, wherever these stand."""

    def __call__(self, start: int, stop: int, first: int) -> Any:
        """Do it with rows from `start` up to `stop` of what is there.

        `first` is the place in the whole table of the first row that is there.
        """


class MakesColumns(Protocol):
    """What makes columns of the rows that are there, each cell of its own row alone."""

    def __call__(self, length: int) -> Sequence[Column]:
        """Return the columns of so many rows: all that there are."""


class Elsewhere(Protocol):
    """The pieces of a table where they stand."""

    @property
    def count(self) -> int:
        """How many pieces there are."""

    def beside(self, others: Sequence[Any]) -> "Elsewhere | None":
        """Return these pieces and, after them, others that stand in the same place.

        None where that does not go: then all rows are brought here.
        """

    def settled(self, sketches: Sequence[Sketch | None]) -> "Elsewhere":
        """Have each piece store its columns as the whole table does."""

    def column(self, place: int) -> Column:
        """Return a column of all rows, brought here."""

    def some(self, key: tuple[int, object], rows: Array) -> Array:
        """Return what the array of a key (see `array_of`) holds for some rows."""

    def made(
        self,
        table: Table | None,
        work: "MakesColumns",
        arrays: tuple[Sequence[Array], Sequence[Array]],
    ) -> "list[tuple[Sketch, int, object]] | None":
        """Have columns made of the rows of each piece, and kept there; None: it is done here.

        Each comes with its place after those of the table, and with what is to be held as long
        as anybody asks for it. `arrays` are as those of `run`.
        """

    def run(
        self,
        table: Table | None,
        work: Work,
        together: Callable[[Any, Any], Any],
        arrays: tuple[Sequence[Array], Sequence[Array]],
        took: Callable[[int], None],
    ) -> Any:
        """Return what comes of work on each piece, brought together; None: it is done here.

        `arrays` are those of the work with a value a row, beside those of the table's columns, and
        those with a value for each of something else; `took` is told of rows that are done.
        """


def far_table(table: Table) -> Table:
    """Return a table, its columns that have a sketch as columns of far rows."""
    sketches = [column.sketch for column in table.columns]
    if table.elsewhere is None or not any(sketches):
        return replace(table, elsewhere=None)
    there: Elsewhere = table.elsewhere.settled(sketches)
    columns = tuple(
        column if sketch is None else _far_column(column.length, sketch, place, there)
        for place, (column, sketch) in enumerate(zip(table.columns, sketches, strict=True))
    )
    return replace(table, columns=columns, elsewhere=there)


def made_where_rows_are(
    table: Table, work: MakesColumns, whole: Sequence[Array] = ()
) -> Sequence[Column]:
    """Return the columns that work makes of the rows of a table, wherever these stand.

    `whole` are arrays that it has with a value for something else than a row.

    >>> from even_sieve.core.table import column_from, table_from_columns
    >>> calls = table_from_columns({"dues": [120, 80.5]})
    >>> list(made_where_rows_are(calls, lambda length: calls.columns)[0].cells())
    [120.0, 80.5]
    """
    there = table.elsewhere
    made = None if there is None else there.made(table, work, ((), whole))
    if there is None or made is None:
        return work(table.length)
    return [_far_column(table.length, *each[:2], there, each[2]) for each in made]


def column_of_codes(codes: Array, make: Callable[[Array], Column]) -> Column:
    """Return the column that is made of a code a row, wherever the rows stand."""
    if isinstance(codes, FarArray) and not codes.is_here:
        there: Elsewhere = codes.there
        made = there.made(None, partial(_made_of_codes, make, codes), ((codes,), ()))
        if made is not None:
            ((sketch, place, held),) = made
            return _far_column(len(codes), sketch, place, there, held)
    return make(codes)


def _made_of_codes(make: Callable[[Array], Column], codes: Array, _length: int) -> list[Column]:
    return [make(codes)]


def of_rows(column: Column, length: int) -> Column:
    """Return a column as one of the rows that are here.

    With work that travelled it tells of itself what is true of all rows.
    """
    return column if column.length == length else replace(column, length=length)


def array_of(column: Column, what: object) -> Array:
    """Return an array of a column: what its lane of a kind stores, or the `states`."""
    found = column.states if what == "states" else column.lanes[cast(Kind, what)].values
    return cast(Array, found)


def named_arrays(column: Column) -> list[tuple[object, Array]]:
    """Return the arrays of a value a row that a column has, each with what it is called."""
    found: list[tuple[object, Array]] = [(k, lane.values) for k, lane in column.lanes.items()]
    for lane in column.lanes.values():
        if isinstance(lane, FloatLane) and lane.given is not None:
            found += [("whole", lane.given[0]), ("decimals", lane.given[1])]
    return found if column.states is None else [*found, ("states", column.states)]


def _far_column(
    length: int, sketch: Sketch, place: int, there: Elsewhere, held: object = None
) -> Column:
    """Return the column that a sketch tells of; it holds what is `held` as long as it is there."""
    small = sketch.column
    whole = _Once(lambda: _brought(there.column(place), small))

    def far(stored: Array, what: object) -> Array:
        made = FarArray(
            length,
            stored.dtype,
            lambda: array_of(whole(), what),
            lambda rows: there.some((place, what), rows),
            (there, place, what),
        )
        made.held = held
        return cast(Array, made)

    def lane_of(kind: Kind, lane: Lane) -> Lane:
        return changed(lane, lambda stored: far(stored, kind))

    lanes = {kind: lane_of(kind, lane) for kind, lane in small.lanes.items()}
    states = None if small.states is None else far(small.states, "states")
    return with_facts(sketch, replace(small, length=length, lanes=lanes, states=states))


def _brought(found: Column, known: Column) -> Column:
    refuse_unlike(known, found)
    return found


class _Once:
    """What is made once, whoever asks for it first."""

    def __init__(self, make: Callable[[], Column]) -> None:
        self._make, self._made, self._lock = make, cast(Column | None, None), Lock()

    def __call__(self) -> Column:
        with self._lock:
            if self._made is None:
                self._made = self._make()
            return self._made
