"""Parquet files."""

from dataclasses import replace
from functools import partial
from io import BytesIO

import pyarrow as pa
from pyarrow import parquet

from even_sieve.core.errors import SourceError
from even_sieve.core.table import Column, Table
from even_sieve.sources.arrow_tables import refuse_large, table_of_arrow
from even_sieve.sources.guard import guarded
from even_sieve.sources.source_options import SourceOptions

#: The options that a file is read by.
READS_BY: frozenset[str] = frozenset()


def read(content: bytes, source: str, options: SourceOptions) -> Table:
    """Return the table of a Parquet file; rows are numbered from 1."""
    try:
        file = parquet.ParquetFile(BytesIO(content))
        refuse_large(file.metadata.num_rows, file.metadata.num_columns, content, source, options)
        names = file.schema_arrow.names
        plain = len({name.strip() for name in names}) == len(names) and not any(
            pa.types.is_nested(field.type) for field in file.schema_arrow
        )
        wanted = [name for name in names if not plain or options.is_asked(name.strip())]
        arrow = file.read() if len(wanted) == len(names) else file.read(wanted or names[:1])
    except (pa.ArrowInvalid, OSError) as error:
        raise SourceError(source, "this is no Parquet file", "Is its ending right?") from error
    table = table_of_arrow(arrow, source, options)
    if len(arrow.column_names) == len(names):
        return table

    def later(name: str) -> Column:
        with guarded(source):
            return table_of_arrow(file.read([name]), source, options).columns[0]

    made = {column.name: column for column in table.columns}
    columns = tuple(
        made.get(name.strip()) or Column.later(name.strip(), table.length, partial(later, name))
        for name in names
    )
    return replace(table, columns=columns)
