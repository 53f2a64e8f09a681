"""Which rows a mark is set on: by criteria, by numbers, or by the search for subtotals."""

from collections.abc import Iterable, Mapping
from typing import Any

import numpy as np

from even_sieve.core.table import Table, find_subtotals
from even_sieve.core.table.lanes import Array
from even_sieve.core.table.marking import rows_numbered
from even_sieve.core.tally import Options, matching_rows
from even_sieve.public.criteria import read_where

#: Keeps marked rows in: a row can carry several marks.
EVERY_MARK = ("hidden", "filtered", "subtotals")


def chosen_rows(table: Table, where: Any, options: Options, *, found: bool) -> Array:
    """Return which rows criteria or row numbers choose, bool, shape (rows,).

    With `found`, the word `found` chooses the suspected subtotals. Raises `MarkError` for
    a number that no row has.
    """
    if isinstance(where, Iterable) and not isinstance(where, str | Mapping):
        where = list(where)
        if where and all(isinstance(each, int) for each in where):
            return rows_numbered(table, where)
    chosen = np.zeros(table.length, dtype=bool)
    if found and isinstance(where, str) and where == "found":
        chosen[[suspect.row for suspect in find_subtotals(table)]] = True
    else:
        rows, _ = matching_rows(table, read_where(where, table.names).criteria, options)
        chosen[rows] = True
    return chosen
