"""Documents as files of tables: a file, the sheets of a workbook, a CSV file a section."""

from collections.abc import Sequence
from pathlib import Path
from typing import cast

import numpy as np

from even_sieve.core.cells import Cell, Kind
from even_sieve.core.table import Column, Mark, Table, column_from_cells
from even_sieve.core.table.growing import Growing
from even_sieve.documents.document import Document, Records, ReportDocument
from even_sieve.documents.every_line import Stretched
from even_sieve.sinks.files import write_file
from even_sieve.sources.arrow_buffers import strings_of
from even_sieve.sources.growing_texts import GrowingTexts
from even_sieve.sources.text_lanes import text_lane_of

#: The marks by their words in records.
MARKS = {
    "subtotal": Mark.SUBTOTAL,
    "total": Mark.SUBTOTAL,
    "hidden": Mark.HIDDEN,
    "filtered": Mark.FILTERED,
}


def table_of(records: Records) -> Table:
    """Return records as a table; rows that repeat others, or are hidden, are marked."""
    columns = [_column(name, cells) for name, cells in records.columns.items()]
    table = Table(tuple(columns), columns[0].length if columns else 0)
    for mark in dict.fromkeys(filter(None, records.marks)):
        rows = np.fromiter((each == mark for each in records.marks), bool, len(records.marks))
        table = table.marked(MARKS[mark], rows)
    return table


def _column(name: str, cells: Sequence[Cell]) -> Column:
    """Return the column of cells; of very many a stretch is made at a time."""
    if not isinstance(cells, Stretched):
        return column_from_cells(name, list(cells))
    grown = Growing(name, len(cells), GrowingTexts)
    for some in cells.stretches():
        grown.add(_column_of_texts(name, some) or column_from_cells(name, some))
    return grown.column()


def _column_of_texts(name: str, cells: list[Cell]) -> Column | None:
    """Return the column of texts, folded and put in order at once; None where there are others."""
    if set(map(type, cells)) != {str}:
        return None
    texts = cast(list[str], cells)
    if not all(cell and cell == cell.strip() for cell in texts):
        return None
    try:
        lane = text_lane_of(strings_of(texts))
    except UnicodeEncodeError:  # half of a letter
        return None
    return Column(name, len(texts), {Kind.TEXT: lane}, None)


def write_document(document: Document, path: str | Path) -> None:
    """Write the records of a document; the ending of the name chooses how."""
    write_file(table_of(document.records()), path)


def write_tables(report: ReportDocument, path: Path) -> list[Path]:
    """Write a CSV file a section, numbered in their order; return where they are."""
    written = []
    for number, section in enumerate(report.sections, 1):
        file = numbered(path, number)
        write_file(table_of(section.document.sheet()), file)
        written.append(file)
    return written


def numbered(path: Path, number: int) -> Path:
    """Return the name of a section's file: `calls-2.csv`."""
    return path.with_stem(f"{path.stem}-{number}")
