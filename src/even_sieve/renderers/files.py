"""Documents as files of tables: a file, the sheets of a workbook, a CSV file a section."""

import re
from collections.abc import Iterator
from pathlib import Path

import numpy as np

from even_sieve.core.table import Mark, Table, column_from_cells, table_from_columns
from even_sieve.documents.document import Document, Records, ReportDocument
from even_sieve.sinks.files import replace_file, sink_for, with_marks, write_file

_MARKS = {
    "subtotal": Mark.SUBTOTAL,
    "total": Mark.SUBTOTAL,
    "hidden": Mark.HIDDEN,
    "filtered": Mark.FILTERED,
}
#: What a sheet's name cannot hold by ISO/IEC 29500, and how long it can be.
_NOT_IN_NAMES = re.compile(r"[\[\]:*?/\\]")
_LONGEST_NAME = 31
_MADE_FROM = "made from"


def table_of(records: Records) -> Table:
    """Return records as a table; rows that repeat others, or are hidden, are marked."""
    columns = [column_from_cells(name, list(cells)) for name, cells in records.columns.items()]
    table = Table(tuple(columns), columns[0].length if columns else 0)
    for mark in dict.fromkeys(filter(None, records.marks)):
        rows = np.array([each == mark for each in records.marks], dtype=bool)
        table = table.marked(_MARKS[mark], rows)
    return table


def write_document(document: Document, path: str | Path) -> None:
    """Write the records of a document; the ending of the name chooses how."""
    write_file(table_of(document.records()), path)


def write_workbook(report: ReportDocument, path: Path) -> None:
    """Write a sheet a section, with real numbers, and one that says what they were made from."""
    sheets = [
        (name, with_marks(table_of(section.document.sheet())))
        for name, section in zip(_names(report), report.sections, strict=True)
    ]
    names, words = zip(*report.made_from, strict=True)
    made = table_from_columns({_MADE_FROM: list(names), "text": list(words)})
    sheets.append((_MADE_FROM, made))
    write = sink_for(path).write_sheets
    replace_file(path, lambda new: write(sheets, new))


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


def _names(report: ReportDocument) -> Iterator[str]:
    """Yield the name of each section's sheet: its title as far as it fits, each one once."""
    seen = {_MADE_FROM}
    for number, section in enumerate(report.sections, 1):
        plain = _NOT_IN_NAMES.sub(" ", section.title).strip(" '") or f"{section.kind} {number}"
        name, again = plain[:_LONGEST_NAME].strip(" '"), 1
        while name.casefold() in seen:
            again += 1
            name = f"{plain[: _LONGEST_NAME - 4].strip()} {again}"
        seen.add(name.casefold())
        yield name
