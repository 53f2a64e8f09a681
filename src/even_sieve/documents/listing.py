"""Rows laid out: their numbers, their cells, and their verdicts where there are any."""

from collections.abc import Iterator, Sequence
from decimal import Decimal

from even_sieve.core.cells import Cell
from even_sieve.core.notices import texts_of
from even_sieve.core.table.origins import origin_of
from even_sieve.core.tally import Listing
from even_sieve.documents.document import Caption, Document, Grid, Notes, Part, Records, free_name
from even_sieve.documents.figures import plain_notices
from even_sieve.documents.handout import Handout
from even_sieve.documents.shown import shape_of_cells, show_cell
from even_sieve.documents.values import plain_json

_MARKS = ("subtotal", "hidden", "filtered")


class ListingDocument(Document):
    """The rows with their numbers in the source."""

    answer: Listing

    def parts(self) -> Sequence[Part]:
        """Return the rows, how many there are, and what is to be known of the criteria."""
        notes = tuple(texts_of(self.answer.notices))
        return self.grid(), Caption(self.answer.counted), Notes(notes)

    def grid(self) -> Grid:
        """Return the rows as texts."""
        result = self.answer
        places, shown = _places(result), result.shown or ("",) * len(result.names)
        header = (*places, *result.names)
        numeric = (*(name == "row" for name in places), *_numeric(result))
        rows = [
            (*map(str, place), *map(_show_cell, row, result.names, result.decimals, shown))
            for *place, row in zip(*places.values(), result.rows, strict=True)
        ]
        matching = None
        if result.verdicts is not None:
            header, numeric = (*header, "verdict"), (*numeric, False)
            verdicts = result.shown_verdicts
            rows = [(*row, verdict) for row, verdict in zip(rows, verdicts, strict=True)]
            matching = frozenset(i for i, verdict in enumerate(result.verdicts) if not verdict)
        return Grid(header, tuple(rows), numeric, matching=matching, crops=True, of_rows=True)

    def plain(self) -> dict[str, object]:
        """Return a record a row, its number under `row`."""
        result = self.answer
        records: list[dict[str, object]] = [
            {
                **dict(zip(_places(result), place, strict=True)),
                "cells": {n: plain_json(c) for n, c in zip(result.names, row, strict=True)},
            }
            for *place, row in zip(*_places(result).values(), result.rows, strict=True)
        ]
        for record, verdict in zip(records, result.verdicts or (), strict=False):
            record |= {"matches": not verdict, "left_out_by": verdict or None}
        return {
            "rows": records,
            "matching": result.matching,
            "rows_in_table": result.rows_in_table,
            "notices": plain_notices(result.notices),
        }

    def records(self) -> Records:
        """Return the rows under their column names: a table again.

        Where all rows are shown, their numbers and verdicts stand beside them.
        """
        return self._records(numbered=self.answer.verdicts is not None)

    def sheet(self) -> Records:
        """Return the rows with their numbers first."""
        return self._records(numbered=True)

    def handout(self) -> Handout:
        """Return the rows with their numbers, shown as somebody says."""
        result, records = self.answer, self.sheet()
        pairs = zip(result.decimals, result.shown, strict=True)
        own = dict(zip(result.names, pairs, strict=False))
        shapes = {
            name: shape
            for name, cells in records.columns.items()
            if (shape := shape_of_cells(cells, name, *own.get(name, (0, "")))) is not None
        }
        return Handout(records.columns, shapes, records.marks, notes=self.notes())

    def _records(self, *, numbered: bool) -> Records:
        result = self.answer
        columns: dict[str, Sequence[Cell]] = {**_places(result)} if numbered else {}
        for i, name in enumerate(result.names):
            columns[free_name(name, columns)] = [row[i] for row in result.rows]
        if result.verdicts is None:
            return Records(columns)
        columns[free_name("verdict", columns)] = result.shown_verdicts
        return Records(columns, [each if each in _MARKS else None for each in result.verdicts])


def _places(result: Listing) -> dict[str, Sequence[Cell]]:
    """Return the numbers of the rows, and the sources that they count in if there are several."""
    numbers = list(map(int, result.numbers))
    if not any(map(origin_of, result.numbers)):
        return {"row": numbers}
    return {"origin": list(map(origin_of, result.numbers)), "row": numbers}


def _numeric(result: Listing) -> Iterator[bool]:
    """Yield whether the first cell of each column that is filled holds a number."""
    for position in range(len(result.names)):
        cells = (row[position] for row in result.rows)
        first = next((cell for cell in cells if cell is not None), None)
        yield isinstance(first, int | float | Decimal) and not isinstance(first, bool)


def _show_cell(cell: Cell, column: str, decimals: int, shown: str) -> str:
    return "" if cell is None else show_cell(cell, column, decimals, shown)
