"""A block of the fields of a CSV file, or records that stand side by side."""

import csv
from collections.abc import Sequence
from io import StringIO
from itertools import islice
from typing import TypeAlias

import numpy as np
import pyarrow as pa
from pyarrow import csv as arrow_csv

from even_sieve.core.errors import NoRows, SourceError
from even_sieve.core.notices import Notice, counted
from even_sieve.core.table.lanes import Array
from even_sieve.sources.areas import Area, block_of, column_letters
from even_sieve.sources.arrow_buffers import strings_of
from even_sieve.sources.beyond import told_of_edge
from even_sieve.sources.csv_parsing import BLOCK, LONGEST_HEADER, parsing
from even_sieve.sources.csv_records import first_record, header_of, records_of
from even_sieve.sources.dialect import Dialect
from even_sieve.sources.names import column_names
from even_sieve.sources.octets import places_of
from even_sieve.sources.source_options import SourceOptions
from even_sieve.sources.text_table import TextFile

#: So many rows are looked at for how a file is written.
_SHOWN_ROWS = 1000
#: A text longer than this is not gone through record by record, where that need not be.
_LONG = 1 << 20
#: The first line, the one after the last (None for all that there are), the first column and the
#: one after the last.
_Block: TypeAlias = tuple[int, int | None, int, int | None]


def of_grid(
    content: bytes,
    source: str,
    dialect: Dialect,
    options: SourceOptions,
    notices: tuple[Notice, ...],
    paired: bool,
) -> TextFile:
    """Return a block of the fields, or records that stand side by side.

    `paired` says that quotes are known to pair up.
    """
    block = None
    if options.cells is not None:
        first, left, last, right = block_of(options.cells, source)
        block = (first if options.header is None else options.header - 1), last, left, right
        long = len(content) > _LONG and not options.sideways
        found = _of_long_block(content, source, dialect, block, notices, paired) if long else None
        if found is not None:
            return found
    most = options.limits.columns
    few = block is None and options.sideways
    numbered = list(islice(records_of(content, dialect), most + 1 if few else None))
    if few and len(numbered) > most:
        fact = f"each of more than {most:,} lines would be a column"
        raise SourceError(source, fact, "Rows side by side are few; leave out --sideways")
    records = [record for _, record in numbered]
    first, last, left, right = block or (0, None, 0, None)
    kept = [record[left:right] for record in records[first:last]]
    wide = max(map(len, kept), default=0)
    if block is not None and not wide:
        raise _no_field(source, str(options.cells), records)
    kept = [[*record, *([""] * (wide - len(record)))] for record in kept]
    numbers = [number for number, _ in numbered[first:last]][1:]
    if options.sideways:
        kept = [list(record) for record in zip(*kept, strict=True)]
        numbers = list(range(left + 2, left + 1 + len(kept)))
    names, unnamed = column_names(kept[0], source) if kept else ([], ())
    if len(kept) < 2:
        raise NoRows(source, names, "Nothing to work out")
    strings = [strings_of(field) for field in zip(*kept[1:], strict=True)]
    held, told = np.array(numbers, dtype=np.int64), (*notices, *unnamed)
    if block is not None:
        told = (*told, *_told_beyond(block, records, options.sideways))
    head = _written_out(kept[:_SHOWN_ROWS], dialect)
    return TextFile(source, names, strings, len(held), held, dialect, head, told)


def _of_long_block(
    content: bytes,
    source: str,
    dialect: Dialect,
    block: _Block,
    notices: tuple[Notice, ...],
    paired: bool,
) -> TextFile | None:
    """Return a block of a long text's fields; None where its lines are no rows, or not alike."""
    first, last, left, right = block
    every = _line_ends(content)
    if not dialect.quote.isascii():
        return None
    ends = every[:last]
    quotes = places_of(content, dialect.quote)
    if len(quotes) and not (paired and not (np.searchsorted(quotes, ends) % 2).any()):
        return None
    ends = ends[first:]
    if len(ends) < 2:
        return None
    begin = int(every[first - 1]) if first else 0
    head = content[begin : begin + LONGEST_HEADER]
    wide = len(header_of(head, dialect)) if head[: int(ends[0]) - begin].strip() else 0
    if not left < wide or wide < 2:
        return None
    chosen = pa.py_buffer(content).slice(begin, int(ends[-1]) - begin)
    try:
        arrays = arrow_csv.read_csv(
            pa.BufferReader(chosen), **parsing(wide, BLOCK, dialect, quoted=False)
        )
    except pa.ArrowInvalid:
        return None
    if arrays.num_rows != len(ends):
        return None
    columns = arrays.columns[left:right]
    names, unnamed = column_names([each[0].as_py() for each in columns], source)
    strings = [each.slice(1) for each in columns]
    told = (*notices, *unnamed)
    if last is not None and len(every) > last:
        below = content[int(ends[-1]) : int(ends[-1]) + LONGEST_HEADER]
        told = (*told, *_told_below(block, first_record(below, dialect)))
    shown = zip(*(each[:_SHOWN_ROWS].to_pylist() for each in columns), strict=True)
    head = _written_out(list(shown), dialect)
    return TextFile(source, names, strings, len(ends) - 1, first + 2, dialect, head, told)


def _no_field(source: str, block: str, records: Sequence[Sequence[str]]) -> SourceError:
    fact = f"there is no field in the block {block}"
    widest = counted(max(map(len, records), default=0), "field")
    return SourceError(source, fact, f"There are {counted(len(records), 'row')} of {widest}")


def _told_beyond(
    block: _Block, records: Sequence[Sequence[str]], sideways: bool
) -> tuple[Notice, ...]:
    """Return the notice on fields right beyond a block, where it has an end."""
    first, last, left, right = block
    if not sideways:
        return () if last is None or last >= len(records) else _told_below(block, records[last])
    if right is None:
        return ()
    rows = records[first:last]
    area = Area("", first + 1, left + 1, first + len(rows), right)
    beyond = [field for row in rows for field in row[right : right + 1]]
    return told_of_edge(f"column {column_letters(right + 1)}", area, beyond)


def _told_below(block: _Block, record: Sequence[str]) -> tuple[Notice, ...]:
    """Return the notice on the record right below a block."""
    first, last, left, right = block
    bottom = 0 if last is None else last
    area = Area("", first + 1, left + 1, bottom, len(record) if right is None else right)
    return told_of_edge(f"row {bottom + 1}", area, [each.strip() for each in record[left:right]])


def _line_ends(content: bytes) -> Array:
    """Return where each line ends, behind its end; any of three ends ends one."""
    ends = places_of(content, "\n") + 1
    if b"\r" in content:
        returns = places_of(content, "\r") + 1
        octets = np.frombuffer(content, dtype=np.uint8)
        follows = octets[np.minimum(returns, len(octets) - 1)]
        alone = (follows != ord("\n")) | (returns == len(octets))
        ends = np.union1d(ends, returns[alone])
    return ends if content.endswith((b"\n", b"\r")) else np.append(ends, len(content))


def _written_out(records: Sequence[Sequence[str]], dialect: Dialect) -> bytes:
    """Return records as the lines of a file."""
    out = StringIO()
    csv.writer(out, delimiter=dialect.delimiter, quotechar=dialect.quote).writerows(records)
    return out.getvalue().encode()
