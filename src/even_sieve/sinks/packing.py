"""Packed files without a trace of when they were written: the same content, the same bytes."""

import re
from collections.abc import Callable, Iterable, Mapping, Sequence
from io import BytesIO
from pathlib import Path
from typing import IO
from xml.sax.saxutils import escape
from zipfile import ZipFile, ZipInfo

_NO_TIME = (1980, 1, 1, 0, 0, 0)
_MODIFIED = re.compile(rb"(<dcterms:(?:created|modified)[^>]*>)[^<]*(</dcterms:)")
_AT_ONCE = 1 << 16

#: The rows of one sheet, as pieces of XML.
Rows = Iterable[str]


def write_packed(
    write: Callable[[BytesIO], object],
    path: Path,
    gap: re.Pattern[bytes],
    rows: Mapping[str, Sequence[Rows]],
) -> None:
    """Write a packed file to the path, its parts in their order, at no time.

    `write` makes it without rows; the rows of a part go where `gap` is found in it, one sheet
    after the other, and never stand in memory together.
    """
    made = BytesIO()
    write(made)
    with ZipFile(made) as packed, ZipFile(path, "w") as out:
        for entry in packed.infolist():
            content = packed.read(entry)
            if entry.filename == "docProps/core.xml":
                content = _MODIFIED.sub(rb"\g<1>1980-01-01T00:00:00Z\g<2>", content)
            part = ZipInfo(entry.filename, _NO_TIME)
            part.compress_type = entry.compress_type
            part.external_attr = 0o644 << 16
            with out.open(part, "w") as stream:
                _fill(stream, content, gap, rows.get(entry.filename, ()))


def _fill(
    stream: IO[bytes], content: bytes, gap: re.Pattern[bytes], sheets: Sequence[Rows]
) -> None:
    at = 0
    for sheet in sheets:
        found = gap.search(content, at)
        if found is None:
            raise RuntimeError("a sheet has no place for its rows")
        stream.write(content[at : found.start()] + found.expand(rb"\1"))
        for piece in _joined(sheet):
            stream.write(piece.encode("utf-8"))
        stream.write(found.expand(rb"\2"))
        at = found.end()
    stream.write(content[at:])


def _joined(rows: Rows) -> Iterable[str]:
    """Yield the rows many at a time."""
    pieces: list[str] = []
    size = 0
    for row in rows:
        pieces.append(row)
        size += len(row)
        if size > _AT_ONCE:
            yield "".join(pieces)
            pieces, size = [], 0
    yield "".join(pieces)


def escaped(text: str) -> str:
    """Return a text as XML holds it, its line breaks among it."""
    return escape(text, {"\r": "&#13;"})
