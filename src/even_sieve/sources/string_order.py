"""Arrow arrays of strings in the order of their bytes, sorted as numbers of eight bytes each."""

from dataclasses import dataclass
from functools import partial
from typing import Any

import numpy as np
import pyarrow.compute as pc

from even_sieve.core.table.lanes import Array
from even_sieve.sources.arrow_buffers import Bytes, mask_of, stored, take_any
from even_sieve.sources.side_by_side import all_at_once, side_by_side

_EIGHT, _BITS = 8, 64
_SAMPLE = 1 << 12
#: So many bytes are looked at; the order of strings alike in all of them is left to Arrow.
_DEEPEST = 5 * _EIGHT
#: What is kept of eight bytes of which so many are the string's own.
_OWN = np.array([2**64 - 2 ** (64 - 8 * own) for own in range(_EIGHT + 1)], dtype=np.uint64)


def in_order(strings: Any) -> tuple[Array, Array]:
    """Return the places of the strings in the order of their bytes, the first of equal ones first.

    The second array, bool, says of each in that order whether it is another string than that
    before it; the first one is.

    >>> from even_sieve.sources.arrow_buffers import strings_of
    >>> sort, new = in_order(strings_of(["pier", "mole", "pier", "mole 2"]))
    >>> sort.tolist(), new.tolist()
    ([1, 3, 0, 2], [True, True, True, False])
    """
    text = Bytes.of(strings)
    if not text.used.all():  # a byte 0 would count as the end of a string
        sort, new = np.arange(len(strings)), np.ones(len(strings), dtype=bool)
        return _by_arrow(strings, sort, new, sort.copy())
    words, begin = _Words.of(text), _alike_up_to(strings)
    stretches = side_by_side(partial(words.within, begin), len(strings))
    keys = np.concatenate(stretches)
    parts = _parted(keys, len(stretches))
    found = all_at_once(lambda rows: _sorted_part(strings, words, rows, keys[rows], begin), parts)
    sorts, news = zip(*found, strict=True)
    return np.concatenate(sorts), np.concatenate(news)


def _parted(keys: Array, count: int) -> list[Array]:
    """Return the places of the keys in so many parts of about as many, each after the last."""
    rows = np.arange(len(keys))
    if count < 2:
        return [rows]
    some = np.sort(keys[:: max(len(keys) // _SAMPLE, 1)])
    bounds = sorted({some[len(some) * i // count] for i in range(1, count)})
    part = np.zeros(len(keys), dtype=np.uint8)
    for bound in bounds:
        part += keys >= bound
    return [found for i in range(len(bounds) + 1) if len(found := np.flatnonzero(part == i))]


def _sorted_part(
    strings: Any, words: "_Words", every: Array, keys: Array, begin: int
) -> tuple[Array, Array]:
    """Return these rows, which ascend, as `in_order` does; `keys` are their first eight bytes."""
    new = np.ones(len(keys), dtype=bool)
    sort = np.argsort(keys)
    new[1:] = _steps(keys[sort])
    sort = every[sort]
    places = np.flatnonzero(_alike(new))
    if len(places):
        rows = sort[places]
        sort[places] = rows[_sorted(np.cumsum(new[places]), rows)]
    for depth in range(begin + _EIGHT, begin + _DEEPEST, _EIGHT):
        places = places[_go_on(new[places], words.lengths[sort[places]] > depth)]
        if not len(places):
            return sort, new
        rows, apart = sort[places], new[places]
        keys = words.at(rows, depth)
        order = _sorted(np.cumsum(apart), keys)
        sort[places] = rows[order]
        apart[1:] |= _steps(keys[order])
        new[places] = apart
        places = places[_alike(apart)]
    return _by_arrow(strings, sort, new, places)


@dataclass(frozen=True)
class _Words:
    """Strings as numbers of eight bytes; `eights` holds the eight that begin at each byte."""

    eights: Array
    starts: Array
    lengths: Array

    @classmethod
    def of(cls, text: Bytes) -> "_Words":
        padded = np.concatenate((text.used, np.zeros(_EIGHT, dtype=np.uint8)))
        count = len(padded) - _EIGHT + 1
        eights = np.ndarray((count,), dtype="<u8", buffer=padded, strides=(1,))
        return cls(eights, text.offsets[:-1] - text.offsets[0], text.lengths)

    def within(self, depth: int, rows: slice) -> Array:
        """Return what `at` does of the strings of a stretch."""
        return self.at(np.arange(rows.start, rows.stop), depth)

    def at(self, rows: Array, depth: int) -> Array:
        """Return the eight bytes of each string after so many; zeros where it has none."""
        begins = np.minimum(self.starts[rows] + depth, len(self.eights) - 1)
        own = np.clip(self.lengths[rows] - depth, 0, _EIGHT)
        found: Array = self.eights[begins].byteswap() & _OWN[own]
        return found


def _alike_up_to(strings: Any) -> int:
    """Return how many bytes all strings begin with alike."""
    if not len(strings) or strings[0].as_py()[:_EIGHT] != strings[-1].as_py()[:_EIGHT]:
        return 0
    ends = pc.min_max(strings).as_py()
    least, most = (np.frombuffer(each.encode(), dtype=np.uint8) for each in ends.values())
    shorter = min(len(least), len(most))
    other = least[:shorter] != most[:shorter]
    return int(other.argmax()) if other.any() else shorter


def _steps(keys: Array) -> Array:
    found: Array = keys[1:] != keys[:-1]
    return found


def _alike(new: Array) -> Array:
    """Tell which are like the one before them or after them."""
    alike = ~new
    alike[:-1] |= ~new[1:]
    return alike


def _go_on(new: Array, longer: Array) -> Array:
    """Tell which belong to alike ones of which at least one goes on."""
    if not len(new):
        return new
    begins = np.flatnonzero(new)
    any_longer = np.logical_or.reduceat(longer, begins)
    found: Array = np.repeat(any_longer, np.diff(begins, append=len(new)))
    return found


def _sorted(group: Array, keys: Array) -> Array:
    """Return the places in the order of their keys within each group; groups ascend."""
    order = np.argsort(keys)
    rank = np.empty(len(keys), dtype=np.uint64)
    rank[order] = np.cumsum(np.concatenate(([False], _steps(keys[order]))))
    count, most = len(keys).bit_length(), int(rank[order[-1]]).bit_length()
    if int(group[-1]).bit_length() + most + count > _BITS:
        return np.lexsort((keys, group))
    packed = group.astype(np.uint64) << np.uint64(most) | rank
    packed = packed << np.uint64(count) | np.arange(len(keys), dtype=np.uint64)
    packed.sort()
    return (packed & np.uint64(2**count - 1)).astype(np.int64)


def _by_arrow(strings: Any, sort: Array, new: Array, places: Array) -> tuple[Array, Array]:
    """Put the strings at these places in order, those that are equal as they stand."""
    if len(places):
        some = take_any(strings, sort[places])
        among = stored(pc.array_sort_indices(some), np.uint64).astype(np.int64)
        sort[places] = sort[places][among]
        some = take_any(some, among)
        new[places[1:]] = mask_of(pc.not_equal(some[1:], some[:-1]))
    return sort, new
