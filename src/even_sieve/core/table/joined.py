"""Tables one below the other, as if they had been read as one; each row keeps its source."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from functools import partial
from typing import cast

import numpy as np

from even_sieve.core.cells import Kind
from even_sieve.core.errors import CallError, DuplicateColumn, UnlikeSources, closest, listed
from even_sieve.core.notices import Notice, counted, each_once
from even_sieve.core.table.arrays import pick, spans, zeros
from even_sieve.core.table.build import assemble
from even_sieve.core.table.coded_lanes import text_lane
from even_sieve.core.table.columns import Column
from even_sieve.core.table.far import Elsewhere
from even_sieve.core.table.growing import join_columns
from even_sieve.core.table.lanes import Array, Lane, narrowest
from even_sieve.core.table.origins import Origins
from even_sieve.core.table.sketch import Sketch, joined_sketch, sketched
from even_sieve.core.table.table import Table, key_of

_MOST_NAMED, _MOST_SHOWN = 3, 6


@dataclass(frozen=True, eq=False)
class Part:
    """A table to be joined with others, and what its rows came from is called."""

    name: str
    table: Table

    def __sizeof__(self) -> int:
        """Return how many bytes the cells take, as far as they are here."""
        return self.table.__sizeof__()


def aligned(
    headers: Sequence[tuple[str, Sequence[str]]], lacking: str | None
) -> list[tuple[str, list[int | None]]]:
    """Return each column's name with its position in every header; None where it is lacking.

    `headers` are the sources' names with those of their columns. Raises `UnlikeSources` for a
    column that a source lacks, unless `lacking` is `blank`, and for one that shares none.
    """
    positions = [{key_of(name): i for i, name in enumerate(names)} for _, names in headers]
    spelt = {key_of(name): name for _, names in reversed(headers) for name in reversed(names)}
    order = dict.fromkeys(key_of(name) for _, names in headers for name in names)
    for (source, names), own in zip(headers, positions, strict=True):
        if not own.keys() & positions[0].keys():
            shown = ", ".join(names[:_MOST_SHOWN]) + (", …" if len(names) > _MOST_SHOWN else "")
            fact = f"none of its columns is one of {headers[0][0]}: {shown}"
            raise UnlikeSources(source, fact, "Name the files of one kind alone")
    for key in order if lacking is None else ():
        have = [header for header, own in zip(headers, positions, strict=True) if key in own]
        lack = [header for header, own in zip(headers, positions, strict=True) if key not in own]
        if lack:
            _refuse(spelt[key], have, lack, order)
    return [(spelt[key], [own.get(key) for own in positions]) for key in order]


def _refuse(
    column: str,
    have: Sequence[tuple[str, Sequence[str]]],
    lack: Sequence[tuple[str, Sequence[str]]],
    known: Iterable[str],
) -> None:
    """Raise `UnlikeSources`: those that are fewer are to blame."""
    if len(have) >= len(lack):
        source, names = lack[0]
        others, verb = _named([name for name, _ in have]), "has" if len(have) == 1 else "have"
        fact = f"there is no column '{column}', which {others} {verb}"
    else:
        source, names = have[0][0], [name for name in known if name != key_of(column)]
        others, verb = _named([name for name, _ in lack]), "lacks" if len(lack) == 1 else "lack"
        fact = f"there is a column '{column}', which {others} {verb}"
    near = closest(column, names)
    meant = f"Is it {listed(near)} that is meant? " if near else ""
    hint = f"{meant}To take what is lacking as blank say: --lacking blank"
    raise UnlikeSources(source, fact, hint, column)


def join_tables(parts: Sequence[Part], source: str, lacking: str | None = None) -> Table:
    """Return one table of the rows of all parts, in order, each row with what it came from.

    Columns are matched by name; those of the first part lead. Raises `UnlikeSources`.
    """
    tables = [part.table for part in parts]
    for part in parts:
        if part.table.unread is not None:
            fact = f"{counted(part.table.unread.rows, 'row')} of {part.name} were not read"
            raise CallError(f"{fact}: they would be lost among others\nRead it without prune")
    found = aligned([(part.name, part.table.names) for part in parts], lacking)
    lengths = [table.length for table in tables]
    columns = tuple(_column_of(name, parts, places) for name, places in found)
    marks = None
    if any(table.marks is not None for table in tables):
        marks = np.concatenate([_or_zeros(table.marks, table.length) for table in tables])
    told = told_together([(part.name, part.table.own_notices) for part in parts])
    numbers = joined_numbers([table.row_numbers for table in tables], lengths)
    there = _elsewhere(tables)
    return Table(columns, sum(lengths), numbers, marks, source, told, _origins(parts), there)


def _elsewhere(tables: Sequence[Table]) -> Elsewhere | None:
    """Return where the rows are, if those of all tables are elsewhere."""
    there = [table.elsewhere for table in tables if table.elsewhere is not None]
    return there[0].beside(there[1:]) if there and len(there) == len(tables) else None


def _or_zeros(values: Array | None, length: int) -> Array:
    return np.zeros(length, dtype=np.uint8) if values is None else values


def joined_numbers(numbers: Sequence[Array | int], lengths: Sequence[int]) -> Array | int:
    """Return the numbers that rows have in their own sources, one below the other.

    Of those that follow one another the first is enough.
    """
    pairs = [each for each in zip(numbers, lengths, strict=True) if each[1]]
    if _follow(pairs):
        return cast(int, pairs[0][0])
    ends = [own + length if isinstance(own, int) else int(own.max()) + 1 for own, length in pairs]
    together = zeros(sum(lengths), np.int32 if max(ends, default=0) <= 2**31 else np.int64)
    start = 0
    for own, length in pairs:
        for rows in spans(length):
            first = rows.start
            put = together[start + first : start + rows.stop]
            put[:] = np.arange(own + first, own + rows.stop) if isinstance(own, int) else own[rows]
        start += length
    return together


def _follow(pairs: Sequence[tuple[Array | int, int]]) -> bool:
    """Tell whether the numbers of all rows follow one another."""
    after = None
    for own, length in pairs:
        if not isinstance(own, int) or after not in (None, own):
            return False
        after = own + length
    return after is not None


def _origins(parts: Sequence[Part]) -> Origins:
    """Return what each row came from; a part that is of several sources keeps them apart."""
    names: dict[str, int] = {}
    placed: list[tuple[int, Array | None, Array]] = []
    for part in parts:
        own = part.table.origins
        called = (part.name,) if own is None else own.names
        places = np.array([names.setdefault(each, len(names)) for each in called])
        placed.append((part.table.length, None if own is None else own.codes, places))
    codes = zeros(sum(length for length, _, _ in placed), narrowest(len(names)))
    start = 0
    for length, own_codes, places in placed:
        put, start = codes[start : start + length], start + length
        put[:] = places[0] if own_codes is None else pick(places.astype(codes.dtype), own_codes)
    return Origins(tuple(names), codes)


def with_origin_column(table: Table, name: str, only: str) -> Table:
    """Return the table with a column that says what each row came from; `only` if it is one.

    Raises `DuplicateColumn` for a name that a column has.
    """
    origins = table.origins or Origins.of([only], [table.length])
    taken = next((i for i, own in enumerate(table.names, 1) if key_of(own) == key_of(name)), None)
    if taken is not None:
        raise DuplicateColumn(name.strip(), (taken, len(table.columns) + 1), table.source)
    lanes: dict[Kind, Lane] = {Kind.TEXT: text_lane(origins.names, origins.codes)}
    states = np.full(table.length, Kind.TEXT, dtype=np.uint8)
    column = assemble(name.strip(), table.length, lanes, states)
    return replace(table, columns=(*table.columns, column))


def told_together(told: Iterable[tuple[str, Sequence[Notice]]]) -> tuple[Notice, ...]:
    """Return the notices of several sources, each once, with the sources that it is about."""
    sources: dict[tuple[object, str], list[str]] = {}
    first: dict[tuple[object, str], Notice] = {}
    for name, notices in told:
        for each in notices:
            key = each.code, each.text
            first.setdefault(key, each)
            sources.setdefault(key, []).append(name)
    return tuple(
        replace(each, text=f"{_named(sources[key])}: {each.text}") for key, each in first.items()
    )


def _named(sources: Sequence[str]) -> str:
    """Return the sources in words: the first few, and how many more there are."""
    more = len(sources) - _MOST_NAMED
    shown = ", ".join(sources[:_MOST_NAMED])
    return f"{shown} and {more:,} more" if more > 0 else shown


def _column_of(name: str, parts: Sequence[Part], places: Sequence[int | None]) -> Column:
    """Return the column of a name; left for later where one of the parts left it so."""
    own = [
        blanks(name, part.table.length) if place is None else part.table.columns[place]
        for part, place in zip(parts, places, strict=True)
    ]
    join = partial(_joined, name, [part.name for part in parts])
    if all(each.is_made for each in own):
        return join(own)
    sketch = None
    if all(each.is_made or each.sketch is not None for each in own):
        sketch = joined_sketch([*map(_sketch_of, own, parts, places)], join)
    return Column.later(name, sum(each.length for each in own), partial(join, own), sketch)


def _sketch_of(column: Column, part: Part, place: int | None) -> Sketch | None:
    if not column.is_made:
        return column.sketch
    pieces = 1 if part.table.elsewhere is None else part.table.elsewhere.count
    return sketched(column, *[place] * pieces)


def blanks(name: str, length: int) -> Column:
    """Return a column of so many blank cells."""
    return assemble(name, length, {}, np.full(length, Kind.BLANK, dtype=np.uint8))


def _joined(name: str, sources: Sequence[str], columns: Sequence[Column]) -> Column:
    joined = join_columns(name, columns)
    told = told_together(
        (source, column.notices) for source, column in zip(sources, columns, strict=True)
    )
    return replace(joined, notices=each_once((*told, *joined.notices)))
