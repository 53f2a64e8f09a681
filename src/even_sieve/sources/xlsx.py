"""Workbooks of ISO/IEC 29500: what they hold, and what has a name in them.

openpyxl reads the parts, the names and the styles; sheets are read by `xlsx_sheet`.
"""

import os
from collections.abc import Iterator
from io import BytesIO
from posixpath import basename, dirname, join, normpath
from typing import Any
from xml.etree.ElementTree import (
    ParseError,
    SubElement,
    fromstring,
    parse,
    tostring,
)
from zipfile import ZipFile

from even_sieve.core.errors import SourceError
from even_sieve.core.table import Table
from even_sieve.sources.packed import Packed, open_packed, read_ahead, right_ending
from even_sieve.sources.sheets import (
    Workbook,
    table_of,
)
from even_sieve.sources.shown_by_source import PERCENT, look_of_format
from even_sieve.sources.source_options import SourceOptions
from even_sieve.sources.xlsx_sheet import SheetReader
from even_sieve.sources.xlsx_texts import shared_texts
from even_sieve.sources.xlsx_values import Values
from even_sieve.sources.xlsx_xml import PIECE

_TYPES = "[Content_Types].xml"
_GUARD = "OPENPYXL_DEFUSEDXML"
_MAIN = "http://schemas.openxmlformats.org/spreadsheetml/2006/main"
#: What stands for the parts that are read apart.
_STUBS = {
    "worksheet": f'<worksheet xmlns="{_MAIN}"><dimension ref="A1"/><sheetData/></worksheet>',
    "sharedStrings": f'<sst xmlns="{_MAIN}"/>',
}

#: Styles that say nothing.
_STYLES = (
    f'<styleSheet xmlns="{_MAIN}"><numFmts/><fonts><font/></fonts>'
    "<fills><fill><patternFill/></fill></fills><borders><border/></borders><cellStyleXfs><xf/></cellStyleXfs><cellXfs/>"
    '<cellStyles><cellStyle name="plain" xfId="0"/></cellStyles></styleSheet>'
)

#: The options that a file is read by.
READS_BY = frozenset({"sheet", "cells", "header", "sideways", "blank_as"})


def read(content: bytes, source: str, options: SourceOptions) -> Table:
    """Return the table that the options choose, with the marks of its sheet."""
    return table_of(open_workbook(content, source, options), options)


def open_workbook(content: bytes, source: str, options: SourceOptions) -> Workbook:
    """Return all sheets of the file and what has a name in it."""
    archive = open_packed(content, source, options.limits)
    if not _is_workbook(archive):
        hint = right_ending(archive)
        raise SourceError(source, "this is no ISO/IEC 29500 workbook", hint)
    try:
        workbook = _open(archive, source, options)
    except (ParseError, KeyError, ValueError, TypeError) as error:
        raise SourceError(source, f"the file cannot be read: {error}") from error
    archive.look_through_others()
    return workbook


def _is_workbook(archive: Packed) -> bool:
    """Tell whether there is a workbook among the parts, whatever it is called."""
    if "xl/workbook.xml" in archive.namelist():
        return True
    kinds = archive.read(_TYPES) if _TYPES in archive.namelist() else b""
    return b"spreadsheetml.sheet.main" in kinds or any(
        each in kinds for each in (b"sheet.macroEnabled.main", b"spreadsheetml.template.main")
    )


#: Formats of a workbook's own are numbered from here on.
_FIRST_OWN_FORMAT = 164


def _open(archive: Packed, source: str, options: SourceOptions) -> Workbook:
    kinds = _kinds(archive)
    book = _load(_emptied(archive, kinds))
    texts = _texts(archive, kinds)
    values = Values(
        texts,
        book._date_formats,
        book._timedelta_formats,
        book.epoch,
        _looks(book, _formats(archive, kinds)),
    )
    sheets = [(str(each.title), str(each._worksheet_path)) for each in book.worksheets]
    hidden = {str(e._worksheet_path): e.sheet_state != "visible" for e in book.worksheets}
    workbook = Workbook(source)
    whole = sum(archive.getinfo(path).file_size for _, path in sheets) or 1
    done = 0

    def tell(read: int) -> None:
        if options.progress is not None:
            options.progress(min(1.0, (done + read) / whole))

    for name, path in sheets:
        size = archive.getinfo(path).file_size
        with read_ahead(archive, path, PIECE) as part:
            reader = SheetReader(source, values, options.limits, tell, size)
            workbook.sheets.append(reader.read(name, part))
        workbook.sheets[-1].is_hidden = hidden[path]
        done += size
    for name, defined in book.defined_names.items():
        for sheet, block in defined.destinations:
            if ":" in block or block.replace("$", "").isalnum():
                workbook.names[name] = workbook.area(f"{sheet}!{block}")
    for name, path in sheets:
        for table, block in _tables(archive, path):
            workbook.tables[table] = workbook.area(f"{name}!{block}")
    return workbook


def _kinds(archive: Packed) -> dict[str, str]:
    """Return what each part of the package is, by its path: `worksheet`, `sharedStrings`, …"""
    return {
        str(each.get("PartName", "")).lstrip("/"): str(each.get("ContentType", ""))
        .removesuffix("+xml")
        .rpartition(".")[2]
        for each in _root(archive, _TYPES)
    }


def _emptied(archive: Packed, kinds: dict[str, str]) -> BytesIO:
    """Return the workbook without what its sheets hold: these are read apart."""
    out = BytesIO()
    with ZipFile(out, "w") as made:
        for path in archive.namelist():
            stub = _STUBS.get(kinds.get(path, ""))
            if stub is not None or path.endswith((".xml", ".rels")):
                if stub is not None:
                    made.writestr(path, stub)
                    continue
                own = archive.read(path)
                made.writestr(path, _bare(own) if kinds.get(path) == "styles" else own)
    out.seek(0)
    return out


def _bare(styles: bytes) -> bytes:
    """Return the styles of a workbook with what tells how numbers are shown, and no more.

    The rest, which writers write in many ways, is of no concern here.
    """
    found = fromstring(styles)
    space = found.tag.rpartition("}")[0] + "}"
    formats, cells = found.find(f"{space}numFmts"), found.find(f"{space}cellXfs")
    bare = fromstring(_STYLES)
    for name, given, known in (
        ("numFmts", formats, ("numFmtId", "formatCode")),
        ("cellXfs", cells, ("numFmtId",)),
    ):
        for own in bare.iterfind(f"{{{_MAIN}}}{name}"):
            for each in () if given is None else given:
                held = {key: value for key in known if (value := each.get(key)) is not None}
                SubElement(own, f"{{{_MAIN}}}{each.tag.rpartition('}')[2]}", held)
    return tostring(bare)


def _load(content: BytesIO) -> Any:
    """Return the workbook as openpyxl reads it: names and styles."""
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
    return load_workbook(content, read_only=True, data_only=True, keep_links=False)


def _formats(archive: Packed, kinds: dict[str, str]) -> set[str]:
    """Return the formats of numbers that the workbook itself spells out."""
    paths = [path for path, kind in kinds.items() if kind == "styles"]
    named = (_root(archive, path) for path in paths if path in archive.namelist())
    return {
        str(each.get("formatCode", ""))
        for root in named
        for each in root.iter()
        if each.tag.endswith("}numFmt")
    }


def _looks(book: Any, spelt: set[str]) -> dict[int, str]:
    """Return the styles that show a number as percent or in a currency, and in which.

    The currency of a format that the workbook does not spell out is its reader's, not its own.
    """
    from openpyxl.styles.numbers import BUILTIN_FORMATS

    own = book._number_formats
    found = {}
    for number, style in enumerate(book._cell_styles):
        place = style.numFmtId - _FIRST_OWN_FORMAT
        code = own[place] if 0 <= place < len(own) else BUILTIN_FORMATS.get(style.numFmtId, "")
        look = look_of_format(code)
        if look and (look == PERCENT or code in spelt):
            found[number] = look
    return found


def _texts(archive: Packed, kinds: dict[str, str]) -> list[str]:
    """Return the texts that cells share."""
    path = next((path for path, kind in kinds.items() if kind == "sharedStrings"), None)
    if path is None or path not in archive.namelist():
        return []
    with archive.open(path) as part:
        return shared_texts(part)


def _tables(archive: Packed, path: str) -> Iterator[tuple[str, str]]:
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


def _root(archive: Packed, path: str) -> Any:
    """Return the root element of a part of the archive."""
    with archive.open(path) as part:
        return parse(part).getroot()
