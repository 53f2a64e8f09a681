"""Files of the Arrow IPC format."""

from pathlib import Path

import pyarrow as pa

from even_sieve.core.table import Table
from even_sieve.sinks.arrow import in_batches


def write(table: Table, path: Path, leave_formulas: bool) -> None:
    """Write the table to the path; nothing in Arrow runs as a formula."""
    schema, batches = in_batches(table)
    with pa.OSFile(str(path), "wb") as out, pa.ipc.new_file(out, schema) as writer:
        for batch in batches:
            writer.write_batch(batch)
