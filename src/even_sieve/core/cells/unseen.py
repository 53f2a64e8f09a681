"""Texts that look alike and are not equal: signs that nobody sees, spaces of other widths."""

import re
from collections.abc import Sequence
from typing import Any, Protocol, runtime_checkable

from even_sieve.core.cells.likeness import texts_found

_NO_WIDTH = "\u00ad\u200b-\u200f\u202a-\u202e\u2060-\u2064\u2066-\u2069\ufeff"
_SPACES = "\u00a0\u2000-\u200a\u202f\u205f\u3000"
_UNSEEN = re.compile(f"[{_NO_WIDTH}]")
_ODD = re.compile(f"[{_NO_WIDTH}{_SPACES}\t]|  ")
_ODD_OF_RE2 = "".join(
    rf"\x{{{ord(each):04X}}}" if each not in "-[]" else each for each in f"[{_NO_WIDTH}{_SPACES}]"
)
#: How the bytes (UTF-8) of the odd ones begin; of the last ones other signs begin so too.
_BEGIN = (
    b"  ",
    b"\t",
    b"\xc2\xad",
    b"\xc2\xa0",
    b"\xef\xbb\xbf",
    b"\xe3\x80\x80",
    b"\xe2\x80",
    b"\xe2\x81",
)


@runtime_checkable
class Holding(Protocol):
    """Texts that know how to look at the bytes of all of them at once."""

    def hold(self, part: bytes) -> bool:
        """Tell whether a part is among the bytes of the texts."""

    def search(self, pattern: str, among: Any = None) -> Any:
        """Return the places of the texts in which a pattern (of RE2) is found, ascending.

        `among` are places that ascend, where not all are looked at.
        """


def all_with_unseen(texts: Sequence[str]) -> Sequence[int]:
    """Return the places of the texts that hold signs that nobody sees, or odd spaces.

    >>> all_with_unseen(["East", "East\u200b", "Mole  3", "Mole\u00a03", "Pärnu"])
    [1, 2, 3]
    """
    if not isinstance(texts, Holding):
        return texts_found(_ODD, texts)
    if not any(map(texts.hold, _BEGIN)):
        return []
    found: Sequence[int] = texts.search(rf"{_ODD_OF_RE2}|\t|  ").tolist()
    return found


def as_seen(text: str) -> str:
    """Return what a person sees of a text.

    >>> as_seen("Mole\u00a0 3\u200b")
    'Mole 3'
    """
    return " ".join(_UNSEEN.sub("", text).split())


def with_signs(text: str) -> str:
    """Return a text with the signs that nobody sees, and odd spaces, as their codes.

    >>> with_signs("Mole\u00a03\u200b"), with_signs("Mole  3"), with_signs("Mole 3")
    ('Mole[U+00A0]3[U+200B]', 'Mole [U+0020]3', 'Mole 3')
    """
    text = re.sub("(?<= ) ", "[U+0020]", text)
    return re.sub(f"[{_NO_WIDTH}{_SPACES}\t]", lambda sign: f"[U+{ord(sign[0]):04X}]", text)
