"""Long CSV files gathered by the workers of a cluster.

Of short files workers send what they gathered. The rows of long ones stay: what comes here of a
column is which different strings it has, or that each of its cells tells what it is; then every
worker makes its columns as all strings together tell, and sketches of them come here.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import partial
from typing import Any

import numpy as np

from even_sieve.core.cells.likeness import Likeness
from even_sieve.core.notices import Code
from even_sieve.core.table import Column, Table
from even_sieve.core.table.growing import join_columns
from even_sieve.core.table.joined import Part, blanks
from even_sieve.core.table.likes import count_like
from even_sieve.core.table.sketch import Sketch, joined_sketch, sketched
from even_sieve.sources.far_rows import FarRows, Piece
from even_sieve.sources.growing_cells import Cells
from even_sieve.sources.growing_columns import MOST_TOKENS, Codes, Gathering
from even_sieve.sources.like_dates import with_date_notice
from even_sieve.sources.long_csv import Gathered, Wanted, gatherings
from even_sieve.sources.long_csv_file import LongCsv, stretches
from even_sieve.sources.source_options import SourceOptions
from even_sieve.sources.string_columns import (
    column_of_tokens,
    is_written,
)
from even_sieve.sources.tokens import TokenReader
from even_sieve.sources.workers import Workers

#: The share of the work that is done when files are opened, and when their strings are gathered.
OPENED, _GATHERED = 0.2, 0.8
#: A stretch of a file and, for each column that is wanted, its name and its place there.
_Work = tuple[LongCsv, Sequence[Wanted]]


def gather_at(
    workers: Workers,
    stay: int,
    most: int,
    files: Sequence[LongCsv],
    wanted: Sequence[Wanted],
    options: SourceOptions,
) -> Gathered | None:
    """Return the wanted columns as `gather_here` does, gathered by workers.

    Rows stay where a file has at least `stay` of them; one of twice `most` is cut.
    """
    alone = options.alone()
    if all(file.found.lines <= stay for file in files):
        return _brought(workers.telling(OPENED, 1), files, wanted, alone)
    cut = [(i, each) for i, file in enumerate(files) for each in stretches(file, most)]
    work = [(each, [(name, [own[i]]) for name, own in wanted]) for i, each in cut]
    kept = workers.keep(partial(_gather, alone), work)
    found = workers.telling(OPENED, _GATHERED).looks_at(_told, kept, work)
    told = [each for each in found if each is not None]
    if len(told) < len(found):
        return None
    for file in files:
        file.fields.rows = 0
    for (i, _), (rows, _) in zip(cut, told, strict=True):
        files[i].fields.rows += rows
    if any(file.fields.rows >= file.found.lines for file in files):
        return None
    names = [name for name, _ in wanted]
    ways = [_way(own) for own in zip(*(own for _, own in told), strict=True)]
    futures = {task.key: task for task, _ in kept}
    how = workers.hold((names, ways, alone))
    made = {key: workers.begin(_made, task, how) for key, task in futures.items()}
    there = [(made[task.key], number) for task, number in kept]
    sketches = workers.telling(_GATHERED, 1).looks_at(_sketched, there, work)
    columns = [
        None if way is None else _far(name, way, own, alone)
        for name, way, own in zip(names, ways, zip(*sketches, strict=True), strict=True)
    ]
    pieces = [
        Piece(rows, str(each.path), future, (number, 0))
        for (_, each), (rows, _), (future, number) in zip(cut, told, there, strict=True)
    ]
    return columns, FarRows(workers, pieces)


def _brought(
    workers: Workers, files: Sequence[LongCsv], wanted: Sequence[Wanted], options: SourceOptions
) -> Gathered | None:
    """Return the wanted columns, brought here as they were gathered."""
    work = [(file, [(name, [own[i]]) for name, own in wanted]) for i, file in enumerate(files)]
    most = sum(file.found.lines for file in files)
    together = [Gathering(most, options) for _ in wanted]
    for file, found in zip(files, workers.share(partial(_cut, options), work), strict=True):
        if found is None:
            return None
        file.fields.rows, own = found
        for all_rows, these in zip(together, own, strict=True):
            all_rows.merge(these)
    return [each.column(name) for each, (name, _) in zip(together, wanted, strict=True)], None


def _cut(options: SourceOptions, work: _Work) -> tuple[int, list[Gathering]] | None:
    """Return how many rows a file has, and what was gathered of it."""
    file, wanted = work
    found = gatherings([file], wanted, options)
    return None if found is None else (file.fields.rows, [each.cut() for each in found])


@dataclass(frozen=True)
class _Kept:
    """The rows of a stretch: of each column its codes, or its cells and what read them."""

    rows: int
    columns: Sequence[Codes | tuple[Column, TokenReader] | None]


def _gather(options: SourceOptions, work: _Work) -> _Kept | None:
    """Return the rows of a stretch; None where the file must be read whole."""
    file, wanted = work
    file = replace(file, fields=replace(file.fields, rows=0))
    found = gatherings([file], wanted, options)
    if found is None:
        return None
    columns: list[Codes | tuple[Column, TokenReader] | None] = []
    for gathering, (name, _) in zip(found, wanted, strict=True):
        own = gathering.cut().kept
        columns.append(own.read(name) if isinstance(own, Cells) else own)
    return _Kept(file.fields.rows, columns)


#: Of a column in a stretch: its different strings; that cells tell what they are; or neither.
_Told = list[str] | bool


def _told(kept: _Kept | None) -> tuple[int, list[_Told]] | None:
    if kept is None:
        return None
    return kept.rows, [
        each.tokens if isinstance(each, Codes) else each is not None for each in kept.columns
    ]


def _way(told: Sequence[_Told]) -> _Told | None:
    """Return what a column is made by in all stretches: its strings, or each cell; None: here."""
    if any(each is False for each in told):
        return None
    tokens = [each for each in told if isinstance(each, list)]
    if len(tokens) < len(told):
        return True
    every = list(dict.fromkeys(token for own in tokens for token in own))
    return every if len(every) <= MOST_TOKENS else None


def _made(found: Any, how: tuple[Sequence[str], Sequence[_Told | None], SourceOptions]) -> Any:
    """Return each stretch as a part, with the readers of its columns beside it."""
    if not isinstance(found, list):
        return found  # what a worker could not do
    return [_part(kept, *how) for kept in found]


class _Made(list[Part]):
    """A part, as what a task gives; `readers` are those of its columns."""

    readers: Sequence[TokenReader | None] = ()


def _part(
    kept: _Kept, names: Sequence[str], ways: Sequence[_Told | None], options: SourceOptions
) -> _Made:
    columns, readers = [], []
    for name, way, own in zip(names, ways, kept.columns, strict=True):
        if own is None or way is None:
            column, reader = blanks(name, kept.rows), None
        elif isinstance(own, Codes) and isinstance(way, list):
            column, reader = _of_own_kinds(own.numbered(name, way, options)), None
        elif isinstance(own, Codes):
            column, reader = own.cells(options).read(name)
        else:
            column, reader = own
        columns.append(column)
        readers.append(reader)
    made = _Made([Part("", Table(tuple(columns), kept.rows))])
    made.readers = readers
    return made


def _of_own_kinds(column: Column) -> Column:
    """Return a column without what its rows have none of."""
    counts = column.counts
    lanes = {kind: lane for kind, lane in column.lanes.items() if kind in counts}
    alone = len(counts) == 1 and len(lanes) == 1
    return replace(column, lanes=lanes, states=None if alone else column.states, notices=())


def _sketched(made: _Made) -> list[tuple[Sketch | None, TokenReader | None, int]]:
    columns = made[0].table.columns
    return [
        (sketched(column, place), reader, count_like(column, Likeness.DATE))
        for place, (column, reader) in enumerate(zip(columns, made.readers, strict=True))
    ]


def _far(
    name: str,
    way: _Told,
    told: Sequence[tuple[Sketch | None, TokenReader | None, int]],
    options: SourceOptions,
) -> Sketch | None:
    """Return the sketch of a column; None of one that all its fields here must tell."""
    sketch = joined_sketch([each for each, _, _ in told], partial(join_columns, name))
    if sketch is None:
        return None
    column = sketch.column
    if isinstance(way, list):
        every = column_of_tokens(name, way, np.arange(len(way)), options)
        others = tuple(each for each in every.notices if each.code is not Code.TEXT_LIKE_DATES)
        column = replace(column, notices=others, conventions=every.conventions, shown=every.shown)
    elif is_written(column):
        return None
    else:
        reader = TokenReader(options.blank_as)
        for _, own, _ in told:
            if own is not None:
                reader.merge(own)
        column = replace(column, notices=(*reader.notices(name), *column.notices))
    column = with_date_notice(column, sum(count for _, _, count in told))
    return replace(sketch, column=column)
