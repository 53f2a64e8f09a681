"""Which rows a mark is set on: by criteria, by numbers, or by the search for subtotals."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any, Literal, TypeAlias

import numpy as np

from even_sieve.core.criteria import (
    EVERYTHING,
    Binder,
    Settings,
    Where,
    conditions,
    mask_of,
    prepare,
    read_where,
    write_criteria,
)
from even_sieve.core.notices import Code, Notice, each_once
from even_sieve.core.query.given import GivenRows
from even_sieve.core.table import Mark, Table, find_totals, misfit_words
from even_sieve.core.table.lanes import Array
from even_sieve.core.table.marking import RowsOf, rows_numbered
from even_sieve.core.table.origins import listed_rows

#: Stands in the place of criteria for subtotals: those whose numbers equal the rows above.
FOUND: Literal["found"] = "found"
_SHOWN = 10
Chosen: TypeAlias = Where | Iterable[int]


@dataclass(frozen=True)
class Marking:
    """A mark, and the rows that it is set on: criteria, row numbers, or `found`."""

    mark: Mark
    rows: Any


@dataclass(frozen=True, eq=False)
class ChosenRows:
    """The rows that are to be marked, bool, shape (rows,), and what to know about the choice."""

    rows: Array
    notices: tuple[Notice, ...] = ()


def chosen_rows(table: Table, marking: Marking, settings: Settings) -> ChosenRows:
    """Return the rows that are to be marked. Criteria without a condition mark none.

    Raises `MarkError` for a number that no row has, and what criteria raise.
    """
    given = marking.rows
    if isinstance(given, GivenRows):
        return ChosenRows(given.mask(table))
    if isinstance(given, RowsOf) or (isinstance(given, np.ndarray) and given.dtype.kind in "iu"):
        return ChosenRows(rows_numbered(table, given))
    if isinstance(given, Iterable) and not isinstance(given, str | Mapping):
        given = list(given)
        if given and all(isinstance(each, int) for each in given):
            return ChosenRows(rows_numbered(table, given))
    word = str(marking.mark.name).lower()
    if given == FOUND and marking.mark is Mark.SUBTOTAL:
        return _found(table, f"{word}: {FOUND}")
    read = read_where(given, table.names)
    prepared = prepare(read.criteria, settings)
    binder = Binder(table)
    rows = mask_of(table, prepared.criteria, binder)
    if prepared.criteria == EVERYTHING:
        rows[:] = False
    told = [notice for each in conditions(prepared.criteria) for notice in binder.notices(each)]
    what = f"{word}: {write_criteria(prepared.criteria)}".strip(": ")
    about = notices_on(what, rows, table.length)
    return ChosenRows(rows, each_once((*read.notices, *prepared.notices, *told, *about)))


def _found(table: Table, what: str) -> ChosenRows:
    """Return the rows that are sure to repeat others; what is unsure or does not fit is told."""
    totals = find_totals(table)
    rows = np.zeros(table.length, dtype=bool)
    rows[[suspect.row for suspect in totals.suspects if suspect.sure]] = True
    told = []
    for misfit in totals.misfits:
        text = f"{misfit_words(table, misfit)}: it was not marked"
        told.append(Notice(Code.TOTAL_OFF, text, {"row": table.number(misfit.row)}))
    unsure = [table.number(each.row) for each in totals.suspects if not each.sure]
    if unsure:
        shown = listed_rows(unsure, _SHOWN)
        text = f"these rows may be subtotals by chance and were not marked: {shown}"
        told.append(Notice(Code.UNSURE_SUBTOTALS, text, {"rows": len(unsure)}))
    return ChosenRows(rows, (*told, *notices_on(what, rows, table.length)))


def notices_on(what: str, marks: Array | None, length: int) -> tuple[Notice, ...]:
    """Return the notice on a mark that no row, or every row, carries."""
    if marks is None or not marks.any():
        text = f"the mark '{what}' marks no row"
        return (Notice(Code.MARKS_NO_ROW, text),)
    if length and marks.all():
        text = f"the mark '{what}' marks every row: nothing is left to count"
        return (Notice(Code.MARKS_EVERY_ROW, text),)
    return ()
