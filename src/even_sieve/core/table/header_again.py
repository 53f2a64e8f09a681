"""Rows that hold the names of their columns: of files that were put together, or of each page."""

from collections.abc import Callable, Collection

import numpy as np

from even_sieve.core.cells import Kind, fold
from even_sieve.core.notices import Code, Notice, counted
from even_sieve.core.table.arrays import spans
from even_sieve.core.table.columns import Column
from even_sieve.core.table.lanes import Array, TextLane
from even_sieve.core.table.table import Table

_NO_ROW = np.empty(0, dtype=np.intp)


def rows_of_its_name(column: Column) -> Array:
    """Return the rows in which a text is the column's own name, ascending.

    >>> from even_sieve.core.table import column_from
    >>> rows_of_its_name(column_from("dues", [12, "dues", "Dues", None, "dues"])).tolist()
    [1, 4]
    """
    lane = column.lanes.get(Kind.TEXT)
    if not isinstance(lane, TextLane):
        return _NO_ROW
    waiting = lane.of_rows
    told = None if waiting is None else waiting.spellings.equal_to([column.name])
    if waiting is not None and told is not None:
        return np.flatnonzero(waiting.rows(told[0]))
    low, high = lane.range_of(fold(column.name))
    own = [code for code in range(low, high) if lane.spellings[code] == column.name]
    found = [_NO_ROW]
    for rows in spans(column.length if own else 0):
        here = np.isin(lane.codes[rows], own)
        if column.states is not None:
            here &= column.states[rows] == Kind.TEXT
        found.append(rows.start + np.flatnonzero(here))
    return np.concatenate(found)


def header_rows(
    table: Table, asked: Collection[Column], matching: Callable[[], Array] | None = None
) -> Array:
    """Return the rows that hold the names of the columns that are asked, of none any, ascending.

    Those that are marked are left out, they are known; `matching` gives the rows that count, bool,
    where not all do.
    """
    rows = _rows_of_names(table, asked)
    if table.marks is not None:
        rows = rows[table.marks[rows] == 0]
    return rows[matching()[rows]] if len(rows) and matching is not None else rows


def _rows_of_names(table: Table, asked: Collection[Column]) -> Array:
    """Return such rows, whether they count or not.

    A column of mostly texts may well hold its own name: another column must do so in the same row.
    """
    if table.elsewhere is not None:
        return _NO_ROW
    for column in asked or [each for each in table.columns if each.is_made]:
        rows = rows_of_its_name(column)
        if not len(rows):
            continue
        texts = column.counts[Kind.TEXT]
        if column.counts.get(Kind.NUMBER, 0) + column.counts.get(Kind.DATE, 0) >= texts:
            return rows
        for other in table.columns:
            if other is not column and other.is_made:
                both = np.intersect1d(rows, rows_of_its_name(other))
                if len(both):
                    return both
    return _NO_ROW


def told_header_again(table: Table, rows: Array) -> tuple[Notice, ...]:
    """Return the notice on rows that hold the names of the columns, if there are any."""
    if not len(rows):
        return ()
    one, first = len(rows) == 1, table.number(int(rows[0]))
    which = f"row {first} holds" if one else f"{counted(len(rows), 'row')} (first {first}) hold"
    text = (
        f"{which} the names of the columns again, as where files were put together, and "
        f"{'counts as a row' if one else 'count as rows'} like others"
    )
    return (Notice(Code.HEADER_AGAIN, text, {"rows": len(rows)}),)
