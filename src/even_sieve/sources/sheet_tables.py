"""Tables cut out of the sheets of workbooks, and what stands right beside them."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from even_sieve.core.cells import Cell, fold
from even_sieve.core.cells.written import Conventions
from even_sieve.core.errors import NoRows, SourceError
from even_sieve.core.notices import Code, Notice
from even_sieve.core.table import Mark, Table, column_from
from even_sieve.core.table.lanes import Array
from even_sieve.sources.areas import Area
from even_sieve.sources.beyond import told_below, told_outside
from even_sieve.sources.names import column_names
from even_sieve.sources.sheets import Sheet, Workbook
from even_sieve.sources.shown_by_source import with_looks
from even_sieve.sources.source_options import SourceOptions


def table_of(workbook: Workbook, options: SourceOptions) -> Table:
    """Return the table that the options choose from the workbook, with the sheet's marks.

    Without a choice it is the one table that the first sheet names, else what stands
    under the first row of names. Raises `SourceError` if there is none.
    """
    (area, given), most = _chosen(workbook, options), options.limits.cells
    sheet = workbook.sheet(area.sheet)
    grid = sheet.rows[area.top - 1 : area.bottom]
    if (area.left, area.right) != (1, sheet.used.right):
        grid = [row[area.left - 1 : area.right] for row in grid]
    if options.sideways:
        grid = [list(row) for row in zip(*workbook.cells(area, most), strict=True)]
    whole = max(map(len, grid), default=0) if options.sideways else area.right - area.left + 1
    top = _header(workbook, grid, area, whole, options)
    left, right = (0, whole) if given else _names_span(grid[top])
    names, notices = column_names(_cut(grid[top], left, right), workbook.source)
    own = replace(area, top=area.top + top + 1, left=area.left + left, right=area.left + right - 1)
    if options.sideways:
        below = [_cut(row, left, right) for row in grid[top + 1 :]]
    else:
        below = workbook.cells(own, most)
    below = _without_blanks(below, options)
    if not below:
        raise NoRows(workbook.source, names)
    conventions = Conventions(day_zero=workbook.day_zero)
    columns = tuple(
        replace(column_from(name, list(cells)), conventions=conventions)
        for name, cells in zip(names, zip(*below, strict=True), strict=True)
    )
    notices = (*_choices(workbook, area, top, options), *notices)
    edge = told_below(sheet, area, sideways=options.sideways) if given else ()
    notices = (*notices, *edge)
    if options.cells is None and not options.sideways:
        own = replace(own, top=area.top + top, bottom=area.bottom + len(edge))
        notices = (*notices, *told_outside(sheet, own, workbook.named))
    start = (area.left if options.sideways else area.top) + top + 1
    numbers = np.arange(start, start + len(below))
    table = Table(columns, len(below), start, None, workbook.source, notices)
    if options.sideways:
        return table
    return _marked(
        with_looks(table, sheet.shown, start, area.left + left),
        sheet,
        numbers,
        range(area.left + left, area.left + right),
    )


def _cut(row: list[Cell], left: int, right: int) -> list[Cell]:
    """Return the cells of a row from one column up to another; None beyond what is filled."""
    return row[left:right] + [None] * (right - max(left, len(row)))


def _stands_for_none(cell: Cell, tokens: frozenset[str]) -> bool:
    return isinstance(cell, str) and fold(cell.strip()) in tokens


def _choices(
    workbook: Workbook, area: Area, top: int, options: SourceOptions
) -> tuple[Notice, ...]:
    """Return what was read where there was a choice: of several sheets, of several rows."""
    found = []
    others = [f"'{each.name}'" for each in workbook.sheets if each.name != area.sheet]
    filled = [each for each in workbook.sheets if each.rows and each.name != area.sheet]
    if filled and options.sheet is None and options.cells is None:
        text = f"sheet '{area.sheet}' was read, and not {', '.join(others)}; see --sheet"
        found.append(Notice(Code.SHEET_CHOSEN, text, {"sheets": len(others)}))
    if top and options.header is None:
        row = (area.left if options.sideways else area.top) + top
        place = "column" if options.sideways else "row"
        text = f"the names of the columns were taken from {place} {row}; see --header"
        found.append(Notice(Code.HEADER_FOUND, text))
    return tuple(found)


def _chosen(workbook: Workbook, options: SourceOptions) -> tuple[Area, bool]:
    """Return the area to read, and whether every column of it was chosen."""
    if options.cells is not None:
        return workbook.area(options.cells, options.sheet), True
    sheet = workbook.sheet(options.sheet)
    own = [area for area in workbook.tables.values() if area.sheet == sheet.name]
    if len(own) == 1 and options.header is None:
        return own[0], True
    if not sheet.rows:
        raise SourceError(workbook.source, f"sheet '{sheet.name}' is empty")
    return sheet.used, False


def _header(
    workbook: Workbook, grid: list[list[Cell]], area: Area, whole: int, options: SourceOptions
) -> int:
    """Return the position in the grid, so many columns wide, of the row that names these."""
    if options.header is not None:
        position = options.header - (area.left if options.sideways else area.top)
        if not 0 <= position < len(grid):
            raise SourceError(workbook.source, f"there is no row {options.header} to name columns")
        if all(cell is None for cell in grid[position]):
            raise SourceError(workbook.source, f"row {options.header} is blank: it names no column")
        return position
    wide = 2 if whole > 1 else 1
    for position, row in enumerate(grid):
        filled = [cell for cell in row if cell is not None]
        if len(filled) >= wide and all(isinstance(cell, str) for cell in filled):
            return position
    raise SourceError(
        workbook.source,
        f"no row of names was found on sheet '{area.sheet}'",
        "Say which one it is: --header ROW, or choose the area: --cells",
    )


def _names_span(row: Sequence[Cell]) -> tuple[int, int]:
    """Return where the first unbroken run of names begins and ends."""
    first = next(i for i, cell in enumerate(row) if cell is not None)
    last = next((i for i in range(first, len(row)) if row[i] is None), len(row))
    return first, last


def _without_blanks(rows: list[list[Cell]], options: SourceOptions) -> list[list[Cell]]:
    """Return rows up to the last that holds a cell, None for what is said to stand for none."""
    while rows and all(cell is None for cell in rows[-1]):
        rows.pop()
    blank = frozenset(fold(token.strip()) for token in options.blank_as)
    if not blank:
        return rows
    return [[None if _stands_for_none(cell, blank) else cell for cell in row] for row in rows]


def _marked(table: Table, sheet: Sheet, numbers: Array, columns: range) -> Table:
    """Return the table with the marks that its rows have on the sheet."""
    subtotals = {row for row, found in sheet.subtotals.items() if any(c in columns for c in found)}
    for mark, rows in (
        (Mark.SUBTOTAL, subtotals),
        (Mark.HIDDEN, sheet.hidden),
        (Mark.FILTERED, sheet.filtered),
    ):
        chosen = np.isin(numbers, list(rows))
        if chosen.any():
            table = table.marked(mark, chosen)
    return table
