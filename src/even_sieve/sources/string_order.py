"""Arrow arrays of strings in the order of their bytes, sorted as numbers of 64 bits each."""

from collections.abc import Iterable
from typing import Any

import numpy as np
import pyarrow.compute as pc

from even_sieve.core.table.arrays import spans
from even_sieve.core.table.lanes import Array
from even_sieve.sources.arrow_buffers import Bytes, mask_of, stored, take_any
from even_sieve.sources.side_by_side import all_at_once, side_by_side
from even_sieve.sources.string_words import Words

_EIGHT, _BITS = 8, 64
#: So many strings, or more, are sorted together, where there are several parts, which are not many.
_PART, _MOST_PARTS, _NARROW = 1 << 20, 32, 1 << 31
#: The numbers of so few strings are kept beside them.
_KEPT = 1 << 22
#: So many bytes are looked at; the order of strings alike in all of them is left to Arrow.
_DEEPEST = 5 * _EIGHT
#: Of so many strings that are alike so far it is told how far all of them are, by some at first.
_MANY, _SOME = 1 << 12, 64


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
        every, new = np.arange(len(strings)), np.ones(len(strings), dtype=bool)
        _sort_by_arrow(strings, every, new, every.copy())
        return every, new
    begin = _alike_up_to(strings)
    words = Words.of(text, begin)
    keys = None
    if len(strings) <= _KEPT:
        keys = np.concatenate(side_by_side(lambda rows: _keys(words, rows, begin), len(strings)))
    parts = _parted(words, keys, begin, len(strings))
    found = all_at_once(lambda rows: _sorted_part(strings, words, keys, rows, begin), parts)
    sorts, news = zip(*found, strict=True)
    return np.concatenate(sorts), np.concatenate(news)


def _keys(words: Words, rows: slice, begin: int) -> Array:
    """Return the numbers of these strings from that many bytes on."""
    return words.at(np.arange(rows.start, rows.stop), begin)


def _parted(words: Words, known: Array | None, begin: int, length: int) -> list[Array]:
    """Return the places of strings in parts of about as many, each after the last.

    What sorting a part takes is let go before another one is sorted.
    """
    kind = np.int32 if length < _NARROW else np.int64
    every = np.arange(length, dtype=kind)
    count = len(side_by_side(lambda rows: rows, length))
    if count < 2:
        return [every]
    count = max(count, min(length // _PART, _MOST_PARTS))
    some = words.sample(begin)
    bounds = np.array(sorted({some[len(some) * i // count] for i in range(1, count)}))

    def told(rows: slice) -> Array:
        found = []
        for own in spans(rows.stop, _PART, rows.start):
            keys = _keys(words, own, begin) if known is None else known[own]
            found.append(np.searchsorted(bounds, keys, "right").astype(np.uint8))
        return np.concatenate(found)

    part = np.concatenate(side_by_side(told, length))
    found = (np.flatnonzero(part == i).astype(kind) for i in range(len(bounds) + 1))
    return [rows for rows in found if len(rows)]


def _sorted_part(
    strings: Any, words: Words, known: Array | None, every: Array, begin: int
) -> tuple[Array, Array]:
    """Return these rows, which ascend, as `in_order` does."""
    keys = words.at(every, begin) if known is None else known[every]
    new = np.ones(len(keys), dtype=bool)
    sort = np.argsort(keys)  # places among these rows
    new[1:] = _steps(keys[sort])
    places = np.flatnonzero(_alike(new))
    depth = np.full(len(places), begin + words.step)
    for _ in range(_DEEPEST // words.step):
        longer = words.lengths_of(every[sort[places]]) > depth
        left = _go_on(new[places], longer)
        places, depth = places[left], depth[left]
        if not len(places):
            break
        some, apart = sort[places], new[places]
        _pass_over(strings, every[some], apart, depth, 2 * words.step)
        keys = words.at(every[some], depth)
        order = _sorted(np.cumsum(apart), keys)
        sort[places] = some[order]
        apart[1:] |= _steps(keys[order])
        new[places] = apart
        left = _alike(apart)
        places, depth = places[left], depth[left] + words.step
    sort = every[sort]
    if len(places):
        _sort_by_arrow(strings, sort, new, places)
    places = np.flatnonzero(_alike(new))
    if len(places):
        rows = sort[places]
        sort[places] = rows[_sorted(np.cumsum(new[places]), rows)]
    return sort, new


def _pass_over(strings: Any, rows: Array, new: Array, depth: Array, worth: int) -> None:
    """Make the depth of the largest group of rows what all of it begin with alike, if it is worth.

    `new` says where a group begins.
    """
    begins = np.append(np.flatnonzero(new), len(new))
    largest = int(np.diff(begins).argmax())
    group = slice(begins[largest], begins[largest + 1])
    if group.stop - group.start < _MANY:
        return
    enough = int(depth[group.start]) + worth
    own = rows[group]
    if _common([take_any(strings, own[:: 1 + len(own) // _SOME])]) >= enough:
        every = (take_any(strings, own[some]) for some in spans(len(own), _PART))
        depth[group] = max(depth[group.start], _common(every))


def _alike_up_to(strings: Any) -> int:
    """Return how many bytes all strings begin with alike, unless these are few."""
    if not len(strings) or strings[0].as_py()[:_EIGHT] != strings[-1].as_py()[:_EIGHT]:
        return 0
    return _common([strings])


def _common(arrays: Iterable[Any]) -> int:
    """Return how many bytes the strings of arrays, one at least in each, begin with alike."""
    ends = [each.encode() for own in arrays for each in pc.min_max(own).as_py().values()]
    least, most = (np.frombuffer(each, dtype=np.uint8) for each in (min(ends), max(ends)))
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


def _sort_by_arrow(strings: Any, sort: Array, new: Array, places: Array) -> None:
    """Put the strings at these places in order, those that are equal as they stand."""
    some = take_any(strings, sort[places])
    among = stored(pc.array_sort_indices(some), np.uint64).astype(np.int64)
    sort[places] = sort[places][among]
    some = take_any(some, among)
    new[places[1:]] = mask_of(pc.not_equal(some[1:], some[:-1]))
