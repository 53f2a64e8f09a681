"""Different combinations of the cells of rows, so that each is worked out once."""

from collections.abc import Sequence

import numpy as np

from even_sieve.core.cells import Cell
from even_sieve.core.table import Column
from even_sieve.core.table.arrays import spans
from even_sieve.core.table.distinct import Values, numbered
from even_sieve.core.table.keys import Identity
from even_sieve.core.table.lanes import Array


def distinct(columns: Sequence[Column]) -> tuple[list[tuple[Cell, ...]], Array]:
    """Return the different combinations of cells as they are spelt, and which one each row has."""
    if len(columns) == 1:
        return [(key,) for key in columns[0].spelt.keys], columns[0].spelt.codes
    first, codes = first_of_each(columns)
    return [tuple(column.cell(row) for column in columns) for row in first.tolist()], codes


def first_of_each(columns: Sequence[Column]) -> tuple[Array, Array]:
    """Return the first row of each combination of cells, and which one each row has.

    Combinations come in no order; texts of another spelling are others.
    """
    identities = [column.spelt for column in columns]
    length, codes, size = columns[0].length, identities[0].codes, len(identities[0].keys)
    for identity in identities[1:]:
        codes, size = _beside(codes, identity, length)
    first = np.full(size, -1, dtype=np.int64)
    for rows in spans(length):
        own = codes[rows]
        new = np.flatnonzero(first[own] < 0)[::-1]
        first[own[new]] = new + rows.start  # the first of several is written last
    return first, codes


def _beside(codes: Array, identity: Identity, length: int) -> tuple[Array, int]:
    """Return codes for the pairs of codes and values that there are, and how many pairs."""
    width = max(len(identity.keys), 1)

    def pair(one: Array, other: Array) -> Array:
        return one.astype(np.int64) * width + other

    found, together = numbered(Values((codes, identity.codes), pair))
    return together, len(found)
