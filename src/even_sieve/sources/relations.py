"""What is asked of a database: relations, columns of them, and how their cells are made."""

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from typing import Any

import pyarrow as pa

from even_sieve.core.table import Column
from even_sieve.sources.arrow_tables import table_of_arrow
from even_sieve.sources.source_options import SourceOptions

#: Makes a column of a name from an array that the database gave.
Decode = Callable[[str, Any], Column]


@dataclass(frozen=True)
class Asked:
    """A column to be asked for: its name, what stands for it in SQL, what its cells are made by.

    `like` is a value of the type that all its values have, where the driver would guess it.
    """

    name: str
    expression: str
    decode: Decode
    like: str = ""


@dataclass(frozen=True)
class Relation:
    """A table, a view or a query: what it is called in SQL, and what puts its rows in order.

    Only rows in an order that holds can be asked for twice, a column now and another later.
    """

    sql: str
    order: str = ""
    estimate: int = 0


def quoted(name: str) -> str:
    """Return a name as SQL has it.

    >>> quoted('berth "B" east')
    '"berth ""B"" east"'
    """
    return '"' + name.replace('"', '""') + '"'


def of_type(name: str, array: Any) -> Column:
    """Return the column of an array whose type says what its values are."""
    return table_of_arrow(pa.table({name: array}), name, SourceOptions()).columns[0]


def in_quotes(value: str) -> str:
    """Return a text as SQL has it."""
    return "'" + value.replace("'", "''") + "'"


def in_order(keys: Iterable[str]) -> str:
    """Return what puts rows in the order of these columns."""
    return ", ".join(f"rows_read.{key}" for key in keys)


def question(relation: Relation, asked: Sequence[Asked]) -> str:
    """Return what asks for columns, in the order that holds if there is one."""
    columns = ", ".join(each.expression for each in asked)
    order = f" ORDER BY {relation.order}" if relation.order else ""
    return f"SELECT {columns} FROM {relation.sql} AS rows_read{order}"
