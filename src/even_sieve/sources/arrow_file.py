"""Files of the Arrow IPC format, random access or stream."""

import pyarrow as pa

from even_sieve.core.errors import SourceError
from even_sieve.core.table import Table
from even_sieve.sources.arrow_tables import table_of_arrow
from even_sieve.sources.source_options import SourceOptions

#: The options that a file is read by.
READS_BY: frozenset[str] = frozenset()


def read(content: bytes, source: str, options: SourceOptions) -> Table:
    """Return the table of an Arrow file; rows are numbered from 1."""
    opening = pa.ipc.open_file if content.startswith(b"ARROW1") else pa.ipc.open_stream
    try:
        arrow = opening(pa.BufferReader(content)).read_all()
    except (pa.ArrowInvalid, OSError) as error:
        raise SourceError(source, "this is no Arrow file", "Is its ending right?") from error
    return table_of_arrow(arrow, source, options)
