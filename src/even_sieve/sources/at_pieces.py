"""What workers do with the pieces of a table that they have."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from typing import Any

from even_sieve.core.notices import each_once
from even_sieve.core.table import Column, Table
from even_sieve.core.table.build import of_kinds_held
from even_sieve.core.table.far import array_of
from even_sieve.core.table.growing import join_columns
from even_sieve.core.table.joined import Part, blanks
from even_sieve.core.table.lanes import Array
from even_sieve.core.table.sketch import Sketch, sketched, stored_as, with_facts
from even_sieve.sources.travel import Names, pack, unpack, unpack_work
from even_sieve.sources.workers import read_again

#: The file of a piece, and where the piece is in what the task gave that read it.
_At = tuple[str, tuple[int, int]]


def read_column(parts: Any, at: _At, place: int) -> Column:
    """Return a column of a piece as it was read."""
    return _table(parts, at).columns[place]


def _table(parts: Any, at: _At) -> Table:
    path, (thing, number) = at
    part: Part = read_again(parts, path)[thing][number]
    return part.table


def settled_piece(
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


def column_of(columns: Sequence[Column], place: int) -> Column:
    """Return a column of a piece."""
    return columns[place]


def some_of(columns: Sequence[Column | None], place: int, what: object, rows: Array) -> Array:
    """Return what an array of a column of a piece holds for some rows."""
    column = columns[place]
    if column is None:
        raise LookupError(f"column {place} is not here")
    found: Array = array_of(column, what)[rows]
    return found


#: Work as it travels, and the sketches of the columns that it names, by their places.
_Sent = tuple[tuple[bytes, bytes], Mapping[int, Sketch]]
#: Columns that were made: the place of each, the list that it is in, and its number there.
_More = Sequence[tuple[int, Sequence[Column], int]]


def gone_through(
    columns: Sequence[Column | None],
    more: _More,
    sent: _Sent,
    long: Sequence[Array],
    first: int,
    length: int,
) -> bytes:
    """Return what comes of work on the rows of a piece, packed."""
    work, names = _work_at(columns, more, sent, long)
    return pack(work(0, length, first), names)


def columns_made(
    columns: Sequence[Column | None],
    more: _More,
    sent: _Sent,
    long: Sequence[Array],
    _first: int,
    length: int,
) -> Sequence[Column]:
    """Return the columns that work makes of the rows of a piece."""
    make, _ = _work_at(columns, more, sent, long)
    return [*map(of_kinds_held, make(length))]


def _work_at(
    columns: Sequence[Column | None], more: _More, sent: _Sent, long: Sequence[Array]
) -> tuple[Any, Names]:
    """Return work that was sent, made of what a piece has, and the names of that."""
    at = {place: made[number] for place, made, number in more}
    every = {place: at[place] if place in at else columns[place] for place in sent[1]}
    names = _names(every, sent[1], long)
    return unpack_work(sent[0], names), names


def sketches_of(made: Sequence[Column]) -> list[Sketch | None]:
    """Return what is told of columns that were made."""
    return [sketched(each) for each in made]


def stored_pieces(made: Sequence[Column], sketches: Sequence[Sketch]) -> list[Column]:
    """Return columns that were made, stored as those of all rows are."""
    return [*map(stored_as, sketches, made)]


def joined_once(name: str, columns: Sequence[Column]) -> Column:
    """Return columns that were made in pieces as one; what all tell is told once."""
    joined = join_columns(name, columns)
    told = (each for column in (*columns, joined) for each in column.notices)
    return replace(joined, notices=each_once(tuple(told)))


def _names(
    columns: Mapping[int, Column | None], sketches: Mapping[int, Sketch], long: Sequence[Array] = ()
) -> Names:
    known = {
        place: with_facts(sketches[place], column)
        for place, column in columns.items()
        if column is not None
    }
    return Names.there(known, long)


def brought_together(
    together: Callable[[Any, Any], Any],
    results: Sequence[bytes],
    sent: _Sent,
) -> bytes:
    """Return several results as one, packed."""
    names = _names({place: each.column for place, each in sent[1].items()}, sent[1])
    found = unpack(results[0], names)
    for each in results[1:]:
        found = together(found, unpack(each, names))
    return pack(found, names)
