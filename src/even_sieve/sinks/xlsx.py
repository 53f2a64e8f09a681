"""Workbooks of ISO/IEC 29500: real numbers and dates, hidden rows.

openpyxl makes the workbook, its sheets and styles; their rows are put in one by one.
"""

import re
from collections.abc import Iterator, Sequence
from datetime import date, datetime, time, timedelta
from decimal import Decimal
from itertools import count, islice
from pathlib import Path
from typing import Any

from openpyxl import Workbook
from openpyxl.cell import WriteOnlyCell
from openpyxl.styles import Font
from openpyxl.utils import get_column_letter

from even_sieve.core.cells import Cell, CellError
from even_sieve.core.progress import steps
from even_sieve.core.table import Column, Table
from even_sieve.sinks.files import is_hidden, repeats_others
from even_sieve.sinks.fitting import refuse_unfit
from even_sieve.sinks.packing import escaped, write_packed
from even_sieve.sinks.tokens import token

_DAY, _MOMENT = "yyyy-mm-dd", "yyyy-mm-dd hh:mm:ss"
_LOOKED_AT, _WIDEST = 200, 40
_EPOCH, _NO_DAY = datetime(1899, 12, 30), 61
_GAP = re.compile(rb"(<sheetData>)(</sheetData>)")


def write(table: Table, path: Path, leave_formulas: bool) -> None:
    """Write the table to the path. A text is a text: nothing runs unless it is left to."""
    write_sheets([("rows", table)], path, leave_formulas)


def write_sheets(
    sheets: Sequence[tuple[str, Table]], path: Path, leave_formulas: bool = False
) -> None:
    """Write tables to the path, each on a sheet of that name, the names of columns kept in view."""
    refuse_unfit(sheets)
    book = Workbook(write_only=True)
    rows = {}
    for number, (name, table) in enumerate(sheets, 1):
        sheet: Any = book.create_sheet(name)
        sheet.freeze_panes = "A2"
        for letter, width in zip(_letters(), _widths(table), strict=False):
            sheet.column_dimensions[letter].width = width
        styles = _Styles(sheet)
        lettered = zip(table.columns, _letters(), strict=False)
        made = [_Column(column, letter, styles) for column, letter in lettered]
        rows[f"xl/worksheets/sheet{number}.xml"] = [_rows(table, made, leave_formulas)]
    write_packed(book.save, path, _GAP, rows)


def _letters() -> Iterator[str]:
    return map(get_column_letter, count(1))


def _widths(table: Table) -> Iterator[int]:
    """Yield how wide each column is to be, by its name and its first cells."""
    for column in table.columns:
        first = [str(each) for each in islice(column.cells(), _LOOKED_AT) if each is not None]
        yield min(max(map(len, [column.name, *first])) + 2, _WIDEST)


class _Styles:
    """The styles of cells: how numbers and dates are shown, in bold or not."""

    def __init__(self, sheet: Any) -> None:
        self._sheet = sheet

    def of(self, shown: str | None, bold: bool) -> str:
        """Return what a cell says of its style."""
        cell: Any = WriteOnlyCell(self._sheet, None)
        if shown is not None:
            cell.number_format = shown
        if bold:
            cell.font = Font(bold=True)
        return f' s="{cell.style_id}"' if cell.style_id else ""


class _Column:
    """How the cells of one column are written: its letter, and its styles, bold ones second."""

    def __init__(self, column: Column, letter: str, styles: _Styles) -> None:
        self.letter = letter
        number = f"#,##0.{'0' * column.decimals}" if column.decimals else None
        self.number, self.day, self.moment, self.other = (
            [styles.of(shown, bold) for bold in (False, True)]
            for shown in (number, _DAY, _MOMENT, None)
        )

    def cell(self, cell: Cell, row: int, bold: bool, leave_formulas: bool) -> str:
        """Return the XML of a cell; a blank leaves none."""
        if cell is None:
            return ""
        place = f'<c r="{self.letter}{row}"'
        if isinstance(cell, str):
            if leave_formulas and cell[:1] == "=" and len(cell) > 1:
                return f"{place}{self.other[bold]}><f>{escaped(cell[1:])}</f><v/></c>"
            return _text(place, cell, self.other[bold])
        if isinstance(cell, bool):
            return f'{place}{self.other[bold]} t="b"><v>{int(cell)}</v></c>'
        if isinstance(cell, int | float | Decimal):
            return f"{place}{self.number[bold]}><v>{token(cell)}</v></c>"
        if isinstance(cell, CellError):
            if not cell.token.startswith("#"):
                return _text(place, cell.token, self.other[bold])
            return f'{place}{self.other[bold]} t="e"><v>{escaped(cell.token)}</v></c>'
        style = self.moment if isinstance(cell, datetime) else self.day
        return f"{place}{style[bold]}><v>{token(_days(cell))}</v></c>"


def _days(value: date) -> float:
    """Return a date as a number of days, as the standard stores it (ISO/IEC 29500-1, 18.17.4).

    They count a 29 February 1900, which was none: the days before it stand one later.
    """
    moment = value if isinstance(value, datetime) else datetime.combine(value, time())
    days = (moment - _EPOCH) / timedelta(days=1)
    return days - 1 if 1 <= days < _NO_DAY else days


def _text(place: str, text: str, style: str) -> str:
    return f'{place}{style} t="inlineStr"><is><t>{escaped(text)}</t></is></c>'


def _rows(table: Table, columns: Sequence[_Column], leave_formulas: bool) -> Iterator[str]:
    """Yield the XML of the header and of the rows."""
    names = zip(columns, table.names, strict=True)
    header = "".join(_text(f'<c r="{c.letter}1"', name, c.other[1]) for c, name in names)
    yield f'<row r="1">{header}</row>'
    records = enumerate(zip(*(c.cells() for c in table.columns), strict=True))
    for row, record in steps(records, "writing", table.length):
        bold, hidden = repeats_others(table, row), is_hidden(table, row)
        cells = [
            column.cell(cell, row + 2, bold, leave_formulas)
            for column, cell in zip(columns, record, strict=True)
        ]
        said = ' hidden="1"' if hidden else ""
        yield f'<row r="{row + 2}"{said}>{"".join(cells)}</row>'
