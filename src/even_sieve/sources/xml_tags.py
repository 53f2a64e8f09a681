"""The tags of a piece of XML as arrays, for a few tags that are known beforehand.

Whatever does not look exactly as expected makes it give up: then a parser reads the piece.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np
import pyarrow as pa

from even_sieve.core.table.lanes import Array
from even_sieve.sources.arrow_buffers import strings_of, take

_LESS, _GREATER, _SLASH, _SPACE = b"<>/ "
_WHITE = np.isin(np.arange(256), list(b" \t\n"))
#: Bytes past the end that may be looked at.
_MARGIN = bytes(64)


class Strange(Exception):
    """Something that is not written in the way that is known."""


def demand(holds: Any) -> None:
    """Give up where a condition does not hold for every one. Raises `Strange`."""
    if not np.all(holds):
        raise Strange


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
        wanted = np.zeros(256, dtype=bool)
        wanted[list(codes)] = True
        return np.flatnonzero(wanted[self.codes])

    def counted(self, *codes: int) -> Array:
        """Return for every tag the number of the last one of these codes, from 0; -1 before."""
        wanted = np.zeros(256, dtype=np.int8)
        wanted[list(codes)] = 1
        return np.cumsum(wanted[self.codes], dtype=np.int32) - 1

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
class Known:
    """The tags that are known: codes by the first two bytes of their names, 0 for others.

    `exact` are tags that have but one spelling (or two); `open_or_not` those with attributes,
    whose code is one more where the element is closed by the tag itself. After a tag of a code
    only those that `followers` names may come, and text only after those of `before_text`.
    """

    by_two: Array
    exact: Mapping[int, tuple[bytes, ...]]
    open_or_not: frozenset[int]
    followers: Array
    before_text: Array
    first: frozenset[int]
    last: frozenset[int]


def tags_of(content: bytes, known: Known) -> Tags:
    """Return the tags of a piece of XML. Raises `Strange` for any that is not known."""
    data = np.frombuffer(content + _MARGIN, dtype=np.uint8)
    starts = np.flatnonzero(data == _LESS)
    ends = np.flatnonzero(data == _GREATER)
    demand(len(starts) == len(ends) > 0)
    demand(starts < ends)
    demand(ends[:-1] < starts[1:])
    codes = known.by_two[data[starts + 1], data[starts + 2]]
    demand(codes)
    for code, spellings in known.exact.items():
        own = np.flatnonzero(codes == code)
        _demand_spelt(data, starts[own], ends[own], spellings)
    for code in known.open_or_not:
        own = np.flatnonzero(codes == code)
        codes[own[data[ends[own] - 1] == _SLASH]] = code + 1
    demand(known.followers[codes[:-1], codes[1:]])
    demand(codes[0] in known.first and codes[-1] in known.last)
    _demand_no_text(data, starts, ends, known.before_text[codes], len(content))
    return Tags(data, starts, ends, codes)


def _demand_spelt(data: Array, starts: Array, ends: Array, spellings: tuple[bytes, ...]) -> None:
    for spelling in spellings:
        if not len(starts):
            return
        fits = ends - starts == len(spelling) - 1
        for place, letter in enumerate(spelling[1:-1], 1):
            fits &= data[starts + place] == letter
        starts, ends = starts[~fits], ends[~fits]
    demand(not len(starts))


def _demand_no_text(data: Array, starts: Array, ends: Array, may: Array, size: int) -> None:
    """Give up where anything but white space stands among tags that are no place for text."""
    begins = np.concatenate(([0], ends + 1))
    stops = np.concatenate((starts, [size]))
    gaps = np.flatnonzero((stops > begins) & ~np.concatenate(([False], may)))
    if len(gaps):
        black = np.concatenate(([0], np.cumsum(~_WHITE[data], dtype=np.int32)))
        demand(black[stops[gaps]] == black[begins[gaps]])
