"""JSON Lines: a JSON object a line, each one a record."""

import json
import re
from collections.abc import Iterator
from decimal import Decimal

import numpy as np

from even_sieve.core.cells import Cell
from even_sieve.core.errors import SourceError
from even_sieve.core.table import Table
from even_sieve.sources.dialect import to_utf8
from even_sieve.sources.records import table_of_records
from even_sieve.sources.source_options import SourceOptions
from even_sieve.sources.tokens import TokenReader

#: Other separators of lines may stand inside of a text.
_LINE_END = re.compile(r"\r\n|\n|\r")
#: The options that a file is read by.
READS_BY = frozenset({"encoding", "blank_as"})


#: How many times as many cells as there are values a large table may have.
_SPARSE = 20


def read(content: bytes, source: str, options: SourceOptions) -> Table:
    """Return the table of a JSON Lines file; rows are numbered by their line.

    Numbers are read as written. JSON has no dates and no errors: texts that are ISO dates
    or error tokens are read as such, all other texts stay text, numbers in quotes too.
    """
    text, _ = to_utf8(content, source, options.encoding)
    reader = TokenReader(options.blank_as)
    limits, held = options.limits, 0
    numbers: list[int] = []
    records: list[dict[str, Cell]] = []
    names: set[str] = set()
    for number, record in _records(text.decode("utf-8"), source):
        numbers.append(number)
        names.update(record)
        held += len(record)
        cells = len(numbers) * len(names)
        if len(names) > limits.columns or (cells > limits.cells and cells > _SPARSE * held):
            fact = f"{len(names):,} different names in {len(numbers):,} records are too many"
            raise SourceError(source, fact, "A table has the same names in every record", number)
        longest = max((len(each) for each in record.values() if isinstance(each, str)), default=0)
        if longest > limits.cell:
            fact = f"a cell has {longest:,} characters"
            raise SourceError(source, fact, f"At most {limits.cell:,} are read", number)
        records.append(
            {name: _cell(value, name, reader, source, number) for name, value in record.items()}
        )
    if not records:
        raise SourceError(source, "the file is empty", "A record a line is needed")
    return table_of_records(records, source, np.array(numbers))


def _records(text: str, source: str) -> Iterator[tuple[int, dict[str, object]]]:
    for number, line in enumerate(_LINE_END.split(text), 1):
        if not line.strip():
            continue
        try:
            record = json.loads(line, parse_float=Decimal)
        except json.JSONDecodeError as error:
            raise SourceError(source, f"this is not JSON: {error.msg}", "", number) from None
        if not isinstance(record, dict):
            raise SourceError(source, "this is not a JSON object", 'Write {"name": value}', number)
        yield number, record


def _cell(value: object, name: str, reader: TokenReader, source: str, number: int) -> Cell:
    if isinstance(value, dict | list):
        raise SourceError(
            source, f"'{name}' holds a list or an object", "Cells are single values", number
        )
    if isinstance(value, str):
        read = reader.read(value)
        return value if isinstance(read, bool | int | Decimal) else read
    return value  # type: ignore[return-value]
