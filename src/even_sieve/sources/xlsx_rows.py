"""The rows in the XML of a sheet, cut out of it a few megabytes at a time.

Most writers write cells in one plain way, which one pattern takes apart; a piece that holds
anything else is parsed as XML. Both give the same tokens. An XML that cannot be cut into pieces
(another encoding, no rows) is parsed as a whole.
"""

import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from itertools import islice
from operator import itemgetter
from typing import IO, Any, TypeAlias
from xml.etree.ElementTree import Element, fromstring

from even_sieve.sources.plain_xml import plain_text, unescaped

PIECE = 1 << 20
_LONGEST_HEAD = 1 << 24
#: So many rows of an XML that was parsed as a whole are given out at once.
_ROWS = 1 << 12
_DATA = re.compile(rb"<((?:[\w.-]+:)?)sheetData(?:\s[^>]*)?(?<!/)>")
_FIRST_ROW = re.compile(rb"<(?:[\w.-]+:)?row(?:\s[^>]*)?>")
_ROOT = re.compile(rb"<(?:[\w.-]+:)?worksheet(?:\s[^>]*)?>")
_OTHER_ENCODING = re.compile(rb"<\?xml[^>]*encoding=[\"'](?!utf-?8)", re.IGNORECASE)

#: A cell: the letters of its place (empty: after the one before), style, kind; whether there is a
#: formula, its group, its text; the value, and the text inside of the cell; what is none of it.
Token: TypeAlias = tuple[str, str, str, str, str, str, str, str, str]

_VALUE = (
    r'(?:<v(?: xml:space="preserve")?>([^<]*)</v>'
    r'|<is><t(?: xml:space="preserve")?>([^<]*)</t></is>|<v/>)?</c>)|\s+|(.+)'
)
_INSIDE = (
    r'(?:/>|>(?:(<f)(?: t="shared"(?: ref="[A-Z0-9:]+")? si="([0-9]+)")?(?:/>|>([^<]*)</f>))?'
    + _VALUE
)
_IN_ORDER = re.compile(
    r'<c r="([A-Z]{1,3})[0-9]+"(?: s="([0-9]+)")?(?: t="([a-zA-Z]+)")?' + _INSIDE, re.DOTALL
)
#: The same with these attributes in another order; one that stands twice is to be told apart.
_REORDERED = re.compile(
    r'<c(?: r="([A-Z]{1,3})[0-9]+"| s="([0-9]+)"| t="([a-zA-Z]+)")*' + _INSIDE, re.DOTALL
)
_OF_REORDERED = (' r="', ' s="', ' t="')
#: The same with attributes in any order, of which those that are not known say nothing.
_ATTRIBUTES = r'((?: [\w:.]+="[^"<\n\t]*")*) ?'
_CELL_OF_ANY = re.compile(
    rf"(<c){_ATTRIBUTES}(?:/>|>(?:(<f){_ATTRIBUTES}(?:/>|>([^<]*)</f>))?" + _VALUE, re.DOTALL
)
ATTRIBUTE = re.compile(r' ([\w:.]+)="([^"]*)"')
_ROW = re.compile(r'\s*<row((?: [\w:.]+="[^"<&]*")*)(/?)>')
_OF_CELL = re.compile(r"([A-Za-z]{1,3})[0-9]+\Z")
_PLACE = re.compile(r' r="([^"]*)"')
_HIDDEN = re.compile(r' hidden="(?:1|true)"')
_FIRST, _LAST = itemgetter(0), itemgetter(-1)


_Taken: TypeAlias = "tuple[list[Row], list[Any]] | None"


@dataclass
class Row:
    """A row: its number as it is written (None: the next one), whether it is hidden, its cells."""

    place: str | None
    hidden: bool
    cells: list[Token]


def plain_rows(piece: bytes) -> list[Row] | None:
    """Return the rows of a piece of XML; None if it is not all written in the plain way.

    >>> plain_rows(b'<row r="2"><c r="A2" t="s"><v>0</v></c></row>')[0].cells
    [('A', '', 's', '', '', '', '0', '', '')]
    """
    text = plain_text(piece)
    if text is None:
        return None
    escaped = "&" in text
    found: list[Row] = []
    *chunks, last = text.split("</row>")
    way, other = _in_usual_order, _reordered
    for chunk in chunks:
        made = way(chunk, escaped)
        if made is None:
            way, other = other, way  # writers keep to one order
            made = way(chunk, escaped) or _in_any_order(chunk, escaped)
        if made is None:
            return None
        rows, tokens = made
        rows[-1].cells = tokens
        found += rows
    at = 0
    while (opening := _ROW.match(last, at)) is not None and opening[2]:
        found.append(opened(opening[1]))
        at = opening.end()
    return None if last[at:].strip() else found


def _in_usual_order(chunk: str, escaped: bool) -> _Taken:
    return _taken_apart(chunk, _IN_ORDER, escaped=escaped)


def _reordered(chunk: str, escaped: bool) -> _Taken:
    made = _taken_apart(chunk, _REORDERED, escaped=escaped)
    if made is None:
        return None
    begin = max(chunk.find("<c"), 0)
    if chunk.count("<c", begin) != chunk.count(' r="', begin):
        return None  # a cell without a place would be taken for white space
    for place, attribute in enumerate(_OF_REORDERED):
        if chunk.count(attribute, begin) != sum(1 for each in made[1] if each[place]):
            return None  # one stands twice, or in a formula or a text
    return made


def _in_any_order(chunk: str, escaped: bool) -> _Taken:
    """Return the rows and cells of a chunk of XML, whatever attributes stand in which order."""
    made = _taken_apart(chunk, _CELL_OF_ANY, escaped=False)
    if made is None:
        return None
    tokens: list[Any] = []
    for _, attributes, formula, of_formula, words, value, inline, _ in made[1]:
        pairs, of_shared = ATTRIBUTE.findall(attributes), ATTRIBUTE.findall(of_formula)
        held, group = dict(pairs), dict(of_shared)
        if len(held) < len(pairs) or len(group) < len(of_shared):
            return None  # an attribute that stands twice: told by the parser
        shared = group.get("si", "") if group.get("t") == "shared" else ""
        token = (
            _letters_of(held.get("r", "")), held.get("s", ""), held.get("t", ""),
            formula, shared, words, value, inline, "",
        )  # fmt: skip
        tokens.append(tuple(map(unescaped, token)) if escaped else token)
    return made[0], tokens


def _letters_of(place: str) -> str:
    found = _OF_CELL.match(place)
    return found[1] if found else f"{place} " if place else ""  # which no column has


def _taken_apart(chunk: str, token: re.Pattern[str], *, escaped: bool) -> _Taken:
    """Return the rows that begin in a piece of XML up to the end of one, and the last one's cells.

    `token` finds cells, white space, or (last of its groups) what is none of both: then it is None.
    """
    rows: list[Row] = []
    at = 0
    while (opening := _ROW.match(chunk, at)) is not None:
        rows.append(opened(opening[1]))
        at = opening.end()
        if not opening[2]:
            break
    if opening is None:
        return None
    tokens = token.findall(chunk, at)
    if any(map(_LAST, tokens)):
        return None
    if not all(map(_FIRST, tokens)):  # white space between cells
        tokens = list(filter(_FIRST, tokens))
    return rows, [tuple(map(unescaped, each)) for each in tokens] if escaped else tokens


def opened(attributes: str) -> Row:
    """Return the row that a tag with these attributes begins."""
    place = _PLACE.search(attributes)
    return Row(None if place is None else place[1], _HIDDEN.search(attributes) is not None, [])


def row_of(element: Element) -> Row:
    """Return the row of an element of XML."""
    cells = [token_of(each) for each in element if each.tag[-2:] == "}c"]
    return Row(element.get("r"), element.get("hidden") in ("1", "true"), cells)


def token_of(cell: Element) -> Token:
    """Return the cell of an element of XML."""
    kind = cell.get("t", "")
    value = inline = formula = shared = words = ""
    for child in cell:
        tag = child.tag[-2:]
        if tag == "}v":
            value = child.text or ""
        elif tag == "}f":
            formula, words = "<f", child.text or ""
            shared = child.get("si", "") if child.get("t") == "shared" else ""
        elif child.tag[-3:] == "}is":
            inline = text_of(child)
    return (
        _letters_of(cell.get("r", "")),
        cell.get("s", ""),
        kind,
        formula,
        shared,
        words,
        value,
        inline,
        "",
    )


def text_of(element: Element) -> str:
    """Return the text of a shared or inline string: its runs together, without their readings."""
    if len(element) == 1 and element[0].tag[-2:] == "}t":
        return element[0].text or ""
    return "".join(
        part.text or ""
        for child in element
        if child.tag[-4:] != "}rPh"
        for part in ([child] if child.tag[-2:] == "}t" else child)
        if part.tag[-2:] == "}t"
    )


@dataclass(frozen=True)
class Cut:
    """A piece of the XML of a sheet that holds whole rows, and the root element around it."""

    content: bytes
    opening: bytes
    closing: bytes
    plain: bool

    @property
    def says_numbers(self) -> bool:
        """Whether the first row says its number."""
        found = _FIRST_ROW.search(self.content)
        return found is not None and b' r="' in found[0]

    def rows(self) -> list[Row]:
        """Return the rows."""
        found = plain_rows(self.content) if self.plain else None
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
                yield Cut(rest[:cut], opening, closing, not prefix)
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
