"""The texts that the cells of a workbook of ISO/IEC 29500 share, read a megabyte at a time.

Plain ones are taken apart all at once; a piece that holds others (of several runs, with readings)
is parsed, and so is all of an XML that cannot be cut into pieces.
"""

import re
from collections.abc import Iterator
from io import BytesIO
from typing import IO
from xml.etree.ElementTree import iterparse

from even_sieve.sources.plain_xml import may_hold_comments, plain_text, unescaped
from even_sieve.sources.xlsx_rows import text_of
from even_sieve.sources.xml_tags import Grammar, Strange, codes_by_two, tags_of

_PIECE = 1 << 20
_OPENING = re.compile(rb"\s*(?:<\?xml[^>]*\?>\s*)?<sst(?:\s[^<>]*)?(?<!/)>")
_OTHER_ENCODING = re.compile(rb"<\?xml[^>]*encoding=[\"'](?!utf-?8)", re.IGNORECASE)
_ENDS, _CLOSING = b"</si>", re.compile(rb"\s*</sst>\s*\Z")

_UNKNOWN, _ITEM, _EMPTY_ITEM, _ITEM_ENDS, _TEXT, _TEXT_ENDS = range(6)
_GRAMMAR = Grammar(
    {
        _ITEM: (b"<si",), _ITEM_ENDS: (_ENDS,), _TEXT: (b"<t>", b"<t x"), _TEXT_ENDS: (b"</t>",),
    },
    frozenset({_ITEM}),
    {_ITEM: (_TEXT,), _ITEM_ENDS: (_ITEM,), _TEXT: (_TEXT_ENDS,), _TEXT_ENDS: (_ITEM_ENDS,)},
    frozenset({_TEXT}), frozenset({_ITEM}), frozenset({_ITEM_ENDS}),
)  # fmt: skip
_codes = codes_by_two({
    b"si": _ITEM, b"/s": _ITEM_ENDS, b"t>": _TEXT, b"t ": _TEXT, b"/t": _TEXT_ENDS,
})  # fmt: skip


def shared_texts(part: IO[bytes]) -> list[str]:
    """Return the texts in their order. Raises `ParseError` for what is no XML."""
    head = part.read(_PIECE)
    opening = _OPENING.match(head)
    if opening is None or _OTHER_ENCODING.match(head):
        return list(_parsed(BytesIO(head + part.read())))
    texts: list[str] = []
    rest = head[opening.end() :]
    while piece := part.read(_PIECE):
        if may_hold_comments(rest):  # what looks like an item could be in one
            break
        cut = rest.rfind(_ENDS) + len(_ENDS)
        if cut >= len(_ENDS):
            texts += _in_piece(rest[:cut], opening[0])
            rest = rest[cut:]
        rest += piece
    rest += piece + part.read()
    closing = _CLOSING.search(rest)
    if closing is None or b"<!" in rest:  # the parser tells what is wrong, if anything is
        return texts + list(_parsed(BytesIO(opening[0] + rest)))
    return texts + _in_piece(rest[: closing.start()], opening[0])


def _in_piece(content: bytes, opening: bytes) -> list[str]:
    """Return the texts in a piece of whole items."""
    if b"\r" in content:  # XML has lines end in one way
        content = content.replace(b"\r\n", b"\n").replace(b"\r", b"\n")
    try:
        return _at_once(content)
    except Strange:
        return list(_parsed(BytesIO(opening + content + b"</sst>")))


def _at_once(content: bytes) -> list[str]:
    if plain_text(content) is None:
        raise Strange
    tags = tags_of(content, _GRAMMAR, _codes)
    texts: list[str] = tags.strings(*tags.texts_after(tags.of(_TEXT))).to_pylist()
    return list(map(unescaped, texts)) if b"&" in content else texts


def _parsed(part: IO[bytes]) -> Iterator[str]:
    events = iterparse(part, ("start", "end"))
    root = next(events)[1]
    for event, element in events:
        if event == "end" and element.tag[-3:] == "}si":
            yield text_of(element)
            root.clear()
