"""CSV (RFC 4180): what the reader reads back as the same cells."""

import csv
from pathlib import Path

from even_sieve.core.progress import steps
from even_sieve.core.table import Table
from even_sieve.core.table.arrays import BLOCK
from even_sieve.sinks.tokens import harmless, token, tokens_of


def write(table: Table, path: Path, leave_formulas: bool) -> None:
    """Write the table to the path."""
    spell = (
        token if leave_formulas else lambda cell, decimals: harmless(token(cell, decimals), cell)
    )
    with path.open("w", encoding="utf-8", newline="") as out:
        writer = csv.writer(out, lineterminator="\n")
        writer.writerow(name if leave_formulas else harmless(name, name) for name in table.names)
        blocks = zip(*(tokens_of(column, spell) for column in table.columns), strict=True)
        for block in steps(blocks, "writing", -(-table.length // BLOCK)):
            writer.writerows(zip(*block, strict=True))
