"""CSV (RFC 4180), read through pyarrow; every cell keeps its own kind."""

from collections.abc import Iterable, Sequence
from dataclasses import replace
from typing import Any

import pyarrow as pa
from pyarrow import csv as arrow_csv

from even_sieve.core.errors import CallError, NoRows, SourceError
from even_sieve.core.notices import Code, Notice, counted
from even_sieve.core.table import Table
from even_sieve.sources.apostrophes import name_without_apostrophe
from even_sieve.sources.csv_grid import of_grid
from even_sieve.sources.csv_lines import row_numbers
from even_sieve.sources.csv_parsing import BLOCK, LONGEST_HEADER, parsing
from even_sieve.sources.csv_records import header_of, records_of, title_lines
from even_sieve.sources.dialect import Dialect, find_delimiter
from even_sieve.sources.encoding import to_utf8
from even_sieve.sources.names import column_names
from even_sieve.sources.octets import lines_in
from even_sieve.sources.quotes import refuse_open_quotes
from even_sieve.sources.source_options import SourceOptions
from even_sieve.sources.text_table import TextFile, table_of_texts

_HEAD = 64 * 1024
_LONGEST_NAME = 10_000

#: The options that a file is read by.
READS_BY = frozenset({
    "delimiter", "encoding", "decimal", "date_order", "cells", "header", "leave_out_top",
    "leave_out_foot", "sideways", "blank_as",
})  # fmt: skip


def read(content: bytes, source: str, options: SourceOptions) -> Table:
    """Return the table of a CSV file: the first line names the columns.

    Rows are numbered by the line on which they start. Raises `SourceError` naming source
    and row, `DuplicateColumn` for two columns of one name.
    """
    return table_of_texts([read_fields(content, source, options)], source, options)


def read_fields(content: bytes, source: str, options: SourceOptions, origin: str = "") -> TextFile:
    """Return the fields of a CSV file under the names of its header. Raises as `read` does."""
    if options.cells is not None and (options.leave_out_top or options.leave_out_foot):
        raise CallError(
            f"{source}: with cells, leaving out lines of the top or foot has no effect\n"
            "Name the block without them"
        )
    if options.header is not None and options.leave_out_top:
        raise CallError(
            f"{source}: the header says where the table begins, and so do lines left out above\n"
            "Say one of both"
        )
    content, guessed = _text(content, source, options)
    chosen, first = (content, 0) if options.cells else _within_lines(content, source, options)
    delimiter = options.delimiter or find_delimiter(chosen, options.quote)
    dialect = Dialect(delimiter, options.quote)
    if options.cells is not None or options.sideways:
        paired = _refuse_quotes(content, source, dialect)
        return replace(of_grid(chosen, source, dialect, options, guessed, paired), origin=origin)
    content, left_out = without_titles(chosen, dialect, options)
    left_out += first
    paired = _refuse_quotes(content, source, dialect, left_out)
    if left_out and not options.lines_chosen:
        guessed = (*guessed, header_found(left_out + 1))
    names, notices = header_names(content, source, dialect, options)
    arrays = read_strings(content, len(names), source, dialect, above=left_out)
    if arrays.num_rows < 2:
        raise NoRows(source, names, "Nothing to work out")
    rows = arrays.num_rows - 1
    numbers, blank = row_numbers(content, rows, dialect, len(names), left_out, paired=paired)
    told = (*guessed, *notices, *blank_notice(blank))
    strings = [each.slice(1) for each in arrays.columns]
    head = content[:_HEAD]
    return TextFile(source, names, strings, rows, numbers, dialect, head, told, origin)


def _refuse_quotes(content: bytes, source: str, dialect: Dialect, above: int = 0) -> bool:
    """Raise `SourceError` for quotes that do not pair up; tell whether there are some that do."""
    if dialect.quote.encode() not in content:
        return False
    return refuse_open_quotes(content, source, dialect, above)


def _within_lines(content: bytes, source: str, options: SourceOptions) -> tuple[bytes, int]:
    """Return the text from the header's line on and without the foot, and how many lines went.

    Raises `SourceError` for a line that is not there.
    """
    first = (options.header or options.leave_out_top + 1) - 1
    if first or options.leave_out_foot:
        lines = content.splitlines(keepends=True)
        last = len(lines) - options.leave_out_foot
        if first >= last:
            fact = f"there are {len(lines):,} lines, and no header in line {first + 1}"
            raise SourceError(source, fact, "Name the line that holds the names of the columns")
        content = b"".join(lines[first:last])
    if options.header is not None and is_blank_first(content):
        raise SourceError(source, "the line is blank", "Name the line of the header", first + 1)
    return content, first


def is_blank_first(content: bytes) -> bool:
    """Tell whether the first line is blank."""
    return not content[:LONGEST_HEADER].splitlines()[0].strip()


def without_titles(content: bytes, dialect: Dialect, options: SourceOptions) -> tuple[bytes, int]:
    """Return the text from the header on, and how many lines of titles and blanks stood above."""
    titles = 0 if options.header is not None else title_lines(content, dialect)
    text = b"".join(content.splitlines(keepends=True)[titles:]) if titles else content
    text = text.lstrip(b" \r\n") if dialect.delimiter == "\t" else text.lstrip(b" \t\r\n")
    return text, lines_in(content[: len(content) - len(text)])


def header_found(line: int) -> Notice:
    """Return the notice on a header that does not stand in the first line."""
    text = f"the names of the columns were taken from line {line}; see --header"
    return Notice(Code.HEADER_FOUND, text)


def blank_notice(count: int) -> tuple[Notice, ...]:
    """Return the notice on blank lines that were passed over, if there were any."""
    if not count:
        return ()
    text = f"{counted(count, 'blank line')} {'was' if count == 1 else 'were'} passed over"
    return (Notice(Code.BLANK_LINES, text, {"lines": count}),)


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
    header = header_of(content[:LONGEST_HEADER], dialect)
    longest = max(map(len, header))
    if longest > _LONGEST_NAME:
        fact = f"the name of a column has {longest:,} characters"
        raise SourceError(source, fact, f"At most {_LONGEST_NAME:,} are read", 1)
    names, notices = column_names([name_without_apostrophe(name) for name in header], source)
    if len(names) > options.limits.columns:
        raise SourceError(source, f"{len(names):,} columns: at most {options.limits.columns:,}")
    return names, notices


def read_strings(
    content: bytes,
    count: int,
    source: str,
    dialect: Dialect,
    wanted: Sequence[int] | None = None,
    above: int = 0,
) -> Any:
    """Return an Arrow table of `count` columns of strings, the header as its first row.

    There are so many lines above it.
    """
    quoted = dialect.quote.encode() in content

    def parse(block: int) -> Any:
        how = parsing(count, block, dialect, quoted, wanted)
        return arrow_csv.read_csv(pa.BufferReader(content), **how)

    try:
        return parse(BLOCK)
    except pa.ArrowInvalid as error:
        refuse_ragged(records_of(content, dialect), count, source, above)
        if "straddling" in str(error):
            return parse(min(len(content) + 1, 2**31 - 1))
        raise SourceError(source, f"this is not CSV: {error}") from error


def refuse_ragged(
    records: Iterable[tuple[int, Sequence[str]]], count: int, source: str, above: int
) -> None:
    """Raise `SourceError` for the first row whose number of fields differs from the header's.

    Records come with their lines, of which there are so many more above them.
    """
    for number, record in records:
        if record and len(record) != count:
            what = "too many" if len(record) > count else "too few"
            raise SourceError(
                source,
                f"{counted(len(record), 'field')}, {what}: the header names {count}",
                "Put a field that holds a comma in double quotes"
                if len(record) > count
                else "Write every comma, also for blank cells",
                above + number,
            )


def read_plain_rows(content: bytes, source: str) -> list[tuple[int, Sequence[str]]]:
    """Return the records of a small CSV as texts, each with its line; for criteria ranges."""
    content, _ = _text(content, source, SourceOptions())
    return list(records_of(content, Dialect(find_delimiter(content))))
