"""CSV (RFC 4180): what the reader reads back as the same cells."""

import csv
from functools import partial
from pathlib import Path

from even_sieve.core.cells import Kind
from even_sieve.core.errors import SourceError
from even_sieve.core.progress import steps
from even_sieve.core.table import Column, Table
from even_sieve.core.table.arrays import BLOCK
from even_sieve.core.table.lanes import ErrorLane, TextLane
from even_sieve.sinks.tokens import harmless, token, tokens_of
from even_sieve.sources.arrow_strings import Strings
from even_sieve.sources.dialect import DELIMITERS


def write(table: Table, path: Path, leave_formulas: bool) -> None:
    """Write the table to the path. Raises `SourceError` for a text that no CSV holds."""
    alone, quoted = len(table.columns) == 1, False
    for column in table.columns:
        holds = partial(_holds, column)
        if alone and any(map(holds, DELIMITERS)):
            quoted = True  # else they would be taken for what parts columns
        errors = column.lanes.get(Kind.ERROR)
        tokens = [each.token for each in errors.errors] if isinstance(errors, ErrorLane) else []
        if holds("\r") or any("\r" in text for text in tokens):
            quoted = True  # else it would be taken for the end of a row
        if holds("\0"):
            fact = "a text holds the sign U+0000, which no text file holds"
            raise SourceError(f"column {column.name!r}", fact, "Write .jsonl or .parquet")
    spell = (
        token if leave_formulas else lambda cell, decimals: harmless(token(cell, decimals), cell)
    )
    with path.open("w", encoding="utf-8", newline="") as out:
        writer = csv.writer(
            out, lineterminator="\n", quoting=csv.QUOTE_ALL if quoted else csv.QUOTE_MINIMAL
        )
        writer.writerow(name if leave_formulas else harmless(name, name) for name in table.names)
        blocks = zip(*(tokens_of(column, spell) for column in table.columns), strict=True)
        for block in steps(blocks, "writing", -(-table.length // BLOCK)):
            writer.writerows(zip(*block, strict=True))


def _holds(column: Column, sign: str) -> bool:
    """Tell whether a column's name, or one of its texts, holds a sign."""
    lane = column.lanes.get(Kind.TEXT)
    if sign in column.name:
        return True
    if not isinstance(lane, TextLane):
        return False
    texts = lane.spellings
    if isinstance(texts, Strings):
        return texts.use(sign)
    return any(sign in text for text in texts)
