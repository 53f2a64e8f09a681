"""Columns brought from another table along a key.

The different keys of both tables are matched, and rows follow by their codes. What is not
found is an error cell with its reason; a key that stands twice is refused.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace
from datetime import date

import numpy as np

from even_sieve.core.cells import Cell, CellError, Kind, fold
from even_sieve.core.cells.dates import micros
from even_sieve.core.errors import LookUpError, UnknownColumn
from even_sieve.core.table.arrays import holds
from even_sieve.core.table.build import assemble, kind_of
from even_sieve.core.table.coded_lanes import error_lane
from even_sieve.core.table.columns import Column
from even_sieve.core.table.lanes import Array
from even_sieve.core.table.marks import Mark
from even_sieve.core.table.origins import listed_rows
from even_sieve.core.table.table import Table

NOT_FOUND = "not found"


def look_up(table: Table, other: Table, keys: Mapping[str, str], bring: Mapping[str, str]) -> Table:
    """Return the table with columns of the other one beside its own.

    `keys` name own columns and those of the other table that they are looked up in, `bring`
    columns of the other table and the names they get; without any all but the keys are
    brought. Rows of the other table that are marked as subtotals are passed over.

    Raises `UnknownColumn`; `LookUpError` for a key that stands twice in the other table,
    naming the rows, or a name that the table has already.
    """
    left = [_named(table, name, "") for name in keys]
    right = [_named(other, name, other.source or "the other table") for name in keys.values()]
    chosen = dict(bring) or {n: n for n in other.names if n not in {c.name for c in right}}
    _refuse_taken(table, chosen.values())
    rows = _found_rows(table, other, left, right)
    missing = np.flatnonzero(rows < 0)
    reasons = _reasons(left, right, other, missing)
    brought = tuple(
        _brought(_named(other, name, other.source), new, rows, missing, reasons)
        for name, new in chosen.items()
    )
    return replace(table, columns=(*table.columns, *brought))


def _named(table: Table, name: str, place: str) -> Column:
    try:
        return table.column(name)
    except UnknownColumn as error:
        raise error.at(f"look up{f' in {place}' if place else ''}") from None


def _refuse_taken(table: Table, names: Iterable[str]) -> None:
    seen = {name.casefold() for name in table.names}
    for name in names:
        if name.strip().casefold() in seen:
            raise LookUpError(f"there is a column '{name}' already", "Give it another name: … as …")
        seen.add(name.strip().casefold())


def _found_rows(
    table: Table, other: Table, left: Sequence[Column], right: Sequence[Column]
) -> Array:
    """Return for each row the row of the other table that has its key, intp; -1 if none has."""
    codes, sizes = [], []
    for own, others in zip(left, right, strict=True):
        places = {_plain(key): i for i, key in enumerate(others.identity.keys) if _is_key(key)}
        known = [places.get(_plain(key), -1) if _is_key(key) else -1 for key in own.identity.keys]
        numbers = np.array(known, dtype=np.int64)
        codes.append((numbers[own.identity.codes], others.identity.codes.astype(np.int64)))
        sizes.append(max(len(others.identity.keys), 1))
    own_code, other_code = _together(codes, sizes)
    usable = np.ones(other.length, dtype=bool)
    for column in right:
        keys = np.array([_is_key(key) for key in column.identity.keys], dtype=bool)
        usable &= keys[column.identity.codes] if len(keys) else False
    if other.marks is not None:
        usable &= (other.marks & np.uint8(Mark.SUBTOTAL)) == 0
    rows = np.flatnonzero(usable)
    order = rows[np.argsort(other_code[rows], kind="stable")]
    sorted_codes = other_code[order]
    _refuse_twice(other, right, order, sorted_codes)
    place = np.searchsorted(sorted_codes, own_code)
    inside = place < len(sorted_codes)
    found = np.full(table.length, -1, dtype=np.intp)
    hits = np.flatnonzero(inside)
    same = sorted_codes[place[hits]] == own_code[hits]
    found[hits[same]] = order[place[hits[same]]]
    return found


def _together(codes: Sequence[tuple[Array, Array]], sizes: Sequence[int]) -> tuple[Array, Array]:
    """Return one code for several, in both tables alike; -1 where one of them is -1.

    After each key the codes are numbered anew, so that no number of large keys overflows.
    """
    length = len(codes[0][0])
    whole = np.zeros(length + len(codes[0][1]), dtype=np.int64)
    missing = np.zeros(len(whole), dtype=bool)
    for pair, size in zip(codes, sizes, strict=True):
        code = np.concatenate(pair)
        missing |= code < 0
        _, whole = np.unique(whole * size + code, return_inverse=True)
    whole = whole.astype(np.int64)
    whole[missing] = -1
    return whole[:length], whole[length:]


def _refuse_twice(other: Table, right: Sequence[Column], order: Array, sorted_codes: Array) -> None:
    twice = np.flatnonzero(sorted_codes[1:] == sorted_codes[:-1])
    if not len(twice):
        return
    first = int(twice[0])
    rows = order[sorted_codes == sorted_codes[first]].tolist()
    key = ", ".join(f"{column.name} = {column.cell(rows[0])}" for column in right)
    numbers = listed_rows([other.number(row) for row in rows], 3)
    raise LookUpError(
        f"{other.source or 'the other table'}: the key {key} stands in rows {numbers}",
        "A key must lead to one row: mark or take out the others",
    )


def _is_key(cell: Cell) -> bool:
    return cell is not None and not isinstance(cell, CellError)


def _plain(cell: Cell) -> tuple[Kind, object]:
    """Return what equal keys have in common: numbers by value, dates by moment, text folded."""
    kind = kind_of(cell)
    if isinstance(cell, str):
        return kind, fold(cell)
    return kind, micros(cell) if isinstance(cell, date) else cell


def _reasons(
    left: Sequence[Column], right: Sequence[Column], other: Table, missing: Array
) -> tuple[list[CellError], Array]:
    """Return the different errors of the rows without a match, and which one each row has."""
    errors: dict[CellError, int] = {}
    codes = np.empty(len(missing), dtype=np.int64)
    by_key: dict[tuple[int, ...], int] = {}
    own = [column.identity.codes[missing] for column in left]
    for position, key in enumerate(zip(*(each.tolist() for each in own), strict=True)):
        if key not in by_key:
            cells = [c.identity.keys[k] for c, k in zip(left, key, strict=True)]
            error = _error(left, right, cells, other)
            by_key[key] = errors.setdefault(error, len(errors))
        codes[position] = by_key[key]
    return list(errors), codes


def _error(
    left: Sequence[Column], right: Sequence[Column], cells: Sequence[Cell], other: Table
) -> CellError:
    for column, cell in zip(left, cells, strict=True):
        if isinstance(cell, CellError):
            return CellError(NOT_FOUND, f"the key in '{column.name}' is the error {cell}")
        if cell is None:
            return CellError(NOT_FOUND, f"the key in '{column.name}' is blank")
    key = ", ".join(f"{c.name} = {cell}" for c, cell in zip(right, cells, strict=True))
    return CellError(NOT_FOUND, f"{other.source or 'the other table'} has no row with {key}")


def _brought(
    column: Column, name: str, rows: Array, missing: Array, reasons: tuple[list[CellError], Array]
) -> Column:
    """Return a column of the other table along the rows found, errors where none was."""
    errors, codes = list(reasons[0]), reasons[1]
    taken = column.take(np.maximum(rows, 0)) if column.length else None
    length = len(rows)
    states = np.full(length, Kind.BLANK, dtype=np.uint8)
    lanes = {}
    if taken is not None:
        states = (
            np.full(length, taken.only_kind, dtype=np.uint8)
            if taken.states is None
            else taken.states.copy()
        )
        lanes = dict(taken.lanes)
    if len(missing):
        own = lanes.pop(Kind.ERROR, None)
        every = np.zeros(length, dtype=np.int64)
        if own is not None:
            errors += [each for each in own.errors if each not in errors]  # type: ignore[union-attr]
            place = np.array([errors.index(each) for each in own.errors])  # type: ignore[union-attr]
            every = place[own.values]
        every[missing] = codes
        states[missing] = Kind.ERROR
        lanes[Kind.ERROR] = error_lane(errors, every)
    lanes = {kind: lane for kind, lane in lanes.items() if holds(states, kind)}
    return assemble(name.strip(), length, lanes, states, column.notices)
