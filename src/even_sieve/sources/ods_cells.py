"""Cells of an OpenDocument spreadsheet that are written in a plain way, taken apart by patterns."""

import re
from typing import Any, TypeAlias

from even_sieve.sources.plain_xml import unescaped

#: The tag of a cell that another covers.
COVERED = "covered-table-cell"
#: A cell: its tag, how often it is repeated, its formula, its type, its currency and its
#: value, whether it is an error by its type, its text.
Token: TypeAlias = tuple[str, str, str, str, str, str, str, str]

_NAME = r'(?: table:(?:style|content-validation)-name="[^"<]*")*'
_TOKEN = re.compile(
    rf"((?:covered-)?table-cell){_NAME}"
    rf'(?: table:number-columns-repeated="([0-9]{{1,9}})")?{_NAME}'
    r'(?: table:formula="([^"<]*)")?'
    r'(?: office:value-type="([a-z]+)")?(?: office:currency="([^"<]*)")?'
    r'(?: office:(?:value|date-value|boolean-value|time-value|string-value)="([^"<]*)")?'
    rf'{_NAME}(?: calcext:value-type="(?:[a-z]*?(error)?)")?{_NAME}'
    r"(?:/>|>(?:<text:p>([^<]*)</text:p>)?</table:(?:covered-)?table-cell>)\s*"
)
#: The same with attributes in any order, of which those that are not known say nothing.
_CELL_OF_ANY = re.compile(
    r'((?:covered-)?table-cell)((?: [\w:.-]+="[^"<\n\t]*")*) ?'
    r"(?:/>|>(?:<text:p>([^<]*)</text:p>)?</table:(?:covered-)?table-cell>)\s*"
)
_ATTRIBUTE = re.compile(r' ([\w:.-]+)="([^"]*)"')
_PLACES = {kind: f"office:{kind}-value" for kind in ("date", "boolean", "string", "time")}
#: What stands before and after the text of a cell that holds nothing else.
_IS_TEXT, _TEXT_BEGINS = 'office:value-type="string"', "><text:p>"
_TEXT_ENDS = "</text:p></table:table-cell>"
#: So many different cells are kept, none of them longer: most columns have the same again.
_MOST, _LONG = 1 << 15, 200


class NotPlain(Exception):
    """A cell that is written in another way: the parser reads it."""


class PlainCells(dict[str, Token]):
    """The cells that were met, by how they are written."""

    def within(self, chunk: str, start: int) -> list[Token]:
        """Return the cells of a row from a place on. Raises `NotPlain`."""
        blank, *cells = chunk[start:].split("<table:")
        if blank and not blank.isspace():
            raise NotPlain
        return list(map(self.__getitem__, cells))

    def __init__(self) -> None:
        self._heads: dict[str, tuple[str, ...]] = {}

    def __missing__(self, written: str) -> Token:
        token: Any = self._of_text(written)
        if token is None:
            found = _TOKEN.fullmatch(written)
            token = _in_any_order(written) if found is None else found.groups("")
        if "&" in written:
            token = tuple(map(unescaped, token))
        if len(written) <= _LONG:
            if len(self) >= _MOST:
                self.clear()
            self[written] = token
        made: Token = token
        return made

    def _of_text(self, written: str) -> Token | None:
        """Return a cell of text by its head, which many have in common; None for another one."""
        head, begins, rest = written.partition(_TEXT_BEGINS)
        if not begins or _IS_TEXT not in head or not rest.endswith(_TEXT_ENDS):
            return None
        text = rest[: -len(_TEXT_ENDS)]
        if "<" in text:
            return None
        own = self._heads.get(head)
        if own is None:
            found = _TOKEN.fullmatch(f"{head}/>")
            own = (_in_any_order(f"{head}/>") if found is None else found.groups(""))[:-1]
            if len(self._heads) >= _MOST:
                self._heads.clear()
            self._heads[head] = own
        token: Any = (*own, text)
        made: Token = token
        return made


def _in_any_order(written: str) -> Token:
    """Return the cell that is written so, whatever attributes stand in which order."""
    other = _CELL_OF_ANY.fullmatch(written)
    pairs = [] if other is None else _ATTRIBUTE.findall(other[2])
    held = dict(pairs)
    if other is None or len(held) < len(pairs):  # one that stands twice is told by the parser
        raise NotPlain
    kind = held.get("office:value-type", "")
    times = held.get("table:number-columns-repeated")
    return (
        other[1], "" if times is None else times or "1", held.get("table:formula", ""), kind,
        held.get("office:currency", ""), held.get(_PLACES.get(kind, "office:value"), ""),
        "error" if held.get("calcext:value-type") == "error" else "", other[3] or "",
    )  # fmt: skip
