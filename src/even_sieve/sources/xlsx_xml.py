"""The XML of a sheet, cut into pieces of whole rows about a megabyte at a time.

An XML that cannot be cut into pieces (another encoding, no rows) is parsed as a whole.
"""

import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import cached_property
from itertools import islice
from typing import IO
from xml.etree.ElementTree import Element, fromstring

from even_sieve.sources.xlsx_rows import Row, plain_rows, row_of

PIECE = 1 << 20
_LONGEST_HEAD = 1 << 24
#: So many rows of an XML that was parsed as a whole are given out at once.
_ROWS = 1 << 12
_DATA = re.compile(rb"<((?:[\w.-]+:)?)sheetData(?:\s[^>]*)?(?<!/)>")
_FIRST_ROW = re.compile(rb"<(?:[\w.-]+:)?row(?:\s[^>]*)?>")
_ROOT = re.compile(rb"<(?:[\w.-]+:)?worksheet(?:\s[^>]*)?>")
_OTHER_ENCODING = re.compile(rb"<\?xml[^>]*encoding=[\"'](?!utf-?8)", re.IGNORECASE)


@dataclass(frozen=True)
class Cut:
    """A piece of the XML of a sheet that holds whole rows, and the root element around it."""

    content: bytes
    opening: bytes
    closing: bytes
    prefix: bytes = b""

    @cached_property
    def plain(self) -> bytes | None:
        """The content without a prefix of names, and with plain ends of lines; None if mixed."""
        found = self.content
        if self.prefix:
            begins, ends = b"<" + self.prefix, b"</" + self.prefix
            if found.count(b"<") != found.count(begins) + found.count(ends):
                return None
            found = found.replace(begins, b"<").replace(ends, b"</")
        return found.replace(b"\r\n", b"\n").replace(b"\r", b"\n") if b"\r" in found else found

    @property
    def says_numbers(self) -> bool:
        """Whether the first row says its number."""
        found = _FIRST_ROW.search(self.content)
        return found is not None and b' r="' in found[0]

    def rows(self) -> list[Row]:
        """Return the rows."""
        found = None if self.plain is None else plain_rows(self.plain)
        if found is not None:
            return found
        elements = fromstring(self.opening + self.content + self.closing)
        return [row_of(each) for each in elements if each.tag.endswith("}row")]


class SheetXml:
    """The XML of a sheet: its rows, some at a time; then `rest`, all but the rows."""

    def __init__(self, part: IO[bytes], told: Callable[[int], None]) -> None:
        self._part, self._told, self._done = part, told, 0
        self.rest: Element | None = None

    def _more(self) -> bytes:
        piece = self._part.read(PIECE)
        self._done += len(piece)
        self._told(self._done)
        return piece

    def pieces(self) -> Iterator["Cut | list[Row]"]:
        """Yield pieces that hold rows, or the rows themselves."""
        head, found = self._more(), None
        while (found := _DATA.search(head)) is None and len(head) < _LONGEST_HEAD:
            piece = self._more()
            if not piece:
                break
            head += piece
        opening = _ROOT.search(head)
        if found is None or opening is None or _OTHER_ENCODING.search(head[:200]):
            yield from self._whole(head)
        else:
            yield from self._in_pieces(head, found, opening[0])

    def _whole(self, head: bytes) -> Iterator[list[Row]]:
        pieces = [head]
        while piece := self._more():
            pieces.append(piece)
        self.rest = fromstring(b"".join(pieces))
        for element in self.rest:
            if element.tag.endswith("}sheetData"):
                rows = map(row_of, element)
                while some := list(islice(rows, _ROWS)):
                    yield some

    def _in_pieces(self, head: bytes, found: re.Match[bytes], opening: bytes) -> Iterator[Cut]:
        prefix = found[1]
        row_ends, data_ends = b"</" + prefix + b"row>", b"</" + prefix + b"sheetData>"
        closing = b"</" + opening[1:].split(None, 1)[0].rstrip(b">") + b">"
        rest = head[found.end() :]
        while True:
            stop = rest.find(data_ends)
            cut = stop if stop >= 0 else rest.rfind(row_ends) + len(row_ends)
            if stop >= 0 or cut >= len(row_ends):
                yield Cut(rest[:cut], opening, closing, prefix)
                rest = rest[cut:]
            if stop >= 0:
                break
            piece = self._more()
            if not piece:
                raise ValueError("the sheet breaks off")
            rest += piece
        while piece := self._more():
            rest += piece
        self.rest = fromstring(head[: found.end()] + rest)
