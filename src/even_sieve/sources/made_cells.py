"""Cells of sheets as arrays of Python objects: each different text looked at once, rows cut out."""

from collections.abc import Callable, Sequence
from sys import intern
from typing import Any

import numpy as np

from even_sieve.core.cells import Cell
from even_sieve.core.table.lanes import Array
from even_sieve.sources.arrow_buffers import stored


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
