"""What stands on a sheet right below, or elsewhere outside of, the cells that were read."""

from collections.abc import Sequence

from even_sieve.core.cells import Cell, looks_like_number
from even_sieve.core.notices import Code, Notice, counted
from even_sieve.core.table.total_labels import speaks_of_total
from even_sieve.sources.areas import Area, block_words, column_letters
from even_sieve.sources.sheets import Sheet

_HINT = "; see --cells"


def told_below(sheet: Sheet, area: Area, *, sideways: bool = False) -> tuple[Notice, ...]:
    """Return the notice on cells right below an area that was read; none for those of a total.

    Of records that stand side by side the next column is looked at.
    """
    if sideways:
        rows = sheet.rows[area.top - 1 : area.bottom]
        beyond = [cell for row in rows for cell in row[area.right : area.right + 1]]
        return told_of_edge(f"column {column_letters(area.right + 1)}", area, beyond)
    below = area.bottom + 1
    (cells,) = sheet.block(below, below, area.left, area.right)
    return () if below in sheet.subtotals else told_of_edge(f"row {below}", area, cells)


def told_of_edge(what: str, area: Area, cells: Sequence[Cell]) -> tuple[Notice, ...]:
    """Return the notice on the cells of a row, or a column, right beyond a block.

    None for a single text where there are several columns: it is a note.

    >>> told_of_edge("row 5", Area("", 1, 1, 4, 2), ["Bold Curlew", 120])[0].text
    'row 5 stands right below A1:B4, holds cells too, and was not read; see --cells'
    >>> told_of_edge("row 5", Area("", 1, 1, 4, 2), ["Total", 120])
    ()
    """
    filled = [cell for cell in cells if cell is not None and cell != ""]
    texts = [cell for cell in filled if isinstance(cell, str) and not looks_like_number(cell)]
    is_note = len(filled) == len(texts) == 1 < len(cells)
    if not filled or is_note or any(map(speaks_of_total, texts)):
        return ()
    return _told(what, area, _HINT)


def told_right_below(sheet: Sheet, area: Area) -> tuple[Notice, ...]:
    """Return the notice on any cell right below a block of criteria, or parameters."""
    below = area.bottom + 1
    (cells,) = sheet.block(below, below, area.left, area.right)
    return _told(f"row {below}", area) if any(cell is not None for cell in cells) else ()


def _told(what: str, area: Area, hint: str = "") -> tuple[Notice, ...]:
    where = "beside" if what.startswith("column") else "below"
    text = f"{what} stands right {where} {block_words(area)}, holds cells too, and was not read"
    return (Notice(Code.GOES_ON, text + hint),)


def told_outside(sheet: Sheet, table: Area, named: Sequence[Area]) -> tuple[Notice, ...]:
    """Return the notice on cells beside and below a table; none for those above it.

    What is `named` has a purpose of its own.
    """
    areas = [area for area in (table, *named) if area.sheet == sheet.name]
    left, right, count, first = table.left - 1, table.right, 0, ""
    for number, row in enumerate(sheet.rows[table.top - 1 :], table.top):
        if not left and len(row) <= right and number <= table.bottom:
            continue
        filled = [column for column, cell in enumerate(row, 1) if cell is not None]
        for area in areas:
            if filled and area.top <= number <= area.bottom:
                filled = [each for each in filled if not area.left <= each <= area.right]
        count += len(filled)
        if filled and not first:
            first = f"{column_letters(filled[0])}{number}"
    if not count:
        return ()
    is_one = count == 1
    stand = f"{first} stands" if is_one else f"{counted(count, 'cell')} (first {first}) stand"
    text = f"{stand} outside of the table and {'was' if is_one else 'were'} not read; see --cells"
    return (Notice(Code.OUTSIDE_TABLE, text, {"cells": count}),)
