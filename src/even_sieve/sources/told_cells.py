"""Cells of strings told apart in one pass over their bytes, where a compiled one is at hand.

Where there was no compiler when Even Sieve was installed, the same is read in several passes of
NumPy and Arrow (`bulk_strings`). What the pass is not certain of is left to these in any case.
"""

from types import ModuleType
from typing import Any

import numpy as np

from even_sieve.core.cells import Kind
from even_sieve.core.cells.dates import DAY
from even_sieve.core.cells.written import DateOrder
from even_sieve.core.table import Column
from even_sieve.core.table.lanes import Array, DateLane, FixedLane, FloatLane
from even_sieve.sources.arrow_buffers import Bytes, take
from even_sieve.sources.column_piece import Piece
from even_sieve.sources.shaped_numbers import MOST_DIGITS, without_zeros
from even_sieve.sources.side_by_side import side_by_side
from even_sieve.sources.tokens import TokenReader

compiled: ModuleType | None
try:
    from even_sieve.sources import _cells as compiled
except ImportError:  # there was no compiler
    compiled = None

#: The state of a cell that is left to others.
UNSURE = 6
#: What the pass sums up: numbers, dates, texts, blanks, what it is not sure of, texts that are no
#: numbers as people write them either, cells with white space around them; then other facts.
(_NUMBERS, _DATES, _TEXTS, _BLANKS, _UNSURE, _WORDS, _SPACED, _TIMED, _CUT, _LEAST,
 _MOST) = range(11)  # fmt: skip
#: Behind these the largest number of each count of decimals.
_LARGEST = 11
_ADDED = [_NUMBERS, _DATES, _TEXTS, _BLANKS, _UNSURE, _WORDS, _SPACED]
#: Offsets are marked by their minutes and this; the first mark is that of times without one.
_OFFSET_0 = 24 * 60
_ORDERS = {None: 0, DateOrder.DAY_FIRST: 1, DateOrder.MONTH_FIRST: 2, DateOrder.YEAR_FIRST: 3}
_BOUND = 2**63


class Told:
    """What the pass tells of strings, an Arrow array without nulls.

    `states` are kinds or `UNSURE`, `values` what numbers store and the microseconds of dates.

    >>> from even_sieve.sources.arrow_buffers import strings_of
    >>> told = Told.of(strings_of(["12.5", "Pier", "", "1e3"])) if compiled else None
    >>> told is None or told.states.tolist() == [Kind.NUMBER, Kind.TEXT, Kind.BLANK, UNSURE]
    True
    """

    def __init__(self, strings: Any) -> None:
        rows = len(strings)
        self.strings = strings
        self.states = np.empty(rows, dtype=np.uint8)
        self.values = np.empty(rows, dtype=np.int64)
        self._places = np.empty(rows, dtype=np.uint8)
        self._offsets = np.zeros(2 * _OFFSET_0, dtype=np.uint8)
        self._facts = np.zeros(_LARGEST + MOST_DIGITS + 1, dtype=np.int64)
        self._facts[[_CUT, _LEAST]] = -1, MOST_DIGITS

    @classmethod
    def of(cls, strings: Any, mark: str = ".", order: DateOrder | None = None) -> "Told | None":
        """Return what the pass tells, by this decimal mark and order of dates; None without one."""
        if compiled is None:
            return None
        found, text, tell = cls(strings), Bytes.of(strings), compiled.tell

        def read(rows: slice) -> tuple[int, Array, Array]:
            ends = text.offsets[rows.start : rows.stop + 1]
            facts, offsets = np.empty_like(found._facts), np.empty_like(found._offsets)
            own = (each[rows] for each in (found.states, found.values, found._places))
            tell(text.data, ends, ord(mark), _ORDERS[order], *own, facts, offsets)
            return rows.start, facts, offsets

        for start, facts, offsets in side_by_side(read, len(strings)):
            found._merge(start, facts, offsets)
        return found

    def _merge(self, start: int, facts: Array, offsets: Array) -> None:
        own, cut, least = self._facts, self._facts[_CUT], min(self._facts[_LEAST], facts[_LEAST])
        facts[_ADDED] += own[_ADDED]
        self._facts = np.maximum(own, facts)
        self._facts[_LEAST] = least
        self._facts[_CUT] = cut if cut >= 0 or facts[_CUT] < 0 else start + facts[_CUT]
        self._offsets |= offsets

    @property
    def unsure(self) -> int:
        """How many cells are left to others."""
        return int(self._facts[_UNSURE])

    @property
    def spaced(self) -> int:
        """How many of these have white space around them."""
        return int(self._facts[_SPACED])

    @property
    def has_texts(self) -> bool:
        """Whether some cells are texts."""
        return bool(self._facts[_TEXTS])

    @property
    def has_words(self) -> bool:
        """Whether some are texts that are no numbers as people write them either."""
        return bool(self._facts[_WORDS])

    def piece(self, reader: TokenReader) -> Piece | None:
        """Return the cells, those left to others as blanks; None where numbers are too long.

        The reader remembers what it would have met.
        """
        states = (
            np.where(self.states == UNSURE, np.uint8(Kind.BLANK), self.states)
            if self.unsure
            else self.states
        )
        piece = Piece(len(states), {}, states)
        if self._facts[_NUMBERS]:
            lane = self._numbers()
            if lane is None:
                return None
            piece.lanes[Kind.NUMBER] = lane
        if self._facts[_DATES]:
            piece.lanes[Kind.DATE] = self._dates()
            offsets = np.flatnonzero(self._offsets).tolist()
            reader.offsets |= {each - _OFFSET_0 if each else None for each in offsets}
            if self._facts[_CUT] >= 0 and not reader.cut:
                reader.cut = self.strings[int(self._facts[_CUT])].as_py()
        if self.has_texts:
            piece.words = take(self.strings, np.flatnonzero(states == Kind.TEXT))
        return piece

    def _numbers(self) -> FixedLane | None:
        """Return the lane of the numbers; None where they do not go into 64 bits together."""
        scale, least = int(self._facts[_MOST]), int(self._facts[_LEAST])
        largest = self._facts[_LARGEST : _LARGEST + scale + 1].tolist()
        if any(most * 10 ** (scale - at) >= _BOUND for at, most in enumerate(largest)):
            return None
        values = self._of(Kind.NUMBER, _DATES)
        if least < scale:
            values = values * 10 ** np.arange(scale, -1, -1)[np.minimum(self._places, scale)]
        return FixedLane(*without_zeros(values, scale))

    def _dates(self) -> DateLane:
        """Return the lane of the dates: of days where all are midnights."""
        values = self._of(Kind.DATE, _NUMBERS)
        if self._facts[_TIMED]:
            return DateLane(values, True)
        return DateLane((values // DAY).astype(np.int32), False)

    def _of(self, kind: Kind, others: int) -> Array:
        """Return the values of cells of a kind, 0 at others."""
        if not self._facts[others]:
            return self.values
        found: Array = np.where(self.states == kind, self.values, 0)
        return found


def with_rest(piece: Piece, rows: Array, rest: Piece, strings: Any) -> Piece | None:
    """Return the piece with the cells of another at these rows, which are blank in it so far.

    The strings are those of all rows. None where doubles would come among whole multiples.
    """
    lanes, states = rest.but_for_texts()
    if not piece.lanes.keys() & lanes.keys():
        for kind, lane in lanes.items():
            piece.put(kind, lane, rows)
        piece.states[rows] = states
    elif isinstance(lanes.get(Kind.NUMBER), FloatLane) and Kind.NUMBER in piece.lanes:
        return None
    else:
        texts = states == Kind.TEXT
        others = np.flatnonzero(~texts)
        piece.states[rows[texts]] = Kind.TEXT
        piece.apart.append((rows[others], Column("", len(rows), lanes, states).take(others)))
    if rest.words is not None:
        piece.words = take(strings, np.flatnonzero(piece.states == Kind.TEXT))
    return piece
