"""Packed files (zip), looked at before anything is unpacked."""

import zlib
from io import BytesIO
from zipfile import BadZipFile, ZipFile, ZipInfo

from even_sieve.core.errors import SourceError
from even_sieve.sources.source_options import Limits

_PIECE = 1 << 20
#: A character takes up to so many bytes.
_MOST_BYTES = 4
_DECLARATIONS = tuple("<!DOCTYPE".encode(name) for name in ("utf-8", "utf-16-le", "utf-16-be"))


def open_packed(content: bytes, source: str, limits: Limits) -> ZipFile:
    """Return the archive. Raises `SourceError` for a broken one, or one beyond the limits."""
    if not content.startswith(b"PK"):
        hint = "Its ending is another file's, or it was cut off"
        raise SourceError(source, "this is no workbook, which is a packed file", hint)
    try:
        archive = ZipFile(BytesIO(content))
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
            raise SourceError(source, "the workbook is locked with a password", "Save it without")
        _look_through(archive, entry, source, limits)
    return archive


def right_ending(archive: ZipFile) -> str:
    """Return a hint at the ending that fits what a packed file holds."""
    for part, ending in (("xl/workbook.xml", ".xlsx"), ("content.xml", ".ods")):
        if part in archive.namelist():
            return f"Its ending should be {ending}"
    return "Is its ending right?"


def _look_through(archive: ZipFile, entry: ZipInfo, source: str, limits: Limits) -> None:
    """Raise `SourceError` for what a parser would choke on, before one sees it.

    A document type could define entities that expand: no part of either standard has one, and
    with these out the fast parser is safe to use. A text longer than a cell may be would be
    held whole.
    """
    last, run = b"", 0  # how many bytes there are since the last beginning of a tag
    try:
        with archive.open(entry) as part:
            while piece := part.read(_PIECE):
                if any(declaration in last + piece for declaration in _DECLARATIONS):
                    raise SourceError(source, "the file defines entities, which are not expanded")
                last = piece[-32:]
                if not entry.filename.endswith((".xml", ".rels")):
                    continue
                first = piece.find(b"<")
                run += len(piece) if first < 0 else first
                if run > _MOST_BYTES * limits.cell:
                    fact = f"a cell has more than {limits.cell:,} characters"
                    raise SourceError(source, fact, "No more are read")
                run = run if first < 0 else len(piece) - piece.rfind(b"<")
    except (BadZipFile, zlib.error, EOFError):
        raise SourceError(source, "the archive is broken", "Save it again") from None
