"""Rows that stay with the workers who read them: passes go there, and states come back."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import partial
from itertools import accumulate, count
from typing import Any
from weakref import WeakValueDictionary

import numpy as np

from even_sieve.core.progress import Steps
from even_sieve.core.table import Column, Table
from even_sieve.core.table.far import MakesColumns, Work
from even_sieve.core.table.growing import join_columns
from even_sieve.core.table.lanes import Array
from even_sieve.core.table.sketch import Sketch, joined_sketch
from even_sieve.sources.at_pieces import (
    brought_together,
    column_of,
    columns_made,
    gone_through,
    joined_once,
    read_column,
    settled_piece,
    sketches_of,
    some_of,
    stored_pieces,
)
from even_sieve.sources.travel import Names, StaysHere, pack_work, unpack
from even_sieve.sources.workers import Workers

#: So many results are brought together at a time.
_TOGETHER = 16


@dataclass(frozen=True)
class Piece:
    """Rows that a worker has: the task that read them, and where they are in what it gave."""

    length: int
    path: str
    task: Any = None
    place: tuple[int, int] = (0, 0)


@dataclass(eq=False)
class _Made:
    """A column that was made where the rows are: the tasks that have it, and which of theirs."""

    sketch: Sketch
    pieces: Sequence[Any]
    number: int


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
        self._made: WeakValueDictionary[int, _Made] = WeakValueDictionary()
        self._next = count(len(sketches))
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
            begin(settled_piece, each.task, (each.path, each.place), number, facts)
            for number, each in enumerate(self._pieces)
        ]
        return FarRows(
            self._workers, [Piece(each.length, each.path) for each in self._pieces], known, settled
        )

    def column(self, place: int) -> Column:
        """Return a column of all rows, brought here."""
        made = self._made.get(place)
        number = place if made is None else made.number
        of_pieces = self._settled if made is None else made.pieces
        begun = [self._workers.begin(column_of, each, number) for each in of_pieces]
        found = self._workers.results(begun)
        return join_columns(found[0].name, found)

    def as_read(self, place: int) -> Column:
        """Return a column of the only piece, brought here as it was read."""
        piece = self._pieces[0]
        (found,) = self._workers.results(
            [self._workers.begin(read_column, piece.task, (piece.path, piece.place), place)]
        )
        column: Column = found
        return column

    def some(self, key: tuple[int, object], rows: Array) -> Array:
        """Return what the array of a key holds for some rows."""
        which = np.searchsorted(self._starts, rows, side="right") - 1
        asked = np.unique(which).tolist()
        made = self._made.get(key[0])
        number, of_pieces = (key[0], self._settled) if made is None else (made.number, made.pieces)
        begun = [
            self._workers.begin(
                some_of, of_pieces[each], number, key[1], rows[which == each] - self._starts[each]
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
        walks, sent = self._begun(gone_through, packed, names)
        lengths = [each.length for each in self._pieces]
        found = walks
        while len(found) > 1:
            found = [
                self._workers.begin(brought_together, together, found[at : at + _TOGETHER], sent)
                for at in range(0, len(found), _TOGETHER)
            ]
        (result,) = self._workers.results(found, walks, lambda number: took(lengths[number]))
        return unpack(result, names)

    def _begun(
        self, do: Callable[..., Any], packed: tuple[bytes, bytes], names: Names
    ) -> tuple[list[Any], Any]:
        """Have packed work done on each piece; return the tasks, and the one that holds it."""
        # What was made is held from here on; what the work does not name is not sent.
        made = {each: own for each, own in self._made.items() if each in names.used}
        sketches = {each: own.sketch for each, own in made.items()}
        for place, sketch in enumerate(self._sketches):
            if sketch is not None and place in names.used:
                sketches[place] = sketch
        sent = self._workers.hold((packed, sketches))
        begun = []
        for piece, settled in enumerate(self._settled):
            at, length = self._starts[piece], self._pieces[piece].length
            more = [(place, own.pieces[piece], own.number) for place, own in made.items()]
            long = names.cut(at, at + length)
            begun.append(self._workers.begin(do, settled, more, sent, long, at, length))
        return begun, sent

    def made(
        self,
        table: Table | None,
        work: MakesColumns,
        arrays: tuple[Sequence[Array], Sequence[Array]],
    ) -> list[tuple[Sketch, int, object]] | None:
        """Have columns made of the rows of each piece, and kept there; None: it is done here."""
        names = Names.here(table, self, self._starts[-1], *arrays)
        try:
            packed = pack_work(work, names)
        except StaysHere:
            return None
        made, _ = self._begun(columns_made, packed, names)
        steps = Steps("making columns", self._starts[-1])
        told = self._workers.results(
            [self._workers.begin(sketches_of, each) for each in made],
            made,
            lambda number: steps.took(self._pieces[number].length),
        )
        sketches = [
            joined_sketch(own, partial(joined_once, own[0].column.name))
            for own in zip(*told, strict=True)
            if own[0] is not None
        ]
        known = [each for each in sketches if each is not None]
        if len(known) < len(told[0]):
            return None
        facts = self._workers.hold(known)
        pieces = [self._workers.begin(stored_pieces, each, facts) for each in made]
        kept = [_Made(sketch, pieces, number) for number, sketch in enumerate(known)]
        places = [next(self._next) for _ in kept]
        self._made.update(zip(places, kept, strict=True))
        return [(each.sketch, place, each) for each, place in zip(kept, places, strict=True)]


def _nowhere() -> None:
    return None
