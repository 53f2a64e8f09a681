"""Parquet files."""

from pathlib import Path

from pyarrow import parquet

from even_sieve.core.table import Table
from even_sieve.sinks.arrow import to_arrow


def write(table: Table, path: Path, leave_formulas: bool) -> None:
    """Write the table to the path; nothing in Parquet runs as a formula."""
    parquet.write_table(to_arrow(table), path)
