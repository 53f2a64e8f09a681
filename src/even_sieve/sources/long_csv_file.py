"""Long CSV files that can be read in pieces: what a first pass tells, and their pieces."""

import codecs
import sys
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from pathlib import Path
from typing import Any

import pyarrow as pa
from pyarrow import csv as arrow_csv

from even_sieve.core.errors import SourceError
from even_sieve.core.table.lanes import Array
from even_sieve.sources.csv import blank_notice, header_names
from even_sieve.sources.csv_lines import row_numbers
from even_sieve.sources.csv_parsing import LONGEST_HEADER, parsing
from even_sieve.sources.csv_records import title_lines
from even_sieve.sources.dialect import Dialect, find_delimiter, strange_start
from even_sieve.sources.guard import state_of
from even_sieve.sources.quotes import FileOctets, refuse_open_quotes
from even_sieve.sources.shelf import granted
from even_sieve.sources.side_by_side import ahead_of
from even_sieve.sources.source_options import SourceOptions
from even_sieve.sources.text_table import TextFile, blank_strings, refuse_long, together
from even_sieve.sources.unpacking import LongAt

_PIECE = 1 << 21
#: So many rows are wanted in a piece, which may be so many times as long for it: more where it
#: takes so small a part of the memory that is granted.
_ROWS, _LONGER, _MUCH_LONGER, _SHARE = 1 << 13, 4, 32, 64
#: So few columns are made sooner than the others are parted from them.
_QUICK = 4
#: What may part two cells.
_PARTING = (b"\n", b"\r", b",", b";", b"\t", b"|")
_MOST_BYTES = 4


@dataclass
class LongCsv:
    """One of the files: its header and its beginning, and what a first pass found in it.

    `span` are the bytes of a stretch of its lines, where it is not about all of them.
    """

    path: Path
    fields: TextFile
    found: "Scan"
    about: tuple[int, int]
    kept: object = None
    span: tuple[int, int] | None = None

    @classmethod
    def opened(cls, at: LongAt, options: SourceOptions) -> "LongCsv | None":
        """Return a file that can be read in pieces, None for another one."""
        path, source = at.path, at.name
        state = state_of(path, source)
        found = _scan(path, source, options)
        if found is None:
            return None
        quote = options.quote
        dialect = Dialect(options.delimiter or find_delimiter(found.head, quote), quote)
        if title_lines(found.head, dialect) or not found.head[:1].strip():
            return None
        if found.quoted:
            refuse_open_quotes(FileOctets(path), source, dialect)
        names, told = header_names(found.head, source, dialect, options)
        fields = TextFile(source, names, [], 0, 2, dialect, found.head, told, at.origin)
        return cls(path, fields, found, state, at.kept)

    def refuse_change(self) -> None:
        """Raise `SourceError` if the file is not the one that was opened."""
        if state_of(self.path, self.fields.source) != self.about:
            raise SourceError(self.fields.source, "the file changed while it was read", "Ask again")

    def strings(self, place: int | None, options: SourceOptions) -> Any:
        """Return all fields of one column, blank ones where the file lacks it."""
        fields = self.fields
        if place is None:
            return blank_strings(fields.rows)
        self.refuse_change()
        found = together([batch.column(0) for batch in batches(self, [place])])
        refuse_long(found, fields.source, fields.names[place], options)
        return found

    def take_in(self, progress: Callable[[float], None] | None) -> bool:
        """Take in all fields, parted; False for a file that must be read whole."""
        fields = self.fields
        count = len(fields.names)
        how = parsing(count, _PIECE, fields.dialect, self.found.quoted)
        try:
            if progress is None:
                parted = arrow_csv.read_csv(self.path, **how).slice(1)
            else:
                parted = pa.concat_tables(self._told(range(count), progress))
        except pa.ArrowInvalid:
            return False
        self.refuse_change()
        fields.rows = len(parted)
        if not 0 < fields.rows < self.found.lines:
            return False
        fields.strings = parted.columns
        fields.numbers = self.numbers()
        return True

    def _told(self, wanted: Sequence[int], progress: Callable[[float], None]) -> Iterator[Any]:
        """Yield the fields, some rows at a time, and tell which share of them is there."""
        done = 0
        for batch in batches(self, wanted):
            done += len(batch)
            progress(done / max(self.found.lines - 1, done))
            yield batch if isinstance(batch, pa.Table) else pa.Table.from_batches([batch])

    def numbers(self) -> Array | int:
        """Return the lines of the rows; those passed over are told."""
        fields = self.fields
        if self.found.lines == fields.rows + 1:
            return 2
        self.refuse_change()
        count = len(fields.names)
        numbers, blank = row_numbers(FileOctets(self.path), fields.rows, fields.dialect, count)
        fields.notices = (*fields.notices, *blank_notice(blank))
        return numbers


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


def batches(file: LongCsv, wanted: Sequence[int]) -> Iterator[Any]:
    """Yield Arrow tables, or record batches, of strings, one after the other, without the header.

    Where no field is quoted, pieces are cut at line ends: handing pieces over inside Arrow
    takes longer than parsing them.
    """
    path, count, dialect = file.path, len(file.fields.names), file.fields.dialect
    pool = pa.system_memory_pool()  # gives back what a piece took
    if file.found.quoted:
        how = parsing(count, _piece_of(file), dialect, True, wanted, threads=False)
        found: Iterator[Any] = iter(arrow_csv.open_csv(path, **how, memory_pool=pool))
    else:

        def parsed(piece: bytes) -> Any:
            how = parsing(count, len(piece) + 1, dialect, False, wanted, threads=False)
            return arrow_csv.read_csv(pa.BufferReader(piece), **how, memory_pool=pool)

        pieces = _pieces(path, file.span, _piece_of(file))
        found = ahead_of(parsed, pieces) if len(wanted) <= _QUICK else map(parsed, pieces)
    header = file.span is None or file.span[0] == 0
    for batch in found:
        if len(batch):
            yield batch.slice(1) if header else batch
            header = False


def _piece_of(file: LongCsv) -> int:
    """Return how many bytes are parsed at a time: more of a file whose lines are long.

    Each column of a piece takes its time, however few rows there are.
    """
    line = file.about[0] // max(file.found.lines, 1)
    most = min(granted() // _SHARE, _MUCH_LONGER * _PIECE)
    return max(_PIECE, min(line * _ROWS, max(_LONGER * _PIECE, most)))


def _pieces(path: Path, span: tuple[int, int] | None, size: int) -> Iterator[bytes]:
    """Yield the file's bytes, or those of a stretch, in pieces that end where lines end."""
    rest = b""
    start, stop = span or (0, sys.maxsize)
    with path.open("rb") as stream:
        stream.seek(start)
        while block := stream.read(min(size, stop - stream.tell())):
            cut = block.rfind(b"\n") + 1
            if cut:
                yield rest + block[:cut]
                rest = block[cut:]
            else:
                rest += block
    if rest:
        yield rest


def stretches(file: LongCsv, most: int) -> list[LongCsv]:
    """Return a file as stretches of some `most` lines, to be read on their own.

    One with quoted fields, or of fewer than twice as many lines, is not cut.
    """
    known = replace(file.fields, head=b"")
    whole = replace(file, fields=known, found=replace(file.found, head=b""))
    lines, size = file.found.lines, file.about[0]
    if file.found.quoted or lines < 2 * most:
        return [whole]
    cuts = [0]
    with file.path.open("rb") as stream:
        for number in range(1, lines // most):
            stream.seek(size * number * most // lines)
            stream.readline()
            if cuts[-1] < stream.tell() < size:
                cuts.append(stream.tell())
    return [
        replace(
            whole, span=span, found=replace(whole.found, lines=min(lines, span[1] - span[0]) + 1)
        )
        for span in pairwise([*cuts, size])
    ]
