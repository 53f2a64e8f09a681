"""The tags of a piece of XML as arrays, for a few tags that are known beforehand.

Whatever does not look exactly as expected makes it give up: then a parser reads the piece.
"""

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
import pyarrow as pa

from even_sieve.core.table.lanes import Array
from even_sieve.sources.arrow_buffers import strings_of, take

_LESS, _GREATER, _SLASH = b"<>/"
_SPACE, _EIGHT = ord(" "), 8
_ENDS_NAME = np.isin(np.arange(256), list(b" />"))
#: Bytes past the end that may be looked at.
_MARGIN = bytes(64)


class Strange(Exception):
    """Something that is not written in the way that is known."""


def demand(holds: Any) -> None:
    """Give up where a condition does not hold for every one. Raises `Strange`."""
    if not np.all(holds):
        raise Strange


def among(numbers: Array, some: Iterable[int]) -> Array:
    """Tell which numbers, all below 256, are among some, bool."""
    wanted = np.zeros(256, dtype=bool)
    wanted[list(some)] = True
    return wanted[numbers]


@dataclass(frozen=True)
class Tags:
    """Where the tags of a piece of XML begin (`<`) and end (`>`), and the code of each.

    `data` are the bytes of the piece, uint8, with some more behind; the other arrays have an item
    a tag.
    """

    data: Array
    starts: Array
    ends: Array
    codes: Array

    def of(self, *codes: int) -> Array:
        """Return the places of the tags of these codes, ascending."""
        return np.flatnonzero(among(self.codes, codes))

    def counted(self, *codes: int) -> Array:
        """Return for every tag the number of the last one of these codes, from 0; -1 before."""
        return np.cumsum(among(self.codes, codes), dtype=np.int32) - 1

    def texts_after(self, places: Array) -> tuple[Array, Array]:
        """Return where the texts that follow these tags begin and end."""
        return self.ends[places] + 1, self.starts[places + 1]

    def strings(self, begins: Array, ends: Array) -> Any:
        """Return stretches of the piece, one after the other, as an Arrow array of strings."""
        if not len(begins):
            return strings_of([])
        cuts = np.stack((begins, ends), axis=1).astype(np.int32).reshape(-1)
        held = pa.py_buffer(cuts), pa.py_buffer(self.data)
        return take(pa.StringArray.from_buffers(len(cuts) - 1, *held), np.arange(0, len(cuts), 2))


@dataclass(frozen=True)
class Grammar:
    """The tags that are known, by codes from 1 on, and how they follow one another.

    `spelt` lists the ways in which the tags of a code begin, one for a long name.
    `with_attributes` are those whose code is one more where the tag closes its element itself,
    with one way each. After a tag of a code only those of
    `followers` may come, and text only after those of `before_text`.
    """

    spelt: Mapping[int, tuple[bytes, ...]]
    with_attributes: frozenset[int]
    followers: Mapping[int, tuple[int, ...]]
    before_text: frozenset[int]
    first: frozenset[int]
    last: frozenset[int]

    @cached_property
    def may_follow(self) -> Array:
        """Whether a tag of a code may follow one of another, bool, shape (codes, codes)."""
        size = max(self.followers) + 1
        found = np.zeros((size, size), dtype=bool)
        for code, after in self.followers.items():
            found[code, list(after)] = True
        return found


def tags_of(
    content: bytes, grammar: Grammar, codes_of: Callable[[Array, Array, Array], Array]
) -> Tags:
    """Return the tags of a piece of XML that is plain. Raises `Strange` for any that is not known.

    `codes_of` tells codes from bytes, starts and ends; it need not look at every byte.
    """
    data = np.frombuffer(content + _MARGIN, dtype=np.uint8)
    starts = np.flatnonzero(data == _LESS)
    ends = np.flatnonzero(data == _GREATER)
    demand(len(starts) == len(ends) > 0)
    demand(starts < ends)
    demand(ends[:-1] < starts[1:])
    codes = codes_of(data, starts, ends)
    demand(codes)
    for code, spellings in grammar.spelt.items():
        own = starts[codes == code]
        demand(np.logical_or.reduce([stand_at(data, own, spelling) for spelling in spellings]))
    for code in grammar.with_attributes:
        begins = starts[codes == code] + len(grammar.spelt[code][0])
        demand(_ENDS_NAME[data[begins]])
    for code in grammar.with_attributes:
        own = np.flatnonzero(codes == code)
        codes[own[data[ends[own] - 1] == _SLASH]] = code + 1
    demand(grammar.may_follow[codes[:-1], codes[1:]])
    demand(codes[0] in grammar.first and codes[-1] in grammar.last)
    may = among(codes, grammar.before_text)
    _demand_no_text(data, starts, ends, may, len(content))
    return Tags(data, starts, ends, codes)


def codes_by_two(known: Mapping[bytes, int]) -> Callable[[Array, Array, Array], Array]:
    """Return what tells the codes of tags by the first two bytes of their names."""
    table = np.zeros((256, 256), dtype=np.uint8)
    for two, code in known.items():
        table[two[0], two[1]] = code
    return lambda data, starts, _: table[data[starts + 1], data[starts + 2]]


def stand_at(data: Array, begins: Array, word: bytes) -> Array:
    """Tell at which places a word stands, eight bytes at a time, bool.

    >>> stand_at(np.frombuffer(b"<table:table-row>..", np.uint8), np.array([1, 0]), b"table:table")
    array([ True, False])
    """
    if len(word) < _EIGHT:
        letters = enumerate(word)
        found = [data[begins + place] == letter for place, letter in letters]
    else:
        eights = np.ndarray((len(data) - _EIGHT + 1,), "<u8", data, 0, (1,))
        last = len(word) - _EIGHT
        found = [
            eights[begins + place] == int.from_bytes(word[place : place + _EIGHT], "little")
            for place in (*range(0, last, _EIGHT), last)
        ]
    every: Array = np.logical_and.reduce(found)
    return every


def _demand_no_text(data: Array, starts: Array, ends: Array, may: Array, size: int) -> None:
    """Give up where anything but white space stands among tags that are no place for text."""
    begins = np.concatenate(([0], ends + 1))
    stops = np.concatenate((starts, [size]))
    gaps = np.flatnonzero((stops > begins) & ~np.concatenate(([False], may)))
    if len(gaps):
        begins, stops = begins[gaps], stops[gaps]
        demand(white_between(data, begins, stops) == stops - begins)


def white_between(data: Array, begins: Array, ends: Array) -> Array:
    """Return how many bytes of white space there are in stretches, one after the other.

    In a plain piece no other control characters are there.
    """
    white = np.flatnonzero(data <= _SPACE)
    found: Array = np.searchsorted(white, ends) - np.searchsorted(white, begins)
    return found
