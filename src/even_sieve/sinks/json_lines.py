"""JSON Lines: a record a line; blank cells are left out of all but the first."""

from pathlib import Path

from even_sieve.core.progress import steps
from even_sieve.core.table import Table
from even_sieve.documents.json_text import compact
from even_sieve.documents.values import plain_json


def write(table: Table, path: Path, leave_formulas: bool) -> None:
    """Write the table to the path; nothing in JSON runs as a formula."""
    with path.open("w", encoding="utf-8", newline="") as out:
        records = enumerate(table.records())
        for number, record in steps(records, "writing", table.length):
            filled = {
                name: None if cell is None else plain_json(cell)
                for name, cell in record.items()
                if cell is not None or not number  # the first record names every column
            }
            out.write(f"{compact(filled)}\n")
