"""The text of a paragraph of an OpenDocument file, as the standard spells it."""

import re
from collections.abc import Iterator
from xml.etree.ElementTree import Element

_OFFICE, _TEXT = (
    f"{{urn:oasis:names:tc:opendocument:xmlns:{name}:1.0}}" for name in ("office", "text")
)
_SPACES = f"{_TEXT}s"
_SIGNS = {f"{_TEXT}tab": "\t", f"{_TEXT}line-break": "\n"}
_NOT_TEXT = (f"{_OFFICE}annotation", f"{_TEXT}note")
#: By part 3, 6.1.2 of the standard a run of white space in a text is one space.
_WHITE = re.compile(r"[ \t\r\n]+")


def text_of(element: Element, longest: int) -> str:
    """Return the text of a paragraph, its runs of spaces, tabs and line breaks spelt out.

    Raises `ValueError` for one longer than a cell may be, before it is made.
    """
    if not len(element) and len(element.text or "") <= longest:  # as most are
        return _WHITE.sub(" ", element.text or "").strip("\n")
    pieces, length = [], 0
    for piece in _pieces(element):
        length += piece if isinstance(piece, int) else len(piece)
        if length > longest:
            raise ValueError(f"a cell has more than {longest:,} characters")
        pieces.append(" " * piece if isinstance(piece, int) else piece)
    return "".join(pieces).strip("\n")


def _pieces(element: Element) -> Iterator[str | int]:
    """Yield the texts inside of an element, runs of spaces as how many there are."""
    waiting: list[Element | str] = [element]
    while waiting:  # spans may stand in spans: nothing calls itself
        each = waiting.pop()
        if isinstance(each, str):
            yield _WHITE.sub(" ", each)
            continue
        if each.tag == _SPACES:
            yield max(int(each.get(f"{_TEXT}c") or 1), 0)
        elif each.tag in _SIGNS:
            yield _SIGNS[each.tag]
        elif each is element or each.tag not in _NOT_TEXT:
            inside: list[Element | str] = [each.text or ""]
            for child in each:
                inside += (child, child.tail or "")
            waiting += reversed(inside)
