"""CSV (RFC 4180): what the reader reads back as the same cells."""

import re
from functools import partial
from pathlib import Path
from typing import Any

import pyarrow.compute as pc

from even_sieve.core.cells import Kind
from even_sieve.core.errors import SourceError
from even_sieve.core.progress import steps
from even_sieve.core.table import Column, Table
from even_sieve.core.table.arrays import spans
from even_sieve.core.table.lanes import ErrorLane, TextLane
from even_sieve.sinks.arrow_tokens import (
    ROWS,
    Spelling,
    as_it_is,
    glued,
    joined,
    spelt_apart,
    tokens_of,
)
from even_sieve.sinks.tokens import RUNS, token
from even_sieve.sources.arrow_buffers import strings_of
from even_sieve.sources.arrow_strings import Strings
from even_sieve.sources.dialect import DELIMITERS

#: Fields in which one of these is found stand in quotes.
_NEED_QUOTES, _NEED_QUOTES_ALONE = '[",\n]', r'[",\n]|\A\z'
#: How texts begin that would run as a formula.
_RUN = f"^[{re.escape(''.join(RUNS))}]"


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
    finish = _in_quotes if quoted else as_it_is
    plain = as_it_is if quoted else partial(_field, alone=alone)

    def texts(strings: Any) -> Any:
        return plain(strings if leave_formulas else _harmless(strings))

    blank = '""' if alone and not quoted else ""
    spelling = Spelling(token, texts, plain, blank=blank)
    spelt = [tokens_of(column, spelling) for column in table.columns]
    with path.open("wb") as out:
        names = finish(texts(strings_of(table.names)))
        out.write(joined([names[at : at + 1] for at in range(len(names))], ",", "\n"))
        blocks = spans(table.length, ROWS)
        for rows in steps(blocks, "writing", -(-table.length // ROWS)):
            out.write(joined([finish(each(rows)) for each in spelt], ",", "\n"))


def _in_quotes(strings: Any) -> Any:
    """Return fields in quotes, those in them doubled."""
    return glued('"', pc.replace_substring(strings, '"', '""'), '"')


def _field(strings: Any, *, alone: bool) -> Any:
    """Return fields, in quotes where they need them; a row by itself is never empty."""
    return spelt_apart(strings, _NEED_QUOTES_ALONE if alone else _NEED_QUOTES, _in_quotes)


def _harmless(strings: Any) -> Any:
    """Return texts, with an apostrophe before those that would run as a formula."""
    return spelt_apart(strings, _RUN, partial(glued, "'"))


def _holds(column: Column, sign: str) -> bool:
    """Tell whether a column's name, or one of its texts, holds a sign."""
    lane = column.lanes.get(Kind.TEXT)
    if sign in column.name:
        return True
    if not isinstance(lane, TextLane):
        return False
    texts = lane.spellings
    if isinstance(texts, Strings):
        return texts.hold(sign.encode())
    return any(sign in text for text in texts)
