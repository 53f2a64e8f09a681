"""Columns of texts with the cells of others put in: `"{vessel} ({class})"`."""

import re
from collections.abc import Sequence
from functools import partial
from itertools import repeat

import numpy as np

from even_sieve.core.cells import Cell, Kind
from even_sieve.core.cells.said import as_text
from even_sieve.core.derive.combinations import first_of_each
from even_sieve.core.derive.parts import from_codes
from even_sieve.core.errors import CallError
from even_sieve.core.lazy import many_of
from even_sieve.core.table import Column, Table
from even_sieve.core.table.arrays import pick
from even_sieve.core.table.far import made_where_rows_are, of_rows
from even_sieve.core.table.lanes import Array, TextLane, narrowest

_FIELD = re.compile(r"\{([^{}]*)\}")


def from_template(table: Table, name: str, template: str) -> Column:
    """Return the column of a template; blanks leave nothing, errors stay errors.

    Raises `CallError` for one that names no column, `UnknownColumn`.
    """
    fields = list(dict.fromkeys(field.strip() for field in _FIELD.findall(template)))
    columns = [table.column(field) for field in fields]
    if not columns:
        raise CallError(
            'a template names columns in braces\nWrite for example: "{vessel} ({class})"'
        )
    (made,) = made_where_rows_are(table, partial(_filled, name, template, fields, columns))
    return made


def _filled(
    name: str,
    template: str,
    fields: Sequence[str],
    columns: Sequence[Column],
    length: int,
) -> list[Column]:
    """Return the texts of rows, each combination of cells made once."""
    own = [of_rows(column, length) for column in columns]
    first, codes = first_of_each(own)
    shown = dict(zip(fields, (_texts_at(column, first) for column in own), strict=True))
    pieces = [
        shown[piece.strip()] if place % 2 else repeat(piece)
        for place, piece in enumerate(_FIELD.split(template))
    ]
    cells: list[Cell] = [text.strip() or None for text in map("".join, zip(*pieces, strict=False))]
    for column in reversed(own):  # the first one that is wrong tells
        if Kind.ERROR in column.counts:
            for place in np.flatnonzero(_are(column, Kind.ERROR, first)).tolist():
                cells[place] = column.cell(first[place])
    made = from_codes(name, cells, codes)
    order = _as_first_met(cells, first, made.lanes.get(Kind.TEXT))
    if order is None:
        return [made]
    number = np.empty(len(order), dtype=narrowest(len(order)))
    number[order] = np.arange(len(order))
    return [from_codes(name, [cells[place] for place in order.tolist()], pick(number, codes))]


def _as_first_met(cells: Sequence[Cell], first: Array, lane: object) -> Array | None:
    """Return an order in which texts that differ in case alone come as they are first met.

    None where there are no such texts. Others stay where they are: sorted ones are sorted fast.
    """
    if not isinstance(lane, TextLane) or len(lane.group_starts) == len(lane.spellings):
        return None
    sizes = np.diff(lane.group_starts, append=len(lane.spellings))
    several = np.flatnonzero(np.repeat(sizes > 1, sizes))
    texts = set(many_of(lane.spellings, several))
    alike = np.array([place for place, cell in enumerate(cells) if cell in texts])
    order = np.arange(len(cells))
    order[alike] = alike[np.argsort(first[alike], kind="stable")]
    return order


def _texts_at(column: Column, rows: Array) -> list[str]:
    """Return the cells of rows as texts, spelt as they are there."""
    lane = column.lanes.get(Kind.TEXT)
    if isinstance(lane, TextLane) and {*column.counts} == {Kind.TEXT}:
        return many_of(lane.spellings, lane.codes[rows])
    return many_of(list(map(as_text, column.spelt.keys)), column.spelt.codes[rows])


def _are(column: Column, kind: Kind, rows: Array) -> Array:
    """Return which of some rows hold a cell of a kind."""
    if column.states is None:
        return np.full(len(rows), column.only_kind is kind)
    found: Array = column.states[rows] == kind
    return found
