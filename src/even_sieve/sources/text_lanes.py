"""Lanes of many different texts: Arrow folds and sorts them, where its way is known to be ours."""

import unicodedata
from collections.abc import Iterable, Iterator
from dataclasses import replace
from functools import partial
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from even_sieve.core.cells import fold
from even_sieve.core.table.arrays import spans
from even_sieve.core.table.coded_lanes import text_lane
from even_sieve.core.table.lanes import Array, TextLane, narrowest
from even_sieve.sources.arrow_buffers import (
    Bytes,
    is_ascii,
    mask_of,
    spread_over,
    stored,
    strings_of,
    take_any,
)
from even_sieve.sources.arrow_strings import Strings
from even_sieve.sources.side_by_side import by_stretches, side_by_side
from even_sieve.sources.string_order import in_order

#: Vowels and last consonants that join into syllables.
_KOREAN = (range(0x1161, 0x1176), range(0x11A8, 0x11C3))
#: Marks that say how the letter before them is drawn.
_VARIANTS = range(0xFE00, 0xFE10)
_LAST, _MOST_OTHER, _SAMPLE = 0x110000, 20, 1 << 14
#: So many pairs of a letter and a mark are looked at, to see that Arrow joins them as we do.
_MOST_PAIRS = 1 << 15


def text_lane_of(strings: Any) -> TextLane:
    """Return the lane of an array of texts."""
    if not _mostly_differ(strings):
        coded = strings.dictionary_encode()
        lane = _lane_of_different(coded.dictionary)
        return replace(lane, codes=lane.codes[stored(coded.indices, np.int32)])
    return _lane_of_different(strings)


def _lane_of_different(strings: Any) -> TextLane:
    """Return the lane of texts, mostly different ones."""
    folded = _folded(strings)
    if folded is None:
        coded = strings.dictionary_encode()
        return text_lane(coded.dictionary.to_pylist(), stored(coded.indices, np.int32))
    if _ascend(folded[:_SAMPLE]) and _ascend(folded):  # numbered in order
        codes = np.arange(len(strings), dtype=narrowest(len(strings)))
        spelt = Strings(strings)
        return TextLane(codes, spelt, spelt if folded is strings else Strings(folded))
    return _sorted_lane(strings, folded)


def _mostly_differ(strings: Any) -> bool:
    """Guess from how many are alike in a sample whether there are as many texts as rows.

    Sorting takes as long then as bringing equal ones together first; else several times as long.
    """
    some = spread_over(strings, _SAMPLE)
    alike = len(some) - pc.count_distinct(some).as_py()
    return bool(len(some) ** 2 >= 2 * alike * len(strings))


def _ascend(strings: Any) -> bool:
    """Tell whether each string comes after the one before it."""
    return pc.all(pc.less(strings[:-1], strings[1:])).as_py() is not False


def _sorted_lane(strings: Any, folded: Any) -> TextLane:
    """Return the lane of texts, mostly different ones.

    Of texts that are compared as they stand `folded` is the array itself.
    """
    sort, new = in_order(folded)
    if folded is not strings:
        _tell_spellings_apart(strings, sort, new)
    codes = np.empty(len(sort), dtype=narrowest(int(np.count_nonzero(new))))
    for stretch, before in _counted(new):
        codes[sort[stretch]] = np.cumsum(new[stretch], dtype=np.int64) + (before - 1)
    first = sort[new]
    del sort, new
    spellings = _taken(strings, first)
    spelt = Strings(spellings)
    if folded is strings:
        return TextLane(codes, spelt, spelt)
    plain = is_ascii(spellings)
    keys = by_stretches(pc.ascii_lower, spellings) if plain else _taken(folded, first)
    return TextLane(codes, spelt, Strings(keys))


def _counted(new: Array) -> Iterator[tuple[slice, int]]:
    """Yield stretches of places, and how many are new before each."""
    before = 0
    for stretch in spans(len(new), _BLOCK):
        yield stretch, before
        before += int(np.count_nonzero(new[stretch]))


def _taken(strings: Any, places: Array) -> Any:
    """Return the strings at these places, in any order."""
    made = side_by_side(lambda rows: take_any(strings, places[rows]), len(places))
    return made[0] if len(made) == 1 else pa.concat_arrays(made)


def _tell_spellings_apart(strings: Any, sort: Array, new: Array) -> None:
    """Part what is equal and spelt in several ways: each spelling begins anew, as first met."""
    again = np.flatnonzero(~new)
    before, there = (_taken(strings, sort[each]) for each in (again - 1, again))
    other = again[mask_of(pc.not_equal(before, there))]
    if not len(other):
        return
    group = np.cumsum(new) - 1
    several = np.zeros(int(group[-1]) + 1, dtype=bool)
    several[group[other]] = True
    places = np.flatnonzero(several[group])
    rows = sort[places]
    spelt = stored(take_any(strings, rows).dictionary_encode().indices, np.int32)
    order = np.argsort(spelt, kind="stable")
    sort[places] = rows[order]
    spelt = spelt[order]
    new[places[1:]] = spelt[1:] != spelt[:-1]


def _folded(strings: Any) -> Any:
    """Return the texts as they are compared (`fold`); None where Arrow does not know how."""
    if is_ascii(strings):
        lowered = by_stretches(pc.ascii_lower, strings)
        return strings if strings.equals(lowered) else lowered
    letters, marks = _letters(strings), list[int]()
    if not _stand_alone(letters):
        strings = _composed(strings)
        letters = _letters(strings)
        marks = [each for each in letters.tolist() if not _stand_alone([each])]
        if len(marks) * len(letters) > _MOST_PAIRS or any(map(_may_be_korean, marks)):
            return None
    spelt = list(map(chr, letters.tolist()))
    lowered = pc.utf8_lower(strings_of(spelt)).to_pylist()
    other = {a: fold(a) for a, low in zip(spelt, lowered, strict=True) if fold(a) != low}
    begin = np.array([ord(each[0]) for each in (*other.values(), *lowered)])
    if len(other) > _MOST_OTHER or not (marks or _stand_alone(begin)):
        return None
    others = strings_of(list(other.values()))
    if not pc.utf8_lower(others).equals(others):  # as those of Cherokee, which fold to capitals
        return None

    def fold_all(some: Any) -> Any:
        for each, folded in other.items():  # as ß to ss
            some = pc.replace_substring(some, each, folded)
        low = pc.utf8_lower(some)
        return _composed(low) if marks else low

    pairs = [a + b for a in spelt for b in map(chr, marks)]
    if fold_all(_composed(strings_of(pairs))).to_pylist() != list(map(fold, pairs)):
        return None
    return by_stretches(fold_all, strings)


def _composed(strings: Any) -> Any:
    """Return the strings with each letter and the marks on it as one, where there is one (NFC)."""
    return by_stretches(partial(pc.utf8_normalize, form="NFC"), strings)


def _may_be_korean(letter: int) -> bool:
    return any(letter in parts for parts in _KOREAN)


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


def _letters(strings: Any) -> Array:
    """Return the numbers of the different letters in Unicode, in order."""
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
    seen[_joined(leads, follows)] = True
    found: Array = np.flatnonzero(seen)
    return found


_BLOCK = 1 << 20
#: The first bytes of letters of two, three and four bytes, and of those that follow (The Unicode
#: Standard, 3.9).
_FOLLOWS, _LEADS_TWO, _LEADS_THREE, _LEADS_FOUR = 0x80, 0xC0, 0xE0, 0xF0


def _joined(number: Array, follows: Array) -> Array:
    """Return the numbers of letters with the six bits of another byte."""
    joined: Array = number << 6 | follows & 0x3F
    return joined


def _of_three_or_four(octets: Array, begin: Array) -> Array:
    """Return the numbers of the letters of three or four bytes that begin at these places."""
    leads = octets[begin]
    letters = (leads & 0x0F).astype(np.int32)
    for after in (1, 2):
        letters = _joined(letters, octets[begin + after])
    four = np.flatnonzero(leads >= _LEADS_FOUR)
    letters[four] = _joined(letters[four] & 0x7FFF, octets[begin[four] + 3])
    return letters
