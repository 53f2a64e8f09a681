"""Cells of sheets as arrays of Python objects: each different text looked at once, rows cut out."""

from collections.abc import Callable, Sequence
from datetime import date
from sys import intern
from typing import Any

import numpy as np
import pyarrow as pa

from even_sieve.core.cells import Cell
from even_sieve.core.cells.dates import DAY
from even_sieve.core.table.lanes import Array
from even_sieve.sources.arrow_buffers import Bytes, cast_if_all, fitting, stored, take

#: The forms of most days and moments, and how long these are.
_DATES = {r"^\d{4}-\d\d-\d\d$": 10, r"^\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d$": 19}
#: The first moment of the year 1, in microseconds from 1970.
_FIRST = (date.min - date(1970, 1, 1)).days * DAY


def objects(cells: Sequence[Cell]) -> Array:
    """Return cells as an array of objects, shape (n,)."""
    found = np.empty(len(cells), dtype=object)
    found[:] = cells
    return found


def cell_of(text: str) -> Cell:
    """Return the cell of a text; one that comes again takes no more memory."""
    return intern(text.strip()) or None


def made_once(strings: Any, make: Callable[[str], Cell]) -> Array:
    """Return the cells of an Arrow array of strings, each different one made once.

    >>> from even_sieve.sources.arrow_buffers import strings_of
    >>> made_once(strings_of(["5", "7", "5"]), int).tolist()
    [5, 7, 5]
    """
    coded = strings.dictionary_encode()
    made = objects(list(map(make, coded.dictionary.to_pylist())))
    return made[stored(coded.indices, np.int32)]


def dates_of(strings: Any) -> Array | None:
    """Return days and moments (of ISO 8601, to the second); None where one is none.

    Midnight is a day.

    >>> from even_sieve.sources.arrow_buffers import strings_of
    >>> list(map(str, dates_of(strings_of(["2031-01-05", "2031-01-05T14:30:00"]))))
    ['2031-01-05', '2031-01-05 14:30:00']
    """
    lengths = Bytes.of(strings).lengths
    found = np.empty(len(strings), dtype=object)
    left = len(strings)
    for form, length in _DATES.items():
        places = np.flatnonzero(lengths == length)
        some = take(strings, places)
        if not fitting(some, form).all():
            return None
        read = cast_if_all(some, pa.timestamp("us"))
        micros = np.empty(0, np.int64) if read is None else stored(read, np.int64)
        if len(micros) < len(places) or (micros < _FIRST).any():
            return None
        moments, is_day = micros.view("datetime64[us]"), micros % DAY == 0
        found[places[is_day]] = moments[is_day].astype("datetime64[D]").tolist()
        found[places[~is_day]] = moments[~is_day].tolist()
        left -= len(places)
    return None if left else found


def rows_of(grid: Array) -> list[list[Cell]]:
    """Return the rows of a grid of objects, each up to its last filled cell.

    >>> rows_of(np.array([["Gull", 5], ["Tern", None]], dtype=object))
    [['Gull', 5], ['Tern']]
    """
    rows: list[list[Cell]] = grid.tolist()
    for row in rows:
        while row and row[-1] is None:
            row.pop()
    return rows
