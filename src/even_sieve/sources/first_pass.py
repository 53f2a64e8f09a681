"""What a first pass over the bytes of a long CSV file tells, before any of it is parsed."""

import codecs
from dataclasses import dataclass
from pathlib import Path

from even_sieve.core.errors import SourceError
from even_sieve.sources.csv import is_blank_first, without_titles
from even_sieve.sources.csv_parsing import LONGEST_HEADER
from even_sieve.sources.dialect import Dialect, find_delimiter
from even_sieve.sources.encoding import MARK, strange_start
from even_sieve.sources.octets import lines_in
from even_sieve.sources.source_options import SourceOptions

#: What may part two cells.
_PARTING = (b"\n", b"\r", b",", b";", b"\t", b"|")
_MOST_BYTES = 4


def begun(head: bytes, options: SourceOptions) -> tuple[int, int, Dialect] | None:
    """Return how many bytes and lines stand above the header, and how fields are parted.

    None where the header is not in what a file begins with, or not as it is said.
    """
    mark = len(MARK) if head.startswith(MARK) else 0
    chosen, first = head[mark:], (options.header or options.leave_out_top + 1) - 1
    if first:
        lines = chosen.splitlines(keepends=True)
        if first >= len(lines):
            return None
        chosen = b"".join(lines[first:])
    if options.header is not None and is_blank_first(chosen):
        return None
    quote = options.quote
    dialect = Dialect(options.delimiter or find_delimiter(chosen, quote), quote)
    text, above = without_titles(chosen, dialect, options)
    if not lines_in(text[:-1]):
        return None
    return len(head) - len(text), first + above, dialect


@dataclass(frozen=True)
class Scan:
    """What a first pass over a file's bytes tells: its beginning, its lines, its quotes."""

    head: bytes
    lines: int
    quoted: bool


def scan(path: Path, source: str, options: SourceOptions) -> Scan | None:
    """Return what the bytes tell, or None if they are not UTF-8 text.

    Raises `SourceError` where nothing parts more bytes than a cell may have.
    """
    decoder, open_letter = codecs.getincrementaldecoder("utf-8")(), False
    quote = options.quote.encode()
    parting = (*_PARTING, (options.delimiter or ",").encode())
    head, lines, quoted, last, run = b"", 0, False, b"\n", 0
    with path.open("rb") as stream:
        while piece := stream.read(LONGEST_HEADER):
            if not head:
                head = piece
            if b"\0" in piece or (piece is head and (strange_start(head) or not head.strip())):
                return None
            if open_letter or not piece.isascii():
                try:
                    decoder.decode(piece)
                except UnicodeDecodeError:
                    return None
                open_letter = bool(decoder.getstate()[0])
            lines += lines_in(piece) - (last == b"\r" and piece[:1] == b"\n")
            quoted = quoted or quote in piece
            last = piece[-1:]
            parted = max(map(piece.rfind, parting))
            run = run + len(piece) if parted < 0 else len(piece) - parted
            if run > _MOST_BYTES * options.limits.cell + len(piece):
                fact = f"a cell has more than {options.limits.cell:,} bytes"
                raise SourceError(source, fact, "No more are read", lines + 1)
    if open_letter or lines < 2:
        return None
    return Scan(head, lines + (last not in b"\r\n"), quoted)
