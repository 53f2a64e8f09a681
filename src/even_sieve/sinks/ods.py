"""OpenDocument spreadsheets (ISO/IEC 26300), written with odfpy."""

from datetime import date
from decimal import Decimal
from pathlib import Path

from odf.opendocument import OpenDocumentSpreadsheet
from odf.table import Table as OdfTable
from odf.table import TableCell, TableRow
from odf.text import P

from even_sieve.core.cells import Cell, CellError, format_date
from even_sieve.core.table import Mark, Table


def write(table: Table, path: Path, leave_formulas: bool) -> None:
    """Write the table to the path. A text is a text: nothing in it runs as a formula."""
    document, sheet = OpenDocumentSpreadsheet(), OdfTable(name="rows")
    header = TableRow()
    for name in table.names:
        header.addElement(_cell(name, 0))
    sheet.addElement(header)
    decimals = [column.decimals for column in table.columns]
    for row, record in enumerate(zip(*(c.cells() for c in table.columns), strict=True)):
        line = TableRow()
        marks = 0 if table.marks is None else int(table.marks[row])
        if marks & Mark.HIDDEN:
            line.setAttribute("visibility", "collapse")
        elif marks & Mark.FILTERED:
            line.setAttribute("visibility", "filter")
        for cell, places in zip(record, decimals, strict=True):
            line.addElement(_cell(cell, places))
        sheet.addElement(line)
    document.spreadsheet.addElement(sheet)
    with path.open("wb") as out:
        document.write(out)


def _cell(cell: Cell, decimals: int) -> TableCell:
    if cell is None:
        return TableCell()
    if isinstance(cell, bool):
        return TableCell(valuetype="boolean", booleanvalue="true" if cell else "false")
    if isinstance(cell, int | float | Decimal):
        shown = f"{cell:.{decimals}f}" if decimals else str(cell)
        return TableCell(valuetype="float", value=shown)
    if isinstance(cell, date):
        return TableCell(valuetype="date", datevalue=_iso(cell))
    formula = {"formula": "of:=NA()"} if isinstance(cell, CellError) else {}
    found = TableCell(valuetype="string", **formula)
    found.addElement(P(text=str(cell)))
    return found


def _iso(value: date) -> str:
    text = format_date(value)
    return f"{text}:00" if text.count(":") == 1 else text
