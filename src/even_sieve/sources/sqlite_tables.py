"""SQLite: a file; each cell has a type of its own, and dates are texts."""

import os
from collections.abc import Callable, Mapping, Sequence
from decimal import Decimal
from math import isfinite
from typing import Any
from urllib.parse import quote

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from even_sieve.core.cells import Cell
from even_sieve.core.table import Column, column_from_codes
from even_sieve.core.table.build import INFINITE
from even_sieve.sources.arrow_buffers import stored
from even_sieve.sources.arrow_columns import filled
from even_sieve.sources.relations import (
    Asked,
    Relation,
    in_order,
    in_quotes,
    of_type,
    question,
    quoted,
)
from even_sieve.sources.source_options import SourceOptions
from even_sieve.sources.string_columns import column_from_strings
from even_sieve.sources.text_columns import column_of_texts
from even_sieve.sources.tokens import TokenReader


class Sqlite:
    """SQLite: a file; each cell has a type of its own, and dates are texts."""

    driver = "adbc_driver_sqlite"
    statement: Mapping[str, str] = {"adbc.sqlite.query.batch_rows": "65536"}
    start: tuple[str, ...] = ()
    has_first = True
    hint = "Is it a database, whole and free to be read?"
    listing = (
        "SELECT name, name AS sql FROM pragma_table_list WHERE schema = 'main' "
        "AND type IN ('table', 'view', 'virtual') "
        "AND name NOT LIKE 'sqlite~_%' ESCAPE '~' ORDER BY name"
    )

    def address(self, path: str) -> str:
        """Return what the driver opens: the file, to be read alone."""
        return f"file:{quote(os.path.abspath(path))}?mode=ro"

    def relation(self, name: str, ask: Callable[[str], Any]) -> Relation:
        """Return a table or a view. Rows of a table have numbers or a key, those of others not."""
        table, named = quoted(name), in_quotes(name)
        kind = ask(
            f"SELECT type, wr FROM pragma_table_list WHERE schema = 'main' AND name = {named}"
        )
        columns = ask(f"SELECT name, pk FROM pragma_table_info({named}) ORDER BY pk")
        names, places = columns["name"].to_pylist(), columns["pk"].to_pylist()
        if kind["type"][0].as_py() != "table":
            return Relation(table)
        if kind["wr"][0].as_py():  # without numbers of rows: its key is whole and each is another
            keys = [quoted(each) for each, place in zip(names, places, strict=True) if place]
            return Relation(table, in_order(keys))
        taken = {each.casefold() for each in names}
        number = next((each for each in _NUMBERS if each not in taken), None)
        if number is None:
            return Relation(table)
        most = ask(f"SELECT max({number}) AS most FROM {table}")["most"][0].as_py()
        return Relation(table, in_order([number]), most or 0)

    def columns(self, schema: Any, relation: Relation, ask: Callable[[str], Any]) -> list[Asked]:
        """Return how each column is asked for: by the types that its cells have."""
        found = []
        for start in range(0, len(schema), _AT_ONCE):
            names = schema.names[start : start + _AT_ONCE]
            facts = ", ".join(_facts(quoted(name), i) for i, name in enumerate(names))
            told = ask(f"SELECT {facts} FROM {relation.sql} AS rows_read")
            row = {key: told[key][0].as_py() or 0 for key in told.column_names}
            found += [_of_sqlite(name, i, row) for i, name in enumerate(names)]
        return found

    def question(self, relation: Relation, asked: Sequence[Asked]) -> str:
        """Return what asks for columns.

        The driver takes a column's type from the first rows: one of the right types goes before.
        """
        first = ", ".join(each.like for each in asked)
        # An order inside is kept for certain where there is a limit too.
        return f"SELECT {first} UNION ALL SELECT * FROM ({question(relation, asked)} LIMIT -1)"


#: What the number of a row is called, where no column is called so.
_NUMBERS = ("_rowid_", "rowid", "oid")
#: A statement may have so many columns, and there are six facts on each.
_AT_ONCE = 200
#: Whole numbers up to here are doubles too.
_EXACT = 2**53


def _facts(column: str, number: int) -> str:
    """Return what tells the types of cells: in order numbers come first, then text, then bytes.

    Few are asked for: each takes a second in ten million rows.
    """
    parts = {
        "low": f"typeof(min({column}))",
        "high": f"typeof(max({column}))",
        "least": f"CAST(min({column}) AS INTEGER)",
        "most": f"CAST(max({column}) AS INTEGER)",
        "whole": f"sum(typeof({column}) = 'integer')",
        "filled": f"count({column})",
    }
    return ", ".join(f"{each} AS {name}{number}" for name, each in parts.items())


def _of_sqlite(name: str, number: int, facts: Mapping[str, Any]) -> Asked:
    column = quoted(name)
    low, high, whole = (facts[f"{each}{number}"] for each in ("low", "high", "whole"))
    if high == "null":
        return Asked(name, column, _of_texts, "''")
    if high in ("integer", "real"):
        if whole == facts[f"filled{number}"]:
            return Asked(name, column, of_type, "0")
        ends = facts[f"least{number}"], facts[f"most{number}"]
        if not whole or (ends[0] >= -_EXACT and ends[1] <= _EXACT):
            return Asked(name, f"CAST({column} AS REAL)", of_type, "0.0")
    elif (low, high) == ("text", "text"):
        return Asked(name, column, _of_texts, "''")
    each = (
        f"CASE typeof({column}) WHEN 'integer' THEN 'i' || {column} "
        f"WHEN 'real' THEN 'r' || printf('%!.17g', {column}) WHEN 'text' THEN 't' || {column} "
        f"WHEN 'blob' THEN 'b\\x' || lower(hex({column})) END"
    )
    return Asked(name, each, _of_tagged, "''")


#: How texts begin that are no texts: ISO dates and errors.
_NO_TEXT = r"^\s*(?:\d{4}-?\d\d-?\d\d|#)"
_FEW = 4096


def _of_texts(name: str, array: Any) -> Column:
    """Return the column of texts; those that are ISO dates are dates, as in JSON Lines."""
    dated = pc.sum(pc.cast(pc.match_substring_regex(array, _NO_TEXT), pa.int64())).as_py() or 0
    if not dated:
        return column_of_texts(name, array)
    if dated == len(array) - array.null_count and len(array) > _FEW:
        column = column_from_strings(name, filled(array, ""), SourceOptions())
        if all(kind.words in ("dates", "errors", "blanks") for kind in column.counts):
            return column
    return _of_distinct(name, array, _cell_of_text)


def _of_tagged(name: str, array: Any) -> Column:
    """Return the column of cells that stand behind a letter for their type."""
    return _of_distinct(name, array, _cell_of_tagged)


def _of_distinct(name: str, array: Any, read: Callable[[str, TokenReader], Cell]) -> Column:
    coded, reader = array.dictionary_encode(), TokenReader()
    cells: list[Cell] = [read(text, reader) for text in coded.dictionary.to_pylist()]
    codes = stored(filled(coded.indices, len(cells)), np.int32)
    return column_from_codes(name, [*cells, None], codes, reader.notices(name))


def _cell_of_text(text: str, reader: TokenReader) -> Cell:
    cell = reader.read(text)
    return text.strip() or None if isinstance(cell, bool | int | Decimal) else cell


def _cell_of_tagged(text: str, reader: TokenReader) -> Cell:
    kind, rest = text[0], text[1:]
    if kind == "i":
        return int(rest)
    if kind == "r":
        return float(rest) if isfinite(float(rest)) else INFINITE
    return rest if kind == "b" else _cell_of_text(rest, reader)
