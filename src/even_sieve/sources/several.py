"""Several files, or sheets of workbooks, read as one table."""

import hashlib
import os
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import replace
from itertools import accumulate, pairwise
from pathlib import Path

import numpy as np

from even_sieve.core.cells import fold
from even_sieve.core.errors import CallError, NoRows, NotInstalled, SourceError, closest, listed
from even_sieve.core.notices import Code, Notice, counted, each_once
from even_sieve.core.table import Mark, Table, table_from_columns
from even_sieve.core.table.far import far_table
from even_sieve.core.table.joined import Part, aligned, join_tables, with_origin_column
from even_sieve.core.table.twins import told_of_twins, twin_sources
from even_sieve.sources.as_said import as_said
from even_sieve.sources.databases import READS_BY as DATABASE_READS_BY
from even_sieve.sources.databases import is_database, read_tables
from even_sieve.sources.files import (
    content_of,
    read_file,
    read_long,
    reader_of,
    refuse_without_effect,
)
from even_sieve.sources.guard import guarded
from even_sieve.sources.places import Place, Places, chosen_sheets, places_of, told_apart
from even_sieve.sources.sheet_tables import table_of
from even_sieve.sources.sheets import Workbook
from even_sieve.sources.shelf import grant
from even_sieve.sources.source_options import SourceOptions
from even_sieve.sources.text_table import TextFile, table_of_texts


def read_named(named: str | Path | Iterable[str | Path], options: SourceOptions) -> Table:
    """Return the one table of all that is named: files, folders, patterns, sheets of workbooks.

    Columns are matched by name. Raises `SourceNotFound` where nothing is there, `SourceError`
    naming file and row, `UnlikeSources` for files of different shapes, `CallError` for a file
    that is named twice.
    """
    names = [named] if isinstance(named, str | Path) else list(named)
    if not names:
        raise CallError("no file is named\nName at least one")
    return read_places(places_of([str(each) for each in names]), options)


def read_places(places: Places, options: SourceOptions) -> Table:
    """Return the one table of places."""
    grant(options.memory)
    only = places.every[0]
    if options.cluster is not None:
        if options.prune is not None:
            raise CallError("prune: the workers of a cluster read all rows\nLeave one of both out")
        table = far_table(_joined(places, options))
    elif len(places.every) == 1 and is_database(only.path):
        found = _of_database(only, "", options)
        table = (
            found[0].table if len(found) == 1 else join_tables(found, only.path, options.lacking)
        )
    else:
        table = read_file(only.path, options) if places.is_one else _joined(places, options)
    if places.notices:
        table = replace(table, own_notices=(*places.notices, *table.own_notices))
    if options.as_number or options.as_date:
        table = as_said(table, options)
    if options.origin is None:
        return table
    return with_origin_column(table, options.origin, told_apart([places.every[0].path])[0])


def _joined(places: Places, options: SourceOptions) -> Table:
    """Return the table of several places, or of one with sheets."""
    names = told_apart([place.path for place in places.every])
    source = names[0] if len(names) == 1 else f"{names[0]} and {counted(len(names) - 1, 'other')}"
    if len(names) == 1 and places.is_one:
        source = places.every[0].path
    one_book = len({place.path for place in places.every}) == 1
    named = [
        (place, "" if one_book else name) for place, name in zip(places.every, names, strict=True)
    ]
    on_cluster = options.cluster is not None
    if not on_cluster and all(place.sheets is None for place, _ in named):
        table = read_long([(place.path, name) for place, name in named], source, options)
        if table is not None:
            return _with_twins(table, named)
    read = _read_on_cluster(named, source, options) if on_cluster else _read_here(named, options)
    if isinstance(read, Table):
        return _with_twins(read, named)
    parts = [each for own in read for each in own]
    seen: set[str] = set()
    for name, _ in map(_header, parts):
        if name in seen:
            raise CallError(f"{name} is named twice: its rows would count twice\nName it once")
        seen.add(name)
    if len(parts) == 1 and one_book and isinstance(parts[0], Part) and named[0][0].sheets is None:
        only = parts[0].table
        if places.is_one and any(each.code is Code.NO_ROWS for each in only.own_notices):
            raise NoRows(source, only.names, "Nothing to work out")  # as it is told here
        return only
    return _with_twins(_together(parts, source, options), named)


def _read_here(
    named: Sequence[tuple[Place, str]], options: SourceOptions
) -> Iterator[list[TextFile | Part]]:
    if len(named) > 1:
        options = replace(options, named=None)  # one of several has not all of the columns
    for number, (place, name) in enumerate(named):
        yield _read(place, name, options.telling(number / len(named), (number + 1) / len(named)))


def _read_on_cluster(
    named: Sequence[tuple[Place, str]], source: str, options: SourceOptions
) -> Table | list[list[TextFile | Part]]:
    try:
        from even_sieve.sources.cluster import read_on  # brings a lot with it
    except ModuleNotFoundError as error:  # of a package: a client may be given without all of them
        raise NotInstalled("clusters", "cluster") from error
    return read_on(options.cluster, named, source, options, _read)


def _together(parts: Sequence[TextFile | Part], source: str, options: SourceOptions) -> Table:
    """Return one table of all parts; text files are settled together, wherever they stand."""
    texts = [part for part in parts if isinstance(part, TextFile)]
    if len(texts) == len(parts):
        return table_of_texts(texts, source, options)
    tables = [part for part in parts if isinstance(part, Part)]
    if not texts:
        return join_tables(tables, source, options.lacking)
    aligned([_header(part) for part in parts], options.lacking)
    settled = table_of_texts(texts, source, options)
    ends = list(accumulate((text.rows for text in texts), initial=0))
    pieces = iter(zip(texts, pairwise(ends), strict=True))
    ordered = []
    for part in parts:
        if isinstance(part, TextFile):
            text, (first, last) = next(pieces)
            piece = replace(settled.take(np.arange(first, last)), origins=None, own_notices=())
            ordered.append(Part(text.origin, piece))
        else:
            ordered.append(part)
    joined = join_tables(ordered, source, options.lacking)
    return replace(joined, own_notices=each_once((*settled.own_notices, *joined.own_notices)))


def _header(part: TextFile | Part) -> tuple[str, Sequence[str]]:
    return (
        (part.origin, part.names) if isinstance(part, TextFile) else (part.name, part.table.names)
    )


def _read(place: Place, name: str, options: SourceOptions) -> list[TextFile | Part]:
    """Return what a file gives: the fields of a text, a table, or one for each of its sheets."""
    if is_database(place.path):
        return [*_of_database(place, name, options)]
    content, path = content_of(place.path, options)
    ending, module = reader_of(content, path)
    refuse_without_effect(options, module.READS_BY, f"{ending} file", path)
    with guarded(path):
        if place.sheets is not None:
            workbook = module.open_workbook(content, path, options)
            return _sheets(workbook, place, name, options)
        try:
            if hasattr(module, "read_fields"):
                return [module.read_fields(content, path, options, name)]
            return [Part(name, module.read(content, path, options))]
        except NoRows as error:
            return [Part(name, _without_rows(error))]


def _of_database(place: Place, name: str, options: SourceOptions) -> list[Part]:
    """Return the tables of a database that are meant, each with what its rows come from."""
    refuse_without_effect(options, DATABASE_READS_BY, "database", place.path)
    with guarded(place.path):
        tables = read_tables(place.path, place.sheets, options)
    if len(tables) == 1 and place.sheets is None:
        return [Part(name, tables[0][1])]
    return [Part(f"{name}!{table}" if name else table, found) for table, found in tables]


def _sheets(
    workbook: Workbook, place: Place, name: str, options: SourceOptions
) -> list[TextFile | Part]:
    """Return the table of each sheet whose name matches. Raises `SourceError` if none does."""
    if options.sheet is not None or options.cells is not None:
        raise CallError(f"{place.path}!{place.sheets}: --sheet and --cells name the sheet again")
    names = [sheet.name for sheet in workbook.sheets]
    pattern = str(place.sheets)
    chosen = chosen_sheets(pattern, names)
    if not chosen:
        near = closest(pattern, names)
        hint = f"Did you mean {listed(near)}?" if near else f"The sheets are: {', '.join(names)}"
        raise SourceError(place.path, f"no sheet '{pattern}'", hint)
    told: list[Notice] = []
    parts: list[Part] = []
    named = len(chosen) == 1 and fold(chosen[0]) == fold(pattern.strip())
    for each in chosen:
        if not named and not workbook.sheet(each).rows:
            told.append(Notice(Code.PASSED_OVER, f"sheet '{each}' is blank: it was passed over"))
            continue
        try:
            table = table_of(workbook, replace(options, sheet=each))
        except NoRows as error:
            table = _without_rows(error)
        if workbook.sheet(each).is_hidden and not named:
            table = table.marked(Mark.HIDDEN, np.ones(table.length, dtype=bool))
            text = f"sheet '{each}' is hidden: its rows are marked as hidden"
            told.append(Notice(Code.HIDDEN_SHEET, text))
        parts.append(Part(f"{name}!{each}" if name else each, table))
    if parts and told:
        first = parts[0].table
        first = replace(first, own_notices=(*told, *first.own_notices))
        parts[0] = replace(parts[0], table=first)
    return [*parts]


def _without_rows(error: NoRows) -> Table:
    """Return the table of a source that has names of columns alone; it is told."""
    made = table_from_columns({name: [] for name in error.names}, source=error.source)
    return replace(made, own_notices=(Notice(Code.NO_ROWS, error.fact),))


def _with_twins(table: Table, named: Sequence[tuple[Place, str]]) -> Table:
    """Return the table with a notice on files that hold the same."""
    told = told_of_twins(dict((*twin_sources(table), *_twin_files(named))))
    return replace(table, own_notices=(*told, *table.own_notices)) if told else table


def _twin_files(named: Sequence[tuple[Place, str]]) -> Iterator[tuple[str, str]]:
    """Yield each file that is the same as an earlier one to the last byte, with that one."""
    sizes: dict[int, list[tuple[str, str]]] = {}
    for place, name in named:
        if place.sheets is None and os.path.isfile(place.path):
            sizes.setdefault(os.path.getsize(place.path), []).append((place.path, name))
    for alike in (each for each in sizes.values() if len(each) > 1):
        first: dict[bytes, str] = {}
        for path, name in alike:
            with open(path, "rb") as stream:
                twin = first.setdefault(hashlib.file_digest(stream, "sha256").digest(), name)
            if twin != name:
                yield name, twin
