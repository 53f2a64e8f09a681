"""Lanes of many different texts: Arrow folds and sorts them, where its way is known to be ours."""

import unicodedata
from typing import Any

import numpy as np
import pyarrow.compute as pc

from even_sieve.core.cells import fold
from even_sieve.core.table.coded_lanes import ranks, text_lane
from even_sieve.core.table.lanes import Array, TextLane, narrowest
from even_sieve.sources.arrow_buffers import (
    Bytes,
    Strings,
    mask_of,
    stored,
    strings_of,
    take,
    take_any,
)

#: Vowels and last consonants that join into syllables.
_KOREAN = (range(0x1161, 0x1176), range(0x11A8, 0x11C3))
#: Marks that say how the letter before them is drawn.
_VARIANTS = range(0xFE00, 0xFE10)
_LAST, _MOST_OTHER, _SAMPLE = 0x110000, 20, 1 << 16


def text_lane_of(strings: Any) -> TextLane:
    """Return the lane of an array of texts."""
    folded = _folded(strings)
    if folded is None:
        coded = strings.dictionary_encode()
        return text_lane(coded.dictionary.to_pylist(), stored(coded.indices, np.int32))
    if pc.all(pc.less(folded[:-1], folded[1:])).as_py() is not False:  # numbered in order
        codes = np.arange(len(strings), dtype=narrowest(len(strings)))
        spelt = Strings(strings)
        return TextLane(codes, spelt, spelt if folded is strings else Strings(folded))
    some = strings[:_SAMPLE]
    if folded is strings or pc.count_distinct(some).as_py() > len(some) // 2:
        lane = _sorted_lane(strings, folded)
        if lane is not None:
            return lane
    coded = strings.dictionary_encode()
    folded = _folded(coded.dictionary)
    sort = in_order(folded)
    codes = ranks(sort)[stored(coded.indices, np.int32)]
    spellings, keys = (take_any(each, sort) for each in (coded.dictionary, folded))
    return TextLane(codes, Strings(spellings), Strings(keys))


def _sorted_lane(strings: Any, folded: Any) -> TextLane | None:
    """Return the lane of texts, mostly different ones; None where equal ones are spelt in two ways.

    Of texts that are compared as they stand `folded` is the array itself.
    """
    sort = in_order(folded)
    keys = take_any(folded, sort)
    new = _differs(keys)
    ordered = keys
    if folded is not strings:
        ordered = take_any(strings, sort)
        if (_differs(ordered) & ~new).any():
            return None
    places = np.cumsum(new) - 1
    codes = np.empty(len(sort), dtype=narrowest(int(places[-1]) + 1))
    codes[sort] = places
    first = np.flatnonzero(new)
    different = Strings(take(ordered, first))
    return TextLane(
        codes, different, different if folded is strings else Strings(take(keys, first))
    )


def _differs(ordered: Any) -> Array:
    """Tell of each string whether it is another one than that before it; the first is."""
    new = np.ones(len(ordered), dtype=bool)
    new[1:] = mask_of(pc.not_equal(ordered[1:], ordered[:-1]))
    return new


def in_order(strings: Any) -> Array:
    """Return the places of the strings in the order of their bytes, the first of equal ones first.

    They are sorted by their first eight bytes as one number; those that have these in common, by
    Arrow among themselves.
    """
    keys = _beginnings(Bytes.of(strings))
    sort = np.argsort(keys, kind="stable")
    keys = keys[sort]
    tied = np.zeros(len(keys) + 1, dtype=bool)
    tied[1:-1] = keys[1:] == keys[:-1]
    tied = tied[1:] | tied[:-1]
    places = np.flatnonzero(tied)
    if len(places) == len(sort):
        return stored(pc.array_sort_indices(strings), np.uint64).astype(np.int64)
    if len(places):
        rows = sort[places]  # ascend where the strings are equal
        among = stored(pc.array_sort_indices(take_any(strings, rows)), np.uint64)
        sort[places] = rows[among]
    return sort


def _beginnings(text: Bytes) -> Array:
    """Return the first eight bytes of each string as a number, zeros where there are fewer."""
    padded = np.concatenate((text.data, np.zeros(_EIGHT, dtype=np.uint8)))
    words = np.lib.stride_tricks.sliding_window_view(padded, _EIGHT)[text.offsets[:-1]]
    keys = np.ascontiguousarray(words).view(">u8").ravel().astype(np.uint64)
    lacking = (_EIGHT - np.minimum(text.lengths, _EIGHT)).astype(np.uint64) * np.uint64(8)
    whole = lacking < np.uint64(64)
    return np.where(whole, (keys >> (lacking % np.uint64(64))) << (lacking % np.uint64(64)), 0)


def _folded(strings: Any) -> Any:
    """Return the texts as they are compared (`fold`); None where Arrow does not know how."""
    if pc.all(pc.string_is_ascii(strings)).as_py():
        lowered = pc.ascii_lower(strings)
        return strings if strings.equals(lowered) else lowered
    letters = _letters(strings)
    if not _stand_alone(letters):
        strings = pc.utf8_normalize(strings, form="NFC")
        letters = _letters(strings)
        if not _stand_alone(letters):
            return None
    spelt = list(map(chr, letters.tolist()))
    lowered = pc.utf8_lower(strings_of(spelt)).to_pylist()
    other = {a: fold(a) for a, low in zip(spelt, lowered, strict=True) if fold(a) != low}
    begin = np.array([ord(each[0]) for each in (*other.values(), *lowered)])
    if len(other) > _MOST_OTHER or not _stand_alone(begin):
        return None
    others = strings_of(list(other.values()))
    if not pc.utf8_lower(others).equals(others):  # as those of Cherokee, which fold to capitals
        return None
    for each, folded in other.items():  # as ß to ss
        strings = pc.replace_substring(strings, each, folded)
    return pc.utf8_lower(strings)


def _stand_alone(letters: Array) -> bool:
    """Tell whether no letter may join with one before it, and each is written in one way.

    Those that may are marks, and the later parts of Korean syllables (The Unicode Standard, 3.11
    and 3.12).
    """
    for number in letters.tolist():
        letter = chr(number)
        if not unicodedata.is_normalized("NFC", letter):
            return False
        if unicodedata.category(letter)[0] == "M" and number not in _VARIANTS:
            return False
        if any(number in parts for parts in _KOREAN):
            return False
    return True


def _letters(strings: Any) -> Array:
    """Return the numbers of the different letters in Unicode, in order."""
    seen = np.zeros(_LAST, dtype=bool)
    octets = Bytes.of(strings).used
    for start in range(0, len(octets), _BLOCK):
        seen[_decoded(octets, start, min(start + _BLOCK, len(octets)))] = True
    found: Array = np.flatnonzero(seen)
    return found


_BLOCK, _EIGHT = 1 << 22, 8


def _decoded(octets: Array, start: int, stop: int) -> Array:
    """Return the letters that begin in a part of UTF-8 bytes."""
    while start < stop and octets[start] & 0xC0 == 0x80:
        start += 1
    while stop < len(octets) and octets[stop] & 0xC0 == 0x80:
        stop += 1
    text = octets[start:stop].tobytes().decode("utf-8")
    return np.frombuffer(text.encode("utf-32-le"), dtype=np.uint32)
