"""Files read by the workers of a cluster, at once, and sent here as they are settled together.

A file is a task, a long Parquet file one for each run of its groups of rows. Whatever order they
end in, and whichever worker is lost on the way, the parts are put together in the order of the
files by the same code as on one machine: the figures are the same to the last bit.
"""

import os
from collections.abc import Callable, Sequence
from contextlib import ExitStack
from dataclasses import dataclass, replace
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any

import pyarrow as pa
import pyarrow.compute as pc
from pyarrow import parquet

from even_sieve.core.errors import SourceError
from even_sieve.core.table import Column, Table
from even_sieve.core.table.joined import Part, join_tables
from even_sieve.core.table.sketch import Sketch, sketched
from even_sieve.sources import long_csv
from even_sieve.sources.arrow_tables import is_plain
from even_sieve.sources.csv_at_workers import OPENED, gather_at
from even_sieve.sources.databases import is_database
from even_sieve.sources.files import are_long_texts
from even_sieve.sources.guard import guarded, state_of
from even_sieve.sources.long_typed import tell_names_of
from even_sieve.sources.parquet import read_groups
from even_sieve.sources.places import Place
from even_sieve.sources.source_options import SourceOptions
from even_sieve.sources.text_table import TextFile
from even_sieve.sources.unpacking import LongAt
from even_sieve.sources.workers import workers

if TYPE_CHECKING:
    from even_sieve.sources.far_rows import FarRows

#: What reads a place, and gives a part for each of its tables.
Read = Callable[[Place, str, SourceOptions], Sequence[TextFile | Part]]
#: A task of a long file has at least so many rows.
_ROWS = 1 << 20
#: Rows that are so many stay with the worker that read them.
_STAY = 1 << 18
#: Texts are sent as codes where so few are different.
_FEW = 0.25


@dataclass(frozen=True)
class Task:
    """What a worker reads: a place, and of a Parquet file which groups, from which row on.

    `was` tells what changes when the file does: what is read again must be the same.
    """

    place: Place
    name: str
    groups: tuple[int, ...] = ()
    first: int = 1
    was: tuple[int, int] = (0, 0)

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
    paths = [Path(os.path.abspath(place.path)) for place, _ in places]
    pairs = zip(paths, places, strict=True)
    files = [LongAt(path, name, str(path)) for path, (_, name) in pairs]
    tell_names_of(files, options)
    with ExitStack() as ending:
        found_workers = ending.enter_context(workers(cluster, options.progress))
        if are_long_texts(paths, options):
            alone = replace(options, cluster=None)
            gather = partial(gather_at, found_workers, _STAY, _ROWS)
            share = found_workers.telling(0, OPENED).share
            table = long_csv.read(files, source, alone, share, gather)
            if table is not None:
                if table.elsewhere is not None:
                    found_workers.stay(ending.pop_all().close)
                return table
        # A worker may be in another folder.
        there = {
            place: replace(place, path=os.path.abspath(place.path))
            for place, _ in places
            if _is_shared(place)
        }
        tasks = [
            replace(task, was=state_of(task.path, task.path))
            for place, name in places
            if place in there
            for task in _tasks(there[place], name)
        ]
        alone = options.alone()
        from even_sieve.sources.far_rows import FarRows, Piece  # what clusters alone have

        kept = found_workers.keep(partial(_parts, read, alone), tasks)
        found = found_workers.looks_at(partial(_sent_or_told, alone, _STAY), kept, tasks)
        stays = any(isinstance(part, _Told) for parts in found for part in parts)
        if stays:
            found_workers.stay(ending.pop_all().close)
    together: dict[Place, list[TextFile | Part]] = {each: [] for each in there.values()}
    for task, parts, (future, thing) in zip(tasks, found, kept, strict=True):
        for number, part in enumerate(parts):
            if isinstance(part, TextFile):
                came: TextFile | Part = _text_arrived(part)
            else:
                home = None
                if stays:
                    piece = Piece(part.part.table.length, task.path, future, (thing, number))
                    home = FarRows(found_workers, [piece])
                came = _arrived(part, home, partial(_again, read, task), number, alone)
            together[task.place].append(came)
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


@dataclass(frozen=True)
class _Told(_Sent):
    """A table whose rows stay where they are: what is told of the columns that are asked."""

    sketches: dict[str, Sketch | None]


def _parts(read: Read, options: SourceOptions, task: Task) -> Sequence[TextFile | Part]:
    _refuse_change(task)
    if task.groups:
        with guarded(task.path):
            found = read_groups(task.path, task.groups, task.first, options)
        parts: Sequence[TextFile | Part] = [Part(task.name, found)]
    else:
        parts = read(task.place, task.name, options)
    _refuse_change(task)
    return parts


def _refuse_change(task: Task) -> None:
    """Raise `SourceError` if a file is not the one that was named."""
    if state_of(task.path, task.path) != task.was:
        raise SourceError(task.path, "the file changed while it was read", "Ask again")


def _again(read: Read, task: Task, options: SourceOptions) -> Sequence[TextFile | Part]:
    return _parts(read, options, task)


def _sent_or_told(
    options: SourceOptions, most: int, parts: Sequence[TextFile | Part]
) -> list[TextFile | _Sent]:
    """Return parts as they travel; what is told of those that have more rows than go."""
    return [_on_its_way(part, options, most) for part in parts]


def _on_its_way(part: TextFile | Part, options: SourceOptions, most: int) -> TextFile | _Sent:
    if isinstance(part, TextFile):
        return replace(part, strings=[_coded(each) for each in part.strings])
    every, names = part.table.columns, tuple(part.table.names)
    asked = [i for i, column in enumerate(every) if options.is_asked(column.name)] or [0]
    if part.table.length < most:
        table = replace(part.table, columns=tuple(every[i] for i in asked))
        return _Sent(Part(part.name, table), names)
    sketches = {every[i].name: sketched(every[i], i) for i in asked}
    return _Told(Part(part.name, replace(part.table, columns=())), names, sketches)


def _coded(strings: Any) -> Any:
    coded = strings.combine_chunks().dictionary_encode()
    return coded if len(coded.dictionary) <= _FEW * len(strings) else strings


def _text_arrived(sent: TextFile) -> TextFile:
    """Return a text with its fields as they were."""
    strings = [
        pc.cast(each, pa.string()) if pa.types.is_dictionary(each.type) else each
        for each in sent.strings
    ]
    return replace(sent, strings=strings)


def _arrived(
    sent: _Sent,
    home: "FarRows | None",
    again: Callable[[SourceOptions], Sequence[TextFile | Part]],
    number: int,
    options: SourceOptions,
) -> Part:
    """Return a part; a column that stayed is brought when it is wanted.

    One that was not asked is read here.
    """
    table = sent.part.table
    came = {column.name: column for column in table.columns}
    told = sent.sketches if isinstance(sent, _Told) else {}

    def later(place: int) -> Column:
        part = again(replace(options, asks=None))[number]
        return part.table.columns[place]  # type: ignore[union-attr]

    def column(place: int, name: str) -> Column:
        if name in came:
            return came[name]
        if home is not None and name in told:
            make = partial(home.as_read, place)
            return Column.later(name, table.length, make, told[name])
        return Column.later(name, table.length, partial(later, place))

    columns = tuple(column(place, name) for place, name in enumerate(sent.names))
    return Part(sent.part.name, replace(table, columns=columns, elsewhere=home))
