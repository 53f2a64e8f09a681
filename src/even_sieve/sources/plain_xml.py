"""What an XML parser would change or refuse in a text, so that patterns must not see it."""

import re

import numpy as np

#: Comments, instructions and the like, by the rare sign that shows there may be one.
_NOT_PLAIN = (("!", "<!"), ("?", "<?"), ("]]", "]]>"), ("\ufffe", "\ufffe"), ("\uffff", "\uffff"))
_BEGIN_OTHERS = ((b"!", b"<!"), (b"?", b"<?"))
_CONTROL = bytes(each for each in range(32) if each not in b"\t\n")
_OTHER_ENTITY = re.compile(r"&(?!(?:amp|lt|gt|quot|apos);)")
_ENTITIES = {"&lt;": "<", "&gt;": ">", "&quot;": '"', "&apos;": "'", "&amp;": "&"}


def may_hold_comments(piece: bytes) -> bool:
    """Tell whether there may be comments, sections or instructions in a piece of XML.

    >>> may_hold_comments(b"<v>1!</v>"), may_hold_comments(b"<v><!-- 1 --></v>")
    (False, True)
    """
    return any(sign in piece and whole in piece for sign, whole in _BEGIN_OTHERS)


def plain_text(piece: bytes) -> str | None:
    """Return a piece of XML as text; None if a parser must see it.

    >>> plain_text(b"<v>1 &lt; 2</v>"), plain_text(b"<v>&ouml;</v>"), plain_text(b"<!-- 1 -->")
    ('<v>1 &lt; 2</v>', None, None)
    """
    first = np.frombuffer(piece, dtype=np.uint8).min(initial=ord(" "))
    if first < ord(" ") and len(piece.translate(None, _CONTROL)) < len(piece):
        return None
    try:
        text = piece.decode("utf-8")
    except UnicodeDecodeError:  # told by the parser
        return None
    strange = any(sign in text and whole in text for sign, whole in _NOT_PLAIN)
    return None if strange or ("&" in text and _OTHER_ENTITY.search(text)) else text


def unescaped(text: str) -> str:
    """Return what a plain text of XML stands for."""
    if "&" in text:
        for entity, letter in _ENTITIES.items():  # that of & itself last
            text = text.replace(entity, letter)
    return text
