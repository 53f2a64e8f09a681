"""JSON Lines: a JSON object a line, each one a record."""

import json
import re
from collections import Counter
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import replace
from functools import partial
from itertools import chain, islice
from pathlib import Path
from typing import Any

import numpy as np

from even_sieve.core.errors import SourceError
from even_sieve.core.notices import Notice
from even_sieve.core.table import Column, Table
from even_sieve.core.table.table import key_of
from even_sieve.sources.encoding import to_utf8
from even_sieve.sources.json_columns import JsonColumn, Written
from even_sieve.sources.long_typed import LongFile, Piece
from even_sieve.sources.records import table_of_records
from even_sieve.sources.shelf import granted
from even_sieve.sources.source_options import SourceOptions

#: Other separators of lines may stand inside of a text.
_LINE_END = re.compile(r"\r\n|\n|\r")
#: The options that a file is read by.
READS_BY = frozenset({"encoding", "blank_as"})


#: How many times as many cells as there are values a large table may have.
_SPARSE = 20
#: Records take so many times the memory of their text.
_UNFOLDED = 12
#: Of so many cells columns are made when they are asked for.
_MANY_CELLS = 200_000
_PIECE, _PLAIN, _MARK = 1 << 14, (None, "utf-8", "utf8"), "\ufeff"
#: So many lines are read together.
_TOGETHER = 1 << 10
_DECODER = json.JSONDecoder(parse_float=Written)
#: What every name in a record is followed by, and hardly a text: at once, or after a space.
_NAMED, _NAMED_APART = '":', re.compile(r'"\s+:')


def read(content: bytes, source: str, options: SourceOptions) -> Table:
    """Return the table of a JSON Lines file; rows are numbered by their line.

    Numbers are read as written. JSON has no dates and no errors: texts that are ISO dates
    or error tokens are read as such, all other texts stay text, numbers in quotes too.
    """
    text, _ = to_utf8(content, source, options.encoding)
    decoded = text.decode("utf-8")
    lines = _LINE_END.split(decoded) if "\r" in decoded else decoded.split("\n")
    reading = _Reading(source, options)
    read = list(reading.records(enumerate(lines, 1)))
    if not read:
        raise SourceError(source, "the file is empty", "A record a line is needed")
    many = len(read) * len(reading.names) >= _MANY_CELLS
    return table_of_records(
        [record for _, record in read], source, np.array([number for number, _ in read]),
        partial(_column, options.blank_as),
        lambda name: many and (options.later or not options.is_asked(name)),
    )  # fmt: skip


def _column(blank_as: tuple[str, ...], name: str, values: Sequence[object]) -> Column:
    """Return the column of all values of a name."""
    reading = JsonColumn(blank_as)
    column = reading.column(name, values)
    return replace(column, notices=(*column.notices, *reading.notices(name)))


class _Reading:
    """The records of a file, read within the limits."""

    def __init__(self, source: str, options: SourceOptions) -> None:
        self.source, self.limits = source, options.limits
        self.names: dict[str, None] = {}
        self._count = self._held = 0

    def records(self, lines: Iterable[tuple[int, str]]) -> Iterator[tuple[int, dict[str, Any]]]:
        """Yield each record with the number of its line."""
        for some in _records(lines, self.source):
            self.names |= dict.fromkeys(chain.from_iterable(record for _, _, record in some))
            self._count += len(some)
            self._held += sum([len(record) for _, _, record in some])
            cells = self._count * len(self.names)
            sparse = cells > self.limits.cells and cells > _SPARSE * self._held
            if len(self.names) > self.limits.columns or sparse:
                fact = (
                    f"{len(self.names):,} different names in {self._count:,} records are too many"
                )
                hint = "A table has the same names in every record"
                raise SourceError(self.source, fact, hint, some[-1][0])
            if max([length for _, length, _ in some], default=0) > self.limits.cell:
                for number, length, record in some:
                    if length > self.limits.cell:
                        self._refuse_long(number, record)
            yield from [(number, record) for number, _, record in some]

    def _refuse_long(self, number: int, record: Mapping[str, object]) -> None:
        longest = max((len(v) for v in record.values() if isinstance(v, str)), default=0)
        if longest > self.limits.cell:
            fact = f"a cell has {longest:,} characters"
            raise SourceError(self.source, fact, f"At most {self.limits.cell:,} are read", number)


def open_long(path: Path, source: str, options: SourceOptions) -> LongFile | None:
    """Return a file that can be read in pieces; None for one that must be read whole.

    Its names are known only when all of it was read: it is gone through twice, and only where its
    records do not go into memory together.
    """
    goes_in = path.stat().st_size * _UNFOLDED <= granted()
    if options.encoding not in _PLAIN or goes_in:
        return None
    readers: dict[str, JsonColumn] = {}
    rows = 0
    try:
        with path.open(encoding="utf-8", newline="") as stream:
            if stream.read(1) == _MARK:
                return None
            stream.seek(0)
            for some in _pieces(stream, source, options):
                for name in dict.fromkeys(chain.from_iterable(record for _, record in some)):
                    reader = readers.setdefault(name, JsonColumn(options.blank_as))
                    reader.column(name, [record.get(name) for _, record in some])
                rows += len(some)
    except UnicodeDecodeError:
        return None
    if not readers or len(set(map(key_of, readers))) < len(readers):
        return None
    by_name = {name.strip(): name for name in readers}
    told = {name.strip(): reader.notices(name.strip()) for name, reader in readers.items()}

    def pieces(_: Sequence[str]) -> Iterator[Piece]:
        with path.open(encoding="utf-8", newline="") as stream:
            for some in _pieces(stream, source, options):
                numbers = np.array([number for number, _ in some])
                column = partial(_of_piece, [record for _, record in some], by_name, told, options)
                yield Piece(len(some), numbers, column)

    return LongFile(tuple(by_name), rows, pieces, parts=False)


def _pieces(
    stream: Iterable[str], source: str, options: SourceOptions
) -> Iterator[list[tuple[int, dict[str, Any]]]]:
    """Yield the records of a file, some at a time, each with the number of its line."""
    records = _Reading(source, options).records(_numbered(stream))
    while some := list(islice(records, _PIECE)):
        yield some


def _numbered(stream: Iterable[str]) -> Iterator[tuple[int, str]]:
    """Yield the lines of a text with their numbers; any of three ends ends one."""
    number = 0
    for line in stream:
        for part in line.removesuffix("\n").removesuffix("\r").split("\r"):
            number += 1
            yield number, part


def _of_piece(
    records: Sequence[Mapping[str, object]],
    by_name: Mapping[str, str],
    told: Mapping[str, tuple[Notice, ...]],
    options: SourceOptions,
    name: str,
) -> Column:
    """Return the column of some records, with what is to be known of the times of all."""
    values = [record.get(by_name[name]) for record in records]
    column = JsonColumn(options.blank_as).column(name, values)
    return replace(column, notices=(*column.notices, *told[name]))


def _records(
    lines: Iterable[tuple[int, str]], source: str
) -> Iterator[list[tuple[int, int, dict[str, Any]]]]:
    """Yield the records, some at a time, each with the number of its line and how long that is."""
    left = iter(lines)
    while some := list(islice(left, _TOGETHER)):
        found = _at_once(some)
        yield list(_one_by_one(some, source)) if found is None else found


def _at_once(lines: Sequence[tuple[int, str]]) -> list[tuple[int, int, dict[str, Any]]] | None:
    """Return the records of lines that are all well; None where each is to be read by itself.

    They are read as one list. Each line is one record of it if there are as many, none of whose
    values is a list or an object that could begin on one line and end on another; and no name
    stands twice in one if there are no more names than values.
    """
    own = [(number, line.removeprefix(_MARK).strip(" \t\r\n")) for number, line in lines]
    own = [(number, text) for number, text in own if text]
    if not all(text[0] == "{" and text[-1] == "}" for _, text in own):
        return None
    every = ",\n".join([text for _, text in own])
    try:
        records = _DECODER.decode(f"[{every}]")
    except (ValueError, RecursionError):
        return None
    if len(records) != len(own) or not all(type(record) is dict for record in records):
        return None
    named = every.count(_NAMED) + len(_NAMED_APART.findall(every))
    if named != sum(map(len, records)):
        return None
    if every.count("{") > len(own) or "[" in every:
        values = chain.from_iterable(record.values() for record in records)
        if any(type(value) in (dict, list) for value in values):
            return None
    found = zip(own, records, strict=True)
    return [(number, len(text), record) for (number, text), record in found]


def _one_by_one(
    lines: Sequence[tuple[int, str]], source: str
) -> Iterator[tuple[int, int, dict[str, Any]]]:
    """Yield the records of lines, each with the number of its line and how long that is."""
    decoder = json.JSONDecoder(parse_float=Written, object_pairs_hook=_object)
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
