"""Values of a column in order, made from what its lanes store when they are asked for."""

from bisect import bisect_right
from collections.abc import Callable, Iterator, Sequence
from itertools import accumulate, chain
from typing import Any

from even_sieve.core.cells import Cell
from even_sieve.core.lazy import Anew
from even_sieve.core.table.lanes import Array

_BLOCK = 1 << 16


class StoredCells(Anew[Cell]):
    """Cells by what a lane stores of them (an array), and what makes a cell of that.

    >>> import numpy as np
    >>> found = StoredCells(np.array([3, 5, 8]), str)
    >>> found[1], list(found), found[1:]
    ('5', ['3', '5', '8'], ('5', '8'))
    """

    def __init__(self, stored: Array, to_cell: Callable[[Any], Cell]) -> None:
        self._stored, self._to_cell = stored, to_cell

    def __len__(self) -> int:
        return len(self._stored)

    def _at(self, place: int) -> Cell:
        return self._to_cell(self._stored[place].item())

    def __iter__(self) -> Iterator[Cell]:
        for start in range(0, len(self._stored), _BLOCK):
            yield from map(self._to_cell, self._stored[start : start + _BLOCK].tolist())


class ChainedKeys(Anew[Cell]):
    """Several sequences of cells, one after the other.

    >>> found = ChainedKeys([("Inner", "Outer"), (None,)])
    >>> found[2], list(found)
    (None, ['Inner', 'Outer', None])
    """

    def __init__(self, parts: Sequence[Sequence[Cell]]) -> None:
        self._parts = parts
        self._starts = [0, *accumulate(map(len, parts))]

    def __len__(self) -> int:
        return self._starts[-1]

    def _at(self, place: int) -> Cell:
        part = bisect_right(self._starts, place) - 1
        return self._parts[part][place - self._starts[part]]

    def __iter__(self) -> Iterator[Cell]:
        return chain.from_iterable(self._parts)
