"""The rows and cells in a piece of the XML of a sheet.

Most writers write cells in one plain way, which one pattern takes apart; a piece that holds
anything else is parsed as XML. Both give the same tokens.
"""

import re
from dataclasses import dataclass
from operator import itemgetter
from typing import Any, TypeAlias
from xml.etree.ElementTree import Element

from even_sieve.sources.plain_xml import plain_text, unescaped

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
#: A row is hidden by a flag, or by its height.
_HIDDEN = re.compile(r' (?:hidden="(?:1|true)"|ht="0(?:\.0*)?")')
_NO_HEIGHT = re.compile(r"0(?:\.0*)?\Z")
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
    flat = _NO_HEIGHT.match(element.get("ht", "")) is not None
    return Row(element.get("r"), flat or element.get("hidden") in ("1", "true"), cells)


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
