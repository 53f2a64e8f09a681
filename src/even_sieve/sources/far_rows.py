"""Rows that stay with the workers who read them: passes go there, and states come back."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import accumulate
from typing import Any

import numpy as np

from even_sieve.core.table import Column, Table
from even_sieve.core.table.far import Work, array_of
from even_sieve.core.table.growing import join_columns
from even_sieve.core.table.joined import Part, blanks
from even_sieve.core.table.lanes import Array
from even_sieve.core.table.sketch import Sketch, stored_as, with_facts
from even_sieve.sources.travel import Names, StaysHere, pack, pack_work, unpack, unpack_work
from even_sieve.sources.workers import Workers, read_again

#: So many results are brought together at a time.
_TOGETHER = 16


@dataclass(frozen=True)
class Piece:
    """Rows that a worker has: the task that read them, and where they are in what it gave."""

    length: int
    path: str
    task: Any = None
    place: tuple[int, int] = (0, 0)


class FarRows:
    """The pieces of a table at the workers that read them; see `Elsewhere`."""

    def __init__(
        self,
        workers: Workers,
        pieces: Sequence[Piece],
        sketches: Sequence[Sketch | None] = (),
        settled: Sequence[Any] = (),
    ) -> None:
        self._workers, self._pieces, self._sketches = workers, pieces, sketches
        self._settled = settled
        self._starts = [0, *accumulate(each.length for each in pieces)]

    def __reduce__(self) -> tuple[Any, ...]:
        """Stay: a table that travels has its rows with it."""
        return _nowhere, ()

    @property
    def count(self) -> int:
        """How many pieces there are."""
        return len(self._pieces)

    def beside(self, others: "Sequence[FarRows]") -> "FarRows | None":
        """Return these pieces and, after them, others; None of those that are settled already."""
        every = [each for rows in (self, *others) for each in rows._pieces]
        return None if any(each.task is None for each in every) else FarRows(self._workers, every)

    def settled(self, sketches: Sequence[Sketch | None]) -> "FarRows":
        """Have each piece store its columns as the whole table does."""
        begin, known = self._workers.begin, [*sketches]
        facts = self._workers.hold(known)
        settled = [
            begin(_settled, each.task, (each.path, each.place), number, facts)
            for number, each in enumerate(self._pieces)
        ]
        return FarRows(
            self._workers, [Piece(each.length, each.path) for each in self._pieces], known, settled
        )

    def column(self, place: int) -> Column:
        """Return a column of all rows, brought here."""
        begun = [self._workers.begin(_column_of, each, place) for each in self._settled]
        found = self._workers.results(begun)
        return join_columns(found[0].name, found)

    def as_read(self, place: int) -> Column:
        """Return a column of the only piece, brought here as it was read."""
        piece = self._pieces[0]
        (found,) = self._workers.results(
            [self._workers.begin(_read_column, piece.task, (piece.path, piece.place), place)]
        )
        column: Column = found
        return column

    def some(self, key: tuple[int, object], rows: Array) -> Array:
        """Return what the array of a key holds for some rows."""
        which = np.searchsorted(self._starts, rows, side="right") - 1
        asked = np.unique(which).tolist()
        begun = [
            self._workers.begin(
                _some_of, self._settled[each], key, rows[which == each] - self._starts[each]
            )
            for each in asked
        ]
        found = self._workers.results(begun)
        every = np.empty(len(rows), dtype=found[0].dtype if found else np.int64)
        for each, own in zip(asked, found, strict=True):
            every[which == each] = own
        return every

    def run(
        self,
        table: Table | None,
        work: Work,
        together: Callable[[Any, Any], Any],
        arrays: tuple[Sequence[Array], Sequence[Array]],
        took: Callable[[int], None],
    ) -> Any:
        """Return what comes of work on each piece, brought together; None: it is done here."""
        names = Names.here(table, self, self._starts[-1], *arrays)
        try:
            packed = pack_work(work, names)
        except StaysHere:
            return None
        sent = self._workers.hold((packed, self._sketches))
        lengths = [each.length for each in self._pieces]
        walks = [
            self._workers.begin(_gone_through, own, sent, names.cut(at, at + size), at, size)
            for own, at, size in zip(self._settled, self._starts[:-1], lengths, strict=True)
        ]
        found = walks
        while len(found) > 1:
            found = [
                self._workers.begin(_brought_together, together, found[at : at + _TOGETHER], sent)
                for at in range(0, len(found), _TOGETHER)
            ]
        (result,) = self._workers.results(found, walks, lambda number: took(lengths[number]))
        return unpack(result, names)


def _nowhere() -> None:
    return None


#: The file of a piece, and where the piece is in what the task gave that read it.
_At = tuple[str, tuple[int, int]]


def _read_column(parts: Any, at: _At, place: int) -> Column:
    return _table(parts, at).columns[place]


def _table(parts: Any, at: _At) -> Table:
    path, (thing, number) = at
    part: Part = read_again(parts, path)[thing][number]
    return part.table


def _settled(
    parts: Any, at: _At, number: int, facts: Sequence[Sketch | None]
) -> list[Column | None]:
    """Return the columns of a piece, stored as the whole table stores them."""
    table = _table(parts, at)
    columns: list[Column | None] = []
    for sketch in facts:
        if sketch is None:
            columns.append(None)
            continue
        place = sketch.places[number]
        own = blanks("", table.length) if place is None else table.columns[place]
        columns.append(stored_as(sketch, own))
    return columns


def _column_of(columns: Sequence[Column], place: int) -> Column:
    return columns[place]


def _some_of(columns: Sequence[Column | None], key: tuple[int, object], rows: Array) -> Array:
    column = columns[key[0]]
    if column is None:
        raise LookupError(f"column {key[0]} is not here")
    found: Array = array_of(column, key[1])[rows]
    return found


def _gone_through(
    columns: Sequence[Column | None],
    sent: tuple[tuple[bytes, bytes], Sequence[Sketch | None]],
    long: Sequence[Array],
    first: int,
    length: int,
) -> bytes:
    """Return what comes of work on the rows of a piece, packed."""
    names = _names(columns, sent[1], long)
    work = unpack_work(sent[0], names)
    return pack(work(0, length, first), names)


def _names(
    columns: Sequence[Column | None], sketches: Sequence[Sketch | None], long: Sequence[Array] = ()
) -> Names:
    return Names.there([*map(_as_whole, columns, sketches)], long)


def _as_whole(column: Column | None, sketch: Sketch | None) -> Column | None:
    return None if column is None or sketch is None else with_facts(sketch, column)


def _brought_together(
    together: Callable[[Any, Any], Any],
    results: Sequence[bytes],
    sent: tuple[tuple[bytes, bytes], Sequence[Sketch | None]],
) -> bytes:
    """Return several results as one, packed."""
    columns = [None if each is None else each.column for each in sent[1]]
    names = _names(columns, sent[1])
    found = unpack(results[0], names)
    for each in results[1:]:
        found = together(found, unpack(each, names))
    return pack(found, names)
