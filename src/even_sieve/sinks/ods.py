"""OpenDocument spreadsheets (ISO/IEC 26300), written with odfpy."""

from collections.abc import Sequence
from datetime import date
from decimal import Decimal
from pathlib import Path
from typing import Any

from odf.element import Element
from odf.number import Number, NumberStyle
from odf.opendocument import OpenDocumentSpreadsheet
from odf.style import Style, TextProperties
from odf.table import Table as OdfTable
from odf.table import TableCell, TableRow
from odf.teletype import addTextToElement
from odf.text import P

from even_sieve.core.cells import Cell, CellError, format_date
from even_sieve.core.table import Mark, Table
from even_sieve.sinks.files import repeats_others
from even_sieve.sinks.fitting import refuse_unfit
from even_sieve.sinks.packing import write_packed
from even_sieve.sinks.tokens import token


def write(table: Table, path: Path, leave_formulas: bool) -> None:
    """Write the table to the path. A text is a text: nothing in it runs as a formula."""
    write_sheets([("rows", table)], path, leave_formulas)


def write_sheets(
    sheets: Sequence[tuple[str, Table]], path: Path, leave_formulas: bool = False
) -> None:
    """Write tables to the path, each on a sheet of that name."""
    refuse_unfit(sheets)
    Element.namespaces.clear()  # odfpy would declare all that were met so far in the process
    document = OpenDocumentSpreadsheet()
    styles = _Styles(document)
    for name, table in sheets:
        document.spreadsheet.addElement(_sheet(name, table, styles))
    write_packed(document.write, path)


class _Styles:
    """The styles of cells, made when they are needed: so many decimals, bold or not."""

    def __init__(self, document: Any) -> None:
        self._styles = document.automaticstyles
        self._made: dict[tuple[int, bool], dict[str, Any]] = {(0, False): {}}

    def of(self, decimals: int, bold: bool) -> dict[str, Any]:
        """Return what a cell takes to be shown so."""
        if (decimals, bold) not in self._made:
            name = f"{'bold' if bold else 'plain'}-{decimals}"
            more = {"datastylename": self._number(name, decimals)} if decimals else {}
            style = Style(name=name, family="table-cell", **more)
            if bold:
                style.addElement(TextProperties(fontweight="bold"))
            self._styles.addElement(style)
            self._made[decimals, bold] = {"stylename": style}
        return self._made[decimals, bold]

    def _number(self, name: str, decimals: int) -> Any:
        shown = NumberStyle(name=f"number-{name}")
        shown.addElement(Number(decimalplaces=decimals, minintegerdigits=1, grouping="true"))
        self._styles.addElement(shown)
        return shown


def _sheet(name: str, table: Table, styles: _Styles) -> OdfTable:
    sheet = OdfTable(name=name)
    header = TableRow()
    for column in table.names:
        header.addElement(_cell(column, 0, styles.of(0, True)))
    sheet.addElement(header)
    decimals = [column.decimals for column in table.columns]
    for row, record in enumerate(zip(*(c.cells() for c in table.columns), strict=True)):
        line = TableRow()
        marks = Mark(0) if table.marks is None else Mark(int(table.marks[row]))
        if marks & Mark.HIDDEN:
            line.setAttribute("visibility", "collapse")
        elif marks & Mark.FILTERED:
            line.setAttribute("visibility", "filter")
        bold = repeats_others(table, row)
        for cell, places in zip(record, decimals, strict=True):
            number = isinstance(cell, int | float | Decimal) and not isinstance(cell, bool)
            line.addElement(_cell(cell, places, styles.of(places if number else 0, bold)))
        sheet.addElement(line)
    return sheet


def _cell(cell: Cell, decimals: int, style: dict[str, Any]) -> TableCell:
    if cell is None:
        return TableCell()
    if isinstance(cell, bool):
        shown = "true" if cell else "false"
        return TableCell(valuetype="boolean", booleanvalue=shown, **style)
    if isinstance(cell, int | float | Decimal):
        return TableCell(valuetype="float", value=token(cell, decimals), **style)
    if isinstance(cell, date):
        return TableCell(valuetype="date", datevalue=_iso(cell), **style)
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
