"""OpenDocument spreadsheets (ISO/IEC 26300).

odfpy makes the document, its sheets and styles; their rows are put in one by one.
"""

import re
from collections.abc import Iterator, Sequence
from datetime import date
from decimal import Decimal
from pathlib import Path

from odf.element import Element
from odf.opendocument import OpenDocumentSpreadsheet
from odf.table import Table as OdfTable

from even_sieve.core.cells import Cell, CellError, format_date
from even_sieve.core.progress import steps
from even_sieve.core.table import Column, Mark, Table
from even_sieve.documents.handout import Shape
from even_sieve.sinks.fitting import refuse_unfit
from even_sieve.sinks.ods_layout import CellStyles, add_columns
from even_sieve.sinks.packing import escaped, write_packed
from even_sieve.sinks.sheet import Sheet, is_of_numbers
from even_sieve.sinks.tokens import token

_CELL = rb'<table:table-cell(?: table:style-name="[^"]*")? ?/>'
_GAP = re.compile(rb"()<table:table-row>(?:%s)+</table:table-row>()" % _CELL)
#: A run of spaces, or one at the beginning or the end of a line.
#: The format has one kind of line end: another would be read as a space.
_LINE_END = re.compile(r"\n|&#13;\n?")
_SPACES = re.compile(r" {2,}|^ | $", re.MULTILINE)


def write(table: Table, path: Path, leave_formulas: bool) -> None:
    """Write the table to the path. A text is a text: nothing in it runs as a formula."""
    write_sheets([Sheet("rows", table)], path, leave_formulas)


def write_sheets(sheets: Sequence[Sheet], path: Path, leave_formulas: bool = False) -> None:
    """Write sheets to the path."""
    refuse_unfit(sheets)
    Element.namespaces.clear()  # odfpy would declare all that were met so far in the process
    document = OpenDocumentSpreadsheet()
    styles = CellStyles(document)
    rows, places = [], []
    for each in sheets:
        sheet = OdfTable(name=each.name)
        add_columns(sheet, each, styles)
        places.append(sheet)
        document.spreadsheet.addElement(sheet)
        made = [_Column(column, styles, each) for column in each.table.columns]
        rows.append(_rows(each, made, styles.title if each.is_laid_out else ""))
    for sheet in places:
        sheet.addElement(styles.row())  # where its rows go
    write_packed(document.write, path, _GAP, {"content.xml": rows})


class _Column:
    """How the cells of one column are written: its decimals, its styles, bold ones second."""

    def __init__(self, column: Column, styles: CellStyles, sheet: Sheet) -> None:
        self.decimals, self._name = column.decimals, column.name
        self._sheet = sheet
        laid_out = sheet.is_laid_out
        self.head = styles.head(is_of_numbers(column)) if laid_out else styles.of(None, True)
        shape = Shape(decimals=column.decimals) if column.decimals else None
        self.number, self.other = (
            [styles.of(each, bold) for bold in (False, True)] for each in (shape, None)
        )
        # Styles are made before the rows: the document is written without these.
        self._shaped = {
            each: [styles.of(each, bold) for bold in (False, True)]
            for each in sheet.shapes_of(column.name)
        }

    def cell(self, cell: Cell, row: int, bold: bool) -> str:
        """Return the XML of a cell in a row of the table (from 0)."""
        if cell is None:
            return "<table:table-cell/>"
        if isinstance(cell, bool):
            shown = "true" if cell else "false"
            return _cell("boolean", f' office:boolean-value="{shown}"{self.other[bold]}')
        shape = self._sheet.shape(self._name, row, cell) if self._shaped else None
        shaped = None if shape is None else self._shaped[shape][bold]
        if isinstance(cell, int | float | Decimal):
            value = token(cell, self.decimals)
            kind = {"percent": "percentage"}.get("" if shape is None else shape.kind, "float")
            return _cell(kind, f' office:value="{value}"{shaped or self.number[bold]}')
        if isinstance(cell, date):
            return _cell("date", f' office:date-value="{_iso(cell)}"{shaped or self.other[bold]}')
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


def _rows(sheet: Sheet, columns: Sequence[_Column], title: str) -> Iterator[str]:
    """Yield the XML of the title, the header, the rows, and the notes."""
    table = sheet.table
    for row, text in enumerate(sheet.lines_above):
        yield _line(text, title if row == 0 else "")
    if sheet.above:
        yield _EMPTY
    names = zip(columns, table.names, strict=True)
    header = "".join(_cell("string", c.head, _paragraphs(name)) for c, name in names)
    header = f"<table:table-row>{header}</table:table-row>"
    repeats = f"<table:table-header-rows>{header}</table:table-header-rows>"
    yield repeats if sheet.is_laid_out else header
    records = enumerate(zip(*(c.cells() for c in table.columns), strict=True))
    for row, record in steps(records, "writing", table.length):
        marks = Mark(0) if table.marks is None else Mark(int(table.marks[row]))
        said = ""
        if marks & Mark.HIDDEN:
            said = ' table:visibility="collapse"'
        elif marks & Mark.FILTERED:
            said = ' table:visibility="filter"'
        bold = sheet.is_strong(row)
        cells = [column.cell(cell, row, bold) for column, cell in zip(columns, record, strict=True)]
        yield f"<table:table-row{said}>{''.join(cells)}</table:table-row>"


_EMPTY = "<table:table-row><table:table-cell/></table:table-row>"


def _line(text: str, style: str) -> str:
    return f"<table:table-row>{_cell('string', style, _paragraphs(text))}</table:table-row>"


def _iso(value: date) -> str:
    text = format_date(value)
    return f"{text}:00" if text.count(":") == 1 else text
