"""Workbooks of ISO/IEC 29500, written with openpyxl: real numbers and dates, hidden rows."""

from collections.abc import Iterator, Sequence
from datetime import date, datetime
from decimal import Decimal
from itertools import count, islice
from pathlib import Path
from typing import Any

from openpyxl import Workbook
from openpyxl.cell import WriteOnlyCell
from openpyxl.styles import Font
from openpyxl.utils import get_column_letter

from even_sieve.core.cells import Cell, CellError
from even_sieve.core.table import Table
from even_sieve.sinks.files import is_hidden, repeats_others
from even_sieve.sinks.fitting import refuse_unfit
from even_sieve.sinks.packing import write_packed
from even_sieve.sinks.tokens import token

_DAY, _MOMENT = "yyyy-mm-dd", "yyyy-mm-dd hh:mm:ss"
_LOOKED_AT, _WIDEST = 200, 40


def write(table: Table, path: Path, leave_formulas: bool) -> None:
    """Write the table to the path. A text is a text: nothing runs unless it is left to."""
    write_sheets([("rows", table)], path, leave_formulas)


def write_sheets(
    sheets: Sequence[tuple[str, Table]], path: Path, leave_formulas: bool = False
) -> None:
    """Write tables to the path, each on a sheet of that name, the names of columns kept in view."""
    refuse_unfit(sheets)
    book = Workbook(write_only=True)
    for name, table in sheets:
        sheet: Any = book.create_sheet(name)
        sheet.freeze_panes = "A2"
        for letter, width in zip(_letters(), _widths(table), strict=False):
            sheet.column_dimensions[letter].width = width
        sheet.append([_bold(_cell(sheet, each, False)) for each in table.names])
        formats = [f"#,##0.{'0' * c.decimals}" if c.decimals else None for c in table.columns]
        for row, record in enumerate(zip(*(c.cells() for c in table.columns), strict=True)):
            if is_hidden(table, row):
                sheet.row_dimensions[row + 2].hidden = True
            cells = [
                _cell(sheet, cell, leave_formulas, shown)
                for cell, shown in zip(record, formats, strict=True)
            ]
            sheet.append([_bold(cell) for cell in cells] if repeats_others(table, row) else cells)
    write_packed(book.save, path)


def _bold(cell: Any) -> Any:
    cell.font = Font(bold=True)
    return cell


def _letters() -> Iterator[str]:
    return map(get_column_letter, count(1))


def _widths(table: Table) -> Iterator[int]:
    """Yield how wide each column is to be, by its name and its first cells."""
    for column in table.columns:
        first = [str(each) for each in islice(column.cells(), _LOOKED_AT) if each is not None]
        yield min(max(map(len, [column.name, *first])) + 2, _WIDEST)


def _cell(sheet: Any, cell: Cell, leave_formulas: bool, shown: str | None = None) -> Any:
    if isinstance(cell, CellError):
        return _of_type(sheet, cell.token, "e" if cell.token.startswith("#") else "s")
    if isinstance(cell, int | float | Decimal) and not isinstance(cell, bool):
        number: Any = _of_type(sheet, 0, "n")
        number._value = token(cell)  # openpyxl would round it to 16 digits
        if shown is not None:
            number.number_format = shown
        return number
    if isinstance(cell, str) and not leave_formulas:
        return _of_type(sheet, cell, "s")
    plain: Any = cell
    written = WriteOnlyCell(sheet, plain)
    if isinstance(cell, date):
        written.number_format = _MOMENT if isinstance(cell, datetime) else _DAY
    return written


def _of_type(sheet: Any, value: str | int, kind: str) -> Any:
    written = WriteOnlyCell(sheet, value)
    written.data_type = kind
    return written
