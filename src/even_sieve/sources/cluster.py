"""Files read by the workers of a cluster, at once, and sent here as they are settled together.

A file is a task, a long Parquet file one for each run of its groups of rows. Whatever order they
end in, and whichever worker is lost on the way, the parts are put together in the order of the
files by the same code as on one machine: the figures are the same to the last bit.
"""

import logging
import os
import platform
from asyncio import CancelledError
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, replace
from functools import partial
from importlib import import_module, metadata
from typing import Any

import pyarrow as pa
import pyarrow.compute as pc
from pyarrow import parquet

from even_sieve.core.errors import CallError, NotInstalled, SieveError, SourceError
from even_sieve.core.table import Column
from even_sieve.core.table.joined import Part, join_tables
from even_sieve.sources.arrow_tables import is_plain
from even_sieve.sources.guard import guarded
from even_sieve.sources.parquet import read_groups
from even_sieve.sources.places import Place
from even_sieve.sources.source_options import SourceOptions
from even_sieve.sources.text_table import TextFile

#: What reads a place, and gives a part for each of its tables.
Read = Callable[[Place, str, SourceOptions], Sequence[TextFile | Part]]
#: The word for workers on this machine.
HERE = "here"
_PATIENCE = "15s"
#: A task of a long file has at least so many rows.
_ROWS = 1 << 20
#: Texts are sent as codes where so few are different.
_FEW = 0.25
#: The packages that must be the same wherever a table is read.
_ALIKE = ("even-sieve", "numpy", "pyarrow")


@dataclass(frozen=True)
class Task:
    """What a worker reads: a place, and of a Parquet file which groups, from which row on."""

    place: Place
    name: str
    groups: tuple[int, ...] = ()
    first: int = 1


def read_on(
    cluster: Any, places: Sequence[tuple[Place, str]], options: SourceOptions, read: Read
) -> list[list[TextFile | Part]]:
    """Return what each place gives, in order, read by the workers of a cluster.

    `cluster` is the address of a scheduler, `here`, or a client of one. Raises `SourceError`
    with the file and the worker for what cannot be read, and where workers are lost
    again and again; `CallError` where the scheduler cannot be reached or has another version.
    """
    tasks = [task for place, name in places for task in _tasks(place, name)]
    alone = replace(options, cluster=None, progress=None)
    with _client(cluster) as client:
        _refuse_unlike(client)
        work = [client.submit(_attempt, read, task, alone, pure=False) for task in tasks]
        try:
            found = _gathered(client, work, tasks, options.progress)
        finally:
            client.cancel(work)
    together: dict[Place, list[TextFile | Part]] = {place: [] for place, _ in places}
    for task, parts in zip(tasks, found, strict=True):
        came = [_arrived(part, i, read, task, alone) for i, part in enumerate(parts)]
        together[task.place] += came
    cut = {task.place for task in tasks if task.groups}
    return [_whole(together[place]) if place in cut else together[place] for place, _ in places]


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
class _Failed:
    """What a worker could not do."""

    text: str
    worker: str


def _attempt(read: Read, task: Task, options: SourceOptions) -> "list[TextFile | _Sent] | _Failed":
    """Read on a worker; what cannot be read comes back to be told."""
    from distributed import get_worker

    try:
        parts = _parts(read, task, options)
    except SieveError as error:
        return _Failed(str(error), get_worker().address)
    return [_sent(part, options) for part in parts]


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


def _gathered(
    client: Any, work: Sequence[Any], tasks: Sequence[Task], tell: Callable[[float], None] | None
) -> list[Any]:
    """Return what the tasks gave, in their order. Raises `SourceError` for one that cannot."""
    distributed: Any = import_module("distributed")
    places = {future.key: number for number, future in enumerate(work)}
    found: list[Any] = [None] * len(work)
    for done, future in enumerate(distributed.as_completed(work), 1):
        path = tasks[places[future.key]].place.path
        try:
            result = future.result()
        except distributed.KilledWorker as error:
            fact = f"{error.allowed_failures + 1} workers were lost while they read it"
            raise SourceError(path, fact, "Is it too large for the memory of a worker?") from None
        except (OSError, CancelledError) as error:
            raise _gone() from error
        if isinstance(result, _Failed):
            raise SourceError(path, f"worker {result.worker} cannot read it", result.text)
        found[places[future.key]] = result
        future.release()
        if tell is not None:
            tell(done / len(work))
    return found


def _gone() -> CallError:
    return CallError("the cluster is gone\nNothing of what it read was kept: ask again")


@contextmanager
def _client(cluster: Any) -> Iterator[Any]:
    """Give a client of a cluster; one that was begun here is ended here."""
    try:
        distributed: Any = import_module("distributed")
    except ImportError as error:
        raise NotInstalled("clusters", "cluster") from error
    if isinstance(cluster, distributed.Client):
        yield cluster
        return
    logging.getLogger("distributed").setLevel(logging.CRITICAL)  # errors are told by us
    if cluster == HERE:
        workers = len(os.sched_getaffinity(0))
        with (
            distributed.LocalCluster(
                n_workers=workers,
                threads_per_worker=1,
                host="127.0.0.1",
                dashboard_address=None,
                silence_logs=logging.CRITICAL,
            ) as own,
            distributed.Client(own) as client,
        ):
            yield client
        return
    try:
        client = distributed.Client(str(cluster), timeout=_PATIENCE)
    except (OSError, ValueError, ImportError) as error:
        words = " ".join(str(error).split())[:160]
        fact = f"no cluster answers at {cluster}: {words}"
        raise CallError(
            f"{fact}\nIs a scheduler running there? {HERE} starts workers here"
        ) from None
    with client:
        yield client


def _versions() -> dict[str, str]:
    """Return what must be the same on every machine."""
    own = {name: metadata.version(name) for name in _ALIKE}
    return {"Python": ".".join(platform.python_version_tuple()[:2]), **own}


def _refuse_unlike(client: Any) -> None:
    """Raise `CallError` for a cluster without workers, or with one of another version."""
    try:
        client.wait_for_workers(1, timeout=_PATIENCE)
        every = client.run(_versions)
    except TimeoutError:
        raise CallError("the cluster has no worker\nStart one: dask worker ADDRESS") from None
    except (OSError, CancelledError) as error:
        raise _gone() from error
    except Exception as error:  # whatever a worker without our package fails with
        words = " ".join(str(error).split())[:160]
        fact = f"a worker of the cluster cannot run Even Sieve: {words}"
        raise CallError(f'{fact}\nInstall there too: pip install "even-sieve[cluster]"') from None
    own = _versions()
    for worker, versions in every.items():
        other = [name for name in own if versions.get(name) != own[name]]
        if other:
            said = ", ".join(f"{name} {versions.get(name)} and not {own[name]}" for name in other)
            raise CallError(f"worker {worker} has {said}\nThe same versions give the same bits")
