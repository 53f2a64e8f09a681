"""JSON Lines: a JSON object a line, each one a record."""

import json
import re
from collections import Counter
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import replace
from decimal import Decimal
from functools import partial
from itertools import islice
from pathlib import Path
from typing import Any

import numpy as np

from even_sieve.core.cells import Cell, CellError
from even_sieve.core.errors import SourceError
from even_sieve.core.notices import Notice
from even_sieve.core.table import Column, Table, column_from
from even_sieve.core.table.table import key_of
from even_sieve.sources.dialect import to_utf8
from even_sieve.sources.long_typed import LongFile, Piece
from even_sieve.sources.records import table_of_records
from even_sieve.sources.shelf import granted
from even_sieve.sources.source_options import SourceOptions
from even_sieve.sources.tokens import TokenReader

#: Other separators of lines may stand inside of a text.
_LINE_END = re.compile(r"\r\n|\n|\r")
#: The options that a file is read by.
READS_BY = frozenset({"encoding", "blank_as"})


#: How many times as many cells as there are values a large table may have.
_SPARSE = 20
#: Records take so many times the memory of their text.
_UNFOLDED = 12
#: Values of these types are no cells as they are.
_TO_READ = frozenset({str, dict, list})
_NESTED = CellError("#nested", "the cell holds a list or an object")
#: So many different texts, of so many letters at the most, are remembered as they were read.
_MOST_KNOWN, _LONGEST_KNOWN = 1 << 16, 100
_PIECE, _PLAIN, _MARK = 1 << 14, (None, "utf-8", "utf8"), "\ufeff"


def read(content: bytes, source: str, options: SourceOptions) -> Table:
    """Return the table of a JSON Lines file; rows are numbered by their line.

    Numbers are read as written. JSON has no dates and no errors: texts that are ISO dates
    or error tokens are read as such, all other texts stay text, numbers in quotes too.
    """
    text, _ = to_utf8(content, source, options.encoding)
    lines = _LINE_END.split(text.decode("utf-8"))
    reading = _Reading(source, options)
    read = list(reading.records(enumerate(lines, 1)))
    if not read:
        raise SourceError(source, "the file is empty", "A record a line is needed")
    table = table_of_records(
        [record for _, record in read], source, np.array([number for number, _ in read])
    )
    told = reading.notices()
    columns = tuple(_with_notices(column, told) for column in table.columns)
    return replace(table, columns=columns)


class _Reading:
    """The records of a file, read within the limits."""

    def __init__(self, source: str, options: SourceOptions) -> None:
        self.source, self.limits = source, options.limits
        self.names: dict[str, None] = {}
        self._blank_as = options.blank_as
        #: For each name what reads its texts, and what these were read as.
        self._texts: dict[str, tuple[TokenReader, dict[str, Cell]]] = {}
        self._count = self._held = 0

    def records(self, lines: Iterable[tuple[int, str]]) -> Iterator[tuple[int, dict[str, Cell]]]:
        """Yield each record with the number of its line."""
        limits = self.limits
        for number, length, record in _records(lines, self.source):
            if not record.keys() <= self.names.keys():
                self.names.update(dict.fromkeys(record))
            self._count, self._held = self._count + 1, self._held + len(record)
            cells = self._count * len(self.names)
            sparse = cells > limits.cells and cells > _SPARSE * self._held
            if len(self.names) > limits.columns or sparse:
                fact = (
                    f"{len(self.names):,} different names in {self._count:,} records are too many"
                )
                hint = "A table has the same names in every record"
                raise SourceError(self.source, fact, hint, number)
            if length > limits.cell:
                self._refuse_long(number, record)
            yield (
                number,
                {
                    name: self._cell(name, value) if type(value) in _TO_READ else value
                    for name, value in record.items()
                },
            )

    def _refuse_long(self, number: int, record: Mapping[str, object]) -> None:
        longest = max((len(v) for v in record.values() if isinstance(v, str)), default=0)
        if longest > self.limits.cell:
            fact = f"a cell has {longest:,} characters"
            raise SourceError(self.source, fact, f"At most {self.limits.cell:,} are read", number)

    def notices(self) -> dict[str, tuple[Notice, ...]]:
        """Return what is to be known of the times that were read, by the names of columns."""
        return {
            name.strip(): reader.notices(name.strip()) for name, (reader, _) in self._texts.items()
        }

    def _cell(self, name: str, value: object) -> Cell:
        """Return the cell of a text; one that is a list or an object is an error."""
        if not isinstance(value, str):
            return _NESTED
        if name not in self._texts:
            self._texts[name] = TokenReader(self._blank_as), {}
        reader, known = self._texts[name]
        cell = known.get(value, _NESTED)
        if cell is _NESTED:
            if len(known) >= _MOST_KNOWN:
                known.clear()
            read = reader.read(value)
            cell = value if isinstance(read, bool | int | Decimal) else read
            if len(value) <= _LONGEST_KNOWN:
                known[value] = cell
        return cell


def open_long(path: Path, source: str, options: SourceOptions) -> LongFile | None:
    """Return a file that can be read in pieces; None for one that must be read whole.

    Its names are known only when all of it was read: it is gone through twice, and only where its
    records do not go into memory together.
    """
    goes_in = path.stat().st_size * _UNFOLDED <= granted()
    if options.encoding not in _PLAIN or goes_in:
        return None
    names: dict[str, None] = {}
    rows = 0
    try:
        with path.open(encoding="utf-8", newline="") as stream:
            if stream.read(1) == _MARK:
                return None
            stream.seek(0)
            reading = _Reading(source, options)
            for _, record in reading.records(_numbered(stream)):
                names.update(dict.fromkeys(record))
                rows += 1
    except UnicodeDecodeError:
        return None
    if not rows or len(set(map(key_of, names))) < len(names):
        return None
    by_name, told = {name.strip(): name for name in names}, reading.notices()

    def pieces(_: Sequence[str]) -> Iterator[Piece]:
        with path.open(encoding="utf-8", newline="") as stream:
            records = _Reading(source, options).records(_numbered(stream))
            while some := list(islice(records, _PIECE)):
                numbers = np.array([number for number, _ in some])
                column = partial(_column, [record for _, record in some], by_name, told)
                yield Piece(len(some), numbers, column)

    return LongFile(tuple(by_name), rows, pieces, parts=False)


def _numbered(stream: Iterable[str]) -> Iterator[tuple[int, str]]:
    """Yield the lines of a text with their numbers; any of three ends ends one."""
    number = 0
    for line in stream:
        for part in line.removesuffix("\n").removesuffix("\r").split("\r"):
            number += 1
            yield number, part


def _column(
    records: Sequence[Mapping[str, Cell]],
    by_name: Mapping[str, str],
    told: Mapping[str, tuple[Notice, ...]],
    name: str,
) -> Column:
    column = column_from(name, [record.get(by_name[name]) for record in records])
    return _with_notices(column, told)


def _with_notices(column: Column, told: Mapping[str, tuple[Notice, ...]]) -> Column:
    """Return a column with what is to be known of its times."""
    return replace(column, notices=(*column.notices, *told.get(column.name, ())))


def _records(
    lines: Iterable[tuple[int, str]], source: str
) -> Iterator[tuple[int, int, dict[str, Any]]]:
    """Yield the records, each with the number of its line and how long that is."""
    decoder = json.JSONDecoder(parse_float=Decimal, object_pairs_hook=_object)
    for number, line in lines:
        if not line.strip():
            continue
        try:
            record = decoder.decode(line.removeprefix(_MARK))
        except json.JSONDecodeError as error:
            raise SourceError(source, f"this is not JSON: {error.msg}", "", number) from None
        except _NameTwice as error:
            fact, hint = f"the name '{error}' stands twice in one record", "Write each name once"
            raise SourceError(source, fact, hint, number) from None
        if not isinstance(record, dict):
            raise SourceError(source, "this is not a JSON object", 'Write {"name": value}', number)
        yield number, len(line), record


class _NameTwice(ValueError):
    """One value of two would be lost (RFC 8259, 4)."""


def _object(pairs: list[tuple[str, object]]) -> dict[str, object]:
    found = dict(pairs)
    if len(found) < len(pairs):
        twice = Counter(name for name, _ in pairs).most_common(1)[0][0]
        raise _NameTwice(twice)
    return found
