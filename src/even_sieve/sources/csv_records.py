"""The records of a CSV file with the lines on which they stand, by the standard reader."""

import csv
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from io import BytesIO, StringIO, TextIOBase, TextIOWrapper
from itertools import pairwise
from pathlib import Path

from even_sieve.core.cells import read_number
from even_sieve.sources.dialect import SAYS_DELIMITER, Dialect, widths_of

_LOOKED_AT = 1 << 16


def records_of(content: bytes, dialect: Dialect) -> Iterator[tuple[int, list[str]]]:
    """Yield each record with the line on which it starts; blank lines give empty records."""
    yield from _records(StringIO(content.decode("utf-8"), newline=""), dialect)


def records_in(path: Path, start: int, dialect: Dialect) -> Iterator[tuple[int, list[str]]]:
    """Yield the same of a file of UTF-8 from a byte on, which is never held whole."""
    with path.open("rb") as stream:
        stream.seek(start)
        yield from _records(TextIOWrapper(stream, "utf-8", newline=""), dialect)


def _records(text: TextIOBase, dialect: Dialect) -> Iterator[tuple[int, list[str]]]:
    with _long_fields():
        reader = csv.reader(text, delimiter=dialect.delimiter, quotechar=dialect.quote)
        start = 1
        for record in reader:
            yield start, record
            start = reader.line_num + 1


@contextmanager
def _long_fields() -> Iterator[None]:
    """Have the standard reader take fields of any length."""
    usual = csv.field_size_limit(2**31 - 1)
    try:
        yield
    finally:
        csv.field_size_limit(usual)


def title_lines(content: bytes, dialect: Dialect) -> int:
    """Return how many lines stand above the header: titles, with fewer fields than the rows.

    A title fills one field where most records of the beginning have several. A first line that
    says what parts the fields is one too.
    """
    said = SAYS_DELIMITER.match(content)
    if said is not None:
        above = len(said[0].splitlines())
        return above + title_lines(content[said.end() : said.end() + _LOOKED_AT], dialect)
    head = content[:_LOOKED_AT]
    head = head if len(content) <= _LOOKED_AT else head[: head.rfind(b"\n") + 1]
    with _long_fields():
        lines = StringIO(head.decode("utf-8"), newline="")
        widths = widths_of(csv.reader(lines, delimiter=dialect.delimiter, quotechar=dialect.quote))
    width = max(widths, key=lambda each: (widths[each], each), default=1)
    if width < 2:
        return 0
    for (number, record), (_, below) in pairwise((n, r) for n, r in records_of(head, dialect) if r):
        if not _is_title(record, width):
            named = len(record) == len(below) == width and not any(map(read_number, record))
            return number - 1 if named else 0
    return 0


def _is_title(record: Sequence[str], width: int) -> bool:
    """Tell whether a record says one thing where others have several."""
    filled = sum(bool(field.strip()) for field in record)
    return not filled or (filled == 1 and (len(record) < width or width > 2))


def header_of(head: bytes, dialect: Dialect) -> list[str]:
    """Return the first record that is not blank, of the bytes that a text begins with.

    >>> header_of(b"\\n call,dues\\n1,\\xe2", Dialect())
    [' call', 'dues']
    """
    return next(record for record in _beginning(head, dialect) if record)


def first_record(head: bytes, dialect: Dialect) -> list[str]:
    """Return the first record, blank or not, of the bytes that a text begins with.

    >>> first_record(b"\\n call,dues", Dialect()), first_record(b"1,2", Dialect())
    ([], ['1', '2'])
    """
    return next(_beginning(head, dialect), [])


def _beginning(head: bytes, dialect: Dialect) -> Iterator[list[str]]:
    text = TextIOWrapper(BytesIO(head), "utf-8", errors="ignore", newline="")
    return (record for _, record in _records(text, dialect))
