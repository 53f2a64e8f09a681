"""The records of a CSV file with the lines on which they stand, by the standard reader."""

import csv
from collections import Counter
from collections.abc import Iterator, Sequence
from io import StringIO
from itertools import pairwise
from typing import Any

import numpy as np

from even_sieve.core.cells import read_number
from even_sieve.core.table.lanes import Array
from even_sieve.sources.dialect import Dialect
from even_sieve.sources.quotes import pair_up

_LOOKED_AT = 1 << 16


def records_of(content: bytes, dialect: Dialect) -> Iterator[tuple[int, list[str]]]:
    """Yield each record with the line on which it starts; blank lines give empty records."""
    usual = csv.field_size_limit(2**31 - 1)
    try:
        reader = reader_of(content.decode("utf-8"), dialect)
        start = 1
        for record in reader:
            yield start, record
            start = reader.line_num + 1
    finally:
        csv.field_size_limit(usual)


def reader_of(text: str, dialect: Dialect) -> Any:
    """Return the standard library's reader; it counts lines, which pyarrow does not."""
    return csv.reader(
        StringIO(text, newline=""), delimiter=dialect.delimiter, quotechar=dialect.quote
    )


def row_numbers(
    content: bytes, rows: int, dialect: Dialect, columns: int, left_out: int = 0
) -> tuple[Array | int, int]:
    """Return the line of each row, and how many blank lines there are between them.

    Lines follow one another from 2 on, or from after those `left_out`; they come as an array
    where lines and rows differ.
    """
    tail = content[-4096:]
    end = len(content) - len(tail) + len(tail.rstrip(b"\r\n"))
    ends = content.count(b"\n", 0, end) or content.count(b"\r", 0, end)
    if ends == rows or columns == 1:
        return 2 + left_out, 0
    told = _numbers_told_by_bytes(content[:end], dialect)
    if told is not None and len(told[0]) == rows:
        return told[0] + left_out, told[1]
    starts, blank = [], 0
    for number, record in records_of(content[:end], dialect):
        if record:
            starts.append(number + left_out)
        else:
            blank += 1
    return np.array(starts[1:], dtype=np.int64), blank


def _numbers_told_by_bytes(content: bytes, dialect: Dialect) -> tuple[Array, int] | None:
    """Return the line of each record but the first, and how many blank ones there are.

    A line end between a quote that opens and one that closes is inside of a field. None where
    quotes stand as letters, or lines end in another way too.
    """
    if content.count(b"\r") != content.count(b"\r\n") or not pair_up(content, dialect):
        return None
    octets = np.frombuffer(content, dtype=np.uint8)
    breaks = np.flatnonzero(octets == ord("\n"))
    quotes = np.flatnonzero(octets == ord(dialect.quote))
    last = np.flatnonzero(np.searchsorted(quotes, breaks) % 2 == 0)  # of the lines of a record
    begins = np.concatenate(([0], breaks[last] + 1))
    ends = np.append(breaks[last], len(content))
    lines = np.concatenate(([1], last + 2))
    held = ends - begins
    only = octets[np.minimum(begins, len(octets) - 1)]
    blank = (held == 0) | ((held == 1) & (only == ord("\r")))
    return lines[~blank][1:], int(np.count_nonzero(blank))


def title_lines(content: bytes, dialect: Dialect) -> int:
    """Return how many lines stand above the header: titles, with fewer fields than the rows.

    A title fills one field where most records of the beginning have several.
    """
    head = content[:_LOOKED_AT]
    head = head if len(content) <= _LOOKED_AT else head[: head.rfind(b"\n") + 1]
    records = [(n, r) for n, r in records_of(head, dialect) if r]
    widths = Counter(len(record) for _, record in records)
    width = max(widths, key=lambda each: (widths[each], each), default=1)
    if width < 2:
        return 0
    for (number, record), (_, below) in pairwise(records):
        if not _is_title(record, width):
            named = len(record) == len(below) == width and not any(map(read_number, record))
            return number - 1 if named else 0
    return 0


def _is_title(record: Sequence[str], width: int) -> bool:
    """Tell whether a record says one thing where others have several."""
    filled = sum(bool(field.strip()) for field in record)
    return not filled or (filled == 1 and (len(record) < width or width > 2))
