"""Workbooks of ISO/IEC 29500, read as a whole.

`xlsx_package` tells what parts there are, `xlsx_sheet` reads a sheet.
"""

from xml.etree.ElementTree import ParseError

from even_sieve.core.errors import SourceError
from even_sieve.core.table import Table
from even_sieve.sources.packed import Packed, open_packed, read_ahead, right_ending
from even_sieve.sources.sheet_tables import table_of
from even_sieve.sources.sheets import Workbook
from even_sieve.sources.source_options import SourceOptions
from even_sieve.sources.xlsx_package import Package
from even_sieve.sources.xlsx_sheet import SheetReader
from even_sieve.sources.xlsx_texts import shared_texts
from even_sieve.sources.xlsx_values import Values, spelt_out
from even_sieve.sources.xlsx_xml import PIECE

#: The options that a file is read by.
READS_BY = frozenset({"sheet", "cells", "header", "sideways", "blank_as"})


def read(content: bytes, source: str, options: SourceOptions) -> Table:
    """Return the table that the options choose, with the marks of its sheet."""
    return table_of(open_workbook(content, source, options), options)


def open_workbook(content: bytes, source: str, options: SourceOptions) -> Workbook:
    """Return all sheets of the file and what has a name in it."""
    archive = open_packed(content, source, options.limits)
    try:
        package = Package(archive, source)
        if not package.is_workbook:
            hint = right_ending(archive)
            raise SourceError(source, "this is no ISO/IEC 29500 workbook", hint)
        workbook = _read(package, archive, source, options)
    except (ParseError, KeyError, ValueError, TypeError) as error:
        raise SourceError(source, f"the file cannot be read: {error}") from error
    archive.look_through_others()
    return workbook


def _read(package: Package, archive: Packed, source: str, options: SourceOptions) -> Workbook:
    values = _values(package, archive)
    sheets = package.sheets()
    if not sheets:
        raise SourceError(source, "the workbook has no sheet with cells")
    workbook = Workbook(source, day_zero=package.epoch.date())
    whole = sum(archive.getinfo(each.path).file_size for each in sheets) or 1
    done = 0

    def tell(read: int) -> None:
        if options.progress is not None:
            options.progress(min(1.0, (done + read) / whole))

    for sheet in sheets:
        size = archive.getinfo(sheet.path).file_size
        with read_ahead(archive, sheet.path, PIECE) as part:
            reader = SheetReader(source, values, options.limits, tell, size)
            workbook.sheets.append(reader.read(sheet.name, part))
        workbook.sheets[-1].is_hidden = sheet.is_hidden
        done += size
    for name in package.names():
        workbook.add_name(name.name, name.sheet, name.block, name.within)
    for held, own in zip(sheets, workbook.sheets, strict=True):
        for table, block, filtered in package.tables(held.path):
            area = workbook.block(block, own.name) or workbook.area(block)
            workbook.tables[table] = area
            if filtered:
                own.filter_away(area.top + 1, area.bottom)
    return workbook


def _values(package: Package, archive: Packed) -> Values:
    """Return what cells refer to: the texts that they share, and the styles."""
    texts: list[str] = []
    if (path := package.shared_texts()) is not None:
        with archive.open(path) as part:
            texts = [spelt_out(text) for text in shared_texts(part)]
    styles = package.styles()
    return Values(texts, styles.dates, styles.lengths, package.epoch, styles.looks)
