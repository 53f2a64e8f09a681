"""Files of the Arrow IPC format, random access or stream."""

from collections.abc import Iterator, Sequence
from functools import partial
from pathlib import Path
from typing import Any

import pyarrow as pa

from even_sieve.core.errors import SourceError
from even_sieve.core.table import Column, Table
from even_sieve.sources.arrow_pieces import pieces_of
from even_sieve.sources.arrow_tables import (
    column_of_arrow,
    columns_left_out,
    is_plain,
    names_read,
    refuse_large,
    table_of_arrow,
)
from even_sieve.sources.long_typed import PIECE, LongFile, Piece
from even_sieve.sources.source_options import SourceOptions

#: The options that a file is read by.
READS_BY: frozenset[str] = frozenset()
_MAGIC = b"ARROW1"


def read(content: bytes, source: str, options: SourceOptions) -> Table:
    """Return the table of an Arrow file; rows are numbered from 1."""
    try:
        reader = _reader(pa.BufferReader(content), content[: len(_MAGIC)])
        batches = _within(_batches(reader), len(content), source, options)
        arrow = pa.Table.from_batches(batches, reader.schema)
    except (pa.ArrowInvalid, OSError) as error:
        raise SourceError(source, "this is no Arrow file", "Is its ending right?") from error
    if not options.later or not is_plain(arrow.schema):
        return table_of_arrow(arrow, source, options)
    names = {name.strip(): name for name in names_read(arrow.schema)}
    make = partial(column_of_arrow, arrow, names, source, options)
    columns = [Column.later(name, len(arrow), partial(make, name)) for name in names]
    told = columns_left_out(arrow.schema)
    return Table(tuple(columns), len(arrow), 1, None, source, own_notices=told)


def _reader(stream: Any, beginning: bytes, names: Sequence[int] | None = None) -> Any:
    chosen = pa.ipc.IpcReadOptions(included_fields=None if names is None else list(names))
    opening = pa.ipc.open_file if beginning == _MAGIC else pa.ipc.open_stream
    return opening(stream, options=chosen)


def _batches(reader: Any) -> Iterator[Any]:
    random = isinstance(reader, pa.ipc.RecordBatchFileReader)
    return map(reader.get_batch, range(reader.num_record_batches)) if random else iter(reader)


def _numbered(reader: Any) -> Iterator[tuple[int, Any]]:
    """Yield the batches, each with the number of its first row."""
    first = 1
    for batch in _batches(reader):
        yield first, batch
        first += len(batch)


def _within(
    batches: Iterator[Any], size: int, source: str, options: SourceOptions
) -> Iterator[Any]:
    """Yield the batches, as long as they stay within the limits."""
    rows = 0
    for batch in batches:
        rows += batch.num_rows
        refuse_large(rows, batch.num_columns, size, source, options)
        yield batch


def open_long(path: Path, source: str, options: SourceOptions) -> LongFile | None:
    """Return a file that can be read in pieces; None for one that must be read whole."""
    with path.open("rb") as stream:
        beginning = stream.read(len(_MAGIC))

    def opened(chosen: Sequence[int] | None = None) -> Any:
        return _reader(pa.OSFile(str(path)), beginning, chosen)

    try:
        schema = opened().schema
        size = path.stat().st_size
        rows = sum(len(each) for each in _within(_batches(opened([0])), size, source, options))
    except (pa.ArrowInvalid, OSError):
        return None
    if not rows or not is_plain(schema):
        return None
    by_name = {name.strip(): name for name in names_read(schema)}

    def pieces(names: Sequence[str]) -> Iterator[Piece]:
        wanted = [by_name[name] for name in names] or [*by_name.values()][:1]
        places = sorted(map(schema.names.index, wanted))
        yield from pieces_of(_numbered(opened(places)), PIECE, by_name, source, options)

    return LongFile(tuple(by_name), rows, pieces, notices=columns_left_out(schema))
