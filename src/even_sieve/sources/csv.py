"""CSV (RFC 4180), read through pyarrow; every cell keeps its own kind."""

import csv
from collections.abc import Iterator, Sequence
from io import StringIO
from typing import Any

import numpy as np
import pyarrow as pa
from pyarrow import csv as arrow_csv

from even_sieve.core.errors import DuplicateColumn, SourceError
from even_sieve.core.notices import Code, Notice
from even_sieve.core.table import Column, Table
from even_sieve.core.table.lanes import Array
from even_sieve.sources.options import SourceOptions
from even_sieve.sources.strings import column_from_strings

_BLOCK = 1 << 20
_LONGEST_HEADER = 1 << 20


def read(content: bytes, source: str, options: SourceOptions) -> Table:
    """Return the table of a CSV file: the first line names the columns.

    Rows are numbered by the line on which they start. Raises `SourceError` naming source
    and row, `DuplicateColumn` for two columns of one name.
    """
    content = _text_bytes(content, source)
    names, notices = _column_names(content, source)
    arrays = _read_strings(content, len(names), source)
    if arrays.num_rows < 2:
        raise SourceError(source, "there is a header but no row below it", "Nothing to work out")
    rows = arrays.num_rows - 1
    columns = tuple(
        _column(name, arrays.column(i).slice(1), options) for i, name in enumerate(names)
    )
    numbers = _row_numbers(content, rows)
    return Table(columns, rows, numbers, None, source, notices)


def _text_bytes(content: bytes, source: str) -> bytes:
    """Return the bytes without a byte order mark. Raises `SourceError` unless they are text."""
    if content[:2] in (b"\xff\xfe", b"\xfe\xff"):
        raise SourceError(source, "the file is in UTF-16", "Save it as UTF-8", 1)
    content = content.removeprefix(b"\xef\xbb\xbf")
    if not content.strip():
        raise SourceError(source, "the file is empty", "A header and rows are needed")
    position = content.find(b"\0")
    if position < 0:
        try:
            content.decode("utf-8")
        except UnicodeDecodeError as error:
            position = error.start
    if position >= 0:
        line = content.count(b"\n", 0, position) + 1
        found = f"0x{content[position]:02x}"
        raise SourceError(
            source, f"the byte {found} is not UTF-8 text", "Save the file as CSV in UTF-8", line
        )
    return content


def _column_names(content: bytes, source: str) -> tuple[list[str], tuple[Notice, ...]]:
    """Return the names in the header, trimmed; a column without one is called by its number."""
    head = content[:_LONGEST_HEADER].decode("utf-8", errors="ignore")
    header = next(record for record in csv.reader(StringIO(head, newline="")) if record)
    names, notices = [], []
    seen: dict[str, int] = {}
    for position, field in enumerate(header, 1):
        name = field.strip()
        if not name:
            name = f"#{position}"
            notices.append(
                Notice(Code.UNNAMED_COLUMN, f"column {position} has no name: it is called {name}")
            )
        earlier = seen.setdefault(name.casefold(), position)
        if earlier != position:
            raise DuplicateColumn(name, (earlier, position), source)
        names.append(name)
    return names, tuple(notices)


def _read_strings(content: bytes, count: int, source: str) -> Any:
    """Return an Arrow table of `count` columns of strings, the header as its first row."""
    try:
        return _parse(content, count, _BLOCK)
    except pa.ArrowInvalid as error:
        _refuse_ragged(content, count, source)
        if "straddling" in str(error):
            return _parse(content, count, min(len(content) + 1, 2**31 - 1))
        raise SourceError(source, f"this is not CSV: {error}") from error


def _parse(content: bytes, count: int, block: int) -> Any:
    names = [f"f{i}" for i in range(count)]
    return arrow_csv.read_csv(
        pa.BufferReader(content),
        read_options=arrow_csv.ReadOptions(column_names=names, block_size=block),
        parse_options=arrow_csv.ParseOptions(newlines_in_values=b'"' in content),
        convert_options=arrow_csv.ConvertOptions(
            column_types=dict.fromkeys(names, pa.string()),
            strings_can_be_null=False,
            check_utf8=False,
        ),
    )


def _refuse_ragged(content: bytes, count: int, source: str) -> None:
    """Raise `SourceError` for the first row whose number of fields differs from the header's."""
    for number, record in _records(content):
        if record and len(record) != count:
            what = "too many" if len(record) > count else "too few"
            raise SourceError(
                source,
                f"{len(record)} fields, {what}: the header names {count}",
                "Put a field that holds a comma in double quotes"
                if len(record) > count
                else "Write every comma, also for blank cells",
                number,
            )


def _records(content: bytes) -> Iterator[tuple[int, list[str]]]:
    """Yield each record with the line on which it starts; blank lines give empty records."""
    csv.field_size_limit(2**31 - 1)
    reader = csv.reader(StringIO(content.decode("utf-8"), newline=""))
    start = 1
    for record in reader:
        yield start, record
        start = reader.line_num + 1


def _row_numbers(content: bytes, rows: int) -> Array | int:
    """Return the line of each row: 2 and on, or an array where lines and rows differ."""
    stripped = content.rstrip(b"\r\n")
    ends = stripped.count(b"\n") or stripped.count(b"\r")
    if ends == rows:
        return 2
    starts = [number for number, record in _records(content) if record]
    return np.array(starts[1:], dtype=np.int64)


def _column(name: str, strings: Any, options: SourceOptions) -> Column:
    return column_from_strings(name, strings, options.blank_as)


def read_plain_rows(content: bytes, source: str) -> list[tuple[int, Sequence[str]]]:
    """Return the records of a small CSV as texts, each with its line; for criteria ranges."""
    return list(_records(_text_bytes(content, source)))
