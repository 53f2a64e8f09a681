"""Which rows a mark is set on: by criteria, by numbers, or by the search for subtotals."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any, Literal, TypeAlias

import numpy as np

from even_sieve.core.criteria import Settings, Where, mask_of, prepare, read_where
from even_sieve.core.table import Mark, Table, find_subtotals
from even_sieve.core.table.lanes import Array
from even_sieve.core.table.marking import rows_numbered

#: Stands in the place of criteria for subtotals: those whose numbers equal the rows above.
FOUND: Literal["found"] = "found"
Chosen: TypeAlias = Where | Iterable[int]


@dataclass(frozen=True)
class Marking:
    """A mark, and the rows that it is set on: criteria, row numbers, or `found`."""

    mark: Mark
    rows: Any


def chosen_rows(table: Table, marking: Marking, settings: Settings) -> Array:
    """Return which rows are to be marked, bool, shape (rows,).

    Raises `MarkError` for a number that no row has, and what criteria raise.
    """
    rows = marking.rows
    if isinstance(rows, Iterable) and not isinstance(rows, str | Mapping):
        rows = list(rows)
        if rows and all(isinstance(each, int) for each in rows):
            return rows_numbered(table, rows)
    if rows == FOUND and marking.mark is Mark.SUBTOTAL:
        chosen = np.zeros(table.length, dtype=bool)
        chosen[[suspect.row for suspect in find_subtotals(table)]] = True
        return chosen
    criteria = read_where(rows, table.names).criteria
    return mask_of(table, prepare(criteria, settings).criteria)
