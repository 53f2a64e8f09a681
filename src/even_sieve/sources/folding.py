"""Arrow arrays of texts as they are compared, where Arrow's way of folding is known to be ours."""

import unicodedata
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from even_sieve.core.cells import fold
from even_sieve.core.table.arrays import spans
from even_sieve.core.table.lanes import Array
from even_sieve.sources import at_hand
from even_sieve.sources.arrow_buffers import (
    Bytes,
    array_of,
    fitting,
    is_ascii,
    lowered,
    strings_of,
    take,
)
from even_sieve.sources.side_by_side import by_stretches, side_by_side

#: Vowels and last consonants that join into syllables.
_KOREAN = frozenset((*range(0x1161, 0x1176), *range(0x11A8, 0x11C3)))
#: Marks that say how the letter before them is drawn.
_VARIANTS = range(0xFE00, 0xFE10)
_LAST, _MOST_OTHER = 0x110000, 20
#: So many pairs of a letter and a mark are looked at, to see that Arrow joins them as we do.
_MOST_PAIRS = 1 << 15
_BLOCK = 1 << 20
#: The first bytes of letters of two, three and four bytes, and of those that follow (The Unicode
#: Standard, 3.9).
_FOLLOWS, _LEADS_TWO, _LEADS_THREE, _LEADS_FOUR = 0x80, 0xC0, 0xE0, 0xF0


def all_folded(strings: Any) -> Any:
    """Return the texts as they are compared (`fold`); None where Arrow does not know how.

    The array itself, where they are written so.

    >>> all_folded(strings_of(["Höhe", "PIER"])).to_pylist()
    ['höhe', 'pier']
    """
    if is_ascii(strings):
        small = lowered(strings)
        return strings if strings.equals(small) else small
    letters, marks = letters_of(strings), list[int]()
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


def letters_of(strings: Any) -> Array:
    """Return the numbers of the different letters in Unicode, in order.

    >>> letters_of(strings_of(["aé", "é"])).tolist()
    [97, 233]
    """
    compiled = at_hand.compiled
    if compiled is None:
        return _by_pairs(strings)

    def see(rows: slice) -> Array:
        seen = np.zeros(_LAST, dtype=np.uint8)
        compiled.see(Bytes.of(strings[rows]).used, seen)
        return np.flatnonzero(seen)

    found = side_by_side(see, len(strings))
    return found[0] if len(found) == 1 else np.unique(np.concatenate(found))


def _by_pairs(strings: Any) -> Array:
    """Return the same by the pairs of bytes that there are."""
    pairs, seen = np.zeros(1 << 16, dtype=bool), np.zeros(_LAST, dtype=bool)

    def see(rows: slice) -> None:
        octets = np.append(Bytes.of(strings[rows]).used, np.uint8(0))
        for stretch in spans(len(octets) - 1, _BLOCK):
            both = np.ndarray((stretch.stop - stretch.start,), "<u2", octets, stretch.start, (1,))
            pairs[both.astype(np.intp)] = True
            longer = stretch.start + np.flatnonzero(octets[stretch] >= _LEADS_THREE)
            if len(longer):
                seen[_of_three_or_four(octets, longer)] = True

    side_by_side(see, len(strings))
    of_each = pairs.reshape(256, 256).T
    seen[:_FOLLOWS] |= of_each[:_FOLLOWS].any(axis=1)
    leads, follows = np.nonzero(of_each[_LEADS_TWO:_LEADS_THREE])
    seen[_longer(leads, follows)] = True
    found: Array = np.flatnonzero(seen)
    return found


def _longer(number: Array, follows: Array) -> Array:
    """Return the numbers of letters with the six bits of another byte."""
    joined: Array = number << 6 | follows & 0x3F
    return joined


def _of_three_or_four(octets: Array, begin: Array) -> Array:
    """Return the numbers of the letters of three or four bytes that begin at these places."""
    leads = octets[begin]
    letters = (leads & 0x0F).astype(np.int32)
    for after in (1, 2):
        letters = _longer(letters, octets[begin + after])
    four = np.flatnonzero(leads >= _LEADS_FOUR)
    letters[four] = _longer(letters[four] & 0x7FFF, octets[begin[four] + 3])
    return letters
