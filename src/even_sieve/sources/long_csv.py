"""Long CSV files, read piece by piece: only the columns are ever held whole.

One thread parses while another makes columns. What is out of the ordinary (another
encoding, a broken row) is left to the reader of whole files, which tells it in full.
"""

import codecs
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import partial
from mmap import ACCESS_READ, mmap
from pathlib import Path
from typing import Any

import pyarrow as pa
import pyarrow.compute as pc
from pyarrow import csv as arrow_csv

from even_sieve.core.errors import SourceError
from even_sieve.core.table import Column, Table
from even_sieve.core.table.lanes import Array
from even_sieve.sources.apostrophes import without_apostrophes
from even_sieve.sources.csv import (
    LONGEST_HEADER,
    blank_notice,
    header_names,
    parsing,
    read_columns,
)
from even_sieve.sources.csv_records import row_numbers, title_lines
from even_sieve.sources.dialect import Dialect, find_delimiter, strange_start
from even_sieve.sources.growing_columns import Gathering
from even_sieve.sources.quotes import refuse_open_quotes
from even_sieve.sources.source_options import SourceOptions
from even_sieve.sources.thousands import told_of_thousands

_PIECE = 1 << 20
_PLAIN = (None, "utf-8", "utf8")
#: What may part two cells.
_PARTING = (b"\n", b"\r", b",", b";", b"\t", b"|")
_MOST_BYTES = 4


def read(path: Path, source: str, options: SourceOptions) -> Table | None:
    """Return the file's table, the same as read whole; None where it must be read whole.

    Raises `DuplicateColumn` for two columns of one name, `SourceError` for too many columns.
    """
    found = _scan(path, source, options) if options.encoding in _PLAIN else None
    if found is None or options.needs_whole:
        return None
    dialect = Dialect(options.delimiter or find_delimiter(found.head, options.quote), options.quote)
    if title_lines(found.head, dialect) or not found.head[:1].strip():
        return None
    if found.quoted:
        with path.open("rb") as stream, mmap(stream.fileno(), 0, access=ACCESS_READ) as content:
            refuse_open_quotes(content, source, dialect)
    names, notices = header_names(found.head, source, dialect, options)
    wanted = [place for place, name in enumerate(names) if options.is_asked(name)] or [0]
    gathered = _gather(path, names, wanted, found, dialect, options)
    if gathered is None:
        return None
    columns, rows = gathered
    about = path.stat()

    def later(place: int) -> Column:
        now = path.stat()
        if (now.st_size, now.st_mtime_ns) != (about.st_size, about.st_mtime_ns):
            raise SourceError(source, "the file changed while it was read", "Ask again")
        content = path.read_bytes()
        (made,) = read_columns(content, names, [place], dialect, source, options)
        return told_of_thousands([made], content, dialect, options, [place])[0]

    for place in set(range(len(names))) - set(wanted):
        columns[place] = Column.later(names[place], rows, partial(later, place))
    whole = [position for position, column in enumerate(columns) if column is None]
    if whole:
        again = read_columns(path.read_bytes(), names, whole, dialect, source, options)
        for position, column in zip(whole, again, strict=True):
            columns[position] = column
    made = [column for column in columns if column is not None]
    numbers: Array | int = 2
    blank = 0
    if found.lines != rows + 1:
        numbers, blank = row_numbers(path.read_bytes(), rows, dialect, len(names))
    told = told_of_thousands(made, found.head, dialect, options)
    return Table(told, rows, numbers, None, source, (*notices, *blank_notice(blank)))


@dataclass(frozen=True)
class Scan:
    """What a first pass over a file's bytes tells: its beginning, its lines, its quotes."""

    head: bytes
    lines: int
    quoted: bool


def _scan(path: Path, source: str, options: SourceOptions) -> Scan | None:
    """Return what the bytes tell, or None if they are not plain UTF-8 text without a mark.

    Raises `SourceError` where nothing parts more bytes than a cell may have.
    """
    decoder, begun, quote = codecs.getincrementaldecoder("utf-8")(), False, options.quote.encode()
    parting = (*_PARTING, (options.delimiter or ",").encode())
    head, lines, quoted, last, run = b"", 0, False, b"\n", 0
    with path.open("rb") as stream:
        while piece := stream.read(LONGEST_HEADER):
            if not head:
                head = piece
            if b"\0" in piece or (piece is head and (strange_start(head) or not head.strip())):
                return None
            if begun or not piece.isascii():
                try:
                    decoder.decode(piece)
                except UnicodeDecodeError:
                    return None
                begun = bool(decoder.getstate()[0])
            lines += piece.count(b"\n")
            quoted = quoted or quote in piece
            last = piece[-1:]
            parted = max(map(piece.rfind, parting))
            run = run + len(piece) if parted < 0 else len(piece) - parted
            if run > _MOST_BYTES * options.limits.cell + len(piece):
                fact = f"a cell has more than {options.limits.cell:,} bytes"
                raise SourceError(source, fact, "No more are read", lines + 1)
    if begun or lines < 2:
        return None
    return Scan(head, lines + (last != b"\n"), quoted)


def _gather(
    path: Path,
    names: list[str],
    wanted: list[int],
    found: Scan,
    dialect: Dialect,
    options: SourceOptions,
) -> tuple[list[Column | None], int] | None:
    """Return the columns (None where one must be read whole) and the number of their rows.

    Those that are not wanted are parted from the others, and left out.

    None if a row is broken or a cell beyond the limit: for the reader of whole files to tell.
    """
    gatherings = [Gathering(found.lines, options) for _ in wanted]

    def take_in(batch: Any) -> bool:
        for position, gathering in enumerate(gatherings):
            strings = batch.column(position)
            if isinstance(strings, pa.ChunkedArray):
                strings = strings.combine_chunks()
            if (pc.max(pc.binary_length(strings)).as_py() or 0) > options.limits.cell:
                return False
            gathering.add(without_apostrophes(strings))
        return True

    rows = 0
    with ThreadPoolExecutor(1) as pool:
        waiting = pool.submit(lambda: True)
        try:
            for batch in _batches(path, len(names), wanted, found, dialect):
                if not waiting.result():
                    return None
                rows += len(batch)
                waiting = pool.submit(take_in, batch)
        except pa.ArrowInvalid:
            return None
        if not waiting.result() or not rows or rows >= found.lines:
            return None
    columns: list[Column | None] = [None] * len(names)
    for place, each in zip(wanted, gatherings, strict=True):
        columns[place] = each.column(names[place])
    return columns, rows


def _batches(
    path: Path, count: int, wanted: list[int], found: Scan, dialect: Dialect
) -> Iterator[Any]:
    """Yield Arrow tables, or record batches, of strings, one after the other, without the header.

    Where no field is quoted, pieces are cut at line ends: handing pieces over inside Arrow
    takes longer than parsing them.
    """
    pool = pa.system_memory_pool()  # gives back what a piece took
    if found.quoted:
        how = parsing(count, _PIECE, dialect, True, wanted, threads=False)
        batches: Iterator[Any] = iter(arrow_csv.open_csv(path, **how, memory_pool=pool))
    else:
        batches = (
            arrow_csv.read_csv(
                pa.BufferReader(piece),
                **parsing(count, len(piece) + 1, dialect, False, wanted, threads=False),
                memory_pool=pool,
            )
            for piece in _pieces(path)
        )
    header = True
    for batch in batches:
        if len(batch):
            yield batch.slice(1) if header else batch
            header = False


def _pieces(path: Path) -> Iterator[bytes]:
    """Yield the file's bytes in pieces that end where lines end."""
    rest = b""
    with path.open("rb") as stream:
        while block := stream.read(_PIECE):
            cut = block.rfind(b"\n") + 1
            if cut:
                yield rest + block[:cut]
                rest = block[cut:]
            else:
                rest += block
    if rest:
        yield rest
