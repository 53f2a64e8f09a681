"""PostgreSQL: an address; a password comes from the environment or the password file."""

import os
from collections.abc import Callable, Mapping, Sequence
from decimal import Decimal
from typing import Any

import pyarrow as pa
import pyarrow.compute as pc

from even_sieve.core.cells import Kind
from even_sieve.core.table import Column, column_from_cells
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


def of_digits(name: str, array: Any) -> Column:
    """Return the column of numbers that are written out, however long; NaN is a blank."""
    texts = array.storage if isinstance(array, pa.ExtensionArray) else array
    texts = pc.if_else(pc.is_in(pc.utf8_lower(texts), pa.array(["nan"])), None, texts)
    column = column_from_strings(name, filled(texts, ""), SourceOptions())
    if Kind.TEXT not in column.counts:
        return column
    # More digits than a text is read as a number of: the database says that they are one.
    numbers = [None if text is None else Decimal(text) for text in texts.to_pylist()]
    return column_from_cells(name, numbers)


class Postgresql:
    """PostgreSQL: an address; a password comes from the environment or the password file."""

    driver = "adbc_driver_postgresql"
    statement: Mapping[str, str] = {}
    start = (
        "SET TRANSACTION ISOLATION LEVEL REPEATABLE READ, READ ONLY",
        "SET client_encoding = 'UTF8'",
    )
    has_first = False
    hint = "Is the address right? A password comes from PGPASSWORD or from ~/.pgpass"
    listing = (
        "SELECT CASE WHEN nspname = ANY (current_schemas(false)) THEN '' "
        "ELSE nspname || '.' END || relname AS name, "
        "quote_ident(nspname) || '.' || quote_ident(relname) AS sql "
        "FROM pg_class JOIN pg_namespace ON pg_namespace.oid = relnamespace "
        "WHERE relkind IN ('r', 'p', 'v', 'm', 'f') AND NOT relispartition "
        "AND nspname !~ '^pg_' AND nspname <> 'information_schema' "
        "AND has_table_privilege(pg_class.oid, 'SELECT') ORDER BY 1"
    )

    def address(self, path: str) -> str:
        """Return what the driver opens; an answer is not waited for without an end."""
        waits = "connect_timeout" in path or "PGCONNECT_TIMEOUT" in os.environ
        return path if waits else f"{path}{'&' if '?' in path else '?'}connect_timeout=15"

    def relation(self, name: str, ask: Callable[[str], Any]) -> Relation:
        """Return a table or a view, by its name in SQL; what has a key is put in its order."""
        keys = ask(
            "SELECT quote_ident(a.attname) AS name, greatest(c.reltuples, 0)::int8 AS rows "
            "FROM pg_index i JOIN pg_class c ON c.oid = i.indrelid "
            "JOIN pg_attribute a ON a.attrelid = c.oid AND a.attnum = ANY (i.indkey) "
            f"WHERE i.indisprimary AND i.indrelid = {in_quotes(name)}::regclass "
            # With heirs a key may come twice.
            "AND NOT (c.relkind = 'r' AND c.relhassubclass) "
            "ORDER BY array_position(i.indkey::int2[], a.attnum)"
        )
        if not len(keys):
            return Relation(name)
        return Relation(name, in_order(keys["name"].to_pylist()), keys["rows"][0].as_py())

    def columns(self, schema: Any, relation: Relation, ask: Callable[[str], Any]) -> list[Asked]:
        """Return how each column is asked for: as it is, or as text where its type is not read."""
        return [_of_postgresql(field) for field in schema]

    def question(self, relation: Relation, asked: Sequence[Asked]) -> str:
        """Return what asks for columns."""
        return question(relation, asked)


_TAKEN = frozenset({
    "int2", "int4", "int8", "float4", "float8", "text", "varchar", "bpchar", "name", "bool", "date",
    "timestamp", "timestamptz",
})  # fmt: skip


def _of_postgresql(field: Any) -> Asked:
    notes = field.metadata or {}
    kind = notes.get(b"POSTGRESQL:type", notes.get(b"ADBC:postgresql:typname", b"")).decode()
    column = quoted(field.name)
    if kind == "numeric":
        return Asked(field.name, column, of_digits)
    if kind == "money":
        return Asked(field.name, f"{column}::numeric", of_digits)
    if kind == "oid":
        return Asked(field.name, f"{column}::int8", of_type)
    return Asked(field.name, column if kind in _TAKEN else f"{column}::text", of_type)
