"""Marks set by hand: by the numbers of rows, and by a column that names them."""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

import numpy as np

from even_sieve.core.cells import Kind, fold
from even_sieve.core.errors import MarkError
from even_sieve.core.table.distinct import once_each
from even_sieve.core.table.lanes import Array, TextLane
from even_sieve.core.table.marks import Mark
from even_sieve.core.table.origins import origin_of
from even_sieve.core.table.table import Table

_SHOWN = 8
_WORDS = {
    "subtotal": Mark.SUBTOTAL,
    "total": Mark.SUBTOTAL,
    "hidden": Mark.HIDDEN,
    "filtered": Mark.FILTERED,
}


@dataclass(frozen=True, eq=False)
class RowsOf:
    """Rows by their numbers in one of several sources: an array of them, or a list."""

    origin: str
    numbers: Any


def rows_numbered(table: Table, numbers: Iterable[int] | RowsOf) -> Array:
    """Return the rows that have these numbers in the source, bool, shape (n,).

    Of several sources each counts its own rows: the numbers must say which, as `RowsOf` or as
    `RowNumber`s do. Raises `MarkError` for a number that no row has.
    """
    if isinstance(numbers, RowsOf):
        return _rows_of(table, numbers)
    if table.origins is None:
        return _rows_held(table, numbers)
    by_origin: dict[str | None, list[int]] = {}
    for each in numbers:
        by_origin.setdefault(origin_of(each), []).append(int(each))
    found = np.zeros(table.length, dtype=bool)
    for origin, own in by_origin.items():
        if origin is None:
            fact = f"the rows are of {len(table.origins.names)} sources, and each counts its own"
            example = f"{own[0]} of {table.origins.names[0]}"
            raise MarkError(fact, f"Say of which source: {example}")
        found |= _rows_of(table, RowsOf(origin, own))
    return found


def _rows_of(table: Table, rows: RowsOf) -> Array:
    origins, wanted = table.origins, fold(rows.origin.strip())
    names = [] if origins is None else list(map(fold, origins.names))
    if origins is None or wanted not in names:
        known = f"They are: {', '.join(origins.names[:_SHOWN])}" if origins else "There is but one"
        raise MarkError(f"no row comes from '{rows.origin}'", known)
    places = np.flatnonzero(origins.codes == names.index(wanted))
    found = np.zeros(table.length, dtype=bool)
    found[places[_rows_held(table.take(places), rows.numbers)]] = True
    return found


def _rows_held(table: Table, numbers: Iterable[int]) -> Array:
    held = np.arange(table.length) + table.row_numbers
    if not isinstance(table.row_numbers, int):
        held = table.row_numbers
    if isinstance(numbers, np.ndarray):
        if len(held) and len(numbers):  # told before millions of them are sorted
            first, last = int(held.min()), int(held.max())
            if int(numbers.min()) < first:
                raise _no_row(int(numbers.min()), held)
            if int(numbers.max()) > last:
                raise _no_row(int(numbers[numbers > last].min()), held)
        wanted = np.sort(numbers.astype(np.int64))
    else:
        first, last = (int(held[0]), int(held[-1])) if len(held) else (0, -1)
        numbers = list(numbers)
        wide = next((each for each in numbers if not first <= each <= last), None)
        if wide is not None and len(held) and bool((held[:-1] <= held[1:]).all()):
            raise _no_row(wide, held)
        wanted = once_each(np.array(numbers, dtype=np.int64))
    beyond = wanted if not len(held) else wanted[(wanted < held.min()) | (wanted > held.max())]
    missing = beyond if len(beyond) else np.setdiff1d(wanted, held)
    if len(missing):
        raise _no_row(int(missing[0]), held)
    return np.isin(held, wanted)


def _no_row(number: int, held: Array) -> MarkError:
    ends = f"The rows are numbered {held[0]} to {held[-1]}" if len(held) else ""
    return MarkError(f"no row has the number {number}", ends)


def marked_by(table: Table, name: str) -> Table:
    """Return the table marked by the texts of a column: hidden, filtered, subtotal, total.

    A text may hold several words. Raises `MarkError` for any other word, naming its row.
    """
    column = table.column(name)
    lane = column.lanes.get(Kind.TEXT)
    if not isinstance(lane, TextLane):
        return table
    for code, text in enumerate(lane.spellings):
        rows = lane.values == code
        if column.states is not None:
            rows &= column.states == Kind.TEXT
        for word in text.lower().replace(",", " ").split():
            if word not in _WORDS:
                at = table.number(int(np.flatnonzero(rows)[0]))
                accepted = ", ".join(_WORDS)
                raise MarkError(
                    f"column '{column.name}', row {at}: '{word}' is no mark",
                    f"Accepted are {accepted}",
                )
            table = table.marked(_WORDS[word], rows)
    return table
