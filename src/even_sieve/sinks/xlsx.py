"""Workbooks of ISO/IEC 29500: real numbers and dates, hidden rows.

openpyxl makes the workbook, its sheets and styles; their rows are put in one by one.
"""

import re
from collections.abc import Iterator, Sequence
from datetime import datetime
from decimal import Decimal
from itertools import count
from pathlib import Path
from typing import Any

from openpyxl import Workbook
from openpyxl.cell import WriteOnlyCell
from openpyxl.styles import Alignment, Border, Font, PatternFill, Side
from openpyxl.styles.fonts import DEFAULT_FONT
from openpyxl.utils import get_column_letter

from even_sieve.core.cells import Cell, CellError
from even_sieve.core.progress import steps
from even_sieve.core.table import Column, Table
from even_sieve.core.table.arrays import spans
from even_sieve.sinks.files import is_hidden
from even_sieve.sinks.fitting import refuse_unfit
from even_sieve.sinks.packing import escaped, write_packed
from even_sieve.sinks.sheet import Sheet, is_of_numbers
from even_sieve.sinks.tokens import token
from even_sieve.sinks.xlsx_cells import Maker, cell_maker, has_times, rows_at_once
from even_sieve.sinks.xlsx_layout import format_code, lay_out
from even_sieve.sinks.xlsx_text import days, stored

#: So many rows are made at once.
ROWS = 1 << 13
_DAY, _MOMENT = "yyyy-mm-dd", "yyyy-mm-dd hh:mm:ss"
_HEAD, _TITLE_SIZE = "E8EDF3", 14
_GAP = re.compile(rb"(<sheetData>)(</sheetData>)")


def write(table: Table, path: Path, leave_formulas: bool) -> None:
    """Write the table to the path. A text is a text: nothing runs unless it is left to."""
    write_sheets([Sheet("rows", table)], path, leave_formulas)


def write_sheets(sheets: Sequence[Sheet], path: Path, leave_formulas: bool = False) -> None:
    """Write sheets to the path, the names of columns kept in view."""
    refuse_unfit(sheets)
    book = Workbook()
    book.remove(book.worksheets[0])
    rows = {}
    for number, each in enumerate(sheets, 1):
        sheet: Any = book.create_sheet(each.name)
        lay_out(sheet, each)
        styles = _Styles(sheet)
        lettered = zip(each.table.columns, _letters(), strict=False)
        made = [_Column(column, letter, styles, each) for column, letter in lettered]
        title = styles.of(None, True, size=_TITLE_SIZE)
        rows[f"xl/worksheets/sheet{number}.xml"] = [_rows(each, made, title, leave_formulas)]
    write_packed(book.save, path, _GAP, rows)


def _letters() -> Iterator[str]:
    return map(get_column_letter, count(1))


class _Styles:
    """The styles of cells: how numbers and dates are shown, in bold or not."""

    def __init__(self, sheet: Any) -> None:
        self._sheet = sheet
        self._made: dict[tuple[object, ...], str] = {}

    def of(self, shown: str | None, bold: bool, *, size: int = 0, head: str = "") -> str:
        """Return what a cell says of its style; `head` is where the text of a header stands."""
        key = shown, bold, size, head
        if key not in self._made:
            cell: Any = WriteOnlyCell(self._sheet, None)
            if shown is not None:
                cell.number_format = shown
            if bold:
                cell.font = Font(DEFAULT_FONT.name, size or DEFAULT_FONT.size, bold=True)
            if head:
                cell.fill = PatternFill("solid", fgColor=_HEAD)
                cell.border = Border(bottom=Side(style="thin"))
                cell.alignment = Alignment(wrap_text=True, vertical="top", horizontal=head)
            self._made[key] = f' s="{cell.style_id}"' if cell.style_id else ""
        return self._made[key]


class _Column:
    """How the cells of one column are written: its letter, and its styles, bold ones second."""

    def __init__(self, column: Column, letter: str, styles: _Styles, sheet: Sheet) -> None:
        self.letter, self._sheet, self._name, self._column = letter, sheet, column.name, column
        side = "right" if is_of_numbers(column) else "left"
        self.head = styles.of(None, True, head=side if sheet.is_laid_out else "")
        number = f"#,##0.{'0' * column.decimals}" if column.decimals else None
        self.number, self.day, self.moment, self.other = (
            [styles.of(shown, bold) for bold in (False, True)]
            for shown in (number, _DAY, _MOMENT, None)
        )
        # Styles are made before the rows: the workbook is saved without these.
        self._shaped = {
            shape: [styles.of(format_code(shape), bold) for bold in (False, True)]
            for shape in sheet.shapes_of(column.name)
        }

    def maker(self) -> Maker | None:
        """Return what makes many cells at once; None where they are shown in several ways."""
        shapes = list(self._shaped)
        if len(shapes) > 1 or not self._sheet.is_shown_alike(self._name):
            return None
        plain = {"number": self.number[0], "day": self.day[0]}
        if has_times(self._column):
            plain["day"] = self.moment[0]
        for shape in shapes:
            plain["day" if shape.kind == "date" else "number"] = self._shaped[shape][0]
        return cell_maker(self._column, self.letter, **plain, other=self.other[0])

    def cell(self, cell: Cell, row: int, bold: bool, leave_formulas: bool) -> str:
        """Return the XML of a cell in a row of the table (from 0); a blank leaves none."""
        if cell is None:
            return ""
        place = f'<c r="{self.letter}{row + self._sheet.header + 1}"'
        if isinstance(cell, str):
            if leave_formulas and cell[:1] == "=" and len(cell) > 1:
                return f"{place}{self.other[bold]}><f>{escaped(cell[1:])}</f><v/></c>"
            return _text(place, cell, self.other[bold])
        if isinstance(cell, bool):
            return f'{place}{self.other[bold]} t="b"><v>{int(cell)}</v></c>'
        shape = self._sheet.shape(self._name, row, cell) if self._shaped else None
        shaped = None if shape is None else self._shaped[shape][bold]
        if isinstance(cell, int | float | Decimal):
            return f"{place}{shaped or self.number[bold]}><v>{token(cell)}</v></c>"
        if isinstance(cell, CellError):
            if not cell.token.startswith("#"):
                return _text(place, cell.token, self.other[bold])
            return f'{place}{self.other[bold]} t="e"><v>{escaped(cell.token)}</v></c>'
        style = self.moment if isinstance(cell, datetime) else self.day
        return f"{place}{shaped or style[bold]}><v>{token(days(cell))}</v></c>"


def _text(place: str, text: str, style: str) -> str:
    return f'{place}{style} t="inlineStr"><is><t>{stored(text)}</t></is></c>'


def _line(row: int, text: str, style: str) -> str:
    cell = _text(f'<c r="A{row}"', text, style)
    return f'<row r="{row}">{cell}</row>'


def _rows(
    sheet: Sheet, columns: Sequence[_Column], title: str, leave_formulas: bool
) -> Iterator[str]:
    """Yield the XML of the title, the header, the rows, and the notes."""
    table = sheet.table
    for row, text in enumerate(sheet.lines_above, 1):
        yield _line(row, text, title if row == 1 else "")
    at = sheet.header
    names = zip(columns, table.names, strict=True)
    header = "".join(_text(f'<c r="{c.letter}{at}"', name, c.head) for c, name in names)
    yield f'<row r="{at}">{header}</row>'
    makers = [maker for maker in (column.maker() for column in columns) if maker is not None]
    at_once = not leave_formulas and len(makers) == len(columns)
    blocks = spans(table.length, ROWS)
    for rows in steps(blocks, "writing", -(-table.length // ROWS)):
        lines = rows_at_once(makers, rows, at + 1) if at_once else None
        for row in range(rows.start, rows.stop):
            bold, hidden = sheet.is_strong(row), is_hidden(table, row)
            if lines is not None and not (bold or hidden):
                yield lines[row - rows.start]
                continue
            own = zip(columns, table.columns, strict=True)
            cells = (each.cell(c.cell(row), row, bold, leave_formulas) for each, c in own)
            said = ' hidden="1"' if hidden else ""
            yield f'<row r="{at + row + 1}"{said}>{"".join(cells)}</row>'
