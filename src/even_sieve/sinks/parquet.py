"""Parquet files."""

from pathlib import Path

from pyarrow import parquet

from even_sieve.core.table import Table
from even_sieve.sinks.arrow import PIECE, in_batches


def write(table: Table, path: Path, leave_formulas: bool) -> None:
    """Write the table to the path; nothing in Parquet runs as a formula."""
    schema, batches = in_batches(table)
    with parquet.ParquetWriter(path, schema) as writer:
        for batch in batches:
            writer.write_batch(batch, row_group_size=PIECE)
