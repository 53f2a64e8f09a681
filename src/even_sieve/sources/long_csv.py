"""Long CSV files, read piece by piece: only the columns are ever held whole.

One thread parses while another makes columns. What is out of the ordinary (another
encoding, a broken row) is left to the reader of whole files, which tells it in full.
"""

import codecs
from collections.abc import Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import Any

import pyarrow as pa
import pyarrow.compute as pc
from pyarrow import csv as arrow_csv

from even_sieve.core.errors import SourceError
from even_sieve.core.table import Column, Table
from even_sieve.core.table.arrays import let_go
from even_sieve.core.table.joined import aligned
from even_sieve.core.table.lanes import Array
from even_sieve.sources.apostrophes import without_apostrophes
from even_sieve.sources.csv import (
    LONGEST_HEADER,
    blank_notice,
    header_names,
    parsing,
)
from even_sieve.sources.csv_records import row_numbers, title_lines
from even_sieve.sources.dialect import Dialect, find_delimiter, strange_start
from even_sieve.sources.growing_columns import Gathering
from even_sieve.sources.quotes import FileOctets, refuse_open_quotes
from even_sieve.sources.source_options import SourceOptions
from even_sieve.sources.text_table import (
    TextFile,
    blank_strings,
    column_of,
    of_several,
    refuse_long,
    together,
    told_of_first,
)

_PIECE = 1 << 20
_PLAIN = (None, "utf-8", "utf8")
#: What may part two cells.
_PARTING = (b"\n", b"\r", b",", b";", b"\t", b"|")
_MOST_BYTES = 4


def read(files: Sequence[tuple[Path, str]], source: str, options: SourceOptions) -> Table | None:
    """Return the one table of files, the same as read whole; None where they must be.

    `files` are the paths with what the rows are said to come from. Raises `DuplicateColumn` for
    two columns of one name, `UnlikeSources`, `SourceError` for too many columns.
    """
    if options.encoding not in _PLAIN or options.needs_whole:
        return None
    opened: list[_LongFile] = []
    for path, origin in files:
        file = _LongFile.opened(path, origin, options)
        if file is None:
            return None
        opened.append(file)
    found = aligned([(file.fields.origin, file.fields.names) for file in opened], options.lacking)
    wanted = [number for number, (name, _) in enumerate(found) if options.is_asked(name)] or [0]
    columns = _gather(opened, [found[number] for number in wanted], options)
    if columns is None:
        return None
    texts = [file.fields for file in opened]

    def later(number: int) -> Column:
        name, places = found[number]
        pairs = zip(opened, places, strict=True)
        fields = together([file.strings(place, options) for file, place in pairs])
        made = column_of(name, fields, options)
        return told_of_first([made], texts, [places], options)[0]

    rows = sum(file.fields.rows for file in opened)
    every = [Column.later(name, rows, partial(later, i)) for i, (name, _) in enumerate(found)]
    for number, column in zip(wanted, columns, strict=True):
        places = found[number][1]
        told = None if column is None else told_of_first([column], texts, [places], options)[0]
        every[number] = later(number) if told is None else told
    lengths = [(file.fields.rows, file.numbers()) for file in opened]
    return of_several(every, texts, lengths, source)


@dataclass
class _LongFile:
    """One of the files: its header and its beginning, and what a first pass found in it."""

    path: Path
    fields: TextFile
    found: "Scan"
    about: tuple[int, int]

    @classmethod
    def opened(cls, path: Path, origin: str, options: SourceOptions) -> "_LongFile | None":
        """Return a file that can be read in pieces, None for another one."""
        source = str(path)
        stat = path.stat()
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
        fields = TextFile(source, names, [], 0, 2, dialect, found.head, told, origin)
        return cls(path, fields, found, (stat.st_size, stat.st_mtime_ns))

    def refuse_change(self) -> None:
        """Raise `SourceError` if the file is not the one that was opened."""
        now = self.path.stat()
        if (now.st_size, now.st_mtime_ns) != self.about:
            raise SourceError(self.fields.source, "the file changed while it was read", "Ask again")

    def strings(self, place: int | None, options: SourceOptions) -> Any:
        """Return all fields of one column, blank ones where the file lacks it."""
        fields = self.fields
        if place is None:
            return blank_strings(fields.rows)
        self.refuse_change()
        batches = [batch.column(0) for batch in _batches(self, [place])]
        found = together(batches)
        refuse_long(found, fields.source, fields.names[place], options)
        return found

    def numbers(self) -> Array | int:
        """Return the lines of the rows; those passed over are told."""
        fields = self.fields
        if self.found.lines == fields.rows + 1:
            return 2
        self.refuse_change()
        content, count = self.path.read_bytes(), len(fields.names)
        numbers, blank = row_numbers(content, fields.rows, fields.dialect, count)
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


def _gather(
    files: Sequence[_LongFile],
    wanted: Sequence[tuple[str, list[int | None]]],
    options: SourceOptions,
) -> list[Column | None] | None:
    """Return the wanted columns (None where one must be read whole); tells files their rows.

    Those that are not wanted are parted from the others, and left out. None if a row is broken
    or a cell beyond the limit: for the reader of whole files to tell.
    """
    most = sum(file.found.lines for file in files)
    gatherings = [Gathering(most, options) for _ in wanted]

    with ThreadPoolExecutor(1) as pool:
        waiting = pool.submit(lambda: True)
        try:
            for number, file in enumerate(files):
                places = [own[number] for _, own in wanted]
                asked = sorted({place for place in places if place is not None}) or [0]
                chosen = [None if place is None else asked.index(place) for place in places]
                for batch in _batches(file, asked):
                    if not waiting.result():
                        return None
                    file.fields.rows += len(batch)
                    waiting = pool.submit(_take_in, gatherings, batch, chosen, options)
        except pa.ArrowInvalid:
            return None
        for file in files:
            file.refuse_change()
        if not waiting.result():
            return None
    if any(not 0 < file.fields.rows < file.found.lines for file in files):
        return None
    return [each.column(name) for each, (name, _) in zip(gatherings, wanted, strict=True)]


def _take_in(
    gatherings: Sequence[Gathering],
    batch: Any,
    chosen: Sequence[int | None],
    options: SourceOptions,
) -> bool:
    """Give each gathering the next rows of its column; False for a cell beyond the limit."""
    for gathering, position in zip(gatherings, chosen, strict=True):
        if position is None:
            gathering.add(blank_strings(len(batch)))
            continue
        strings = batch.column(position)
        if isinstance(strings, pa.ChunkedArray):
            strings = strings.combine_chunks()
        if (pc.max(pc.binary_length(strings)).as_py() or 0) > options.limits.cell:
            return False
        gathering.add(without_apostrophes(strings))
    let_go()
    return True


def _batches(file: _LongFile, wanted: list[int]) -> Iterator[Any]:
    """Yield Arrow tables, or record batches, of strings, one after the other, without the header.

    Where no field is quoted, pieces are cut at line ends: handing pieces over inside Arrow
    takes longer than parsing them.
    """
    path, count, dialect = file.path, len(file.fields.names), file.fields.dialect
    pool = pa.system_memory_pool()  # gives back what a piece took
    if file.found.quoted:
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
