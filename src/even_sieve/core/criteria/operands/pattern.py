"""A text with wildcards, over the whole cell."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from even_sieve.core.cells import fold
from even_sieve.core.criteria.operands.operand import Operand, Piece, Putting, Writing
from even_sieve.core.criteria.operands.parameter import Parameter
from even_sieve.core.criteria.operands.text import Text, say_text
from even_sieve.core.criteria.operands.wildcards import (
    MARKS,
    Longer,
    Wild,
    expression,
    expression_apart,
    loose_expression,
    matcher,
    matches_as_written,
    may_fold_longer,
    may_hold_longer,
    one_to_one,
    settled,
)
from even_sieve.core.errors import ParameterError
from even_sieve.core.table.lanes import Array, TextLane
from even_sieve.core.table.texts_of_rows import Texts, TextsOfRows

if TYPE_CHECKING:
    from even_sieve.core.criteria.value_list import ValueList

#: A longer expression is not compiled: the texts are gone through one by one.
_LONG = 2_000
_ESCAPED = frozenset('\\*?|&"(){}@<>=!≠≤≥')


@dataclass(frozen=True)
class Pattern(Operand):
    """A text with wildcards, over the whole cell: literal pieces, wildcards, parameters."""

    parts: tuple[str | Wild | Parameter, ...]

    def write(self, writing: Writing) -> str:
        r"""Return the pattern, with a `\\` before letters that would mean something else."""
        text = "".join(map(_written, self.parts))
        lower = text.lower()
        if any(word in lower for word in (" and ", " or ", " not ", " is ", " in ")):
            return text.replace(" ", "\\ ")
        first, last = text[:1], text[-1:]
        begin = "\\" if first.isspace() or lower.startswith(("not ", "is ", "in ")) else ""
        return begin + (text[:-1] + "\\" + last if last.isspace() and len(text) > 1 else text)

    def say(self) -> str:
        """Return the pattern as it is spelt."""
        return "".join(map(_spelt, self.parts))

    def say_equal(self) -> tuple[str, str]:
        """Return how texts that match begin, end or read."""
        match self.parts:
            case [(str() | Parameter()) as text, Wild.ANY_RUN]:
                return "begins with", _say_piece(text)
            case [Wild.ANY_RUN, (str() | Parameter()) as text]:
                return "ends with", _say_piece(text)
            case [Wild.ANY_RUN, (str() | Parameter()) as text, Wild.ANY_RUN]:
                return "contains", _say_piece(text)
            case [Wild.ANY_RUN]:
                return "is", "any text"
        if not any(isinstance(part, Wild) for part in self.parts):
            return "is", self.say()
        return "reads", f"{self.say()} (* is any run of characters, ? is one)"

    def settled(self, putting: Putting) -> tuple[Operand, ...]:
        """Return the pattern, or the text, with the letters of its parameters; none if blank."""
        parts: list[str | Wild | Parameter] = []
        for part in self.parts:
            if isinstance(part, Wild):
                parts.append(part)
                continue
            if isinstance(part, str):
                add_letters(parts, part)
                continue
            put = putting.put(part)
            if not put:
                return ()
            if len(put) > 1:
                raise ParameterError(part.name, "a list cannot stand inside a text")
            add_letters(parts, str(getattr(put[0], "text", "")))
        if not any(isinstance(part, Wild) for part in parts):
            return (Text("".join(map(str, parts))),)
        return (Pattern(tuple(parts)),)

    def add_to(self, values: "ValueList") -> None:
        """Ask for the texts that match as a whole."""
        if values.text is None:
            values.remarks.wildcard_without_text(self)
            return
        values.remarks.wildcard_beside(self)
        if not values.ask_pattern(self):
            values.remarks.pattern_not_held(self)

    def codes_in(self, lane: TextLane) -> Array:
        """Return which codes match, bool, shape (spellings,): one test a value."""
        parts = _settled(self)
        match parts:
            case [str() as beginning, Wild.ANY_RUN]:
                found = np.zeros(len(lane.spellings), dtype=bool)
                found[slice(*lane.range_beginning(fold(beginning)))] = True
            case _:
                found = _matching(lane, parts)
                if Wild.ONE in parts:
                    _match_longer(found, lane.spellings, lane.folded, parts)
        return found

    def places_in(self, texts: TextsOfRows) -> Array | None:
        """Return which texts of rows match, bool, shape (texts,); None if that is not told so."""
        parts = _settled(self)
        folded = texts.folded() if len(expression(parts)) < _LONG else None
        if folded is None:
            return None
        found = np.zeros(len(folded), dtype=bool)
        found[_places_in(folded, parts)] = True
        if Wild.ONE in parts:
            _match_longer(found, texts.spellings, folded, parts)
        return found

    def piece(self) -> Piece | None:
        """Return the parts, unless a parameter is among them."""
        parts = tuple(part for part in self.parts if isinstance(part, str | Wild))
        return parts if len(parts) == len(self.parts) else None


def _written(part: str | Wild | Parameter) -> str:
    if isinstance(part, str):
        return "".join(f"\\{each}" if each in _ESCAPED else each for each in part)
    return _spelt(part)


def _spelt(part: str | Wild | Parameter) -> str:
    if isinstance(part, str):
        return part
    return part.value if isinstance(part, Wild) else part.braced


def _say_piece(part: str | Parameter) -> str:
    return say_text(part) if isinstance(part, str) else part.say()


def read_letters(pattern: str) -> Text | Pattern:
    r"""Return a text in which `*` and `?` alone mean anything, `\` before them taken off.

    >>> read_letters("B*").parts
    ('B', <Wild.ANY_RUN: '*'>)
    """
    parts: list[str | Wild | Parameter] = []
    letters = iter(pattern)
    for char in letters:
        if char in "*?":
            parts.append(Wild(char))
        else:
            add_letters(parts, next(letters, char) if char == "\\" else char)
    if len(parts) == 1 and isinstance(parts[0], str):
        return Text(parts[0])
    return Pattern(tuple(parts))


def add_letters(parts: list[str | Wild | Parameter], letters: str) -> None:
    """Add letters to the parts of a pattern: to the last part if that is letters."""
    last = parts[-1] if parts else None
    if isinstance(last, str):
        parts[-1] = last + letters
    else:
        parts.append(letters)


def _settled(pattern: Pattern) -> list[str | Wild]:
    return settled([part for part in pattern.parts if isinstance(part, str | Wild)])


def _places_in(folded: Texts, parts: Sequence[str | Wild]) -> Array:
    """Return which of texts match, ascending: of a pattern that begins with letters these first."""
    first, *rest = parts
    began = folded.beginning(fold(first)) if isinstance(first, str) else None
    if began is not None and rest == [Wild.ANY_RUN]:
        return began
    few = began if began is not None and 2 * len(began) <= len(folded) else None
    return folded.search(expression(parts), few)


def _match_longer(
    found: Array, spellings: Sequence[str], folded: Sequence[str], parts: Sequence[str | Wild]
) -> None:
    """Match again the texts of which a letter stands for several when folded."""
    codes = _match_apart(found, spellings, parts)
    if codes is None:
        codes = np.array(may_fold_longer(spellings), dtype=np.int64)
    if isinstance(spellings, Longer) and isinstance(folded, Longer) and len(codes):
        before = found[codes]
        found[codes] = False  # whatever matches as written fits more loosely
        marked = spellings.search(MARKS, codes)
        fitting = np.union1d(folded.search(loose_expression(parts), codes), marked)
        found[fitting] = before[np.searchsorted(codes, fitting)]
        codes = fitting
    for code in codes.tolist():
        if not one_to_one(spelling := spellings[code]):
            found[code] = matches_as_written(parts, spelling)


def _match_apart(
    found: Array, spellings: Sequence[str], parts: Sequence[str | Wild]
) -> Array | None:
    """Match such texts again at once; return those that are left, None if that cannot be."""
    if not isinstance(spellings, Longer):
        return None
    if not may_hold_longer(spellings):
        return np.empty(0, dtype=np.int64)
    apart = spellings.with_letters_apart()
    written = expression_apart(parts, apart.stands_for)
    if written is None or len(written) >= _LONG:
        return None
    found[apart.places] = False
    found[apart.places[apart.search(written)]] = True
    others: Array = apart.others
    return others


def _matching(lane: TextLane, parts: Sequence[str | Wild]) -> Array:
    """Return which codes have folded texts that match, bool, shape (spellings,)."""
    search = getattr(lane.folded, "search", None)
    written, every = expression(parts), slice(0, len(lane.folded))
    if isinstance(parts[0], str):
        every = slice(*lane.range_beginning(fold(parts[0])))
    found = np.zeros(len(lane.folded), dtype=bool)
    if search is not None and len(written) < _LONG:
        found[search(written, every)] = True
        return found
    matches, starts = matcher(parts), lane.group_starts
    some = starts[np.searchsorted(starts, every.start) : np.searchsorted(starts, every.stop)]
    found[some] = np.fromiter((matches(lane.folded[at]) for at in some), bool, len(some))
    return found[starts][lane.groups] if len(starts) else found
