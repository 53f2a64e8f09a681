"""The records of a CSV file with the lines on which they stand, by the standard reader."""

import csv
from collections import Counter
from collections.abc import Iterator, Sequence
from io import StringIO
from itertools import pairwise
from typing import Any

from even_sieve.core.cells import read_number
from even_sieve.sources.dialect import Dialect

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
