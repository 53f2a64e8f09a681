"""Parquet files."""

from io import BytesIO

import pyarrow as pa
from pyarrow import parquet

from even_sieve.core.errors import SourceError
from even_sieve.core.table import Table
from even_sieve.sources.arrow_tables import refuse_large, table_of_arrow
from even_sieve.sources.source_options import SourceOptions

#: The options that a file is read by.
READS_BY: frozenset[str] = frozenset()


def read(content: bytes, source: str, options: SourceOptions) -> Table:
    """Return the table of a Parquet file; rows are numbered from 1."""
    try:
        file = parquet.ParquetFile(BytesIO(content))
        refuse_large(file.metadata.num_rows, file.metadata.num_columns, content, source, options)
        arrow = file.read()
    except (pa.ArrowInvalid, OSError) as error:
        raise SourceError(source, "this is no Parquet file", "Is its ending right?") from error
    return table_of_arrow(arrow, source, options)
