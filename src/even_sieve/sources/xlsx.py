"""Workbooks of ISO/IEC 29500, their values read with openpyxl.

Values are streamed row by row. What openpyxl leaves out of a streamed sheet (hidden rows,
the filter's area, formulas, tables) is gathered in one pass over the sheet's XML.
"""

import os
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from datetime import date, datetime, time, timedelta
from io import BytesIO
from posixpath import basename, dirname, join, normpath
from typing import Any
from xml.etree.ElementTree import ParseError, iterparse, parse
from zipfile import ZipFile

from even_sieve.core.cells import Cell, CellError, error_from_token
from even_sieve.core.errors import SourceError
from even_sieve.core.table import Table
from even_sieve.sources.packed import open_packed, right_ending
from even_sieve.sources.sheets import (
    NO_RESULT,
    Sheet,
    Workbook,
    column_number,
    day_or_moment,
    is_subtotalling,
    table_of,
)
from even_sieve.sources.source_options import SourceOptions

#: The share of the time that the pass over the XML takes.
_SCANNED = 0.35

_GUARD = "OPENPYXL_DEFUSEDXML"

#: The options that a file is read by.
READS_BY = frozenset({"sheet", "cells", "header", "sideways", "blank_as"})


def read(content: bytes, source: str, options: SourceOptions) -> Table:
    """Return the table that the options choose, with the marks of its sheet."""
    return table_of(open_workbook(content, source, options), options)


def open_workbook(content: bytes, source: str, options: SourceOptions) -> Workbook:
    """Return all sheets of the file and what has a name in it."""
    archive = open_packed(content, source, options.limits)
    if "xl/workbook.xml" not in archive.namelist():
        hint = right_ending(archive)
        raise SourceError(source, "this is no ISO/IEC 29500 workbook", hint)
    try:
        return _open(content, archive, source, options)
    except (ParseError, KeyError, ValueError, TypeError) as error:
        raise SourceError(source, f"the file cannot be read: {error}") from error


def _open(content: bytes, archive: ZipFile, source: str, options: SourceOptions) -> Workbook:
    book = _load(BytesIO(content), read_only=True, data_only=True)
    workbook = Workbook(source)
    for position, opened in enumerate(book.worksheets):
        told = _Progress(options.progress, position, len(book.worksheets))
        extra = _scan(archive, str(opened._worksheet_path), told)
        workbook.sheets.append(_sheet(opened, extra, source, options, told))
    for name, defined in book.defined_names.items():
        for sheet, block in defined.destinations:
            if ":" in block or block.replace("$", "").isalnum():
                workbook.names[name] = workbook.area(f"{sheet}!{block}")
    for opened in book.worksheets:
        path = str(opened._worksheet_path)
        for name, block in _tables(archive, path):
            workbook.tables[name] = workbook.area(f"{opened.title}!{block}")
    return workbook


def _load(content: BytesIO, **options: Any) -> Any:
    # openpyxl's guard against entities is many times slower than the plain parser, and has
    # nothing left to do: a part with a document type was refused when the file was opened.
    # It is chosen by the environment, and only while the library is first imported.
    before = os.environ.get(_GUARD)
    os.environ[_GUARD] = before or "False"
    try:
        from openpyxl import load_workbook
    finally:
        if before is None:
            del os.environ[_GUARD]
    return load_workbook(content, **options)


@dataclass(frozen=True)
class _Progress:
    """Tells how far the reading is: two passes over each sheet."""

    tell: Callable[[float], None] | None
    sheet: int
    sheets: int

    def __call__(self, begin: float, end: float, done: float, whole: float | None) -> None:
        """Tell that of the part of this sheet from `begin` to `end` so much is done."""
        if self.tell is not None and whole:
            share = begin + (end - begin) * min(1.0, done / whole)
            self.tell((self.sheet + share) / self.sheets)


@dataclass
class _Extra:
    """What the XML of a sheet says besides the values; `row` and `column` are where it stands."""

    hidden: set[int] = field(default_factory=set)
    subtotals: dict[int, set[int]] = field(default_factory=dict)
    without_result: set[tuple[int, int]] = field(default_factory=set)
    filter_rows: tuple[int, int] | None = None
    shared: set[str] = field(default_factory=set)
    row: int = 0
    column: int = 0


def _scan(archive: ZipFile, path: str, told: _Progress) -> _Extra:
    extra, size = _Extra(), archive.getinfo(path).file_size
    with archive.open(path) as part:
        for event, element in iterparse(part, ("start", "end")):
            name = element.tag.rsplit("}", 1)[-1]
            if event == "start":
                if name == "row":  # the standard lets rows and cells go without a reference
                    extra.row, extra.column = int(element.get("r", extra.row + 1)), 0
            elif name == "c":
                _scan_cell(element, extra)
            elif name == "row":
                if element.get("hidden") in ("1", "true"):
                    extra.hidden.add(extra.row)
                element.clear()
                told(0, _SCANNED, part.tell(), size)
            elif name == "autoFilter" and len(element):
                extra.filter_rows = _rows_of(element.get("ref", ""))
    return extra


def _scan_cell(element: Any, extra: _Extra) -> None:
    place = element.get("r")
    extra.column = column_number(place.rstrip("0123456789")) if place else extra.column + 1
    formula = next((each for each in element if each.tag.endswith("}f")), None)
    if formula is None:
        return
    if _subtotals(formula, extra):
        extra.subtotals.setdefault(extra.row, set()).add(extra.column)
    value = next((each for each in element if each.tag.endswith("}v")), None)
    if value is None or value.text is None:
        extra.without_result.add((extra.row, extra.column))


def _subtotals(formula: Any, extra: _Extra) -> bool:
    """Tell whether a formula subtotals, by itself or by one that it shares with a cell before."""
    shared = formula.get("si") if formula.get("t") == "shared" else None
    if not formula.text:
        return shared in extra.shared
    if not is_subtotalling(formula.text):
        return False
    if shared is not None:
        extra.shared.add(shared)
    return True


def _rows_of(block: str) -> tuple[int, int] | None:
    ends = [int("".join(filter(str.isdigit, end))) for end in block.split(":") if end]
    return (ends[0], ends[-1]) if ends else None


def _sheet(
    opened: Any, extra: _Extra, source: str, options: SourceOptions, told: _Progress
) -> Sheet:
    sheet = Sheet(str(opened.title), subtotals=extra.subtotals)
    first, last = extra.filter_rows or (0, -1)
    # One flag stands for both: in an active filter's area a hidden row was filtered.
    sheet.filtered = {row for row in extra.hidden if first < row <= last}
    sheet.hidden = extra.hidden - sheet.filtered
    count = 0
    opened.reset_dimensions()  # what a file says of its size may be wrong
    for number, row in enumerate(opened.iter_rows(), 1):
        told(_SCANNED, 1, number, extra.row)
        cells = [_cell(cell, extra) for cell in row]
        while cells and cells[-1] is None:
            cells.pop()
        if not cells:
            continue
        count += len(cells)
        if count > options.limits.cells or len(cells) > options.limits.columns:
            raise SourceError(source, f"sheet '{sheet.name}' has too many cells", "", number)
        sheet.rows.extend([] for _ in range(number - 1 - len(sheet.rows)))
        sheet.rows.append(cells)
    return sheet


def _cell(cell: Any, extra: _Extra) -> Cell:
    value = cell.value
    if value is None:
        known = extra.without_result and hasattr(cell, "row")
        return NO_RESULT if known and (cell.row, cell.column) in extra.without_result else None
    if cell.data_type == "e":
        return error_from_token(str(value)) or CellError(str(value), "the cell holds an error")
    if isinstance(value, datetime):
        return day_or_moment(value)
    if isinstance(value, time | timedelta):
        return str(value)
    if isinstance(value, bool | int | float | date):
        return value
    return str(value).strip() or None


def _tables(archive: ZipFile, path: str) -> Iterator[tuple[str, str]]:
    """Yield the name and the block of every table of a sheet."""
    relations = join(dirname(path), "_rels", f"{basename(path)}.rels")
    if relations not in archive.namelist():
        return
    for relation in _root(archive, relations):
        if str(relation.get("Type", "")).endswith("/table"):
            target = str(relation.get("Target", ""))
            inside = target.lstrip("/") if target.startswith("/") else join(dirname(path), target)
            root = _root(archive, normpath(inside))
            yield str(root.get("displayName") or root.get("name")), str(root.get("ref"))


def _root(archive: ZipFile, path: str) -> Any:
    """Return the root element of a part of the archive."""
    with archive.open(path) as part:
        return parse(part).getroot()
