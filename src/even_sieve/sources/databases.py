"""Tables and queries of databases, read as they stand at one moment; nothing is written there.

What is sent is a question for columns: criteria, sums and all else are worked out here, so that
a figure is the same whatever the rows come from.
"""

import os
import re
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager, suppress
from dataclasses import replace
from fnmatch import fnmatchcase
from functools import partial
from importlib import import_module
from tempfile import TemporaryFile
from threading import Lock
from typing import Any

import pyarrow as pa

from even_sieve.core.cells import fold
from even_sieve.core.errors import CallError, NotInstalled, SourceError, closest, listed
from even_sieve.core.table import Column, Table
from even_sieve.core.table.table import key_of
from even_sieve.sources.ahead import Ahead
from even_sieve.sources.long_typed import PIECE, LongFile, Opened, Piece, table_in_pieces
from even_sieve.sources.places import is_address
from even_sieve.sources.postgresql import Postgresql
from even_sieve.sources.relations import Asked, Decode, Relation
from even_sieve.sources.source_options import SourceOptions
from even_sieve.sources.sqlite_tables import Sqlite

#: The options that a database is read by.
READS_BY = frozenset({"sql"})
_MAGIC = b"SQLite format 3\0"
_SHOWN = 8


def is_database(path: str) -> bool:
    """Tell whether a path is the address of a database, or a file that holds one."""
    if is_address(path):
        return True
    try:
        if not os.path.isfile(path):  # a pipe would be waited for
            return False
        with open(path, "rb") as stream:
            return stream.read(len(_MAGIC)) == _MAGIC
    except (OSError, ValueError):
        return False


def read_tables(path: str, chosen: str | None, options: SourceOptions) -> list[tuple[str, Table]]:
    """Return the table of each relation of a database that is chosen by name or pattern.

    Without a name it is the one that there is, or what `options.sql` asks for. Raises
    `SourceError` naming the database for what it does not answer, `CallError`, `NotInstalled`.
    """
    with _Connection(path) as connection:
        if options.sql is not None:
            if chosen is not None:
                raise CallError(f"{path}!{chosen}: --sql says itself what is read\nLeave one out")
            query = options.sql.strip().rstrip(";")
            if not query:
                raise CallError("--sql asks for nothing\nWrite for example: select * from calls")
            return [("query", connection.read(path, Relation(f"(\n{query}\n)"), options))]
        names = connection.names()
        found = _chosen(path, chosen, list(names))
        if len(found) > 1:
            options = replace(options, named=None)  # one of several has not all of the columns
        return [
            (name, connection.read(f"{path}!{name}", connection.relation(names[name]), options))
            for name in found
        ]


def _chosen(path: str, chosen: str | None, names: Sequence[str]) -> list[str]:
    """Return the tables that are meant. Raises `SourceError` where none or many may be."""
    shown = ", ".join(names[:_SHOWN]) + (", …" if len(names) > _SHOWN else "")
    if not names:
        raise SourceError(path, "the database has no table")
    if chosen is None:
        if len(names) == 1:
            return [names[0]]
        fact = f"there are {len(names):,} tables, and none is named"
        raise SourceError(path, fact, f"Write FILE!TABLE; the tables are: {shown}")
    for exact in (chosen, fold(chosen)):
        same = [name for name in names if exact in (name, fold(name))]
        if same:
            return same[:1]
    found = [name for name in names if fnmatchcase(fold(name), fold(chosen))]
    if not found:
        near = closest(chosen, names)
        hint = f"Did you mean {listed(near)}?" if near else f"The tables are: {shown}"
        raise SourceError(path, f"no table '{chosen}'", hint)
    return found


class _Connection:
    """An open database, in one transaction that only reads: it is the same throughout."""

    def __init__(self, path: str) -> None:
        self._path, self._kept, self._lock = path, False, Lock()
        self._kind: Sqlite | Postgresql = Postgresql() if is_address(path) else Sqlite()
        try:
            driver = import_module(f"{self._kind.driver}.dbapi")
        except ImportError as error:
            raise NotInstalled("databases", "sql") from error
        self._open: Any = None
        self._errors: type[Exception] = import_module("adbc_driver_manager").Error
        try:
            self._open = driver.connect(self._kind.address(path), autocommit=False)
        except self._errors as error:
            raise self._refused(error, "the database cannot be opened") from None
        for statement in self._kind.start:
            self._ask(statement)

    def __enter__(self) -> "_Connection":
        return self

    def __exit__(self, *_: object) -> None:
        if not self._kept:
            with suppress(Exception):  # a statement that has not noticed yet that nobody waits
                self._open.close()

    def names(self) -> dict[str, str]:
        """Return the names of tables and views, each with what is asked by."""
        found = self._ask(self._kind.listing)
        return dict(zip(found["name"].to_pylist(), found.column(1).to_pylist(), strict=True))

    def relation(self, name: str) -> Relation:
        """Return a table or a view."""
        return self._kind.relation(name, self._ask)

    def read(self, source: str, relation: Relation, options: SourceOptions) -> Table:
        """Return the table of a relation: the columns that are asked, or all that there are."""
        schema = self._ask(f"SELECT * FROM {relation.sql} AS rows_read LIMIT 0").schema
        names = [name.strip() for name in schema.names]
        if not names:
            raise SourceError(source, "the table has no column")
        _refuse_same(names, source)
        options.tell_names(names)
        options = replace(options, named=None)  # all are told: parts have some of them
        now = [not relation.order or options.is_asked(name) for name in names]
        if not any(now):
            now[0] = True
        made = self._part(source, relation, schema, now, options)
        if all(now):
            return made
        self._kept = True  # the columns that come later are those of the same moment
        columns = {column.name: column for column in made.columns}

        def later(number: int) -> Column:
            with self._lock:
                only = [number == place for place in range(len(names))]
                return self._part(source, relation, schema, only, options, 0).columns[0]

        every = (
            columns.get(name) or Column.later(name, made.length, partial(later, number))
            for number, name in enumerate(names)
        )
        return replace(made, columns=tuple(every))

    def _part(
        self,
        source: str,
        relation: Relation,
        schema: Any,
        chosen: Sequence[bool],
        options: SourceOptions,
        threads: int = 2,
    ) -> Table:
        """Return the table of some of a relation's columns."""
        fields = [each for each, is_chosen in zip(schema, chosen, strict=True) if is_chosen]
        asked = self._kind.columns(pa.schema(fields), relation, self._ask)
        file = self._spooled(relation, asked, options.telling(0, _FETCHED))
        whole = replace(options.telling(_FETCHED, 1), asks=None)
        return table_in_pieces([Opened(source, source, file)], source, whole, threads)

    def _spooled(
        self, relation: Relation, asked: Sequence[Asked], options: SourceOptions
    ) -> LongFile:
        """Return what the database answers as a file without a name, to be read in pieces."""
        spool = TemporaryFile()  # noqa: SIM115 (without a name: gone when nobody reads it)
        names = [each.name.strip() for each in asked]
        rows = 0
        with self._answer(self._kind.question(relation, asked)) as batches:
            schema = pa.schema(
                [
                    (name, _plain_type(field.type))
                    for name, field in zip(names, next(batches), strict=True)
                ]
            )
            with pa.ipc.new_stream(spool, schema) as writer:
                for number, batch in enumerate(batches):
                    own = batch if number or not self._kind.has_first else batch.slice(1)
                    arrays = [getattr(each, "storage", each) for each in own.columns]
                    self._refuse_damaged(arrays, names)
                    writer.write_batch(pa.record_batch(arrays, schema=schema))
                    rows += len(own)
                    if options.progress is not None and relation.estimate:
                        options.progress(min(1.0, rows / relation.estimate))
        decoding = {name: each.decode for name, each in zip(names, asked, strict=True)}

        def pieces(_: Sequence[str]) -> Iterator[Piece]:
            first = 1
            spool.seek(0)
            for batch in pa.ipc.open_stream(pa.PythonFile(spool, mode="r")):
                for start in range(0, len(batch), PIECE):
                    some = batch.slice(start, PIECE)
                    yield Piece(len(some), first, partial(_column, some, decoding))
                    first += len(some)

        return LongFile(tuple(names), rows, pieces, parts=False)

    def _refuse_damaged(self, arrays: Sequence[Any], names: Sequence[str]) -> None:
        """Raise `SourceError` for texts that are none: a database keeps what it is given."""
        for array, name in zip(arrays, names, strict=True):
            try:
                array.validate(full=True)
            except pa.ArrowInvalid:
                fact = f"column '{name}' holds a text that is not UTF-8"
                raise SourceError(self._path, fact, "Mend it, or leave it out by --sql") from None

    def _ask(self, statement: str) -> Any:
        """Return the whole of a short answer."""
        with self._answer(statement) as answer:
            schema = next(answer)
            return pa.Table.from_batches(list(answer), schema)

    @contextmanager
    def _answer(self, statement: str) -> Iterator[Iterator[Any]]:
        """Give what answers a statement: its schema first, then its batches."""
        cursors: list[Any] = []

        def produce() -> Iterator[Any]:
            with self._open.cursor() as cursor:
                cursors.append(cursor)
                cursor.adbc_statement.set_options(**self._kind.statement)
                cursor.execute(statement)
                with cursor.fetch_record_batch() as batches:
                    yield batches.schema
                    yield from batches

        try:
            with Ahead(produce, lambda: cursors[0].adbc_cancel()) as answer:
                yield answer
        except (self._errors, pa.ArrowException, OSError) as error:
            raise self._refused(error, "the database does not answer") from None
        except KeyboardInterrupt:
            self._kept = True  # what still works is not closed under its hands
            raise

    def _refused(self, error: Exception, fact: str) -> SourceError:
        """Return what a database said as an error of ours, without what was asked of it."""
        text = str(error).replace(os.environ.get("PGPASSWORD") or "\0", "…")
        found = _SAID.findall(text)
        said = found[-1] if found else _DOING.sub("", text.partition("\n")[0])
        hint = self._kind.hint if self._open is None else ""
        return SourceError(self._path, f"{fact}: {' '.join(said.split())[:200]}", hint)


#: What a server says of a fault, and what a driver says it was doing.
_SAID = re.compile(r"(?:ERROR|FATAL): +([^\n]+)")
_DOING = re.compile(r"^[A-Z_]+: .*?(?:connect|failed|query): ")
#: The share of all reading that is done when a database has answered.
_FETCHED = 0.6


def _plain_type(kind: Any) -> Any:
    return getattr(kind, "storage_type", kind)


def _column(batch: Any, decoding: Mapping[str, Decode], name: str) -> Column:
    return decoding[name](name, batch.column(batch.schema.names.index(name)))


def _refuse_same(names: Sequence[str], source: str) -> None:
    """Raise `SourceError` for two columns of one name, which a query can give."""
    seen: set[str] = set()
    for name in names:
        if key_of(name) in seen:
            fact = f"two columns are called '{name}'"
            raise SourceError(source, fact, "Give one another name in the query: AS")
        seen.add(key_of(name))
