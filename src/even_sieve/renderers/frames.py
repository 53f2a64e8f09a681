"""Documents as data frames of pandas: typed columns, keys as the index, totals with their mark."""

from collections.abc import Sequence
from dataclasses import replace
from datetime import date, datetime
from typing import TYPE_CHECKING, Any

from even_sieve.core.cells import Cell
from even_sieve.documents.document import Document, Records, free_name
from even_sieve.sinks.frames import MOST_EXACT, text_type

if TYPE_CHECKING:
    import pandas as pd

_MARK = "mark"
_MOST_WHOLE = 2**63
_REPEATING = ("total", "subtotal")


def frame_of_document(document: Document, *, totals: bool = True) -> "pd.DataFrame":
    """Return what a document has as a sheet, as a data frame.

    Rows that repeat others have their mark in a last column, `mark`; without `totals` they are
    left out, and the columns that repeat others with them.
    """
    import pandas as pd

    records = document.sheet()
    if not totals:
        records = _without_totals(records)
    frame = pd.DataFrame({name: _series(cells) for name, cells in records.columns.items()})
    for name, cells in document.lists().items():
        frame[name] = pd.Series(list(cells), dtype=object)
    if records.spelt or any(records.marks):
        frame[free_name(_MARK, records.columns)] = _series(records.marks)
    names = list(records.columns)[: records.keys]
    return frame.set_index(names) if names else frame


def _series(cells: Sequence[Cell]) -> "pd.Series[Any]":
    """Return cells as a series: whole numbers, doubles, yes/no, dates or texts, else objects."""
    import pandas as pd

    kinds = set(map(type, cells)) - {type(None)}
    whole = [cell for cell in cells if type(cell) is int] if int in kinds else []
    most = max(map(abs, whole), default=0)
    kind: Any = object
    if kinds == {int} and len(whole) == len(cells) and most < _MOST_WHOLE:
        kind = "int64"
    elif kinds and kinds <= {int, float} and most <= MOST_EXACT:
        kind = "float64"
    elif kinds == {bool} and None not in cells:
        kind = "bool"
    elif kinds == {str} or not kinds:
        kind = text_type()
    elif kinds <= {date, datetime}:
        kind = "datetime64[us]"
    return pd.Series(list(cells), dtype=kind)


def _without_totals(records: Records) -> Records:
    """Return records without the rows and columns that repeat others."""
    rows = [place for place, mark in enumerate(records.marks) if mark not in _REPEATING]
    rows = rows if records.marks else list(range(len(next(iter(records.columns.values()), ()))))
    columns = {
        name: [cells[place] for place in rows]
        for name, cells in records.columns.items()
        if name not in records.repeating
    }
    marks = [records.marks[place] for place in rows] if records.marks else ()
    return replace(records, columns=columns, marks=marks, spelt=False)
