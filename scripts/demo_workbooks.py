"""Makes the harbour's calls as workbooks: hidden rows, subtotal formulas, errors, a named range.

    python scripts/demo_workbooks.py FOLDER

Needs XlsxWriter, which is installed for development; the workbooks themselves ship.
"""

import sys
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import datetime
from decimal import Decimal, InvalidOperation
from pathlib import Path
from typing import Any

import xlsxwriter
from odf.opendocument import OpenDocumentSpreadsheet
from odf.table import (
    DatabaseRange,
    DatabaseRanges,
    NamedExpressions,
    NamedRange,
    Table,
    TableCell,
    TableRow,
)
from odf.text import P

from even_sieve.demo.make import HEADER, TOTAL, WANTED, Row, make_calls, make_months

TITLE = "Calls of the harbour, 2031"
HEADER_ROW = 3
#: The criteria range stands beside the data, one column left free between them.
WANTED_COLUMN = len(HEADER) + 1
WANTED_BLOCK = f"$N${HEADER_ROW}:$Q${HEADER_ROW + 2}"


@dataclass(frozen=True)
class Line:
    """A row of the sheet: its cells, whether it is hidden, and the rows that it sums up."""

    number: int
    cells: tuple[object, ...]
    hidden: bool
    sums: tuple[int, int] | None


def lines(rows: Sequence[Row]) -> Iterator[Line]:
    """Yield the rows of calls and month totals, numbered as on the sheet."""
    first = HEADER_ROW + 1
    for number, row in enumerate(rows, first):
        total = row[HEADER.index("vessel")].startswith(TOTAL)
        sums = (first, number - 1) if total else None
        first = number + 1 if total else first
        cells = tuple(_typed(name, cell) for name, cell in zip(HEADER, row, strict=True))
        yield Line(number, cells, row[HEADER.index("status")] == "withdrawn", sums)


def _typed(name: str, text: str) -> object:
    if name in ("arrived", "departed") and text:
        return datetime.fromisoformat(text)
    if name in ("tonnage", "hours", "dues"):
        try:
            return Decimal(text)
        except InvalidOperation:
            return text or None
    return text or None


def _formula(line: Line, column: int) -> str:
    if line.sums is None:
        raise ValueError("only a month total has a formula")
    letter = chr(ord("A") + column)
    return f"{letter}{line.sums[0]}:{letter}{line.sums[1]}"


def write_xlsx(path: Path) -> None:
    """Write the calls as an ISO/IEC 29500 workbook."""
    book = _xlsx_book(path)
    sheet = book.add_worksheet("calls")
    last = _fill_xlsx(sheet, TITLE, make_calls())
    for offset, row in enumerate(WANTED):
        sheet.write_row(HEADER_ROW - 1 + offset, WANTED_COLUMN, row)
    sheet.autofilter(HEADER_ROW - 1, 0, last - 1, len(HEADER) - 1)
    book.define_name("wanted", f"=calls!{WANTED_BLOCK}")
    book.close()


def write_months(path: Path) -> None:
    """Write the calls as a workbook with a sheet a month."""
    book = _xlsx_book(path)
    for month, rows in make_months():
        _fill_xlsx(book.add_worksheet(month), f"Calls of the harbour, {month}", rows)
    book.close()


def _xlsx_book(path: Path) -> xlsxwriter.Workbook:
    book = xlsxwriter.Workbook(str(path), {"default_date_format": "yyyy-mm-dd hh:mm"})
    book.set_properties({"created": datetime(2031, 12, 31)})
    return book


def _fill_xlsx(sheet: Any, title: str, rows: Sequence[Row]) -> int:
    """Write rows under a title and their names; return the last row's number."""
    sheet.write(0, 0, title)
    for column, name in enumerate(HEADER):
        sheet.write(HEADER_ROW - 1, column, name)
    last = HEADER_ROW
    for line in lines(rows):
        last = line.number
        for column, cell in enumerate(line.cells):
            if line.sums is not None and isinstance(cell, Decimal):
                formula = f"=SUBTOTAL(9,{_formula(line, column)})"
                sheet.write_formula(line.number - 1, column, formula, None, float(cell))
            elif cell == "#N/A":
                sheet.write_formula(line.number - 1, column, "=NA()", None, "#N/A")
            elif isinstance(cell, Decimal):
                sheet.write_number(line.number - 1, column, float(cell))
            elif cell is not None:
                sheet.write(line.number - 1, column, cell)
        if line.hidden:
            sheet.set_row(line.number - 1, None, None, {"hidden": True})
    return last


def write_ods(path: Path) -> None:
    """Write the calls as an OpenDocument spreadsheet."""
    document = OpenDocumentSpreadsheet()
    table = Table(name="calls")
    table.addElement(_ods_row([TITLE]))
    table.addElement(TableRow(numberrowsrepeated=HEADER_ROW - 2))
    beside = {HEADER_ROW + i: [None, *row] for i, row in enumerate(WANTED)}
    table.addElement(_ods_row([*HEADER, *beside[HEADER_ROW]]))
    last = HEADER_ROW
    for line in lines(make_calls()):
        last = line.number
        row = _ods_row([*line.cells, *beside.get(line.number, [])], line)
        if line.hidden:
            row.setAttribute("visibility", "collapse")
        table.addElement(row)
    table.addElement(TableRow(numberrowsrepeated=1_048_576 - last))
    document.spreadsheet.addElement(table)
    names = NamedExpressions()
    block = WANTED_BLOCK.replace(":", ":.")
    names.addElement(
        NamedRange(name="wanted", cellrangeaddress=f"$calls.{block}", basecelladdress="$calls.$A$1")
    )
    document.spreadsheet.addElement(names)
    ranges = DatabaseRanges()
    area = f"calls.A{HEADER_ROW}:calls.L{last}"
    ranges.addElement(
        DatabaseRange(name="all_calls", targetrangeaddress=area, displayfilterbuttons="true")
    )
    document.spreadsheet.addElement(ranges)
    document.save(str(path))


def _ods_row(cells: Sequence[object], line: Line | None = None) -> TableRow:
    row = TableRow()
    for column, cell in enumerate(cells):
        row.addElement(_ods_cell(cell, column, line))
    return row


def _ods_cell(cell: object, column: int, line: Line | None) -> TableCell:
    if cell is None or cell == "":
        return TableCell()
    if isinstance(cell, datetime):
        return TableCell(valuetype="date", datevalue=cell.isoformat())
    if isinstance(cell, Decimal):
        if line is not None and line.sums is not None:
            block = _formula(line, column)
            formula = f"of:=SUBTOTAL(9;[.{block.replace(':', ':.')}])"
            return TableCell(valuetype="float", value=str(cell), formula=formula)
        return TableCell(valuetype="float", value=str(cell))
    if cell == "#N/A":
        found = TableCell(valuetype="string", formula="of:=NA()")
    else:
        found = TableCell(valuetype="string")
    found.addElement(P(text=str(cell)))
    return found


def write_workbooks(folder: Path) -> None:
    """Write all workbooks into the folder."""
    write_xlsx(folder / "harbour.xlsx")
    write_months(folder / "months.xlsx")
    write_ods(folder / "harbour.ods")


if __name__ == "__main__":
    write_workbooks(Path(sys.argv[1]))
