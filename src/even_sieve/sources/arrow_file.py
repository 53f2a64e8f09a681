"""Files of the Arrow IPC format, random access or stream."""

from collections.abc import Iterator
from typing import Any

import pyarrow as pa

from even_sieve.core.errors import SourceError
from even_sieve.core.table import Table
from even_sieve.sources.arrow_tables import refuse_large, table_of_arrow
from even_sieve.sources.source_options import SourceOptions

#: The options that a file is read by.
READS_BY: frozenset[str] = frozenset()


def read(content: bytes, source: str, options: SourceOptions) -> Table:
    """Return the table of an Arrow file; rows are numbered from 1."""
    opening = pa.ipc.open_file if content.startswith(b"ARROW1") else pa.ipc.open_stream
    try:
        reader = opening(pa.BufferReader(content))
        arrow = pa.Table.from_batches(_batches(reader, content, source, options), reader.schema)
    except (pa.ArrowInvalid, OSError) as error:
        raise SourceError(source, "this is no Arrow file", "Is its ending right?") from error
    return table_of_arrow(arrow, source, options)


def _batches(reader: Any, content: bytes, source: str, options: SourceOptions) -> Iterator[Any]:
    """Yield the batches, as long as they stay within the limits."""
    rows = 0
    random = isinstance(reader, pa.ipc.RecordBatchFileReader)
    every = map(reader.get_batch, range(reader.num_record_batches)) if random else reader
    for batch in every:
        rows += batch.num_rows
        refuse_large(rows, batch.num_columns, content, source, options)
        yield batch
