"""Long text files that are not plain UTF-8, or end in lines to leave out, written anew on disk.

What is read in pieces is UTF-8 without a mark from its header to its last row. Files of other
encodings are decoded piece by piece, as `dialect.to_utf8` decodes them whole; whatever that
would refuse is left to it, which tells it in full.
"""

import codecs
import os
from collections.abc import Callable, Iterator
from pathlib import Path

from even_sieve.core.errors import MemoryShort
from even_sieve.core.notices import Notice
from even_sieve.sources.dialect import GUESS, encoding_of, guess_notice, is_plain_guess, lines_in
from even_sieve.sources.guard import state_of
from even_sieve.sources.source_options import SourceOptions
from even_sieve.sources.unpacking import LongAt, kept_on_disk

_PIECE = 1 << 22
#: So much is looked at for the lines of the foot, and beside a byte that is not UTF-8.
_TAIL, _BESIDE = 1 << 20, 1 << 16
#: Bytes that stand for other letters in the encoding that is guessed than in the one it extends.
_OWN = bytes(range(0x80, 0xA0))


def in_utf8(at: LongAt, options: SourceOptions) -> tuple[LongAt, tuple[Notice, ...]] | None:
    """Return the file as it is read in pieces, and what is to be told; None for one that is not.

    `kept` of what is returned keeps it on disk; without room there it goes into memory whole.
    Raises `SourceError` if the file is gone.
    """
    before = state_of(at.path, at.name)
    encoding, told = _encoding(at.path, options)
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
    with path.open("rb") as stream:
        stream.seek(max(at - _BESIDE, 0))
        around = stream.read(2 * _BESIDE)
    return GUESS, (guess_notice(around, min(at, _BESIDE), row),)


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
                return done + at, lines + lines_in(piece[: max(at, 0)])
            done += len(piece)
            lines += lines_in(piece) - (before == b"\r" and piece[:1] == b"\n")
            before = piece[-1:]
    return None


def _pieces(
    path: Path, encoding: str, size: int, progress: Callable[[float], None] | None
) -> Iterator[bytes]:
    """Yield the text as UTF-8. Raises `UnicodeError` for what is not text, `LookupError`."""
    decoder, done = codecs.getincrementaldecoder(encoding)(), 0
    with path.open("rb") as stream:
        while piece := stream.read(_PIECE):
            done += len(piece)
            if encoding == GUESS:
                yield _of_guess(piece)
            else:
                text = decoder.decode(piece)
                yield text.removeprefix("\ufeff" if done == len(piece) else "").encode("utf-8")
                if "\0" in text:
                    raise UnicodeError("not text")
            if progress is not None:
                progress(min(1.0, done / size))
        decoder.decode(b"", final=True)


def _of_guess(piece: bytes) -> bytes:
    if not is_plain_guess(piece):
        raise UnicodeError("not text")
    if piece.isascii():
        return piece
    alike = len(piece.translate(None, _OWN)) == len(piece)  # the next line is far faster then
    return piece.decode("latin-1" if alike else GUESS).encode("utf-8")


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
