"""JSON Lines: a record a line; blank cells are left out of all but the first."""

from pathlib import Path
from typing import Any

import numpy as np

from even_sieve.core.cells import Cell
from even_sieve.core.progress import steps
from even_sieve.core.table import Table
from even_sieve.core.table.arrays import spans
from even_sieve.documents.json_text import compact
from even_sieve.documents.values import plain_json
from even_sieve.sinks.arrow_tokens import (
    ROWS,
    Spelling,
    filled_alone,
    glued,
    spelt_apart,
    tokens_of,
)
from even_sieve.sources.arrow_buffers import Bytes, strings_of

#: What stands otherwise in JSON than in a text.
_ESCAPED = r'["\\\x00-\x1f]'


def write(table: Table, path: Path, leave_formulas: bool) -> None:
    """Write the table to the path; nothing in JSON runs as a formula."""
    spelling = Spelling(_one, _texts, _texts, _in_quotes, places=False)
    columns = [(f",{compact(each.name)}:", tokens_of(each, spelling)) for each in table.columns]
    with path.open("wb") as out:
        if table.length:  # the first record names every column
            first = {column.name: plain_json(column.cell(0)) for column in table.columns}
            out.write(f"{compact(first)}\n".encode())
        blocks = spans(table.length, ROWS, 1)
        for rows in steps(blocks, "writing", -(-table.length // ROWS)):
            out.write(_records([_named(name, spelt(rows)) for name, spelt in columns]))


def _one(cell: Cell, decimals: int) -> str:
    return compact(plain_json(cell))


def _in_quotes(strings: Any) -> Any:
    return glued('"', strings, '"')


def _texts(strings: Any) -> Any:
    """Return texts as JSON has them."""

    def escaped(own: Any) -> Any:
        return strings_of(list(map(compact, own.to_pylist())))

    return spelt_apart(strings, _ESCAPED, escaped, _in_quotes)


def _named(name: str, values: Any) -> Any:
    """Return values with the name of their column before them; nothing for a blank."""
    return filled_alone(values, glued(name, values))


def _records(fields: list[Any]) -> bytes:
    """Return a record a line from fields that each begin with a comma."""
    lines = Bytes.of(glued("{", *fields, "}\n"))
    begins = lines.offsets[:-1] - lines.offsets[0] + 1
    kept = np.ones(len(lines.used), dtype=bool)
    kept[begins[lines.used[begins] == ord(",")]] = False
    return lines.used[kept].tobytes()
