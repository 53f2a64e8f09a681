"""Long CSV files that can be read in pieces: what a first pass tells, and their pieces."""

import sys
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from pathlib import Path
from typing import Any

import pyarrow as pa
from pyarrow import csv as arrow_csv

from even_sieve.core.errors import SourceError
from even_sieve.core.notices import Notice
from even_sieve.core.table.lanes import Array
from even_sieve.sources.csv import (
    blank_notice,
    header_found,
    header_names,
    refuse_ragged,
)
from even_sieve.sources.csv_lines import row_numbers
from even_sieve.sources.csv_parsing import parsing
from even_sieve.sources.csv_records import records_in
from even_sieve.sources.first_pass import Scan, begun, scan
from even_sieve.sources.guard import state_of
from even_sieve.sources.octets import FileOctets, after_last_line
from even_sieve.sources.quotes import refuse_open_quotes
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


@dataclass
class LongCsv:
    """One of the files: its header and its beginning, and what a first pass found in it.

    It begins with so many bytes and lines of titles and blanks before its header. `span` are the
    bytes of a stretch of its lines, where it is not about all of them.
    """

    path: Path
    fields: TextFile
    found: Scan
    about: tuple[int, int]
    kept: object = None
    span: tuple[int, int] | None = None
    start: int = 0
    above: int = 0

    @classmethod
    def opened(
        cls, at: LongAt, options: SourceOptions, told: tuple[Notice, ...] = ()
    ) -> "LongCsv | None":
        """Return a file of UTF-8 that can be read in pieces, None for another one."""
        path, source = at.path, at.name
        state = state_of(path, source)
        found = scan(path, source, options)
        if found is None or (place := begun(found.head, options)) is None:
            return None
        start, above, dialect = place
        head, lines = found.head[start:], found.lines - above
        if found.quoted:
            refuse_open_quotes(FileOctets(path, start), source, dialect, above)
        names, named = header_names(head, source, dialect, options)
        if above and not options.lines_chosen:
            told = (*told, header_found(above + 1))
        notices = (*told, *named)
        fields = TextFile(source, names, [], 0, 2 + above, dialect, head, notices, at.origin)
        found = Scan(head, lines, found.quoted)
        return cls(path, fields, found, state, at.kept, start=start, above=above)

    def refuse_ragged(self) -> None:
        """Raise `SourceError` for the first row of more or fewer fields than the header."""
        records = records_in(self.path, self.start, self.fields.dialect)
        refuse_ragged(records, len(self.fields.names), self.fields.source, self.above)

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
                parted = arrow_csv.read_csv(_stream(self), **how).slice(1)
            else:
                parted = pa.concat_tables(self._told(range(count), progress))
        except pa.ArrowInvalid:
            self.refuse_ragged()
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
            return 2 + self.above
        self.refuse_change()
        octets = FileOctets(self.path, self.start)
        count = len(fields.names)
        numbers, blank = row_numbers(octets, fields.rows, fields.dialect, count, self.above)
        fields.notices = (*fields.notices, *blank_notice(blank))
        return numbers


def _stream(file: LongCsv) -> Any:
    """Return the bytes from the header on, as Arrow takes them."""
    if not file.start:
        return file.path
    stream = pa.OSFile(str(file.path))
    stream.seek(file.start)
    return stream


def batches(file: LongCsv, wanted: Sequence[int]) -> Iterator[Any]:
    """Yield Arrow tables, or record batches, of strings, one after the other, without the header.

    Where no field is quoted, pieces are cut at line ends: handing pieces over inside Arrow
    takes longer than parsing them.
    """
    path, count, dialect = file.path, len(file.fields.names), file.fields.dialect
    pool = pa.system_memory_pool()  # gives back what a piece took
    if file.found.quoted:
        how = parsing(count, _piece_of(file), dialect, True, wanted, threads=False)
        found: Iterator[Any] = iter(arrow_csv.open_csv(_stream(file), **how, memory_pool=pool))
    else:

        def parsed(piece: bytes) -> Any:
            how = parsing(count, len(piece) + 1, dialect, False, wanted, threads=False)
            return arrow_csv.read_csv(pa.BufferReader(piece), **how, memory_pool=pool)

        pieces = _pieces(path, file.span or (file.start, sys.maxsize), _piece_of(file))
        found = ahead_of(parsed, pieces) if len(wanted) <= _QUICK else map(parsed, pieces)
    header = file.span is None or file.span[0] == file.start
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


def _pieces(path: Path, span: tuple[int, int], size: int) -> Iterator[bytes]:
    """Yield the bytes of a stretch of a file, in pieces that end where lines end."""
    rest = b""
    start, stop = span
    with path.open("rb") as stream:
        stream.seek(start)
        while block := stream.read(min(size, stop - stream.tell())):
            if cut := after_last_line(block):
                yield rest + block[:cut]
                rest = block[cut:]
            else:
                rest += block
    if rest:
        yield rest


def stretches(file: LongCsv, most: int) -> list[LongCsv]:
    """Return a file as stretches of some `most` lines, to be read on their own.

    One with quoted fields, without line feeds, or of fewer than twice as many lines is not cut.
    """
    known = replace(file.fields, head=b"")
    whole = replace(file, fields=known, found=replace(file.found, head=b""))
    lines, size = file.found.lines, file.about[0]
    if file.found.quoted or lines < 2 * most or b"\n" not in file.found.head:
        return [whole]
    cuts = [file.start]
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
