"""Which letters, and which bytes, stand in many strings."""

from enum import IntEnum
from functools import cached_property
from typing import Any

import numpy as np

from even_sieve.core.table.arrays import spans
from even_sieve.core.table.lanes import Array
from even_sieve.sources import at_hand
from even_sieve.sources.arrow_buffers import Bytes
from even_sieve.sources.side_by_side import side_by_side

_LAST, _BLOCK = 0x110000, 1 << 20
#: The first bytes of letters of two, three and four bytes, and of those that follow (The Unicode
#: Standard, 3.9).
_FOLLOWS, _LEADS_TWO, _LEADS_THREE, _LEADS_FOUR = 0x80, 0xC0, 0xE0, 0xF0
_PAIR = 2
_CAPITALS, _LETTERS = np.uint8(ord("A")), np.uint8(26)


class Case(IntEnum):
    """How letters are written: in small ones of ASCII, with capitals among them, or others too."""

    SMALL = 0
    CAPITAL = 1
    BEYOND = 2


class LettersHeld:
    """The letters of an Arrow array of strings: what is asked of them is found out once."""

    def __init__(self, strings: Any, case: Case | None = None) -> None:
        self._strings, self._known = strings, case

    @cached_property
    def case(self) -> Case:
        """How they are written."""
        return case_of(self._strings) if self._known is None else self._known

    @property
    def are_ascii(self) -> bool:
        """Whether all of them are of ASCII."""
        return self.case is not Case.BEYOND

    @cached_property
    def numbers(self) -> Array:
        """The different ones, as their numbers in Unicode, in order."""
        return letters_of(self._strings)

    def hold(self, part: bytes) -> bool:
        """Tell whether a part may be among their bytes (`holds`)."""
        if not part.isascii() and self.are_ascii:
            return False
        if "numbers" in self.__dict__ and _is_of_one(part):
            return part in self._once_each
        return holds(self._strings, part)

    @cached_property
    def _once_each(self) -> bytes:
        return "".join(map(chr, self.numbers.tolist())).encode()


def _is_of_one(part: bytes) -> bool:
    """Tell whether a part is the beginning of one letter, or all of it."""
    return part[0] >= _LEADS_TWO and all(_FOLLOWS <= each < _LEADS_TWO for each in part[1:])


def case_of(strings: Any) -> Case:
    """Return how the letters of an Arrow array of strings are written.

    >>> from even_sieve.sources.arrow_buffers import strings_of
    >>> [case_of(strings_of([each])).name for each in ("pier 3", "Pier", "Höhe")]
    ['SMALL', 'CAPITAL', 'BEYOND']
    """
    used = Bytes.of(strings).used
    tell = _case if at_hand.compiled is None else at_hand.compiled.case
    return Case(max(side_by_side(lambda some: tell(used[some]), len(used))))


def _case(used: Array) -> Case:
    found = Case.SMALL
    for some in spans(len(used), _BLOCK):
        own = used[some]
        if own.max() >= _FOLLOWS:
            return Case.BEYOND
        if found is Case.SMALL and (own - _CAPITALS < _LETTERS).any():  # below A it wraps round
            found = Case.CAPITAL
    return found


def holds(strings: Any, part: bytes) -> bool:
    """Tell whether a part may be among the bytes of an Arrow array of strings.

    It may as well be the end of one and the beginning of the next.

    >>> from even_sieve.sources.arrow_buffers import strings_of
    >>> holds(strings_of(["pier", "mole"]), b"er"), holds(strings_of(["pier", "mole"]), b"lo")
    (True, False)
    """
    used, more = Bytes.of(strings).used, len(part) - 1
    find = _hold if at_hand.compiled is None else at_hand.compiled.hold
    found = side_by_side(lambda some: find(used[some.start : some.stop + more], part), len(used))
    return any(found)


def _hold(used: Array, part: bytes) -> bool:
    blocks = (used[some.start : some.stop + len(part) - 1] for some in spans(len(used), _BLOCK))
    if len(part) == _PAIR:  # letters that stand in most texts are not sought one by one
        return any(((own[:-1] == part[0]) & (own[1:] == part[1])).any() for own in blocks)
    copies = (own.tobytes() for own in blocks)
    return any(part[:1] in block and part in block for block in copies)  # one is found faster


def letters_of(strings: Any) -> Array:
    """Return the numbers of the different letters in Unicode, in order.

    >>> from even_sieve.sources.arrow_buffers import strings_of
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
