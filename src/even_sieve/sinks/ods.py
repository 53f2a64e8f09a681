"""OpenDocument spreadsheets (ISO/IEC 26300), written with odfpy."""

from collections.abc import Sequence
from datetime import date
from decimal import Decimal
from pathlib import Path
from typing import Any

from odf.element import Element
from odf.namespaces import nsdict
from odf.number import Number, NumberStyle
from odf.opendocument import OpenDocumentSpreadsheet
from odf.style import Style, TextProperties
from odf.table import Table as OdfTable
from odf.table import TableCell, TableRow
from odf.teletype import addTextToElement
from odf.text import P

from even_sieve.core.cells import Cell, CellError, format_date
from even_sieve.core.table import Mark, Table
from even_sieve.sinks.packing import write_packed
from even_sieve.sinks.tokens import token


def write(table: Table, path: Path, leave_formulas: bool) -> None:
    """Write the table to the path. A text is a text: nothing in it runs as a formula."""
    write_sheets([("rows", table)], path, leave_formulas)


def write_sheets(
    sheets: Sequence[tuple[str, Table]], path: Path, leave_formulas: bool = False
) -> None:
    """Write tables to the path, each on a sheet of that name."""
    _declare_alike()
    document = OpenDocumentSpreadsheet()
    bold = Style(name="names", family="table-cell")
    bold.addElement(TextProperties(fontweight="bold"))
    document.automaticstyles.addElement(bold)
    formats = _Formats(document)
    for name, table in sheets:
        document.spreadsheet.addElement(_sheet(name, table, bold, formats))
    write_packed(document.write, path)


def _declare_alike() -> None:
    """Have odfpy declare all namespaces: it would declare those met so far in the process."""
    Element.namespaces.clear()
    Element.namespaces.update(sorted(nsdict.items()))


class _Formats:
    """The styles that show numbers with so many decimals, made when they are needed."""

    def __init__(self, document: Any) -> None:
        self._styles = document.automaticstyles
        self._made: dict[int, dict[str, Any]] = {0: {}}

    def of(self, decimals: int) -> dict[str, Any]:
        """Return what a cell takes to be shown with so many decimals."""
        if decimals not in self._made:
            shown = NumberStyle(name=f"number-{decimals}")
            shown.addElement(Number(decimalplaces=decimals, minintegerdigits=1, grouping="true"))
            style = Style(name=f"decimals-{decimals}", family="table-cell", datastylename=shown)
            self._styles.addElement(shown)
            self._styles.addElement(style)
            self._made[decimals] = {"stylename": style}
        return self._made[decimals]


def _sheet(name: str, table: Table, bold: Any, formats: _Formats) -> OdfTable:
    sheet = OdfTable(name=name)
    header = TableRow()
    for column in table.names:
        cell = _cell(column, 0, {"stylename": bold})
        header.addElement(cell)
    sheet.addElement(header)
    decimals = [column.decimals for column in table.columns]
    styles = [formats.of(places) for places in decimals]
    for row, record in enumerate(zip(*(c.cells() for c in table.columns), strict=True)):
        line = TableRow()
        marks = 0 if table.marks is None else int(table.marks[row])
        if marks & Mark.HIDDEN:
            line.setAttribute("visibility", "collapse")
        elif marks & Mark.FILTERED:
            line.setAttribute("visibility", "filter")
        for cell, places, style in zip(record, decimals, styles, strict=True):
            number = isinstance(cell, int | float | Decimal) and not isinstance(cell, bool)
            line.addElement(_cell(cell, places, style if number else {}))
        sheet.addElement(line)
    return sheet


def _cell(cell: Cell, decimals: int, style: dict[str, Any]) -> TableCell:
    if cell is None:
        return TableCell()
    if isinstance(cell, bool):
        return TableCell(valuetype="boolean", booleanvalue="true" if cell else "false")
    if isinstance(cell, int | float | Decimal):
        return TableCell(valuetype="float", value=token(cell, decimals), **style)
    if isinstance(cell, date):
        return TableCell(valuetype="date", datevalue=_iso(cell))
    formula = {"formula": "of:=NA()"} if isinstance(cell, CellError) else {}
    found = TableCell(valuetype="string", **formula, **style)
    for line in str(cell).split("\n"):
        paragraph = P()
        addTextToElement(paragraph, line)  # runs of spaces and tabs as the standard has them
        found.addElement(paragraph)
    return found


def _iso(value: date) -> str:
    text = format_date(value)
    return f"{text}:00" if text.count(":") == 1 else text
