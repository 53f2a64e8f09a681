"""OpenDocument spreadsheets (ISO/IEC 26300).

odfpy makes the document, its sheets and styles; their rows are put in one by one.
"""

import re
from collections.abc import Iterator, Sequence
from datetime import date
from decimal import Decimal
from pathlib import Path
from typing import Any

from odf.element import Element
from odf.number import Number, NumberStyle
from odf.opendocument import OpenDocumentSpreadsheet
from odf.style import Style, TextProperties
from odf.table import Table as OdfTable
from odf.table import TableRow

from even_sieve.core.cells import Cell, CellError, format_date
from even_sieve.core.progress import steps
from even_sieve.core.table import Column, Mark, Table
from even_sieve.sinks.files import repeats_others
from even_sieve.sinks.fitting import refuse_unfit
from even_sieve.sinks.packing import escaped, write_packed
from even_sieve.sinks.tokens import token

_GAP = re.compile(rb"()<table:table-row ?/>()")
#: A run of spaces, or one at the beginning or the end of a line.
#: The format has one kind of line end: another would be read as a space.
_LINE_END = re.compile(r"\n|&#13;\n?")
_SPACES = re.compile(r" {2,}|^ | $", re.MULTILINE)


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
    rows = []
    for name, table in sheets:
        sheet = OdfTable(name=name)
        sheet.addElement(TableRow())  # where its rows go
        document.spreadsheet.addElement(sheet)
        rows.append(_rows(table, [_Column(column, styles) for column in table.columns]))
    write_packed(document.write, path, _GAP, {"content.xml": rows})


class _Styles:
    """The styles of cells: so many decimals, bold or not."""

    def __init__(self, document: Any) -> None:
        self._styles = document.automaticstyles
        self._made: dict[tuple[int, bool], str] = {(0, False): ""}

    def of(self, decimals: int, bold: bool) -> str:
        """Return what a cell says of its style."""
        if (decimals, bold) not in self._made:
            name = f"{'bold' if bold else 'plain'}-{decimals}"
            more = {"datastylename": self._number(name, decimals)} if decimals else {}
            style = Style(name=name, family="table-cell", **more)
            if bold:
                style.addElement(TextProperties(fontweight="bold"))
            self._styles.addElement(style)
            self._made[decimals, bold] = f' table:style-name="{name}"'
        return self._made[decimals, bold]

    def _number(self, name: str, decimals: int) -> Any:
        shown = NumberStyle(name=f"number-{name}")
        shown.addElement(Number(decimalplaces=decimals, minintegerdigits=1, grouping="true"))
        self._styles.addElement(shown)
        return shown


class _Column:
    """How the cells of one column are written: its decimals, its styles, bold ones second."""

    def __init__(self, column: Column, styles: _Styles) -> None:
        self.decimals = column.decimals
        self.number, self.other = (
            [styles.of(places, bold) for bold in (False, True)] for places in (self.decimals, 0)
        )

    def cell(self, cell: Cell, bold: bool) -> str:
        """Return the XML of a cell."""
        if cell is None:
            return "<table:table-cell/>"
        if isinstance(cell, bool):
            shown = "true" if cell else "false"
            return _cell("boolean", f' office:boolean-value="{shown}"{self.other[bold]}')
        if isinstance(cell, int | float | Decimal):
            value = token(cell, self.decimals)
            return _cell("float", f' office:value="{value}"{self.number[bold]}')
        if isinstance(cell, date):
            return _cell("date", f' office:date-value="{_iso(cell)}"{self.other[bold]}')
        formula = ' table:formula="of:=NA()"' if isinstance(cell, CellError) else ""
        return _cell("string", f"{formula}{self.other[bold]}", _paragraphs(str(cell)))


def _cell(kind: str, more: str, inside: str = "") -> str:
    start = f'<table:table-cell office:value-type="{kind}"{more}'
    return f"{start}>{inside}</table:table-cell>" if inside else f"{start}/>"


def _paragraphs(text: str) -> str:
    """Return a text as paragraphs, with runs of spaces and tabs as the standard has them."""
    found = _SPACES.sub(_spaces, escaped(text)).replace("\t", "<text:tab/>")
    return "".join(f"<text:p>{line}</text:p>" for line in _LINE_END.split(found))


def _spaces(found: re.Match[str]) -> str:
    run = found[0]
    return f' <text:s text:c="{len(run) - 1}"/>' if len(run) > 1 else "<text:s/>"


def _rows(table: Table, columns: Sequence[_Column]) -> Iterator[str]:
    """Yield the XML of the header and of the rows."""
    names = zip(columns, table.names, strict=True)
    header = "".join(column.cell(name, True) for column, name in names)
    yield f"<table:table-row>{header}</table:table-row>"
    records = enumerate(zip(*(c.cells() for c in table.columns), strict=True))
    for row, record in steps(records, "writing", table.length):
        marks = Mark(0) if table.marks is None else Mark(int(table.marks[row]))
        said = ""
        if marks & Mark.HIDDEN:
            said = ' table:visibility="collapse"'
        elif marks & Mark.FILTERED:
            said = ' table:visibility="filter"'
        bold = repeats_others(table, row)
        cells = [column.cell(cell, bold) for column, cell in zip(columns, record, strict=True)]
        yield f"<table:table-row{said}>{''.join(cells)}</table:table-row>"


def _iso(value: date) -> str:
    text = format_date(value)
    return f"{text}:00" if text.count(":") == 1 else text
