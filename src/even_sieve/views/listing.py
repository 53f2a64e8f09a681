"""Rows of a table as they are shown."""

from collections.abc import Sequence
from dataclasses import dataclass

from even_sieve.core.cells import Cell
from even_sieve.core.notices import Notice
from even_sieve.core.table import Table


@dataclass(frozen=True)
class Listing:
    """Rows to show: the source's number of each, and its cells under the column names.

    `matching` and `rows_in_table` say how many there are; fewer may be listed.
    """

    names: tuple[str, ...]
    numbers: tuple[int, ...]
    rows: tuple[tuple[Cell, ...], ...]
    matching: int
    rows_in_table: int
    notices: tuple[Notice, ...] = ()


def list_rows(
    table: Table,
    positions: Sequence[int],
    *,
    limit: int | None = None,
    notices: tuple[Notice, ...] = (),
) -> Listing:
    """Return the rows at these positions (from 0), the first `limit` of them."""
    shown = positions if limit is None else positions[:limit]
    rows = tuple(tuple(column.cell(row) for column in table.columns) for row in shown)
    numbers = tuple(table.number(row) for row in shown)
    return Listing(table.names, numbers, rows, len(positions), table.length, notices)
