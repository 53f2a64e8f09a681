"""Workbooks of ISO/IEC 29500: what they hold, and what has a name in them.

openpyxl reads the parts, the names and the styles; sheets are read by `xlsx_sheet`.
"""

import os
from collections.abc import Iterator
from io import BytesIO
from posixpath import basename, dirname, join, normpath
from typing import Any
from xml.etree.ElementTree import ParseError, iterparse, parse
from zipfile import ZipFile

from even_sieve.core.errors import SourceError
from even_sieve.core.table import Table
from even_sieve.sources.packed import open_packed, right_ending
from even_sieve.sources.sheets import (
    Workbook,
    table_of,
)
from even_sieve.sources.source_options import SourceOptions
from even_sieve.sources.xlsx_sheet import SheetReader, Values, text_of

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
    book = _load(BytesIO(content))
    values = Values(
        _texts(archive, book.texts_part),
        set(book.wb._date_formats),
        set(book.wb._timedelta_formats),
        book.moment,
        book.iso_moment,
    )
    workbook = Workbook(source)
    whole = sum(archive.getinfo(path).file_size for _, path in book.found) or 1
    done = 0

    def tell(read: int) -> None:
        if options.progress is not None:
            options.progress(min(1.0, (done + read) / whole))

    for name, path in book.found:
        with archive.open(path) as part:
            reader = SheetReader(source, values, options.limits, tell)
            workbook.sheets.append(reader.read(name, part))
        done += archive.getinfo(path).file_size
    for name, defined in book.wb.defined_names.items():
        for sheet, block in defined.destinations:
            if ":" in block or block.replace("$", "").isalnum():
                workbook.names[name] = workbook.area(f"{sheet}!{block}")
    for name, path in book.found:
        for table, block in _tables(archive, path):
            workbook.tables[table] = workbook.area(f"{name}!{block}")
    return workbook


def _load(content: BytesIO) -> Any:
    """Return what openpyxl reads of a workbook besides its sheets: parts, names, styles."""
    # openpyxl's guard against entities is many times slower than the plain parser, and has
    # nothing left to do: a part with a document type was refused when the file was opened.
    # It is chosen by the environment, and only while the library is first imported.
    before = os.environ.get(_GUARD)
    os.environ[_GUARD] = before or "False"
    try:
        from openpyxl.reader.excel import ExcelReader
        from openpyxl.utils.datetime import from_excel, from_ISO8601
        from openpyxl.xml.constants import SHARED_STRINGS
    finally:
        if before is None:
            del os.environ[_GUARD]

    class Opened(ExcelReader):
        """A workbook whose sheets and texts are left to us."""

        def read_strings(self) -> None:
            part = self.package.find(SHARED_STRINGS)  # type: ignore[no-untyped-call]
            self.texts_part = None if part is None else part.PartName.lstrip("/")

        def read_worksheets(self) -> None:
            self.found = [
                (str(sheet.name), str(rel.target))
                for sheet, rel in self.parser.find_sheets()
                if rel.target in self.valid_files and "chartsheet" not in rel.Type
            ]

        def moment(self, number: float, length: bool) -> Any:
            return from_excel(number, self.wb.epoch, timedelta=length)

        def iso_moment(self, text: str) -> Any:
            return from_ISO8601(text)  # type: ignore[no-untyped-call]

    opened = Opened(content, read_only=True, data_only=True, keep_links=False)
    opened.read()
    return opened


def _texts(archive: ZipFile, path: str | None) -> list[str]:
    """Return the texts that cells share."""
    if path is None or path not in archive.namelist():
        return []
    texts = []
    with archive.open(path) as part:
        events = iterparse(part, ("start", "end"))
        root = next(events)[1]
        for event, element in events:
            if event == "end" and element.tag[-3:] == "}si":
                texts.append(text_of(element))
                root.clear()
    return texts


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
