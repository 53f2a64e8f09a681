"""What a file or a pipe holds, as bytes, within the limits."""

import gzip
import os
import time
import zlib
from collections.abc import Iterable, Iterator
from io import BytesIO
from pathlib import Path
from stat import S_ISBLK, S_ISCHR, S_ISREG
from typing import BinaryIO

from even_sieve.core.errors import SourceError, SourceNotFound, closest, listed
from even_sieve.sources.limits import Limits
from even_sieve.sources.readers import READERS
from even_sieve.sources.unpacking import refuse_too_much, refuse_unfolding

_PIECE = 1 << 24
_LONGEST_NAME = 300
#: So many seconds a pipe may stand open without anyone who writes into it.
_PATIENCE = 5.0


def read_bytes(file: Path, limits: Limits | None = None) -> bytes:
    """Return what the file holds.

    Raises `SourceNotFound`, or `SourceError` if it is shut or beyond the limits.
    """
    most = (limits or Limits()).unpacked
    if "\0" in str(file):
        raise SourceNotFound(repr(str(file)), "no file has such a name", "Check the name")
    try:
        if file.is_dir():
            inside = sorted(each.name for each in file.iterdir() if each.suffix in READERS)
            hint = f"In it are: {', '.join(inside[:5])}" if inside else "Name a file in it"
            raise SourceNotFound(str(file), "this is a folder, not a file", hint)
        about = file.stat()
        if S_ISCHR(about.st_mode) or S_ISBLK(about.st_mode):
            raise SourceError(str(file), "this is a device, and no file", "Write - to read a pipe")
        if about.st_size > most:
            raise _too_large(str(file), about.st_size, most)
        if S_ISREG(about.st_mode):
            return file.read_bytes()  # at once: pieces would be held twice while they are joined
        with _Pipe(file) as pipe:
            return read_within(pipe.stream, str(file), limits or Limits(), pipe.begun)
    except FileNotFoundError:
        beside = file.parent.iterdir() if file.parent.is_dir() else ()
        near = closest(file.name, [each.name for each in beside if each.is_file()])
        hint = f"Did you mean {listed(near)}?" if near else "Check the name and the folder"
        raise SourceNotFound(str(file), "there is no such file", hint) from None
    except OSError as error:
        why = error.strerror or type(error).__name__
        name = str(file) if len(str(file)) <= _LONGEST_NAME else f"{str(file)[:_LONGEST_NAME]}…"
        raise SourceError(name, f"the file cannot be opened: {why}") from error


def _too_large(source: str, size: int, most: int) -> SourceError:
    hint = f"At most {most:,} are read; to read more say: --at-most unpacked=4GiB"
    return SourceError(source, f"there are {size:,} bytes", hint)


def read_within(stream: BinaryIO, source: str, limits: Limits, begun: bytes = b"") -> bytes:
    """Return what a stream holds, piece by piece: of a pipe nobody knows how much it is.

    `begun` is what was read of it already. Raises `SourceError` beyond the limits, and for a
    beginning that no file of a table has.
    """
    return within(pieces_of(stream, source, begun), source, limits)


def within(pieces: Iterable[bytes], source: str, limits: Limits) -> bytes:
    """Return pieces together. Raises `SourceError` beyond the limits."""
    found = list(bounded(pieces, source, limits))
    return found[0] if len(found) == 1 else b"".join(found)


def bounded(pieces: Iterable[bytes], source: str, limits: Limits) -> Iterator[bytes]:
    """Yield pieces. Raises `SourceError` beyond the limits."""
    size = 0
    for piece in pieces:
        size += len(piece)
        if size > limits.unpacked:
            raise _too_large(source, size, limits.unpacked)
        yield piece


def pieces_of(stream: BinaryIO, source: str, begun: bytes = b"") -> Iterator[bytes]:
    """Yield what a stream holds, first what was read of it already.

    Raises `SourceError` for a beginning that no file of a table has.
    """
    first = True
    while piece := begun or stream.read(_PIECE):
        begun = b""
        if first and piece.count(0) == len(piece):
            raise SourceError(source, "it begins with nothing but zeros", "Is it the right file?")
        first = False
        yield piece


class _Pipe:
    """A named pipe: `stream`, and what it held when it was opened.

    Opening one waits for somebody to write, without end: who is there and only slow is waited
    for, nobody for a few seconds.
    """

    def __init__(self, file: Path) -> None:
        handle = os.open(file, os.O_RDONLY | os.O_NONBLOCK)
        self.stream: BinaryIO = os.fdopen(handle, "rb")
        self.begun = b""
        ends = time.monotonic() + _PATIENCE
        while not self.begun:
            try:
                self.begun = os.read(handle, _PIECE)
            except BlockingIOError:
                break
            if not self.begun and time.monotonic() > ends:
                self.stream.close()
                fact = f"nobody has written into this pipe for {_PATIENCE:.0f} seconds"
                raise SourceError(str(file), fact, "Start what writes into it, then read it")
            time.sleep(0 if self.begun else 0.02)
        os.set_blocking(handle, True)

    def __enter__(self) -> "_Pipe":
        return self

    def __exit__(self, *_: object) -> None:
        self.stream.close()


def unzipped(content: bytes, name: str, limits: Limits) -> bytes:
    """Return what a gzip file holds. Raises `SourceError` beyond the limits, or if broken."""
    pieces, size = [], 0
    try:
        with gzip.open(BytesIO(content)) as stream:
            while piece := stream.read(_PIECE):
                size += len(piece)
                pieces.append(piece)
                refuse_too_much(size, name, limits)
                refuse_unfolding(size, len(content), name, limits)
    except (OSError, EOFError, zlib.error):
        raise SourceError(name, "the gzip file is broken", "Pack it again") from None
    return b"".join(pieces)
