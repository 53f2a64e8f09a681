"""The XML of an OpenDocument spreadsheet: its rows a few megabytes at a time, the rest by events.

Rows that stand plainly one after the other are cut out. Most writers write cells in one plain
way, which one pattern takes apart; what holds anything else is parsed as XML. Both give the same
tokens. Where more than rows is among them (groups of rows, tables in cells, comments), the parser
of the rest is given them too: it tells of every element.
"""

import re
from collections.abc import Callable, Iterator
from typing import IO, Any, NamedTuple
from xml.etree.ElementTree import Element, ParseError, XMLPullParser, fromstring
from xml.sax.saxutils import quoteattr

from even_sieve.sources.ods_cells import COVERED, NotPlain, PlainCells, Token
from even_sieve.sources.ods_text import text_of
from even_sieve.sources.plain_xml import may_hold_comments, plain_text
from even_sieve.sources.second import Shared

#: The tag of a row.
ROW = "{urn:oasis:names:tc:opendocument:xmlns:table:1.0}table-row"
PIECE = 1 << 20
#: A row of more bytes is left to the events, by which its cells are counted.
_LONGEST = 1 << 23
_BEGIN = re.compile(rb"<table:table-row[\s/>]")
_END = b"</table:table-row>"
#: A table in a cell: the parser tells which rows are its own.
_INNER = re.compile(rb"<table:table[\s/>]")
_DECLARED = re.compile(rb"\s*<\?xml[^>]*\?>")
_OTHER_ENCODING = re.compile(rb"<\?xml[^>]*encoding=[\"'](?!utf-?8)", re.IGNORECASE)


class Row(NamedTuple):
    """A row: how often it is repeated as it is written, what is seen of it, its cells."""

    repeated: str
    visibility: str
    cells: list[Token]


_OPENING = re.compile(r'\s*<table:table-row((?: [\w:-]+="[^"<&]*")*)\s*(/?)>')
_TIMES = re.compile(r' table:number-rows-repeated="([^"]*)"')
_SEEN = re.compile(r' table:visibility="([^"]*)"')
#: What the prefixes of the plain way must stand for.
_USUAL = {
    "table": "urn:oasis:names:tc:opendocument:xmlns:table:1.0",
    "office": "urn:oasis:names:tc:opendocument:xmlns:office:1.0",
    "text": "urn:oasis:names:tc:opendocument:xmlns:text:1.0",
}
_EXTENSION = "urn:org:documentfoundation:names:experimental:calc:xmlns:calcext:1.0"
_CALCULATED = f"{{{_EXTENSION}}}value-type"
_OFFICE, _TABLE, _TEXT = (f"{{{_USUAL[name]}}}" for name in ("office", "table", "text"))
_CELL, _COVERED = f"{_TABLE}table-cell", f"{_TABLE}covered-table-cell"
#: Where the value of a type stands, if not in the one attribute of all others.
_VALUES = {
    kind: f"{_OFFICE}{kind}-value" for kind in ("date", "boolean", "string", "time")
}  # fmt: skip
#: White space that the standard has read as a single space.
_WHITE = ("  ", "\t", "\n", "\r")
_RUN = re.compile(r"<text:p>[^<]*?(?: {2}|[\t\n\r])[^<]*</text:p>")


def plain_rows(content: bytes, cells: PlainCells | None = None) -> list[Row] | None:
    """Return the rows of a piece of XML; None if it is not all written in the plain way.

    >>> cell = b'<table:table-cell office:value-type="float" office:value="5"/>'
    >>> plain_rows(b"<table:table-row>" + cell + b"</table:table-row>")[0].cells
    [('table-cell', '', '', 'float', '', '5', '', '')]
    """
    text = plain_text(content)
    if text is None or (any(each in text for each in _WHITE) and _RUN.search(text)):
        return None
    found: list[Row] = []
    cells = PlainCells() if cells is None else cells
    for chunk in text.split("</table:table-row>")[:-1]:
        at = 0
        while (opening := _OPENING.match(chunk, at)) is not None:
            found.append(_opened(opening[1]))
            at = opening.end()
            if not opening[2]:
                break
        if opening is None:
            return None
        try:
            found[-1].cells.extend(cells.within(chunk, at))
        except NotPlain:
            return None
    return found


def _opened(attributes: str) -> Row:
    times, seen = _TIMES.search(attributes), _SEEN.search(attributes)
    repeated = "" if times is None else times[1] or "1"
    return Row(repeated, "" if seen is None else seen[1], [])


def row_of(element: Element, longest: int) -> Row:
    """Return the row of an element of XML. Raises `ValueError` for a text that is too long."""
    times = element.get(f"{_TABLE}number-rows-repeated")
    cells = [
        token_of(each, longest) for each in element if each.tag == _CELL or each.tag == _COVERED
    ]
    repeated = "" if times is None else times or "1"
    return Row(repeated, element.get(f"{_TABLE}visibility", ""), cells)


def token_of(cell: Element, longest: int) -> Token:
    """Return the cell of an element of XML."""
    # Its own paragraphs alone: a comment on the cell has some too.
    paragraphs = [text_of(each, longest) for each in cell if each.tag == f"{_TEXT}p"]
    times = cell.get(f"{_TABLE}number-columns-repeated")
    kind = cell.get(f"{_OFFICE}value-type", "")
    return (
        COVERED if cell.tag == _COVERED else "table-cell",
        "" if times is None else times or "1",
        cell.get(f"{_TABLE}formula", ""),
        kind,
        cell.get(f"{_OFFICE}currency", ""),
        cell.get(_VALUES.get(kind, f"{_OFFICE}value"), ""),
        "error" if cell.get(_CALCULATED) == "error" else "",
        "\n".join(paragraphs),
    )


class ContentXml:
    """Goes through a document once: what it holds outside of rows, and its rows."""

    def __init__(
        self,
        part: IO[bytes],
        longest: int,
        told: Callable[[int], None],
        work: Shared[bytes, Any],
    ) -> None:
        self._part, self._longest, self._told, self._done = part, longest, told, 0
        self._parser: Any = XMLPullParser(("start", "end", "start-ns", "end-ns"))
        self._spaces: list[tuple[str, str]] = []
        self._inside, self._cells, self._work = 0, PlainCells(), work
        self._plain = True

    def events(self) -> Iterator[tuple[str, Any]]:
        """Yield `start` and `end` of elements, and what stands among them.

        `row` comes with a row that was parsed apart, `made` with what the work made of a piece of
        rows. Raises `ParseError` for what is no XML.
        """
        waiting = self._more()
        self._plain = not _OTHER_ENCODING.match(waiting)
        declared = _DECLARED.match(waiting)
        if declared is not None:
            yield from self._fed(waiting[: declared.end()])
            waiting = waiting[declared.end() :]
        while waiting:
            yield from self._taken(waiting)
            waiting = self._left + self._more(self._left)
        yield from self._made(every=True)
        self._parser.close()
        yield from self._read()

    def _more(self, left: bytes = b"") -> bytes:
        """Return the next piece; what is left over is given out at the end."""
        piece = self._part.read(PIECE)
        self._done += len(piece)
        self._told(self._done)
        if not piece and left:
            self._plain = False  # the last of it goes to the parser as it is
        return piece

    def _taken(self, text: bytes) -> Iterator[tuple[str, Any]]:
        """Yield what is in a text, and leave what cannot be told yet."""
        self._left = b""
        if may_hold_comments(text):  # what looks like a row could be in one
            self._plain = False
        begin = _BEGIN.search(text) if self._plain and not self._inside else None
        if begin is None:
            keep = text.rfind(b"<") if self._plain else -1  # a tag that is cut
            if keep < 0 or b">" in text[keep:]:
                keep = len(text)
            yield from self._fed(text[:keep])
            self._left = text[keep:]
            return
        yield from self._fed(text[: begin.start()])
        end = text.rfind(_END) + len(_END)
        if end < begin.start() + len(_END):
            self._left = text[begin.start() :]
            self._plain = len(self._left) < _LONGEST
            return
        yield from self._rows(text[begin.start() : end])
        self._left = text[end:]

    def _rows(self, text: bytes) -> Iterator[tuple[str, Any]]:
        if self._is_usual() and _INNER.search(text) is None:
            self._work.give(text)
            yield from self._made()
        else:
            yield from self._made(every=True)
            yield from self._parsed(text)

    def _is_usual(self) -> bool:
        usual = dict(self._spaces)
        known = usual.get("calcext", _EXTENSION) == _EXTENSION
        return known and all(usual.get(prefix) == uri for prefix, uri in _USUAL.items())

    def _made(self, *, every: bool = False) -> Iterator[tuple[str, Any]]:
        """Yield what was made of the pieces of rows so far; what was not is looked at here."""
        for text, made in self._work.ready(every=every):
            if made is not None:
                yield "made", made
            else:
                yield from self._parsed(text)

    def _parsed(self, text: bytes) -> Iterator[tuple[str, Any]]:
        """Yield the rows of a text by themselves or, of one that holds more, its events."""
        usual = dict(self._spaces)
        plain = plain_rows(text, self._cells) if self._is_usual() else None
        if plain is not None:
            yield from (("row", row) for row in plain)
            return
        spaces = "".join(
            f" xmlns{':' if prefix else ''}{prefix}={quoteattr(uri)}"
            for prefix, uri in usual.items()
        )
        try:
            rows = fromstring(b"<rows" + spaces.encode() + b">" + text + b"</rows>")
        except ParseError:
            rows = None
        if rows is None or any(row.tag != ROW for row in rows):
            self._parser.feed(text)
            yield from self._read()
            return
        yield from (("row", row_of(row, self._longest)) for row in rows)

    def _fed(self, text: bytes) -> Iterator[tuple[str, Any]]:
        if text:  # the parser is told of what stands before it first
            yield from self._made(every=True)
        self._parser.feed(text)
        yield from self._read()

    def _read(self) -> Iterator[tuple[str, Element | Row]]:
        for event, found in self._parser.read_events():
            if event == "start-ns":
                self._spaces.append(found)
            elif event == "end-ns":
                self._spaces.pop()
            else:
                self._inside += (event == "start") - (event == "end") if found.tag == ROW else 0
                yield event, found
