"""Lanes of many different texts: Arrow folds and sorts them, where its way is known to be ours."""

from bisect import bisect_left
from collections.abc import Iterator
from dataclasses import replace
from typing import Any

import numpy as np
import pyarrow.compute as pc

from even_sieve.core.cells import Kind
from even_sieve.core.table.arrays import spans
from even_sieve.core.table.coded_lanes import text_lane
from even_sieve.core.table.lanes import Array, TextLane, narrowest
from even_sieve.core.table.texts_of_rows import EndInOrder, Stretch, TextsOfRows
from even_sieve.sources.arrow_buffers import (
    Bytes,
    is_ascii,
    lowered,
    mask_of,
    spread_over,
    stored,
    strings_of,
    take,
    take_any,
)
from even_sieve.sources.arrow_strings import Strings
from even_sieve.sources.folding import all_folded
from even_sieve.sources.letters_held import Case, LettersHeld
from even_sieve.sources.side_by_side import by_stretches, joined, side_by_side
from even_sieve.sources.string_order import in_order

_SAMPLE, _MOSTLY = 1 << 14, 0.75
#: With so large a part of different ones texts are put in order later.
_MANY = 0.5
#: So few texts are put in order at once.
_FEW = 1 << 14
_BLOCK = 1 << 20
#: One of so many texts, or a few, is put in order to tell which comes first.
_END, _SAMPLE_OF_ENDS = 1 << 7, 1 << 12


def text_lane_of(strings: Any) -> TextLane:
    """Return the lane of an array of texts."""
    if not _mostly_differ(strings):
        coded = strings.dictionary_encode()
        lane = _lane_of_different(coded.dictionary, all_folded(coded.dictionary))
        return replace(lane, codes=lane.codes[stored(coded.indices, np.int32)])
    return _lane_of_different(strings, all_folded(strings))


def text_lane_later(strings: Any, states: Array | None = None) -> TextLane:
    """Return the lane of an array of texts; where many differ, one that is put in order later.

    `states` says which rows hold the texts; None where all do.
    """
    some = spread_over(strings, _SAMPLE)
    differ = 0 if len(strings) < _FEW else len(some.unique())
    if not differ or differ < _MANY * len(some):
        return _spread(text_lane_of(strings), states)
    states = None if states is None else states.copy()  # whoever has these may change them
    spelt = Strings(strings)
    known: list[Strings | None] = []  # worked out once, but that several threads may each do it

    def folded() -> Strings | None:
        if not known:
            known.append(_folded(spelt))
        return known[0]

    def make() -> TextLane:
        if known and _mostly_differ(strings):
            array = None if known[0] is None else known[0].array
            return _spread(_lane_of_different(strings, array), states)
        return _spread(text_lane_of(strings), states)

    def order_end(texts: Any, last: bool) -> EndInOrder:
        return _end_in_order(texts.array, last, states)

    def order_around(texts: Any, text: str, count: int) -> Stretch | None:
        return _around_in_order(strings, texts.array, text, count)

    waiting = TextsOfRows(spelt, folded, order_end, order_around, states, differ)
    return TextLane.waiting(make, _of_rows=waiting)


def _folded(spelt: Strings) -> Strings | None:
    """Return texts as they are compared; None where Arrow does not know how."""
    array = all_folded(spelt.array, spelt.letters)
    if array is None or array is spelt.array:
        return None if array is None else spelt
    letters = LettersHeld(array, Case.SMALL) if spelt.letters.are_ascii else None
    return Strings(array, letters)


def _around_in_order(strings: Any, folded: Any, text: str, count: int) -> Stretch | None:
    """Return so many different texts, or more, on each side of one, where there are.

    None for a text that no file can hold.
    """
    try:
        sought = strings_of([text])[0]
    except UnicodeEncodeError:
        return None
    some = spread_over(folded, _SAMPLE_OF_ENDS)
    some = some.take(pc.array_sort_indices(some))
    at = int(np.count_nonzero(mask_of(pc.less(some, sought))))
    reach = 2 + 2 * count * len(some) // len(folded)
    while True:
        low, high = at - reach, at + reach
        rows = _rows_between(
            folded,
            some[low] if low >= 0 else None,
            some[high] if high < len(some) else None,
        )
        lane = _lane_of_different(take(strings, rows), take(folded, rows))
        place = bisect_left(lane.folded, text)
        enough_before = low < 0 or place >= count
        if enough_before and (high >= len(some) or len(lane.folded) - place >= count):
            return Stretch(lane.spellings, lane.folded)
        reach *= 4


def _rows_between(strings: Any, low: Any, high: Any) -> Array:
    """Return the rows of the strings from one on and up to another, None for no end."""

    def inside(own: Any) -> Any:
        found = [pc.greater_equal(own, low)] if low is not None else []
        found += [pc.less_equal(own, high)] if high is not None else []
        return pc.and_(*found) if len(found) > 1 else found[0]

    if low is None and high is None:
        return np.arange(len(strings))
    return np.flatnonzero(mask_of(by_stretches(inside, strings)))


def _end_in_order(folded: Any, last: bool, states: Array | None) -> EndInOrder:
    """Return where the first, or last, of texts as they are compared stand among those."""
    some = spread_over(folded, _SAMPLE_OF_ENDS)
    place = len(some) // _END
    order = pc.array_sort_indices(some)
    bound = some[order[len(some) - 1 - place if last else place].as_py()]
    within = pc.greater_equal if last else pc.less_equal
    rows = np.flatnonzero(mask_of(by_stretches(lambda own: within(own, bound), folded)))
    lane = _lane_of_different(*[take(folded, rows)] * 2)
    beyond = 0 if last else len(lane.spellings)
    places = np.full(len(folded), beyond, dtype=np.int32)
    places[rows] = lane.codes.astype(np.int32) + last
    return EndInOrder(places if states is None else _of_all(places, states), beyond)


def lane_of_first(texts: Any, places: Array, most: int) -> TextLane:
    """Return the lane of some of the texts at these places.

    Among them are so many different ones, or all, that come first in order.

    >>> from even_sieve.sources.arrow_buffers import strings_of
    >>> texts = Strings(strings_of(["quay", "Pier", "mole", "pier"]))
    >>> list(lane_of_first(texts, np.array([0, 1, 3]), 2).spellings)
    ['Pier', 'pier', 'quay']
    """
    strings = take(texts.array, places)
    folded = all_folded(strings) if len(strings) > _FEW else None
    if folded is None:
        return text_lane_of(strings)
    some = spread_over(folded, _SAMPLE)
    last = some[pc.array_sort_indices(some)[min(2 * most, len(some) - 1)].as_py()]
    first = take(strings, np.flatnonzero(mask_of(pc.less_equal(folded, last))))
    return text_lane_of(first if len(first.unique()) >= most else strings)


def _spread(lane: TextLane, states: Array | None) -> TextLane:
    """Return the lane of some rows as that of all."""
    if states is None:
        return lane
    return replace(lane, codes=_of_all(lane.codes, states))


def _of_all(codes: Array, states: Array) -> Array:
    """Return what texts have, one a text, as one a row; 0 where there is none."""
    found = np.zeros(len(states), dtype=codes.dtype)
    found[states == Kind.TEXT] = codes
    return found


def _lane_of_different(strings: Any, folded: Any) -> TextLane:
    """Return the lane of texts, mostly different ones, and of these as they are compared."""
    if folded is None:
        coded = strings.dictionary_encode()
        return text_lane(coded.dictionary.to_pylist(), stored(coded.indices, np.int32))
    if _ascend(folded[:_SAMPLE]) and _ascend(folded):  # numbered in order
        codes = np.arange(len(strings), dtype=narrowest(len(strings)))
        spelt = Strings(strings)
        return TextLane(codes, spelt, spelt if folded is strings else Strings(folded))
    codes, first = _numbered(strings, folded)
    same = folded is strings
    if same or is_ascii(strings):
        folded = None  # of very many texts it is not held beside what is made next
    spelt = Strings(_taken(strings, first))
    if same:
        return TextLane(codes, spelt, spelt)
    if folded is not None:
        return TextLane(codes, spelt, Strings(_taken(folded, first)))
    del first
    return TextLane(codes, spelt, Strings(lowered(spelt.array)))


def _mostly_differ(strings: Any) -> bool:
    """Guess from a sample whether there are about as many texts as rows, but for frequent ones.

    Sorting takes as long then as bringing equal ones together first, or less; else several times
    as long. How many a sample has twice tells how many there are in all.
    """
    some = spread_over(strings, _SAMPLE)
    counts = stored(pc.value_counts(some).field(1), np.int64)
    once, twice = (int(np.count_nonzero(counts == times)) for times in (1, 2))
    rare = once + 2 * twice
    return rare >= _MOSTLY * len(some) and rare * len(some) >= 2 * twice * len(strings)


def _ascend(strings: Any) -> bool:
    """Tell whether each string comes after the one before it."""
    return pc.all(pc.less(strings[:-1], strings[1:])).as_py() is not False


def _numbered(strings: Any, folded: Any) -> tuple[Array, Array]:
    """Return the place of each text among the different ones in order, and the rows of these.

    Of texts that are compared as they stand `folded` is the array itself.
    """
    sort, new = in_order(folded)
    if folded is not strings:
        _tell_spellings_apart(strings, sort, new)
    codes = np.empty(len(sort), dtype=narrowest(int(np.count_nonzero(new))))
    for stretch, before in _counted(new):
        codes[sort[stretch]] = np.cumsum(new[stretch], dtype=np.int64) + (before - 1)
    return codes, sort[new]


def _counted(new: Array) -> Iterator[tuple[slice, int]]:
    """Yield stretches of places, and how many are new before each."""
    before = 0
    for stretch in spans(len(new), _BLOCK):
        yield stretch, before
        before += int(np.count_nonzero(new[stretch]))


def _taken(strings: Any, places: Array) -> Any:
    """Return the strings at these places, in any order."""
    if len(places) <= _BLOCK:
        return joined(side_by_side(lambda rows: take_any(strings, places[rows]), len(places)))
    text = Bytes.of(strings)
    ends = np.zeros(len(places) + 1, dtype=text.offsets.dtype)
    for some in spans(len(places), _BLOCK):
        lengths = text.offsets[places[some] + 1] - text.offsets[places[some]]
        np.cumsum(lengths, out=ends[some.start + 1 : some.stop + 1])
        ends[some.start + 1 : some.stop + 1] += ends[some.start]
    letters = np.empty(ends[-1], dtype=np.uint8)

    def put(rows: slice) -> None:
        for some in spans(rows.stop, _BLOCK, rows.start):
            made = Bytes.of(take_any(strings, places[some]))
            letters[ends[some.start] : ends[some.stop]] = made.used

    side_by_side(put, len(places))
    return Bytes(letters, ends).strings()


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
