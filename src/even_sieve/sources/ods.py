"""OpenDocument spreadsheets (ISO/IEC 26300), read with odfpy."""

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date, datetime
from decimal import Decimal
from io import BytesIO
from typing import Any
from xml.sax import SAXException

from defusedxml.common import DefusedXmlException
from odf import teletype
from odf.namespaces import OFFICENS, TABLENS, TEXTNS
from odf.opendocument import load
from odf.table import DatabaseRange, NamedRange
from odf.table import Table as OdfTable

from even_sieve.core.cells import Cell, CellError, error_from_token
from even_sieve.core.errors import SourceError
from even_sieve.core.table import Table
from even_sieve.sources.options import SourceOptions
from even_sieve.sources.packed import open_packed, right_ending
from even_sieve.sources.sheets import (
    NO_RESULT,
    Sheet,
    Workbook,
    day_or_moment,
    is_subtotalling,
    table_of,
)

_CALCULATED = "urn:org:documentfoundation:names:experimental:calc:xmlns:calcext:1.0"
_PARAGRAPH = (TEXTNS, "p")
_CELLS = ("table-cell", "covered-table-cell")
_GROUPS = ("table-row-group", "table-header-rows", "table-rows")


def read(content: bytes, source: str, options: SourceOptions) -> Table:
    """Return the table that the options choose, with the marks of its sheet."""
    return table_of(open_workbook(content, source, options), options)


def open_workbook(content: bytes, source: str, options: SourceOptions) -> Workbook:
    """Return all sheets of the file and what has a name in it."""
    archive = open_packed(content, source, options.limits)
    if "content.xml" not in archive.namelist():
        hint = right_ending(archive)
        raise SourceError(source, "this is no OpenDocument spreadsheet", hint)
    try:
        document = load(BytesIO(content))
    except (SAXException, DefusedXmlException, ValueError, KeyError) as error:
        raise SourceError(source, f"the file cannot be read: {error}") from error
    if getattr(document, "spreadsheet", None) is None:
        raise SourceError(source, "this is an OpenDocument file, but no spreadsheet")
    workbook = Workbook(source)
    for table in document.spreadsheet.getElementsByType(OdfTable):
        workbook.sheets.append(_sheet(table, source, options))
    if not workbook.sheets:
        raise SourceError(source, "the workbook has no sheet")
    _add_names(workbook, document)
    return workbook


def _add_names(workbook: Workbook, document: Any) -> None:
    for kind, address, places in (
        (NamedRange, "cell-range-address", workbook.names),
        (DatabaseRange, "target-range-address", workbook.tables),
    ):
        for element in document.spreadsheet.getElementsByType(kind):
            name = element.getAttrNS(TABLENS, "name")
            where = (element.getAttrNS(TABLENS, address) or "").replace("$", "")
            where = where.replace(":.", ":")
            if ":" in where and "." in where.split(":")[1]:
                where = where.split(":")[0] + ":" + where.split(":")[1].rsplit(".", 1)[1]
            if name and not name.startswith("__"):
                try:
                    places[name] = workbook.area(where)
                except SourceError:
                    continue  # a name for something else than a block of cells


@dataclass
class _Row:
    cells: list[Cell]
    repeated: int
    visibility: str
    subtotals: set[int]


def _sheet(table: Any, source: str, options: SourceOptions) -> Sheet:
    sheet = Sheet(str(table.getAttrNS(TABLENS, "name")))
    number, count = 0, 0
    for row in map(_row, _rows(table)):
        first, number = number + 1, number + row.repeated
        marks = {"collapse": sheet.hidden, "filter": sheet.filtered}.get(row.visibility)
        if not row.cells:  # a run of blank rows costs nothing until something follows it
            continue
        count += (number - len(sheet.rows)) * len(row.cells)
        if count > options.limits.cells or len(row.cells) > options.limits.columns:
            raise SourceError(source, f"sheet '{sheet.name}' has too many cells", "", number)
        sheet.rows.extend([] for _ in range(first - 1 - len(sheet.rows)))
        for repeat in range(first, number + 1):
            sheet.rows.append(list(row.cells))
            if row.subtotals:
                sheet.subtotals[repeat] = row.subtotals
            if marks is not None:
                marks.add(repeat)
    return sheet


def _rows(element: Any) -> Iterator[Any]:
    for child in element.childNodes:
        name = child.qname[1] if hasattr(child, "qname") else ""
        if name == "table-row":
            yield child
        elif name in _GROUPS:
            yield from _rows(child)


def _row(element: Any) -> _Row:
    """Return a row's cells up to the last filled one."""
    cells: list[Cell] = []
    subtotals: set[int] = set()
    position = 0
    for child in element.childNodes:
        if not hasattr(child, "qname") or child.qname[1] not in _CELLS:
            continue
        repeated = int(child.getAttrNS(TABLENS, "number-columns-repeated") or 1)
        covered = child.qname[1] == "covered-table-cell"
        cell = None if covered else _cell(child)
        if cell is not None:
            cells.extend([None] * (position - len(cells)))
            cells.extend([cell] * repeated)
            formula = child.getAttrNS(TABLENS, "formula") or ""
            if is_subtotalling(formula):
                subtotals.update(range(position + 1, position + repeated + 1))
        position += repeated
    repeated = int(element.getAttrNS(TABLENS, "number-rows-repeated") or 1)
    visibility = element.getAttrNS(TABLENS, "visibility") or "visible"
    return _Row(cells, repeated, visibility, subtotals)


def _cell(element: Any) -> Cell:
    kind = element.getAttrNS(OFFICENS, "value-type")
    formula = element.getAttrNS(TABLENS, "formula")
    # Its own paragraphs alone: a comment on the cell has some too.
    own = [child for child in element.childNodes if getattr(child, "qname", None) == _PARAGRAPH]
    text = "\n".join(map(teletype.extractText, own)).strip()
    calculated = element.attributes.get((_CALCULATED, "value-type"))
    if calculated == "error" or (formula and error_from_token(text)):
        return error_from_token(text) or CellError(text or "error", "the formula gave an error")
    if kind in ("float", "percentage", "currency"):
        return _number(element.getAttrNS(OFFICENS, "value"))
    if kind == "date":
        return _date(str(element.getAttrNS(OFFICENS, "date-value")))
    if kind == "boolean":
        return str(element.getAttrNS(OFFICENS, "boolean-value")).lower() == "true"
    if formula and kind is None and not text:
        return NO_RESULT
    return text or (element.getAttrNS(OFFICENS, "string-value") or "").strip() or None


def _number(value: object) -> Cell:
    """Return the number as the file writes it, exactly."""
    number = Decimal(str(value))
    return int(number) if number == number.to_integral_value() and abs(number) < 10**15 else number


def _date(value: str) -> date:
    if "T" in value:
        return day_or_moment(datetime.fromisoformat(value))
    return date.fromisoformat(value)
