"""Wildcards over a whole text, in time that grows with the text and never explodes."""

import re
import unicodedata
from collections.abc import Callable, Iterable, Mapping, Sequence
from enum import Enum
from typing import Any, Protocol, runtime_checkable

from even_sieve.core.cells import fold
from even_sieve.core.cells.unseen import Holding

#: Letters that more than one stands for when folded, and marks that make such letters (RE2).
FOLDED_LONGER = (
    r"[\x{df}\x{130}\x{149}\x{307}\x{345}\x{587}\x{1e9a}\x{1e9e}\x{1f80}-\x{1ffc}"
    r"\x{fb00}-\x{fb17}]"
)
#: Marks that join with the letter before them (RE2).
MARKS = r"\p{M}"
#: How they begin in UTF-8.
_BEGIN_LONGER = (
    b"\xc3\x9f", b"\xc4\xb0", b"\xc5\x89", b"\xcc\x87", b"\xcd\x85", b"\xd6\x87", b"\xe1\xba",
    b"\xe1\xbe", b"\xe1\xbf", b"\xef\xac",
)  # fmt: skip

#: In more ways a stretch of letters is not written out.
_MOST_WAYS = 64


class Apart(Protocol):
    """Texts in which one letter stands for each that several stand for when folded.

    They stand at `places` among all; those at `others` have to be read one by one.
    """

    places: Any
    others: Any
    stands_for: Mapping[str, str]

    def search(self, pattern: str) -> Any:
        """Return which of them fit a pattern (of RE2), as places among themselves, ascending."""


@runtime_checkable
class Longer(Holding, Protocol):
    """Texts that know those of which a letter stands for several when folded."""

    def with_letters_apart(self) -> Apart:
        """Return these."""


class Wild(Enum):
    """The two wildcards."""

    ANY_RUN = "*"
    ONE = "?"


def settled(parts: Sequence[str | Wild]) -> list[str | Wild]:
    """Return the parts with one star, behind all else, for those of a run of wildcards.

    >>> settled(("b", Wild.ANY_RUN, Wild.ONE, Wild.ANY_RUN))
    ['b', <Wild.ONE: '?'>, <Wild.ANY_RUN: '*'>]
    """
    found: list[str | Wild] = []
    star: list[str | Wild] = []
    for part in parts:
        if part is Wild.ANY_RUN:
            star = [part]
        elif part is Wild.ONE:
            found.append(part)
        else:
            found += [*star, part]
            star = []
    return found + star


def matcher(parts: Sequence[str | Wild]) -> Callable[[str], bool]:
    """Return a function that tells whether a folded text matches the pattern as a whole.

    The pieces between stars are looked for from left to right, each from where the one
    before ended; the first place found is always good enough, so nothing is tried twice.

    >>> matches = matcher(("b", Wild.ANY_RUN, "ship", Wild.ONE))
    >>> matches("blue ship9"), matches("blue ship")
    (True, False)
    """
    match list(parts):
        case [str() as beginning, Wild.ANY_RUN]:
            begin = fold(beginning)
            return lambda text: text.startswith(begin)
        case [Wild.ANY_RUN, str() as ending]:
            finish = fold(ending)
            return lambda text: text.endswith(finish)
        case [Wild.ANY_RUN, str() as inside, Wild.ANY_RUN]:
            within = fold(inside)
            return lambda text: within in text
    return _in_pieces(parts)


def expression(parts: Sequence[str | Wild]) -> str:
    """Return the pattern over folded texts as a regular expression of RE2.

    >>> expression(("b.", Wild.ANY_RUN, Wild.ONE))
    '(?s)\\\\Ab\\\\x{2e}.*.\\\\z'
    """
    return _expression(parts, ".")


def loose_expression(parts: Sequence[str | Wild]) -> str:
    """Return the same in which one letter may stand for several.

    Texts with `MARKS` need not fit: folded letters may join with marks behind them.
    """
    return _expression(parts, ".{0,3}")


def expression_apart(parts: Sequence[str | Wild], stands_for: Mapping[str, str]) -> str | None:
    """Return the same over texts in which one letter stands for several; None if that cannot be.

    >>> expression_apart(("gross", Wild.ONE), {"\ue000": "ss"})
    '(?s)\\\\Agro(?:ss|\\\\x{e000}).\\\\z'
    """
    said: dict[str | Wild, str] = {}
    for part in parts:
        if isinstance(part, str):
            own = _said_apart(fold(part), stands_for)
            if own is None or not stands_for.keys().isdisjoint(part):
                return None
            said[part] = own
    return _expression(parts, ".", said)


def _said_apart(letters: str, stands_for: Mapping[str, str]) -> str | None:
    """Return an expression for letters, some of which others stand for; None if it is long."""
    runs = [(letter, run, len(run)) for letter, run in stands_for.items()]
    begins = [
        [(letter, length) for letter, run, length in runs if letters.startswith(run, at)]
        for at in range(len(letters))
    ]
    said, at = "", 0
    while at < len(letters):
        end = at + 1
        reach = max((at + length for _, length in begins[at]), default=end)
        while end < reach:  # runs that overlap are written out together
            reach = max([reach, *(end + length for _, length in begins[end])])
            end += 1
        ways = _ways(letters, at, end, begins)
        if ways is None:
            return None
        said += ways[0] if len(ways) == 1 else f"(?:{'|'.join(ways)})"
        at = end
    return said


def _ways(
    letters: str, start: int, end: int, begins: Sequence[Sequence[tuple[str, int]]]
) -> list[str] | None:
    """Return the ways to write letters from one place to another; None if there are many."""
    ways: dict[int, list[str]] = {end: [""]}
    for at in range(end - 1, start - 1, -1):
        nexts = [(letters[at], at + 1)]
        nexts += [(each, at + length) for each, length in begins[at] if at + length <= end]
        ways[at] = [_escaped(each) + more for each, then in nexts for more in ways[then]]
        if len(ways[at]) > _MOST_WAYS:
            return None
    return ways[start]


def _expression(
    parts: Sequence[str | Wild], one: str, written: Mapping[str | Wild, str] | None = None
) -> str:
    begin, end = r"\A", r"\z"
    if list(parts[:1]) == [Wild.ANY_RUN]:
        begin, parts = "", parts[1:]
    if list(parts[-1:]) == [Wild.ANY_RUN]:
        end, parts = "", parts[:-1]
    said = {Wild.ANY_RUN: ".*", Wild.ONE: one, **(written or {})}
    pieces = [said.get(part) or _escaped(fold(str(part))) for part in parts]
    return f"(?s){begin}{''.join(pieces)}{end}"


def _escaped(letters: str) -> str:
    return "".join(
        char if char.isascii() and char.isalnum() else rf"\x{{{ord(char):x}}}" for char in letters
    )


def may_fold_longer(texts: Sequence[str]) -> Iterable[int]:
    """Return the places of the texts, other places maybe among them, that are not `one_to_one`.

    >>> list(may_fold_longer(["Mole", "Straße"]))
    [0, 1]
    """
    if not isinstance(texts, Holding):
        return range(len(texts))
    if not may_hold_longer(texts):
        return ()
    found: Iterable[int] = texts.search(FOLDED_LONGER).tolist()
    return found


def may_hold_longer(texts: Holding) -> bool:
    """Tell whether there may be letters in any of the texts for which several stand when folded."""
    return any(map(texts.hold, _BEGIN_LONGER))


def one_to_one(text: str) -> bool:
    """Tell whether folding leaves every character of a text in its place: not so `ß`."""
    return text.isascii() or all(len(fold(char)) == 1 for char in _composed(text))


def matches_as_written(parts: Sequence[str | Wild], text: str) -> bool:
    """Tell whether a text matches as a whole, `?` standing for one character as it is written.

    >>> matches_as_written(("Stra", Wild.ONE, "e"), "Straße")
    True
    """
    chars = [fold(char) for char in _composed(text)]
    places = {0}
    for part in parts:
        if part is Wild.ANY_RUN:
            places = set(range(min(places), len(chars) + 1)) if places else places
        elif part is Wild.ONE:
            places = {place + 1 for place in places if place < len(chars)}
        else:
            run = "".join(map(fold, _composed(str(part))))
            places = {end for place in places if (end := _end(chars, place, run)) >= 0}
    return len(chars) in places


def _end(chars: list[str], start: int, piece: str) -> int:
    """Return where a piece ends that begins at a character; -1 if it does not stand there."""
    at, run = start, ""
    while len(run) < len(piece) and at < len(chars):
        run, at = run + chars[at], at + 1
    return at if run == piece else -1


def _composed(text: str) -> str:
    return unicodedata.normalize("NFC", text)


def _in_pieces(parts: Sequence[str | Wild]) -> Callable[[str], bool]:
    pieces = _between_stars(parts)
    if len(pieces) == 1:
        whole = _compiled(pieces[0])
        return lambda text: whole.fullmatch(text) is not None
    first, *middle, last = [_compiled(piece) for piece in pieces]
    last_length = sum(1 if isinstance(part, Wild) else len(fold(part)) for part in pieces[-1])

    def matches(text: str) -> bool:
        begin = first.match(text)
        if begin is None:
            return False
        position, end = begin.end(), len(text) - last_length
        for piece in middle:
            found = piece.search(text, position)
            if found is None:
                return False
            position = found.end()
        return position <= end and last.fullmatch(text, end) is not None

    return matches


def _between_stars(parts: Sequence[str | Wild]) -> list[list[str | Wild]]:
    pieces: list[list[str | Wild]] = [[]]
    for part in parts:
        if part is Wild.ANY_RUN:
            pieces.append([])
        else:
            pieces[-1].append(part)
    return [pieces[0], *(piece for piece in pieces[1:-1] if piece), *pieces[1:][-1:]]


def _compiled(piece: Sequence[str | Wild]) -> re.Pattern[str]:
    """Return a pattern of fixed length: literals and single characters, nothing to retry."""
    written = "".join("." if isinstance(part, Wild) else re.escape(fold(part)) for part in piece)
    return re.compile(written, re.DOTALL)
