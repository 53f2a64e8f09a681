"""Long files that are packed by themselves, unpacked on disk so that they are read in pieces."""

import errno
import gzip
import os
import tempfile
import zlib
from collections.abc import Iterable, Iterator
from pathlib import Path
from typing import NamedTuple
from weakref import finalize

from even_sieve.core.errors import MemoryShort, SourceError
from even_sieve.sources.limits import Limits
from even_sieve.sources.source_options import SourceOptions

#: The ending of packed files, and the bytes that they begin with.
PACKED, GZIP = ".gz", b"\x1f\x8b"
_PIECE, _ALWAYS = 1 << 22, 1 << 26


def inner_ending(name: str) -> str:
    """Return the ending that says what is in a file, in lower case, without that of its packing.

    >>> inner_ending("calls.CSV.gz"), inner_ending("calls.ods")
    ('.csv', '.ods')
    """
    return os.path.splitext(name.lower().removesuffix(PACKED))[1]


class LongAt(NamedTuple):
    """A long file: where its bytes are, what its rows come from, its name, and who keeps it."""

    path: Path
    origin: str
    name: str
    kept: "Unpacked | None" = None


class Unpacked:
    """What a packed file holds, on disk; gone with the last who holds this."""

    def __init__(self, ending: str) -> None:
        handle, name = tempfile.mkstemp(suffix=ending)
        os.close(handle)
        self.path = Path(name)
        finalize(self, _forget, name)


def _forget(name: str) -> None:
    Path(name).unlink(missing_ok=True)


def long_at(path: Path, origin: str, options: SourceOptions) -> LongAt:
    """Return a file as it is read in pieces, unpacked if it is packed.

    Raises `SourceError` for a broken one, one that unpacks to more than the limits, or that
    changes; `MemoryShort` without room on disk.
    """
    if path.suffix.lower() != PACKED:
        return LongAt(path, origin, str(path))
    before = path.stat()
    with path.open("rb") as packed:
        if packed.read(len(GZIP)) != GZIP:
            raise no_gzip(str(path))
    with path.open("rb") as packed, gzip.open(packed) as stream:

        def pieces() -> Iterator[bytes]:
            size = 0
            while piece := stream.read(_PIECE):
                size += len(piece)
                refuse_unfolding(size, before.st_size, str(path), options.limits)
                if are_said(options.limits):  # else the disk is the limit
                    refuse_too_much(size, str(path), options.limits)
                yield piece
                if options.progress is not None:
                    options.progress(packed.tell() / before.st_size)

        try:
            kept = kept_on_disk(pieces(), inner_ending(path.name), str(path))
        except (EOFError, zlib.error, gzip.BadGzipFile):
            raise SourceError(str(path), "the gzip file is broken", "Pack it again") from None
    after = path.stat()
    if (before.st_size, before.st_mtime_ns) != (after.st_size, after.st_mtime_ns):
        raise SourceError(str(path), "the file changed while it was read", "Ask again")
    return LongAt(kept.path, origin, str(path), kept)


def are_said(limits: Limits) -> bool:
    """Tell whether somebody said how many bytes a file may hold."""
    return limits.unpacked != Limits.unpacked


def kept_on_disk(pieces: Iterable[bytes], ending: str, name: str) -> Unpacked:
    """Return a file of these pieces, in the folder for such. Raises `MemoryShort` without room."""
    kept = Unpacked(ending)
    try:
        with kept.path.open("wb") as out:
            out.writelines(pieces)
    except OSError as error:
        if error.errno not in (errno.ENOSPC, errno.EDQUOT, errno.EFBIG):
            raise
        fact = f"{name}: there is no room on disk to keep it while it is read"
        raise MemoryShort(fact, "Make room, or name another folder in TMPDIR") from error
    return kept


def no_gzip(name: str) -> SourceError:
    """Return the error for a file that is called packed and is not."""
    return SourceError(name, "this is no gzip file", "If it is not packed, name it without .gz")


def refuse_too_much(size: int, name: str, limits: Limits) -> None:
    """Raise `SourceError` for a packed file that unpacks to more bytes than are read."""
    if size > limits.unpacked:
        fact = f"the file unpacks to more than {limits.unpacked:,} bytes"
        raise SourceError(name, fact, "To read more say: --at-most unpacked=4GiB")


def refuse_unfolding(size: int, packed: int, name: str, limits: Limits) -> None:
    """Raise `SourceError` for a packed file that unpacks to too many times its size."""
    if size > _ALWAYS and size > limits.ratio * packed:
        fact = f"the file unpacks to more than {limits.ratio:,} times its size"
        raise SourceError(name, fact, "If that is right say: --at-most ratio=2000")
