"""Arrow arrays of texts as they are compared, where Arrow's way of folding is known to be ours."""

import unicodedata
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from even_sieve.core.cells import fold
from even_sieve.core.table.lanes import Array
from even_sieve.sources.arrow_buffers import array_of, fitting, lowered, strings_of, take
from even_sieve.sources.letters_held import Case, LettersHeld, letters_of
from even_sieve.sources.side_by_side import by_stretches

#: Vowels and last consonants that join into syllables.
_KOREAN = frozenset((*range(0x1161, 0x1176), *range(0x11A8, 0x11C3)))
#: Marks that say how the letter before them is drawn.
_VARIANTS = range(0xFE00, 0xFE10)
_MOST_OTHER = 20
#: So many pairs of a letter and a mark are looked at, to see that Arrow joins them as we do.
_MOST_PAIRS = 1 << 15


def all_folded(strings: Any, held: LettersHeld | None = None) -> Any:
    """Return the texts as they are compared (`fold`); None where Arrow does not know how.

    The array itself, where they are written so. `held` knows their letters already, or will.

    >>> all_folded(strings_of(["Höhe", "PIER"])).to_pylist()
    ['höhe', 'pier']
    """
    held = LettersHeld(strings) if held is None else held
    if held.are_ascii:
        return strings if held.case is Case.SMALL else lowered(strings)
    letters, marks = held.numbers, list[int]()
    if not _stand_alone(letters):
        strings, letters = _composed(strings, letters)
        marks = [each for each in letters.tolist() if not _stand_alone([each])]
        if len(marks) * len(letters) > _MOST_PAIRS or any(map(_may_be_korean, marks)):
            return None
    spelt = list(map(chr, letters.tolist()))
    low = pc.utf8_lower(strings_of(spelt)).to_pylist()
    other = {a: fold(a) for a, own in zip(spelt, low, strict=True) if fold(a) != own}
    begin = np.array([ord(each[0]) for each in (*other.values(), *low)])
    if len(other) > _MOST_OTHER or not (marks or _stand_alone(begin)):
        return None
    others = strings_of(list(other.values()))
    if not pc.utf8_lower(others).equals(others):  # as those of Cherokee, which fold to capitals
        return None
    pairs = [a + b for a in spelt for b in map(chr, marks)]
    folding = _Folding(other, None)
    if marks and folding.of(_normal(strings_of(pairs))).to_pylist() != list(map(fold, pairs)):
        return None
    if low == spelt and not other:
        return strings
    reached = {ord(letter) for each in (*other.values(), *low) for letter in each}
    folding = _Folding(other, _Unjoined.among(sorted(reached)) if marks else _Unjoined())
    return by_stretches(folding.of, strings)


@dataclass(frozen=True)
class _Folding:
    """How texts are folded: what letters become in another way than small, and what to compose.

    None for `unjoined`: all of them are composed.
    """

    other: dict[str, str]
    unjoined: "_Unjoined | None"

    def of(self, strings: Any) -> Any:
        """Return the strings folded."""
        for each, folded in self.other.items():  # as ß to ss
            strings = pc.replace_substring(strings, each, folded)
        low = pc.utf8_lower(strings)
        return _normal(low) if self.unjoined is None else self.unjoined.joined(low)[0]


@dataclass(frozen=True)
class _Unjoined:
    """What tells that a text is not composed (NFC): some letters, and marks in another order.

    `orders` are marks that do not stand before those beside them (The Unicode Standard, 3.11).
    """

    letters: Sequence[int] = ()
    orders: Sequence[tuple[Sequence[int], Sequence[int]]] = ()

    @classmethod
    def among(cls, letters: Sequence[int]) -> "_Unjoined":
        """Return what tells it of texts of these letters."""
        marks = [each for each in letters if not _stand_alone([each])]
        found = marks
        if len(marks) * len(letters) <= _MOST_PAIRS:
            before = [letter for letter in map(chr, letters) if _begins(letter)]
            found = [each for each in marks if not all(_stay(a, chr(each)) for a in before)]
        classes = {each: unicodedata.combining(chr(each)) for each in marks}
        orders = [
            (
                [each for each in marks if classes[each] > own],
                [each for each in marks if classes[each] == own],
            )
            for own in sorted(set(classes.values()) - {0})[:-1]
        ]
        return cls(found, orders)

    def __bool__(self) -> bool:
        return bool(self.letters or self.orders)

    def joined(self, strings: Any) -> tuple[Any, Any]:
        """Return the strings composed, and those alone that were not; None where all were."""
        if not self:
            return strings, None
        patterns = [_any_of(self.letters)] if self.letters else []
        patterns += [_any_of(first) + _any_of(second) for first, second in self.orders]
        told = fitting(strings, "|".join(patterns))
        rows = np.flatnonzero(told)
        if not len(rows):
            return strings, None
        made = by_stretches(_normal, take(strings, rows))
        if len(rows) == len(strings):
            return made, made
        return pc.replace_with_mask(strings, array_of(told, pa.bool_()), made), made


def _composed(strings: Any, letters: Array) -> tuple[Any, Array]:
    """Return strings of these letters composed (NFC), and the letters that they may have now."""
    unjoined = _Unjoined.among(letters.tolist())
    strings, changed = unjoined.joined(strings)
    if changed is None:
        return strings, letters
    return strings, np.union1d(np.setdiff1d(letters, unjoined.letters), letters_of(changed))


def _normal(strings: Any) -> Any:
    """Return the strings with each letter and the marks on it as one, where there is one (NFC)."""
    return pc.utf8_normalize(strings, form="NFC")


def _any_of(letters: Sequence[int]) -> str:
    """Return a pattern (of RE2) of any of these letters."""
    return "[" + "".join(rf"\x{{{each:x}}}" for each in letters) + "]"


def _begins(letter: str) -> bool:
    """Tell whether marks may join a letter, which is written in one way."""
    return not unicodedata.combining(letter) and unicodedata.is_normalized("NFC", letter)


def _stay(letter: str, mark: str) -> bool:
    return unicodedata.is_normalized("NFC", letter + mark)


def _may_be_korean(letter: int) -> bool:
    return letter in _KOREAN


def _stand_alone(letters: Iterable[int]) -> bool:
    """Tell whether no letter may join with one before it, and each is written in one way.

    Those that may are marks, and the later parts of Korean syllables (The Unicode Standard, 3.11
    and 3.12).
    """
    for number in letters:
        letter = chr(number)
        if not unicodedata.is_normalized("NFC", letter):
            return False
        if unicodedata.category(letter)[0] == "M" and number not in _VARIANTS:
            return False
        if _may_be_korean(number):
            return False
    return True
