"""Files read by the workers of a cluster, at once, and sent here as they are settled together.

A file is a task, a long Parquet file one for each run of its groups of rows. Whatever order they
end in, and whichever worker is lost on the way, the parts are put together in the order of the
files by the same code as on one machine: the figures are the same to the last bit.
"""

import os
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import partial
from pathlib import Path
from typing import Any

import pyarrow as pa
import pyarrow.compute as pc
from pyarrow import parquet

from even_sieve.core.table import Column, Table
from even_sieve.core.table.joined import Part, join_tables
from even_sieve.sources import long_csv
from even_sieve.sources.arrow_tables import is_plain
from even_sieve.sources.databases import is_database
from even_sieve.sources.files import are_long_texts
from even_sieve.sources.guard import guarded
from even_sieve.sources.parquet import read_groups
from even_sieve.sources.places import Place
from even_sieve.sources.source_options import SourceOptions
from even_sieve.sources.text_table import TextFile
from even_sieve.sources.unpacking import LongAt
from even_sieve.sources.workers import workers

#: What reads a place, and gives a part for each of its tables.
Read = Callable[[Place, str, SourceOptions], Sequence[TextFile | Part]]
#: A task of a long file has at least so many rows.
_ROWS = 1 << 20
#: Texts are sent as codes where so few are different.
_FEW = 0.25


@dataclass(frozen=True)
class Task:
    """What a worker reads: a place, and of a Parquet file which groups, from which row on."""

    place: Place
    name: str
    groups: tuple[int, ...] = ()
    first: int = 1

    @property
    def path(self) -> str:
        """The file that it is about."""
        return self.place.path


def read_on(
    cluster: Any,
    places: Sequence[tuple[Place, str]],
    source: str,
    options: SourceOptions,
    read: Read,
) -> Table | list[list[TextFile | Part]]:
    """Return what each place gives, in order, read by the workers of a cluster.

    Long text files are one table, settled together. `cluster` is the address of a scheduler,
    `here`, or a client of one. Raises `SourceError` with the file and the worker for what cannot
    be read, and where workers are lost again and again; `CallError` where the scheduler cannot be
    reached or has another version.
    """
    with workers(cluster, options.progress) as found_workers:
        paths = [Path(os.path.abspath(place.path)) for place, _ in places]
        if are_long_texts(paths, options):
            pairs = zip(paths, places, strict=True)
            files = [LongAt(path, name, str(path)) for path, (_, name) in pairs]
            table = long_csv.read(
                files, source, replace(options, cluster=None), found_workers.share
            )
            if table is not None:
                return table
        # A worker may be in another folder.
        there = {
            place: replace(place, path=os.path.abspath(place.path))
            for place, _ in places
            if _is_shared(place)
        }
        tasks = [
            task for place, name in places if place in there for task in _tasks(there[place], name)
        ]
        alone = replace(options, cluster=None, progress=None)
        found = found_workers.share(partial(_parts_sent, read, alone), tasks)
    together: dict[Place, list[TextFile | Part]] = {each: [] for each in there.values()}
    for task, parts in zip(tasks, found, strict=True):
        came = [_arrived(part, i, read, task, alone) for i, part in enumerate(parts)]
        together[task.place] += came
    cut = {task.place for task in tasks if task.groups}
    read_there = {
        place: _whole(together[each]) if each in cut else together[each]
        for place, each in there.items()
    }
    return [
        _called(read_there[place], place.path) if place in there else list(read(place, name, alone))
        for place, name in places
    ]


def _is_shared(place: Place) -> bool:
    """Tell whether workers can read what this machine reads: no pipe, and no database.

    A database serves this machine, with its password.
    """
    return os.path.isfile(place.path) and not is_database(place.path)


def _called(parts: Sequence[TextFile | Part], path: str) -> list[TextFile | Part]:
    """Return tables under the path that their file was named by."""
    whole = os.path.abspath(path)
    return [
        replace(part, table=replace(part.table, source=path))
        if isinstance(part, Part) and part.table.source == whole
        else part
        for part in parts
    ]


def _whole(parts: Sequence[TextFile | Part]) -> list[TextFile | Part]:
    """Return the pieces of one file as one table."""
    tables = [part for part in parts if isinstance(part, Part)]
    joined = join_tables(tables, tables[0].table.source)
    return [Part(tables[0].name, replace(joined, origins=None, row_numbers=1))]


def _tasks(place: Place, name: str) -> list[Task]:
    """Return what a place is cut into: a long Parquet file by its groups of rows."""
    if place.sheets is not None or not place.path.lower().endswith(".parquet"):
        return [Task(place, name)]
    try:
        with parquet.ParquetFile(place.path) as file:
            facts, plain = file.metadata, is_plain(file.schema_arrow)
        sizes = [facts.row_group(i).num_rows for i in range(facts.num_row_groups)]
    except (pa.ArrowException, OSError):
        return [Task(place, name)]  # the worker that reads it tells
    if not plain or sum(sizes) < 2 * _ROWS:
        return [Task(place, name)]
    found: list[Task] = []
    run: list[int] = []
    first = following = 1
    for group, size in enumerate(sizes):
        run.append(group)
        following += size
        if following - first >= _ROWS or group == len(sizes) - 1:
            found.append(Task(place, name, tuple(run), first))
            run, first = [], following
    return found


@dataclass(frozen=True)
class _Sent:
    """A table on its way: the columns that are asked, and the names of all."""

    part: Part
    names: tuple[str, ...]


def _parts_sent(read: Read, options: SourceOptions, task: Task) -> list[TextFile | _Sent]:
    return [_sent(part, options) for part in _parts(read, task, options)]


def _parts(read: Read, task: Task, options: SourceOptions) -> Sequence[TextFile | Part]:
    if not task.groups:
        return read(task.place, task.name, options)
    with guarded(task.place.path):
        return [Part(task.name, read_groups(task.place.path, task.groups, task.first, options))]


def _sent(part: TextFile | Part, options: SourceOptions) -> TextFile | _Sent:
    """Return a part as it travels: texts of which few are different as codes."""
    if isinstance(part, TextFile):
        part.strings = [_coded(each) for each in part.strings]
        return part
    asked = [column for column in part.table.columns if options.is_asked(column.name)]
    table = replace(part.table, columns=tuple(asked or part.table.columns[:1]))
    return _Sent(Part(part.name, table), tuple(part.table.names))


def _coded(strings: Any) -> Any:
    coded = strings.combine_chunks().dictionary_encode()
    return coded if len(coded.dictionary) <= _FEW * len(strings) else strings


def _arrived(
    sent: TextFile | _Sent, number: int, read: Read, task: Task, options: SourceOptions
) -> TextFile | Part:
    """Return a part with its fields as they were; a column that did not come is read here."""
    if isinstance(sent, TextFile):
        sent.strings = [
            pc.cast(each, pa.string()) if pa.types.is_dictionary(each.type) else each
            for each in sent.strings
        ]
        return sent
    table = sent.part.table
    came = {column.name: column for column in table.columns}

    def later(place: int) -> Column:
        part = _parts(read, task, replace(options, asks=None))[number]
        return part.table.columns[place]  # type: ignore[union-attr]

    columns = (
        came.get(name) or Column.later(name, table.length, partial(later, place))
        for place, name in enumerate(sent.names)
    )
    return Part(sent.part.name, replace(table, columns=tuple(columns)))
