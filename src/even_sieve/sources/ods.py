"""OpenDocument spreadsheets (ISO/IEC 26300), read row by row.

The library that writes them holds a whole document as objects, some 20 MiB a thousand
rows; here each row is let go once it is read.
"""

from contextlib import ExitStack, suppress
from dataclasses import dataclass, field
from datetime import date
from decimal import InvalidOperation
from typing import NoReturn
from xml.etree.ElementTree import Element, ParseError

from even_sieve.core.cells.counted_days import DAY_ZERO
from even_sieve.core.errors import SourceError
from even_sieve.core.table import Table
from even_sieve.sources.ods_made import Made, made_of
from even_sieve.sources.ods_pieces import MadeRows, begin_rows
from even_sieve.sources.ods_rows import PIECE, ROW, ContentXml, Row, row_of
from even_sieve.sources.packed import Packed, open_packed, read_ahead, right_ending
from even_sieve.sources.second import Shared
from even_sieve.sources.sheet_tables import table_of
from even_sieve.sources.sheets import Sheet, Workbook
from even_sieve.sources.source_options import SourceOptions
from even_sieve.sources.subtotals import is_subtotalling

_CONTENT = "content.xml"
_OFFICE, _TABLE, _TEXT = (
    f"{{urn:oasis:names:tc:opendocument:xmlns:{name}:1.0}}" for name in ("office", "table", "text")
)
_CALCULATED = "{urn:org:documentfoundation:names:experimental:calc:xmlns:calcext:1.0}value-type"
_CELL, _COVERED = f"{_TABLE}table-cell", f"{_TABLE}covered-table-cell"
_STYLE = "{urn:oasis:names:tc:opendocument:xmlns:style:1.0}"
_PROPERTIES, _STYLE_NAME = f"{_STYLE}table-properties", f"{_STYLE}name"
_PARAGRAPH = f"{_TEXT}p"
_VALUE_TYPE, _VALUE, _FORMULA = f"{_OFFICE}value-type", f"{_OFFICE}value", f"{_TABLE}formula"
_REPEATED = {what: f"{_TABLE}number-{what}-repeated" for what in ("rows", "columns")}

#: The options that a file is read by.
READS_BY = frozenset({"sheet", "cells", "header", "sideways", "blank_as"})


def read(content: bytes, source: str, options: SourceOptions) -> Table:
    """Return the table that the options choose, with the marks of its sheet."""
    return table_of(open_workbook(content, source, options), options)


def open_workbook(content: bytes, source: str, options: SourceOptions) -> Workbook:
    """Return all sheets of the file and what has a name in it."""
    archive = open_packed(content, source, options.limits)
    if _CONTENT not in archive.namelist():
        hint = right_ending(archive)
        raise SourceError(source, "this is no OpenDocument spreadsheet", hint)
    reader = _SheetReader(source, options)
    try:
        reader.read(archive)
        archive.look_through_others()
    except (ParseError, ValueError, InvalidOperation) as error:
        raise SourceError(source, f"the file cannot be read: {error}") from error
    if not reader.is_spreadsheet:
        raise SourceError(source, "this is an OpenDocument file, but no spreadsheet")
    workbook = Workbook(source, day_zero=reader.day_zero)
    workbook.sheets.extend(reader.sheets)
    if not workbook.sheets:
        raise SourceError(source, "the workbook has no sheet")
    _add_names(workbook, reader.names)
    return workbook


def _add_names(workbook: Workbook, names: list[tuple[str, str, bool]]) -> None:
    for name, address, is_table in names:
        where = address.replace("$", "").replace(":.", ":")
        if ":" in where and "." in where.split(":")[1]:
            where = where.split(":")[0] + ":" + where.split(":")[1].rsplit(".", 1)[1]
        if name and not name.startswith("__"):
            with suppress(SourceError):
                area = workbook.block(where)
                if area is not None:  # else it names something else than a block of cells
                    (workbook.tables if is_table else workbook.names)[name] = area


@dataclass
class _SheetReader:
    """Goes through the content once: the sheets that it met, and the names of blocks."""

    source: str
    options: SourceOptions
    sheets: list[Sheet] = field(default_factory=list)
    names: list[tuple[str, str, bool]] = field(default_factory=list)
    is_spreadsheet: bool = False
    hiding: set[str | None] = field(default_factory=set)
    day_zero: date = DAY_ZERO
    _number: int = 0
    _count: int = 0
    _cells: int = 0
    _closed: int = 0

    def read(self, archive: Packed) -> None:
        """Read all sheets. Raises `SourceError` for one beyond the limits."""
        size, tell = archive.getinfo(_CONTENT).file_size, self.options.progress
        with read_ahead(archive, _CONTENT, PIECE) as part, ExitStack() as stack:
            above: list[Element] = []
            rows = 0  # how many rows we are inside of: in a cell of one there can be others

            def told(done: int) -> None:
                if tell is not None and size:
                    tell(min(1.0, done / size))

            limits = self.options.limits
            work = stack.enter_context(Shared(begin_rows, (limits,), size))
            for event, element in ContentXml(part, limits.cell, told, work).events():
                if event == "made":
                    self._add_all(element)
                    continue
                if isinstance(element, Row):
                    self._add(self._made_of(element))
                    continue
                is_row = element.tag == ROW
                if event == "start":
                    above.append(element)
                    rows += is_row
                    if not rows:
                        self._begin(element, above[-2:][0])
                    continue
                above.pop()
                rows -= is_row
                if rows:
                    self._count_cell(element, rows)
                    continue  # the row as a whole is read at its end
                if is_row:
                    self._add(self._made_of(row_of(element, limits.cell)))
                elif element.tag in _NAMED:
                    self._name(element)
                elif _is_closed_group(element):
                    self._closed -= 1
                if above:
                    above[-1].remove(element)

    def _made_of(self, row: Row) -> Made:
        try:
            return made_of(row, self.options.limits)
        except ValueError as error:
            fact = f"sheet '{self.sheets[-1].name}': a cell cannot be read: {error}"
            raise SourceError(self.source, fact, "", self._number + 1) from None

    def _begin(self, element: Element, above: Element) -> None:
        if element.tag == f"{_OFFICE}spreadsheet":
            self.is_spreadsheet = True
        elif element.tag == _PROPERTIES and element.get(f"{_TABLE}display") == "false":
            self.hiding.add(above.get(_STYLE_NAME))
        elif element.tag == f"{_TABLE}null-date":
            with suppress(ValueError):
                self.day_zero = date.fromisoformat(element.get(f"{_TABLE}date-value", ""))
        elif _is_closed_group(element):
            self._closed += 1
        elif element.tag == f"{_TABLE}table":
            hidden = element.get(f"{_TABLE}style-name") in self.hiding
            self.sheets.append(Sheet(str(element.get(f"{_TABLE}name")), is_hidden=hidden))
            self._number = self._count = 0

    def _count_cell(self, element: Element, rows: int) -> None:
        """Raise `SourceError` while a row is still growing beyond the limits."""
        if rows == 1 and element.tag in (_CELL, _COVERED):
            self._cells += 1
            if self._cells > self.options.limits.columns:
                self._refuse(self._number + 1)

    def _refuse(self, number: int) -> NoReturn:
        fact = f"sheet '{self.sheets[-1].name}' has too many cells"
        raise SourceError(self.source, fact, "", number)

    def _name(self, element: Element) -> None:
        key, is_table = _NAMED[element.tag]
        name, address = element.get(f"{_TABLE}name", ""), element.get(key, "")
        self.names.append((name, address, is_table))

    def _add_all(self, made: MadeRows | list[Made]) -> None:
        """Add rows to the last sheet: those that all hold cells, and stand there once, at once."""
        sheet, limits = self.sheets[-1], self.options.limits
        if not isinstance(made, MadeRows) or set(made.times) != {1} or not all(made.cells):
            for row in made.one_by_one() if isinstance(made, MadeRows) else made:
                self._add(row)
            return
        first, gap = self._number + 1, self._number - len(sheet.rows)
        count = gap + sum(map(len, made.cells))
        if self._count + count > limits.cells:
            self._refuse(first)
        self._cells, self._count = 0, self._count + count
        self._number += len(made.cells)
        sheet.rows.extend([] for _ in range(gap))
        sheet.rows.extend(made.cells)
        told = self._closed or any(made.visibility)
        for number, seen in enumerate(made.visibility, first) if told else ():
            marks = self._marks(seen)
            if marks is not None:
                marks.add(number)
        for place in sorted(made.formulas.keys() | made.looks.keys()):
            formulas, looks = made.formulas.get(place, []), made.looks.get(place, [])
            self._add_beside(first + place, first + place, formulas, looks)

    def _marks(self, visibility: str) -> set[int] | None:
        """Return where the number of a row goes that is not seen; None for one that is."""
        sheet = self.sheets[-1]
        if visibility == "filter":
            return sheet.filtered
        return sheet.hidden if self._closed or visibility == "collapse" else None

    def _add_beside(
        self,
        first: int,
        last: int,
        formulas: list[tuple[int, int, str]],
        looks: list[tuple[int, str]],
    ) -> None:
        """Add what the formulas and the looks of a row say, which stands there up to the last."""
        sheet = self.sheets[-1]
        subtotals = {
            column
            for start, stop, formula in formulas
            if is_subtotalling(formula, first, start)
            for column in range(start, stop)
        }
        for column, look in looks:
            sheet.shown.add(column, look, first, last)
        if subtotals:
            sheet.subtotals.update((row, subtotals) for row in range(first, last + 1))

    def _add(self, row: Made) -> None:
        """Add a row to the last sheet, as often as it is repeated."""
        sheet, limits = self.sheets[-1], self.options.limits
        self._cells = 0
        if row.cells is None:
            self._refuse(self._number + 1)
        cells = row.cells
        first, self._number = self._number + 1, self._number + row.times
        marks = self._marks(row.visibility)
        if not cells:  # a run of blank rows costs nothing until something follows it
            return
        self._count += row.times * len(cells) + first - 1 - len(sheet.rows)
        if self._count > limits.cells:
            self._refuse(self._number)
        sheet.rows.extend([] for _ in range(first - 1 - len(sheet.rows)))
        self._add_beside(first, self._number, row.formulas, row.looks)
        for repeat in range(first, self._number + 1):
            sheet.rows.append(list(cells))
            if marks is not None:
                marks.add(repeat)


def _is_closed_group(element: Element) -> bool:
    """Tell whether an element is a group of rows that is folded away, whatever its rows say."""
    return element.tag == f"{_TABLE}table-row-group" and element.get(f"{_TABLE}display") == "false"


#: What names a block of cells: the attribute with its address, and whether it is a table.
_NAMED = {
    f"{_TABLE}named-range": (f"{_TABLE}cell-range-address", False),
    f"{_TABLE}database-range": (f"{_TABLE}target-range-address", True),
}
