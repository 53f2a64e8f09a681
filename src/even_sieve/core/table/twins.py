"""Sources of one table whose rows are the same: they may have been taken twice."""

from collections.abc import Iterator, Mapping
from hashlib import blake2b

import numpy as np

from even_sieve.core.notices import Code, Notice
from even_sieve.core.table.columns import Column
from even_sieve.core.table.table import Table


def twin_sources(table: Table) -> Iterator[tuple[str, str]]:
    """Yield each source whose rows are, cell by cell, those of an earlier one, with that one.

    Nothing is told of a table of which columns are left for later.

    >>> from even_sieve import combine, table_from
    >>> january = table_from({"zone": ["Outer"], "dues": [120]})
    >>> list(twin_sources(combine([january, january]).core))
    [('table 2', 'table 1')]
    """
    made = all(column.is_made for column in table.columns)
    if table.origins is None or table.unread is not None or not made:
        return
    lengths: dict[int, list[tuple[str, slice]]] = {}
    for name, rows in table.origins.parts():
        lengths.setdefault(rows.stop - rows.start, []).append((name, rows))
    for alike in (each for each in lengths.values() if len(each) > 1):
        first: dict[bytes, tuple[str, slice]] = {}
        for each in alike:
            twin = first.setdefault(_digest(table, each[1]), each)
            if twin is not each:
                yield each[0], twin[0]


def told_of_twins(twins: Mapping[str, str]) -> tuple[Notice, ...]:
    """Return a notice on each source that holds the same as another one."""
    return tuple(
        Notice(Code.TWIN_FILES, f"{name} holds the same as {twin}: its rows may count twice")
        for name, twin in twins.items()
    )


def _digest(table: Table, rows: slice) -> bytes:
    found = blake2b()
    for column in table.columns:
        _add(found, column, rows)
    return found.digest()


def _add(found: "blake2b", column: Column, rows: slice) -> None:
    states = None if column.states is None else column.states[rows]
    if states is not None:
        found.update(np.ascontiguousarray(states).data)
    for kind, lane in column.lanes.items():
        values = lane.values[rows]
        if states is not None:  # where a cell is of another kind there stands anything
            values = np.where(states == kind, values, np.zeros(1, dtype=values.dtype))
        found.update(np.ascontiguousarray(values).view(np.uint8).data)
