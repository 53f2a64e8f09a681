"""CSV (RFC 4180), read through pyarrow; every cell keeps its own kind."""

import csv
from collections.abc import Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from io import StringIO
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc
from pyarrow import csv as arrow_csv

from even_sieve.core.errors import SourceError
from even_sieve.core.notices import Notice
from even_sieve.core.table import Column, Table
from even_sieve.core.table.lanes import Array
from even_sieve.sources.dialect import Dialect, find_delimiter, to_utf8
from even_sieve.sources.names import column_names
from even_sieve.sources.source_options import SourceOptions
from even_sieve.sources.string_columns import column_from_strings

_BLOCK = 1 << 20
_THREADS = 2
LONGEST_HEADER = 1 << 20


def read(content: bytes, source: str, options: SourceOptions) -> Table:
    """Return the table of a CSV file: the first line names the columns.

    Rows are numbered by the line on which they start. Raises `SourceError` naming source
    and row, `DuplicateColumn` for two columns of one name.
    """
    content, guessed = _text(content, source, options)
    delimiter = options.delimiter or find_delimiter(content, options.quote)
    dialect = Dialect(delimiter, options.quote)
    names, notices = header_names(content, source, dialect, options)
    arrays = _read_strings(content, len(names), source, dialect)
    if arrays.num_rows < 2:
        raise SourceError(source, "there is a header but no row below it", "Nothing to work out")
    rows = arrays.num_rows - 1
    strings = arrays.columns
    del arrays  # each column's strings are let go once the column is made
    columns = _columns(strings, names, source, options)
    numbers = row_numbers(content, rows, dialect)
    return Table(columns, rows, numbers, None, source, guessed + notices)


def read_columns(
    content: bytes,
    names: Sequence[str],
    wanted: Sequence[int],
    dialect: Dialect,
    source: str,
    options: SourceOptions,
) -> tuple[Column, ...]:
    """Return the columns at these positions, each read as a whole."""
    arrays = _read_strings(content, len(names), source, dialect, wanted)
    return _columns(arrays.columns, [names[i] for i in wanted], source, options)


def _columns(
    every: list[Any], names: Sequence[str], source: str, options: SourceOptions
) -> tuple[Column, ...]:
    """Return the columns, several made at a time: Arrow works outside the interpreter's lock."""

    def make(position: int) -> Column:
        strings, every[position] = every[position].slice(1), None
        longest = pc.max(pc.binary_length(strings)).as_py() or 0
        if longest > options.limits.cell:
            raise SourceError(
                source,
                f"a cell of column '{names[position]}' has {longest:,} bytes",
                f"At most {options.limits.cell:,} are read",
            )
        return column_from_strings(names[position], strings, options)

    with ThreadPoolExecutor(_THREADS) as pool:
        return tuple(pool.map(make, range(len(names))))


def _text(content: bytes, source: str, options: SourceOptions) -> tuple[bytes, tuple[Notice, ...]]:
    """Return the text as UTF-8. Raises `SourceError` unless it is text and there is some."""
    if not _holds_text(content):
        raise SourceError(source, "the file is empty", "A header and rows are needed")
    content, notices = to_utf8(content, source, options.encoding)
    if not _holds_text(content):
        raise SourceError(source, "the file is empty", "A header and rows are needed")
    return content, notices


def _holds_text(content: bytes) -> bool:
    """Tell whether there is anything but white space; looks at the beginning first."""
    return bool(content[:4096].strip() or content.strip())


def header_names(
    content: bytes, source: str, dialect: Dialect, options: SourceOptions
) -> tuple[list[str], tuple[Notice, ...]]:
    """Return the names in the header, which is the first record."""
    head = content[:LONGEST_HEADER].decode("utf-8", errors="ignore")
    header = next(record for record in _reader(head, dialect) if record)
    names, notices = column_names(header, source)
    if len(names) > options.limits.columns:
        raise SourceError(source, f"{len(names):,} columns: at most {options.limits.columns:,}")
    return names, notices


def _read_strings(
    content: bytes,
    count: int,
    source: str,
    dialect: Dialect,
    wanted: Sequence[int] | None = None,
) -> Any:
    """Return an Arrow table of `count` columns of strings, the header as its first row."""
    quoted = dialect.quote.encode() in content

    def parse(block: int) -> Any:
        how = parsing(count, block, dialect, quoted, wanted)
        return arrow_csv.read_csv(pa.BufferReader(content), **how)

    try:
        return parse(_BLOCK)
    except pa.ArrowInvalid as error:
        _refuse_ragged(content, count, source, dialect)
        if "straddling" in str(error):
            return parse(min(len(content) + 1, 2**31 - 1))
        raise SourceError(source, f"this is not CSV: {error}") from error


def parsing(
    count: int,
    block: int,
    dialect: Dialect,
    quoted: bool,
    wanted: Sequence[int] | None = None,
    threads: bool = True,
) -> dict[str, Any]:
    """Return how Arrow is to part the fields: all columns as strings, the header as a row."""
    names = [f"f{i}" for i in range(count)]
    return {
        "read_options": arrow_csv.ReadOptions(
            column_names=names, block_size=block, use_threads=threads
        ),
        "parse_options": arrow_csv.ParseOptions(
            delimiter=dialect.delimiter, quote_char=dialect.quote, newlines_in_values=quoted
        ),
        "convert_options": arrow_csv.ConvertOptions(
            column_types=dict.fromkeys(names, pa.string()),
            include_columns=None if wanted is None else [names[i] for i in wanted],
            strings_can_be_null=False,
            check_utf8=False,
        ),
    }


def _refuse_ragged(content: bytes, count: int, source: str, dialect: Dialect) -> None:
    """Raise `SourceError` for the first row whose number of fields differs from the header's."""
    for number, record in _records(content, dialect):
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


def _records(content: bytes, dialect: Dialect) -> Iterator[tuple[int, list[str]]]:
    """Yield each record with the line on which it starts; blank lines give empty records."""
    usual = csv.field_size_limit(2**31 - 1)
    try:
        reader = _reader(content.decode("utf-8"), dialect)
        start = 1
        for record in reader:
            yield start, record
            start = reader.line_num + 1
    finally:
        csv.field_size_limit(usual)


def row_numbers(content: bytes, rows: int, dialect: Dialect) -> Array | int:
    """Return the line of each row: 2 and on, or an array where lines and rows differ."""
    tail = content[-4096:]
    end = len(content) - len(tail) + len(tail.rstrip(b"\r\n"))
    ends = content.count(b"\n", 0, end) or content.count(b"\r", 0, end)
    if ends == rows:
        return 2
    starts = [number for number, record in _records(content, dialect) if record]
    return np.array(starts[1:], dtype=np.int64)


def _reader(text: str, dialect: Dialect) -> Any:
    """Return the standard library's reader; it counts lines, which pyarrow does not."""
    return csv.reader(
        StringIO(text, newline=""), delimiter=dialect.delimiter, quotechar=dialect.quote
    )


def read_plain_rows(content: bytes, source: str) -> list[tuple[int, Sequence[str]]]:
    """Return the records of a small CSV as texts, each with its line; for criteria ranges."""
    content, _ = _text(content, source, SourceOptions())
    return list(_records(content, Dialect(find_delimiter(content))))
