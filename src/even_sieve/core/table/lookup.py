"""Columns brought from another table along a key.

The different keys of both tables are matched, and rows follow by their codes. What is not
found is an error cell with its reason; a key that stands twice is refused.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date

import numpy as np

from even_sieve.core.cells import Cell, CellError, Kind, fold
from even_sieve.core.cells.dates import micros
from even_sieve.core.errors import LookUpError, UnknownColumn
from even_sieve.core.table.arrays import holds
from even_sieve.core.table.build import assemble, kind_of
from even_sieve.core.table.coded_lanes import error_lane
from even_sieve.core.table.columns import Column
from even_sieve.core.table.far import made_where_rows_are, named_arrays, of_rows
from even_sieve.core.table.lanes import Array
from even_sieve.core.table.marks import Mark
from even_sieve.core.table.origins import listed_rows
from even_sieve.core.table.table import Table, key_of

NOT_FOUND = "not found"
#: Numbers of pairs go up to here.
_MOST_CODES = 2**62


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
    brought = [(new.strip(), _named(other, name, other.source)) for name, new in chosen.items()]
    usable = _usable(other, right)
    _refuse_twice(other, right, np.flatnonzero(usable))
    work = _LookUp(left, right, usable, brought, other.source or "the other table")
    whole = [usable, *(each for column in other.columns for _, each in named_arrays(column))]
    made = made_where_rows_are(table, work, whole)
    return replace(table, columns=(*table.columns, *made))


@dataclass(frozen=True, eq=False)
class _LookUp:
    """Looks the keys of rows up, `left`, in those of the other table, `right`.

    `usable` says which of its rows may be found; `brought` are its columns with their new names.
    """

    left: Sequence[Column]
    right: Sequence[Column]
    usable: Array
    brought: Sequence[tuple[str, Column]]
    source: str

    def __call__(self, length: int) -> list[Column]:
        """Return what is brought beside the rows."""
        left = [of_rows(column, length) for column in self.left]
        rows = _found_rows(left, self.right, self.usable)
        missing = np.flatnonzero(rows < 0)
        reasons = self._reasons(left, missing)
        return [_brought(column, name, rows, missing, reasons) for name, column in self.brought]

    def _reasons(self, left: Sequence[Column], missing: Array) -> tuple[list[CellError], Array]:
        """Return the different errors of the rows without a match, and which one each row has."""
        errors: dict[CellError, int] = {}
        codes = np.empty(len(missing), dtype=np.int64)
        by_key: dict[tuple[int, ...], int] = {}
        own = [column.spelt.codes[missing] for column in left]
        for position, key in enumerate(zip(*(each.tolist() for each in own), strict=True)):
            if key not in by_key:
                cells = [c.spelt.keys[k] for c, k in zip(left, key, strict=True)]
                by_key[key] = errors.setdefault(self._error(left, cells), len(errors))
            codes[position] = by_key[key]
        return list(errors), codes

    def _error(self, left: Sequence[Column], cells: Sequence[Cell]) -> CellError:
        for column, cell in zip(left, cells, strict=True):
            if isinstance(cell, CellError):
                return CellError(NOT_FOUND, f"the key in '{column.name}' is the error {cell}")
            if cell is None:
                return CellError(NOT_FOUND, f"the key in '{column.name}' is blank")
        key = ", ".join(f"{c.name} = {cell}" for c, cell in zip(self.right, cells, strict=True))
        return CellError(NOT_FOUND, f"{self.source} has no row with {key}")


def _named(table: Table, name: str, place: str) -> Column:
    try:
        return table.column(name)
    except UnknownColumn as error:
        raise error.at(f"look up{f' in {place}' if place else ''}") from None


def _refuse_taken(table: Table, names: Iterable[str]) -> None:
    seen = set(map(key_of, table.names))
    for name in names:
        if key_of(name) in seen:
            raise LookUpError(f"there is a column '{name}' already", "Give it another name: … as …")
        seen.add(key_of(name))


def _found_rows(left: Sequence[Column], right: Sequence[Column], usable: Array) -> Array:
    """Return for each row the row of the other table that has its key, intp; -1 if none has."""
    codes = []
    for own, others in zip(left, right, strict=True):
        places = {_plain(key): i for i, key in enumerate(others.identity.keys) if _is_key(key)}
        known = [places.get(_plain(key), -1) if _is_key(key) else -1 for key in own.identity.keys]
        numbers = np.array(known, dtype=np.int64)
        codes.append(np.concatenate([numbers[own.identity.codes], others.identity.codes]))
    together = _together(codes, right)
    own_code, other_code = together[: left[0].length], together[left[0].length :]
    rows = np.flatnonzero(usable)
    order = rows[np.argsort(other_code[rows], kind="stable")]
    sorted_codes = other_code[order]
    place = np.searchsorted(sorted_codes, own_code)
    found = np.full(len(own_code), -1, dtype=np.intp)
    hits = np.flatnonzero(place < len(sorted_codes))
    same = sorted_codes[place[hits]] == own_code[hits]
    found[hits[same]] = order[place[hits[same]]]
    return found


def _usable(other: Table, right: Sequence[Column]) -> Array:
    """Return which rows of the other table may be found, bool, shape (n,)."""
    usable = np.ones(other.length, dtype=bool)
    for column in right:
        keys = np.array([_is_key(key) for key in column.identity.keys], dtype=bool)
        usable &= keys[column.identity.codes] if len(keys) else False
    if other.marks is not None:
        usable &= (other.marks & np.uint8(Mark.SUBTOTAL)) == 0
    return usable


def _together(codes: Sequence[Array], right: Sequence[Column]) -> Array:
    """Return one code for those of several keys, int64; -1 where one of them is -1.

    Where they would overflow they are numbered anew.
    """
    whole = codes[0].astype(np.int64)
    missing = whole < 0
    bound = len(right[0].identity.keys)
    for code, column in zip(codes[1:], right[1:], strict=True):
        size = len(column.identity.keys)
        if bound * size > _MOST_CODES:
            present, whole = np.unique(whole, return_inverse=True)
            bound = len(present)
        missing |= code < 0
        whole = whole * size + code
        bound *= size
    whole[missing] = -1
    return whole


def _refuse_twice(other: Table, right: Sequence[Column], rows: Array) -> None:
    """Raise `LookUpError` for a key that several rows have."""
    if not len(rows):
        return
    code = _together([column.identity.codes[rows] for column in right], right)
    order = np.argsort(code, kind="stable")
    sorted_codes = code[order]
    twice = np.flatnonzero(sorted_codes[1:] == sorted_codes[:-1])
    if not len(twice):
        return
    same = rows[order[sorted_codes == sorted_codes[int(twice[0])]]].tolist()
    key = ", ".join(f"{column.name} = {column.cell(same[0])}" for column in right)
    numbers = listed_rows([other.number(row) for row in same], 3)
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
    made = assemble(name, length, lanes, states, column.notices)
    return replace(made, conventions=column.conventions, shown=column.shown)
