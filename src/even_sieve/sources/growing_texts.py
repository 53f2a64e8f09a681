"""Texts of a growing column of which most are different, kept as Arrow has them."""

from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from even_sieve.core.table.arrays import spans, zeros
from even_sieve.core.table.growing import Coded, few_texts
from even_sieve.core.table.lanes import Array, Lane, TextLane, narrowest
from even_sieve.sources.arrow_buffers import Bytes, strings_of
from even_sieve.sources.arrow_strings import Strings
from even_sieve.sources.text_lanes import text_lane_of

#: With so many different texts, or a larger part of all cells, they are kept as arrays.
_MANY, _PART = 1 << 16, 0.5
#: So many texts come at the least before those that are there twice are brought together.
_WAITING = 1 << 22
_LARGEST = 2**31 - 1


class GrowingTexts:
    """Texts as numbers in the order first met: few as Python has them, many as Arrow has them.

    >>> from even_sieve.core.table import column_from
    >>> from even_sieve.core.table.growing import Growing
    >>> grown = Growing("berth", 3, GrowingTexts)
    >>> for cells in (["Pier"], ["Mole", "pier"]):
    ...     grown.add(column_from("berth", cells))
    >>> list(grown.column().cells())
    ['Pier', 'Mole', 'pier']
    """

    def __init__(self, most: int) -> None:
        self._most = most
        self._few: Coded | None = few_texts(most)
        self._codes: Array = np.empty(0, dtype=np.uint8)
        self._arrays: list[Any] = []
        self._end = self._count = self._least = 0

    def put(self, lane: Any, start: int) -> None:
        """Put the lane of the rows from `start` on."""
        if self._few is not None:
            many = len(lane.spellings) > max(_MANY, _PART * len(lane.codes))
            if not many:
                self._few.put(lane, start)
                self._end = start + len(lane.codes)
                many = self._few.count > max(_MANY, _PART * self._end)
                if many:
                    self._leave(self._few)
                return
            self._leave(self._few)
        self._end = start + len(lane.codes)
        first = self._take(lane.spellings)
        np.add(lane.codes, first, out=self._codes[start : self._end], dtype=self._codes.dtype)
        if self._count > 2 * self._least + _WAITING:
            self._together()

    def _leave(self, few: Coded) -> None:
        """Go on with arrays."""
        words, self._codes = few.taken()
        self._few = None
        if words:
            self._take(words)

    def _take(self, texts: Any) -> int:
        """Take in texts; return the number of the first one."""
        first = self._count
        own = texts.array if isinstance(texts, Strings) else strings_of(list(texts))
        self._arrays.append(own)
        self._count += len(own)
        kind = narrowest(self._count)
        if kind.itemsize > self._codes.itemsize:
            wide = zeros(self._most, kind)
            for rows in spans(min(self._end, len(self._codes))):
                wide[rows] = self._codes[rows]
            self._codes = wide
        return first

    def _together(self) -> TextLane:
        """Bring equal texts together; return their lane, whose codes are of the texts so far."""
        pa.default_memory_pool().release_unused()
        kind = pa.string()
        if sum(int(Bytes.of(each).lengths.sum()) for each in self._arrays) > _LARGEST:
            kind = pa.large_string()
        some, self._arrays = [pc.cast(each, kind) for each in self._arrays], []
        every = pa.concat_arrays(some)
        some.clear()  # they are not held beside all of them
        pa.default_memory_pool().release_unused()
        lane = text_lane_of(every)
        del every
        pa.default_memory_pool().release_unused()
        for rows in spans(self._end):
            self._codes[rows] = lane.codes[self._codes[rows]]
        array = lane.spellings.array if isinstance(lane.spellings, Strings) else None
        self._arrays = [strings_of(list(lane.spellings)) if array is None else array]
        self._count = self._least = len(lane.spellings)
        return lane

    def lane(self, end: int) -> Lane:
        """Return the lane of all rows."""
        if self._few is not None:
            return self._few.lane(end)
        lane = self._together()
        return TextLane(self._codes[:end], lane.spellings, lane.folded)
