"""Long text files that are not plain UTF-8, or end in lines to leave out, written anew on disk.

What is read in pieces is UTF-8 without a mark from its header to its last row. Files of other
encodings are decoded piece by piece, as `encoding.to_utf8` decodes them whole; whatever that
would refuse is left to it, which tells it in full.
"""

import codecs
import os
from collections.abc import Callable, Iterator
from pathlib import Path

from even_sieve.core.errors import MemoryShort
from even_sieve.core.notices import Notice
from even_sieve.sources.encoding import (
    GUESS,
    MIXED,
    encoding_of,
    guess_for,
    guess_notice,
    guessed,
)
from even_sieve.sources.guard import state_of
from even_sieve.sources.octets import FileOctets, lines_in, whole_lines
from even_sieve.sources.source_options import SourceOptions
from even_sieve.sources.unpacking import LongAt, kept_on_disk

_PIECE = 1 << 22
#: So much is looked at for the lines of the foot, and beside a byte that is not UTF-8.
_TAIL, _BESIDE = 1 << 20, 1 << 16


def in_utf8(at: LongAt, options: SourceOptions) -> tuple[LongAt, tuple[Notice, ...]] | None:
    """Return the file as it is read in pieces, and what is to be told; None for one that is not.

    `kept` of what is returned keeps it on disk; without room there it goes into memory whole.
    Raises `SourceError` if the file is gone.
    """
    before = state_of(at.path, at.name)
    try:
        encoding, told = _encoding(at.path, options)
    except UnicodeError:
        return None
    if encoding == "utf-8" and not options.leave_out_foot:  # something else is the matter
        return None
    pieces = _pieces(at.path, encoding, before[0], options.progress)
    try:
        kept = kept_on_disk(pieces, ".csv", at.name)
        if options.leave_out_foot and not _cut_foot(kept.path, options.leave_out_foot):
            return None
    except (UnicodeError, LookupError, MemoryShort, OSError):
        return None
    if state_of(at.path, at.name) != before:
        return None
    return at._replace(path=kept.path, kept=kept), told


def _encoding(path: Path, options: SourceOptions) -> tuple[str, tuple[Notice, ...]]:
    """Return what a file is encoded in, and a notice if that is guessed."""
    with path.open("rb") as stream:
        head = stream.read(_BESIDE)
    known = encoding_of(head, options.encoding)
    if known is not None:
        return known, ()
    bad = _first_bad(path)
    if bad is None:
        return "utf-8", ()
    at, row = bad
    octets = FileOctets(path)
    around = octets[max(at - _BESIDE, 0) : at + _BESIDE]
    guess = guess_for(octets)
    return guess, (guess_notice(around, min(at, _BESIDE), row, guess),)


def _first_bad(path: Path) -> tuple[int, int] | None:
    """Return where the first byte stands that is not UTF-8, and in which line; None for none."""
    decoder, done, lines, before = codecs.getincrementaldecoder("utf-8")(), 0, 1, b""
    with path.open("rb") as stream:
        last = False
        while not last:
            piece = stream.read(_PIECE)
            last = not piece
            waiting = decoder.getstate()[0]
            try:
                decoder.decode(piece, final=last)
            except UnicodeDecodeError as error:
                at = error.start - len(waiting)
                lines -= before == b"\r" and piece[:1] == b"\n" and at > 0
                return done + at, lines + lines_in(piece[: max(at, 0)])
            done += len(piece)
            lines += lines_in(piece) - (before == b"\r" and piece[:1] == b"\n")
            before = piece[-1:]
    return None


def _pieces(
    path: Path, encoding: str, size: int, progress: Callable[[float], None] | None
) -> Iterator[bytes]:
    """Yield the text as UTF-8. Raises `UnicodeError` for what is not text, `LookupError`."""
    if encoding in (GUESS, MIXED):
        for start, lines in whole_lines(FileOctets(path), size, _PIECE):
            yield guessed(lines, encoding)
            if progress is not None:
                progress((start + len(lines)) / size)
        return
    decoder, done = codecs.getincrementaldecoder(encoding)(), 0
    with path.open("rb") as stream:
        while piece := stream.read(_PIECE):
            text = decoder.decode(piece)
            if "\0" in text:
                raise UnicodeError("not text")
            yield text.removeprefix("" if done else "\ufeff").encode("utf-8")
            done += len(piece)
            if progress is not None:
                progress(min(1.0, done / size))
        decoder.decode(b"", final=True)


def _cut_foot(path: Path, count: int) -> bool:
    """Cut so many lines off the end; False if they, and one above, are longer than is looked at."""
    size = path.stat().st_size
    with path.open("rb") as stream:
        stream.seek(max(size - _TAIL, 0))
        lines = stream.read().splitlines(keepends=True)
    if len(lines) < count + 2:
        return False
    os.truncate(path, size - sum(map(len, lines[-count:])))
    return True
