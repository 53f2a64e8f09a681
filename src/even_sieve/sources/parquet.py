"""Parquet files."""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import replace
from functools import partial
from itertools import accumulate
from pathlib import Path
from typing import Any

import pyarrow as pa
from pyarrow import parquet

from even_sieve.core.cells import Kind
from even_sieve.core.criteria.certain import Ends
from even_sieve.core.errors import SourceError
from even_sieve.core.table import Column, Table
from even_sieve.core.table.table import key_of
from even_sieve.sources.arrow_pieces import pieces_of
from even_sieve.sources.arrow_tables import (
    column_of_arrow,
    columns_left_out,
    is_plain,
    names_read,
    refuse_large,
    table_of_arrow,
)
from even_sieve.sources.guard import guarded
from even_sieve.sources.long_typed import PIECE, LongFile, Opened, Piece, table_in_pieces
from even_sieve.sources.parquet_ends import ends_of_chunk, kind_of
from even_sieve.sources.pruning import Group, Groups
from even_sieve.sources.source_options import SourceOptions

#: The options that a file is read by.
READS_BY: frozenset[str] = frozenset()
#: A text that takes so few bytes stands in a dictionary.
_CODED = 4
_SHORT_GROUP = 1 << 21


def read(content: bytes, source: str, options: SourceOptions) -> Table:
    """Return the table of a Parquet file; rows are numbered from 1."""
    try:
        file = parquet.ParquetFile(pa.BufferReader(content))
        refuse_large(
            file.metadata.num_rows, file.metadata.num_columns, len(content), source, options
        )
        schema = file.schema_arrow
        names = names_read(schema)
        plain = len({name.strip() for name in schema.names}) == len(schema.names)
        wanted = [name for name in names if not plain or options.is_asked(name.strip())]
        if plain and options.later and file.metadata.num_rows:
            table = Table((), file.metadata.num_rows, 1, None, source)
        else:
            some = plain and len(wanted) < len(schema)
            wanted = (wanted or names[:1]) if some else schema.names
            arrow = file.read(wanted).select(wanted) if some else file.read()
            table = table_of_arrow(arrow, source, options)
            if not some:
                return table
    except (pa.ArrowInvalid, OSError) as error:
        raise SourceError(source, "this is no Parquet file", "Is its ending right?") from error

    facts = file.metadata

    def later(name: str) -> Column:
        with guarded(source):  # each by a file of its own: they may be asked for at one time
            own = parquet.ParquetFile(pa.BufferReader(content), metadata=facts)
            return column_of_arrow(own.read([name]), {name: name}, source, options, name)

    made = {column.name: column for column in table.columns}
    columns = tuple(
        made.get(name.strip()) or Column.later(name.strip(), table.length, partial(later, name))
        for name in names
    )
    return replace(table, columns=columns, own_notices=columns_left_out(schema))


def read_groups(path: str, groups: Sequence[int], first: int, options: SourceOptions) -> Table:
    """Return the table of some groups of rows of a plain file; rows are numbered from `first`."""
    file = open_long(Path(path), path, options, groups, first)
    if file is None:
        raise SourceError(path, "the file changed while it was read", "Ask again")
    return table_in_pieces([Opened(path, path, file)], path, options, threads=0)


def open_long(
    path: Path,
    source: str,
    options: SourceOptions,
    groups: Sequence[int] | None = None,
    begin: int = 1,
) -> LongFile | None:
    """Return a file that can be read in pieces; None for one that must be read whole.

    It may be some of its groups of rows alone, which are numbered from `begin`.
    """
    try:
        with parquet.ParquetFile(path) as file:
            facts, schema = file.metadata, file.schema_arrow
    except (pa.ArrowInvalid, OSError):
        return None
    refuse_large(facts.num_rows, facts.num_columns, path.stat().st_size, source, options)
    if not facts.num_rows or not is_plain(schema):
        return None
    by_name = {name.strip(): name for name in names_read(schema)}
    coded = _coded(facts, schema)
    chosen = range(facts.num_row_groups) if groups is None else groups
    lengths = [facts.row_group(group).num_rows for group in range(facts.num_row_groups)]
    starts = [0, *accumulate(lengths)]
    most = sum(lengths[group] for group in chosen)

    def pieces(names: Sequence[str]) -> Iterator[Piece]:
        wanted = [by_name[name] for name in names] or [*by_name.values()][:1]
        texts = [name for name in wanted if name in coded]

        def numbered() -> Iterator[tuple[int, Any]]:
            for run in _runs(chosen, lengths):
                first = begin + starts[run[0]] - starts[chosen[0]]
                for batch in _batches(path, facts, run, wanted, texts):
                    yield first, batch
                    first += len(batch)

        return pieces_of(numbered(), PIECE, by_name, source, options)

    def kept(some: Sequence[int]) -> LongFile:
        begin_at = 1 + starts[some[0]] if some else 1
        found = open_long(path, source, options, some, begin_at)
        if found is None:
            raise SourceError(source, "the file changed while it was read", "Ask again")
        return found

    told, groups_of = columns_left_out(schema), _groups(facts, schema, by_name, kept)
    return LongFile(tuple(by_name), most, pieces, notices=told, groups=groups_of)


def _groups(
    facts: Any, schema: Any, by_name: dict[str, str], kept: Callable[[Sequence[int]], LongFile]
) -> Groups:
    """Return what a file tells of its groups of rows."""
    places = {key_of(name): schema.get_field_index(own) for name, own in by_name.items()}
    groups = [facts.row_group(number) for number in range(facts.num_row_groups)]

    def kind(name: str) -> Kind | None:
        place = places.get(key_of(name), -1)
        return Kind.BLANK if place < 0 else kind_of(schema.field(place).type)

    every = [Group(g.num_rows, partial(_ends, g, facts.schema, schema, places)) for g in groups]
    return Groups(every, kind, kept)


def _runs(groups: Sequence[int], lengths: Sequence[int]) -> Iterator[list[int]]:
    """Yield groups of rows that are read together: short ones that follow on one another."""
    run: list[int] = []
    rows = 0
    for group in groups:
        if run and (group != run[-1] + 1 or rows + lengths[group] > PIECE):
            yield run
            run, rows = [], 0
        run.append(group)
        rows += lengths[group]
    if run:
        yield run


def _batches(
    path: Path, facts: Any, groups: list[int], wanted: list[str], texts: list[str]
) -> Iterator[Any]:
    """Yield record batches of the wanted columns of some groups of rows.

    Short groups of rows are read at once. What was read of a longer one Arrow keeps until the
    file is closed, so that one is opened for it alone.
    """
    with parquet.ParquetFile(path, metadata=facts, read_dictionary=texts) as file:
        if len(groups) > 1 or facts.row_group(groups[0]).num_rows <= _SHORT_GROUP:
            yield from file.read_row_groups(groups, columns=wanted).to_batches(PIECE)
        else:
            yield from file.iter_batches(PIECE, row_groups=groups, columns=wanted)


def _ends(group: Any, schema: Any, arrow: Any, places: dict[str, int], name: str) -> Ends | None:
    """Return the ends of a column in a group of rows; None where they are not known."""
    place = places.get(key_of(name), -1)
    if place < 0 or group.column(place).path_in_schema != arrow.field(place).name:
        return None
    return ends_of_chunk(group.column(place), schema.column(place), arrow.field(place).type)


def _coded(facts: Any, schema: Any) -> set[str]:
    """Return the columns of texts that stand in dictionaries: they are best read as such."""
    found, group = set(), facts.row_group(0)
    chunks = [group.column(position) for position in range(group.num_columns)]
    by_path = {chunk.path_in_schema: chunk for chunk in chunks}
    for field in schema:
        chunk = by_path.get(field.name)
        text = pa.types.is_string(field.type) or pa.types.is_large_string(field.type)
        if text and chunk and chunk.total_uncompressed_size < _CODED * max(chunk.num_values, 1):
            found.add(field.name)
    return found
