"""Packed files (zip), looked at before anything is unpacked, and while it is."""

import zlib
from collections.abc import Iterator
from contextlib import contextmanager
from functools import partial
from io import BytesIO
from typing import Any
from zipfile import BadZipFile, ZipFile, ZipInfo

from even_sieve.core.errors import SourceError
from even_sieve.sources.ahead import Ahead
from even_sieve.sources.limits import Limits

#: Long texts are looked for in so many bytes at once.
_LOOK = 1 << 20
#: A character takes up to so many bytes.
_MOST_BYTES = 4
_DECLARATIONS = tuple("<!DOCTYPE".encode(name) for name in ("utf-8", "utf-16-le", "utf-16-be"))
_LONGEST_DECLARATION = max(map(len, _DECLARATIONS))

#: How a file begins that holds others in a way of its own (locked workbooks are such).
_COMPOUND = bytes.fromhex("D0CF11E0A1B11AE1")
#: What tells of parts that need a password (ISO/IEC 26300-3).
_MANIFEST, _ENCRYPTED = "META-INF/manifest.xml", b"encryption-data"
_LOCKED = ("the workbook is locked with a password", "Save it without")


class _Part:
    """A part of an archive: `SourceError` for what a parser would choke on, before it sees it.

    A document type could define entities that expand: no part of either standard has one, and
    with these out the fast parser is safe to use. A text longer than a cell may be would be
    held whole.
    """

    def __init__(self, part: Any, source: str, longest: int, is_xml: bool) -> None:
        self._part, self._source, self._longest, self._is_xml = part, source, longest, is_xml
        self._last, self._run = b"", 0  # how many bytes there are since the last beginning of a tag

    def __enter__(self) -> "_Part":
        return self

    def __exit__(self, *_: object) -> None:
        self._part.close()

    def read(self, size: int = -1) -> bytes:
        """Return so many of the next bytes."""
        try:
            piece: bytes = self._part.read(size)
        except (BadZipFile, zlib.error, EOFError):
            raise SourceError(self._source, "the archive is broken", "Save it again") from None
        seam = self._last + piece[:_LONGEST_DECLARATION]
        if any(each in seam or (each[1:] in piece and each in piece) for each in _DECLARATIONS):
            raise SourceError(self._source, "the file defines entities, which are not expanded")
        self._last = piece[-_LONGEST_DECLARATION:]
        if self._is_xml:
            for start in range(0, len(piece), _LOOK):
                self._refuse_long(piece, start, min(start + _LOOK, len(piece)))
        return piece

    def _refuse_long(self, piece: bytes, start: int, stop: int) -> None:
        first = piece.find(b"<", start, stop)
        self._run += (stop if first < 0 else first) - start
        if self._run > _MOST_BYTES * self._longest:
            fact = f"a cell has more than {self._longest:,} characters"
            raise SourceError(self._source, fact, "No more are read")
        if first >= 0:
            self._run = stop - piece.rfind(b"<", start, stop)


class Packed(ZipFile):
    """An archive whose parts are looked through as they are read."""

    def __init__(self, content: bytes, source: str, longest: int) -> None:
        self._source, self._longest = source, longest
        self._seen: set[str] = set()
        super().__init__(BytesIO(content))
        for entry in self.filelist:  # some programs write paths as their system has them
            entry.filename = entry.filename.replace("\\", "/").lstrip("/")
        self.NameToInfo = {entry.filename: entry for entry in self.filelist}

    def open(self, name: Any, *args: Any, **kwargs: Any) -> Any:
        """Return a part to be read."""
        opened = super().open(name, *args, **kwargs)
        path = name.filename if isinstance(name, ZipInfo) else name
        self._seen.add(path)
        return _Part(opened, self._source, self._longest, path.endswith((".xml", ".rels")))

    def look_through_others(self) -> None:
        """Read the parts that nobody has asked for: in those there is to be nothing hostile too."""
        for entry in self.infolist():
            if entry.filename not in self._seen:
                with self.open(entry) as part:
                    while part.read(_LOOK):
                        pass


def open_packed(content: bytes, source: str, limits: Limits) -> Packed:
    """Return the archive. Raises `SourceError` for a broken one, or one beyond the limits."""
    if content.startswith(_COMPOUND):
        fact = "this is a compound file: a workbook locked with a password, or of an older format"
        raise SourceError(source, fact, "Save it anew, without a password, in its ending's format")
    if not content.startswith(b"PK"):
        hint = "Its ending is another file's, or it was cut off"
        raise SourceError(source, "this is no workbook, which is a packed file", hint)
    try:
        archive = Packed(content, source, limits.cell)
    except BadZipFile:
        raise SourceError(
            source, "this is no workbook: the archive is broken", "Save it again"
        ) from None
    unpacked = sum(entry.file_size for entry in archive.infolist())
    packed = max(sum(entry.compress_size for entry in archive.infolist()), 1)
    if unpacked > limits.unpacked or (unpacked > 1 << 26 and unpacked > limits.ratio * packed):
        raise SourceError(
            source,
            f"the file unpacks to {unpacked:,} bytes, {unpacked // packed:,} times its size",
            f"At most {limits.unpacked:,} bytes and {limits.ratio} times are read",
        )
    for entry in archive.infolist():
        if entry.flag_bits & 1:
            raise SourceError(source, *_LOCKED)
    if _MANIFEST in archive.namelist() and _ENCRYPTED in archive.read(_MANIFEST):
        raise SourceError(source, *_LOCKED)
    return archive


def right_ending(archive: ZipFile) -> str:
    """Return a hint at the ending that fits what a packed file holds."""
    for part, ending in (("xl/workbook.xml", ".xlsx"), ("content.xml", ".ods")):
        if part in archive.namelist():
            return f"Its ending should be {ending}"
    return "Is its ending right?"


class _Pieces:
    """What is read of a part a little ahead, piece by piece, whatever is asked."""

    def __init__(self, pieces: Iterator[bytes]) -> None:
        self._pieces = pieces

    def read(self, size: int = -1) -> bytes:
        """Return the next piece; none at the end."""
        return next(self._pieces, b"")


@contextmanager
def read_ahead(archive: Packed, path: str, size: int) -> Iterator[Any]:
    """Give a part of an archive that is unpacked, in pieces of so many bytes, on another thread."""
    with (
        archive.open(path) as part,
        Ahead(lambda: iter(partial(part.read, size), b"")) as pieces,
    ):
        yield _Pieces(pieces)
