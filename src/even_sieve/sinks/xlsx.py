"""Workbooks of ISO/IEC 29500, written with openpyxl: real numbers and dates, hidden rows."""

from datetime import date, datetime
from decimal import Decimal
from pathlib import Path
from typing import Any

from openpyxl import Workbook
from openpyxl.cell import WriteOnlyCell

from even_sieve.core.cells import Cell, CellError
from even_sieve.core.table import Table
from even_sieve.sinks.files import is_hidden

_DAY, _MOMENT = "yyyy-mm-dd", "yyyy-mm-dd hh:mm:ss"


def write(table: Table, path: Path, leave_formulas: bool) -> None:
    """Write the table to the path. A text is a text: nothing runs unless it is left to."""
    book = Workbook(write_only=True)
    sheet: Any = book.create_sheet("rows")
    sheet.append([_cell(sheet, name, False) for name in table.names])
    for row, record in enumerate(zip(*(c.cells() for c in table.columns), strict=True)):
        if is_hidden(table, row):
            sheet.row_dimensions[row + 2].hidden = True
        sheet.append([_cell(sheet, cell, leave_formulas) for cell in record])
    book.save(path)


def _cell(sheet: Any, cell: Cell, leave_formulas: bool) -> Any:
    if isinstance(cell, CellError):
        written = WriteOnlyCell(sheet, cell.token)
        written.data_type = "e" if cell.token.startswith("#") else "s"
        return written
    plain: Any = float(cell) if isinstance(cell, Decimal) else cell
    written = WriteOnlyCell(sheet, plain)
    if isinstance(cell, str) and not leave_formulas:
        written.data_type = "s"
    elif isinstance(cell, date):
        written.number_format = _MOMENT if isinstance(cell, datetime) else _DAY
    return written
