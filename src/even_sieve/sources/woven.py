"""Columns of some rows alone put among others."""

from collections.abc import Iterable
from dataclasses import replace

import numpy as np

from even_sieve.core.cells import Kind
from even_sieve.core.notices import Notice
from even_sieve.core.table import Column
from even_sieve.core.table.build import assemble
from even_sieve.core.table.growing import join_columns
from even_sieve.core.table.joined import blanks
from even_sieve.core.table.lanes import Array, Lane, changed


def spread(lane: Lane, rows: Array, length: int) -> Lane:
    """Return a lane of some rows alone as one of so many rows; the others hold fillers."""

    def put(stored_values: Array) -> Array:
        values = np.zeros(length, dtype=stored_values.dtype)
        values[rows] = stored_values
        return values

    return changed(lane, put)


def woven(name: str, length: int, parts: Iterable[tuple[Array, Column]]) -> Column | None:
    """Return the column of so many cells, with those of each part at its rows, else blank ones.

    None where two parts have cells of one kind.
    """
    states = np.full(length, Kind.BLANK, dtype=np.uint8)
    lanes: dict[Kind, Lane] = {}
    notices: list[Notice] = []
    for rows, column in parts:
        if set(lanes) & set(column.lanes):
            return None
        alone = len(rows) == length
        lanes |= {k: e if alone else spread(e, rows, length) for k, e in column.lanes.items()}
        states[rows] = column.only_kind if column.states is None else column.states
        notices += column.notices
    return assemble(name, length, lanes, states, tuple(notices))


def in_order(name: str, length: int, parts: Iterable[tuple[Array, Column]]) -> Column:
    """Return the column of so many rows, with the cells of each part at its rows, else blanks.

    Its notices are new ones alone.

    >>> from even_sieve.core.table import column_from_cells
    >>> some = (np.array([2]), column_from_cells("dues", [12.5]))
    >>> list(in_order("dues", 3, [some]).cells())
    [None, None, 12.5]
    """
    parts = [(rows, replace(column, notices=())) for rows, column in parts if column.length]
    apart = woven(name, length, parts)
    if apart is not None:
        return apart
    blank = np.ones(length, dtype=bool)
    for rows, _ in parts:
        blank[rows] = False
    parts.append((np.flatnonzero(blank), blanks(name, int(np.count_nonzero(blank)))))
    order = np.empty(length, dtype=np.int64)
    order[np.concatenate([rows for rows, _ in parts])] = np.arange(length)
    return join_columns(name, [column for _, column in parts]).take(order)
