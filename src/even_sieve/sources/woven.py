"""Columns of some rows alone put among others."""

from collections.abc import Iterable, Sequence
from dataclasses import replace
from functools import partial
from itertools import accumulate

import numpy as np

from even_sieve.core.cells import Kind
from even_sieve.core.notices import Notice
from even_sieve.core.table import Column
from even_sieve.core.table.arrays import pick, spans, zeros
from even_sieve.core.table.build import assemble
from even_sieve.core.table.growing import join_columns
from even_sieve.core.table.joined import blanks
from even_sieve.core.table.lanes import Array, Lane, changed

#: Cells of a kind: each row's place among its values, and what these are to be.
CellsOfKind = tuple[Kind, Array, Column]


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


def with_values(column: Column, pieces: Sequence[CellsOfKind]) -> Column:
    """Return the column with other cells for those of some kinds, given once for each value.

    Texts are among the values of texts alone.

    >>> from even_sieve.core.table import column_from_cells
    >>> dues, values = column_from_cells("dues", ["7 kr", 5, "7 kr"]), column_from_cells("", [7])
    >>> list(with_values(dues, [(Kind.TEXT, np.array([0, 0, 0]), values)]).cells())
    [7, 5, 7]
    """
    if not pieces:
        return replace(column, notices=())
    if len(pieces) == 1 and column.states is None:
        _, codes, values = pieces[0]
        return replace(values.take(codes), notices=values.notices)
    states, order = zeros(column.length, np.uint8), zeros(column.length, np.int64)
    is_text = zeros(column.length, np.bool_)
    begins = list(accumulate((values.length for *_, values in pieces), initial=column.length))
    for rows in spans(column.length):
        own = column.only_kind if column.states is None else column.states[rows]
        states[rows] = own
        order[rows] = np.arange(rows.start, rows.stop)
        for begin, (kind, codes, values) in zip(begins, pieces, strict=False):
            there = states[rows] == kind
            places = codes[rows][there].astype(np.int64)
            order[rows][there] = places + begin
            is_text[rows][there] = _are_texts(values, places)
        states[rows][np.isin(states[rows], [kind for kind, _, _ in pieces])] = Kind.BLANK
    lanes = {
        k: lane for k, lane in column.lanes.items() if k not in [kind for kind, _, _ in pieces]
    }
    rest = assemble(column.name, column.length, lanes, states)
    parts = [rest, *(_without_texts(values) for *_, values in pieces)]
    joined = join_columns(column.name, parts)
    return _with_texts(replace(joined.take(order), notices=joined.notices), is_text, pieces)


def _are_texts(values: Column, places: Array) -> Array:
    """Tell which of some values are texts, bool."""
    if values.states is None:
        return np.full(len(places), values.only_kind is Kind.TEXT)
    found: Array = values.states[places] == Kind.TEXT
    return found


def _without_texts(column: Column) -> Column:
    """Return the column with blanks for its texts: these are put in as they are."""
    if Kind.TEXT not in column.lanes:
        return column
    lanes = dict(column.lanes)
    del lanes[Kind.TEXT]
    states = np.full(column.length, Kind.BLANK, dtype=np.uint8)
    if column.states is not None:
        states = np.where(column.states == Kind.TEXT, np.uint8(Kind.BLANK), column.states)
    return assemble(column.name, column.length, lanes, states, column.notices)


def _with_texts(column: Column, is_text: Array, pieces: Sequence[CellsOfKind]) -> Column:
    """Return the column with those texts, of values of pieces, that are blanks in it so far."""
    for kind, codes, values in pieces:
        lane = values.lanes.get(Kind.TEXT)
        if kind is not Kind.TEXT or lane is None or column.states is None:
            continue
        lanes = dict(column.lanes)
        lanes[Kind.TEXT] = changed(lane, partial(_picked, codes))
        states = zeros(column.length, np.uint8)
        for rows in spans(column.length):
            states[rows] = np.where(is_text[rows], np.uint8(Kind.TEXT), column.states[rows])
        column = assemble(column.name, column.length, lanes, states, column.notices)
    return column


def _picked(codes: Array, values: Array) -> Array:
    return pick(values, codes)
