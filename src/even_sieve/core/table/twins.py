"""Sources of one table whose rows are the same: they may have been taken twice."""

from collections import Counter
from collections.abc import Iterator, Mapping, Sequence
from hashlib import blake2b

import numpy as np

from even_sieve.core.notices import Code, Notice
from even_sieve.core.table.columns import Column
from even_sieve.core.table.table import Table


def twin_sources(table: Table) -> Iterator[tuple[str, str]]:
    """Yield each source whose rows are, cell by cell, those of an earlier one, with that one.

    Columns that are left for later are made as far as the others tell no difference; of rows that
    stand elsewhere nothing is told.

    >>> from even_sieve import combine, table_from
    >>> january = table_from({"zone": ["Outer"], "dues": [120]})
    >>> list(twin_sources(combine([january, january]).core))
    [('table 2', 'table 1')]
    """
    columns = sorted(table.columns, key=lambda column: not column.is_made)
    there = table.elsewhere is None or all(column.is_made for column in columns)
    if table.origins is None or table.unread is not None or not there:
        return
    lengths: dict[int, list[tuple[str, slice]]] = {}
    for name, rows in table.origins.parts():
        lengths.setdefault(rows.stop - rows.start, []).append((name, rows))
    for alike in (each for each in lengths.values() if len(each) > 1):
        yield from _twins_among(columns, alike)


def _twins_among(
    columns: Sequence[Column], sources: Sequence[tuple[str, slice]]
) -> Iterator[tuple[str, str]]:
    """Yield each of some sources whose rows are those of an earlier one, with that one."""
    left = [(name, rows, blake2b()) for name, rows in sources]
    for column in columns:
        for _, rows, digest in left:
            _add(digest, column, rows)
        met = Counter(digest.digest() for _, _, digest in left)
        left = [each for each in left if met[each[2].digest()] > 1]
        if not left:
            return
    first: dict[bytes, str] = {}
    for name, _, digest in left:
        twin = first.get(digest.digest())
        if twin is None:
            first[digest.digest()] = name
        else:
            yield name, twin


def told_of_twins(twins: Mapping[str, str]) -> tuple[Notice, ...]:
    """Return a notice on each source that holds the same as another one."""
    return tuple(
        Notice(Code.TWIN_FILES, f"{name} holds the same as {twin}: its rows may count twice")
        for name, twin in twins.items()
    )


def _add(found: "blake2b", column: Column, rows: slice) -> None:
    states = None if column.states is None else column.states[rows]
    if states is not None:
        found.update(np.ascontiguousarray(states).data)
    for kind, lane in column.lanes.items():
        values = lane.values[rows]
        if states is not None:  # where a cell is of another kind there stands anything
            values = np.where(states == kind, values, np.zeros(1, dtype=values.dtype))
        found.update(np.ascontiguousarray(values).view(np.uint8).data)
