"""Cells of strings told apart in one pass over their bytes, where a compiled one is at hand.

Where there was no compiler when Even Sieve was installed, the same is read in several passes of
NumPy and Arrow (`bulk_strings`). What the pass is not certain of is left to these in any case.
"""

from enum import IntEnum
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from even_sieve.core.cells import Kind
from even_sieve.core.cells.dates import DAY
from even_sieve.core.cells.written import DateOrder
from even_sieve.core.table.lanes import Array, DateLane, FixedLane, FloatLane, Lane
from even_sieve.core.table.number_lanes import LARGEST_SCALE, scattered
from even_sieve.core.table.shortest import shortest_decimals
from even_sieve.sources import at_hand
from even_sieve.sources.arrow_buffers import Bytes, scalar_of, stored, take
from even_sieve.sources.column_piece import Piece
from even_sieve.sources.shaped_numbers import without_zeros
from even_sieve.sources.side_by_side import side_by_side
from even_sieve.sources.tokens import TokenReader
from even_sieve.sources.told_lanes import (
    LONG,
    drop_last_zeros,
    first_lost,
    fit_together,
    nearest_doubles,
    with_dates,
    with_numbers,
)
from even_sieve.sources.woven import spread

#: The state of a cell that is left to others, and of a number as people write them.
UNSURE, WRITTEN = 6, 7


class Fact(IntEnum):
    """What the pass sums up of the cells."""

    NUMBERS = 0
    DATES = 1
    TEXTS = 2
    BLANKS = 3
    UNSURE = 4
    #: Texts that are no numbers as people write them either.
    WORDS = 5
    #: Cells with white space around them, which are unsure.
    SPACED = 6
    WRITTEN = 7
    #: Numbers of more digits than 64 bits hold, among the numbers.
    LONG = 8
    #: Written numbers with a percent sign, with a currency sign.
    PERCENTS = 9
    SIGNED = 10
    #: Whether a date has a time.
    TIMED = 11
    #: The first row of which digits beyond microseconds were left off; of a written number; or -1.
    CUT = 12
    FIRST = 13
    #: The fewest and the most decimals of numbers.
    LEAST = 14
    MOST = 15


_ADDED = list(range(Fact.TIMED))
#: Behind the facts stand the largest number of each scale, and for each currency sign 1 more than
#: the first row that has it, or 0.
_LARGEST, _FAR = len(Fact), 280
_FIRST_SIGN = _LARGEST + LARGEST_SCALE + 1
_SIGNS = ("$", *"¢£¤¥", *map(chr, range(0x20A0, 0x20C0)))
#: Offsets are marked by their minutes and this; the first mark is that of times without one.
_OFFSET_0 = 24 * 60
_ORDERS = {None: 0, DateOrder.DAY_FIRST: 1, DateOrder.MONTH_FIRST: 2, DateOrder.YEAR_FIRST: 3}
_TEN = 10


class Told:
    """What the pass tells of strings, an Arrow array without nulls.

    `states` are kinds or `UNSURE`, `values` what numbers store and the microseconds of dates.

    >>> from even_sieve.sources.arrow_buffers import strings_of
    >>> told = Told.of(strings_of(["12.5", "Pier", "", "true"])) if at_hand.compiled else None
    >>> told is None or told.states.tolist() == [Kind.NUMBER, Kind.TEXT, Kind.BLANK, UNSURE]
    True
    """

    def __init__(self, strings: Any, mark: str) -> None:
        rows = len(strings)
        self.strings, self._mark = strings, mark
        self.states = np.empty(rows, dtype=np.uint8)
        self.values = np.empty(rows, dtype=np.int64)
        self._places = np.empty(rows, dtype=np.int16)
        self._offsets = np.zeros(2 * _OFFSET_0, dtype=np.uint8)
        self._facts = np.zeros(_FIRST_SIGN + len(_SIGNS), dtype=np.int64)
        self._facts[[Fact.CUT, Fact.FIRST, Fact.LEAST, Fact.MOST]] = -1, -1, LARGEST_SCALE, -_FAR

    @classmethod
    def of(cls, strings: Any, mark: str = ".", order: DateOrder | None = None) -> "Told | None":
        """Return what the pass tells, by this decimal mark and order of dates; None without one."""
        if at_hand.compiled is None:
            return None
        found, text, tell = cls(strings, mark), Bytes.of(strings), at_hand.compiled.tell

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
        """Take in the facts of the rows that begin there."""
        own = self._facts
        made = np.maximum(own, facts)
        made[_ADDED] = own[_ADDED] + facts[_ADDED]
        signs = slice(_FIRST_SIGN, None)
        made[signs] = np.where(
            (own[signs] == 0) & (facts[signs] > 0), facts[signs] + start, own[signs]
        )
        made[Fact.LEAST] = min(own[Fact.LEAST], facts[Fact.LEAST])
        for first in (Fact.CUT, Fact.FIRST):
            later = start + facts[first] if facts[first] >= 0 else -1
            made[first] = own[first] if own[first] >= 0 else later
        self._facts = made
        self._offsets |= offsets

    def __getitem__(self, fact: Fact) -> int:
        return int(self._facts[fact])

    @property
    def unsure(self) -> int:
        """How many cells are left to others."""
        return self[Fact.UNSURE]

    @property
    def signs(self) -> list[str]:
        """The currency signs of written numbers, in the order first met."""
        firsts = self._facts[_FIRST_SIGN:]
        order = np.argsort(firsts, kind="stable")[np.count_nonzero(firsts == 0) :]
        return [_SIGNS[each] for each in order.tolist()]

    def piece(self, reader: TokenReader, written: bool = False) -> Piece | None:
        """Return the cells, those left to others as blanks; None where they are better read alone.

        `written` tells that numbers as people write them are numbers, no texts. The reader
        remembers what it would have met.
        """
        states = self.states
        if self.unsure or self[Fact.WRITTEN]:
            kinds = np.arange(WRITTEN + 1, dtype=np.uint8)
            kinds[[UNSURE, WRITTEN]] = Kind.BLANK, Kind.NUMBER if written else Kind.TEXT
            states = kinds[states]
        piece = Piece(len(states), {}, states)
        if self[Fact.NUMBERS] or (written and self[Fact.WRITTEN]):
            lane = self._numbers(states)
            if lane is None:
                return None
            piece.lanes[Kind.NUMBER] = lane
        if self[Fact.DATES]:
            piece.lanes[Kind.DATE] = self._dates(states)
            offsets = np.flatnonzero(self._offsets).tolist()
            reader.offsets |= {each - _OFFSET_0 if each else None for each in offsets}
            if self[Fact.CUT] >= 0:
                reader.cut = self._first_cut(reader.cut)
        if self[Fact.TEXTS] or (self[Fact.WRITTEN] and not written):
            piece.words = take(self.strings, np.flatnonzero(states == Kind.TEXT))
        return piece

    def _first_cut(self, other: str) -> str:
        """Return the first time whose digits were cut off, of those told and another one met."""
        first = self[Fact.CUT]
        if other:
            before = self.strings[:first]
            if pc.index(before, scalar_of(other).cast(before.type)).as_py() >= 0:
                return other
        found: str = self.strings[first].as_py()
        return found

    def with_rest(self, piece: Piece, rest: Piece) -> Piece | None:
        """Return a piece of these cells with those of another where they are left to others.

        None where numbers do not go together.
        """
        lanes, states = rest.but_for_texts()
        rows = np.flatnonzero(self.states == UNSURE)
        lane = lanes.get(Kind.NUMBER)
        if lane is not None and Kind.NUMBER in piece.lanes:
            own: Lane | None = piece.lanes[Kind.NUMBER]
            own = own if isinstance(own, FloatLane) else self._doubles(piece.states)
            if own is None or not isinstance(lane, FloatLane):
                return None
            piece.lanes[Kind.NUMBER] = with_numbers(own, rows, lane)
        for kind in lanes.keys() - piece.lanes.keys():
            piece.lanes[kind] = spread(lanes[kind], rows, piece.length)
        lane, dates = lanes.get(Kind.DATE), piece.lanes.get(Kind.DATE)
        if self[Fact.DATES] and isinstance(lane, DateLane) and isinstance(dates, DateLane):
            piece.lanes[Kind.DATE] = with_dates(dates, rows, lane)
        piece.states[rows] = states
        if rest.words is not None:
            piece.words = take(self.strings, np.flatnonzero(piece.states == Kind.TEXT))
        return piece

    def _numbers(self, states: Array) -> FixedLane | FloatLane | None:
        """Return the lane of the numbers; None where their digits are told otherwise."""
        scale, least = self._scale(states)
        if scale is None:
            return self._doubles(states)
        values = self._of(Kind.NUMBER, states)
        if least < scale:
            units = _TEN ** np.arange(scale, -1, -1)
            values = values * units[np.clip(self._places, 0, scale)]
        return FixedLane(*without_zeros(values, scale))

    def _scale(self, states: Array) -> tuple[int | None, int]:
        """Return the most decimals of the numbers, None where these do not fit, and the fewest."""
        most, least = self[Fact.MOST], self[Fact.LEAST]
        largest = self._facts[_LARGEST : _LARGEST + LARGEST_SCALE + 1].tolist()
        if fit_together(most, least, largest) and not self[Fact.LONG]:
            return most, least
        own = np.flatnonzero(states == Kind.NUMBER)
        if self[Fact.LONG] or (self[Fact.WRITTEN] and (self.states[own] == WRITTEN).any()):
            return None, 0
        whole, places = self.values[own], self._places[own]  # written ones are texts
        if not (whole[places == places.max(initial=0)] % _TEN).any():
            drop_last_zeros(whole, places, np.ones(len(own), dtype=bool))
            self.values[own], self._places[own] = whole, places
        elif not self[Fact.WRITTEN]:
            return None, 0
        sizes = np.abs(whole)
        most, least = int(places.max()), int(places.min())
        alone = [int(sizes[places == each].max(initial=0)) for each in range(LARGEST_SCALE + 1)]
        return (most, least) if fit_together(most, least, alone) else (None, 0)

    def _doubles(self, states: Array) -> FloatLane | None:
        """Return the lane of doubles that keeps the digits that were written."""
        rows = np.flatnonzero(states == Kind.NUMBER)
        whole, places = self.values[rows], self._places[rows]
        long = places == LONG
        if not long.all():
            drop_last_zeros(whole, places, ~long)
        doubles, others = nearest_doubles(self.strings, self._mark, rows, whole, places)
        if len(others):
            at = rows[others]
            if self._mark != "." or (self.states[at] == WRITTEN).any():
                return None
            read = pc.cast(take(self.strings, at), pa.float64())
            doubles[others] = stored(read, np.float64)
        left = others[places[others] == LONG]
        whole[left], places[left] = shortest_decimals(doubles[left])
        lost = first_lost(self.strings, rows, doubles, np.flatnonzero(long))
        lane = FloatLane(doubles, (whole, places), lost)
        if len(rows) == len(states):
            return lane
        return lane.changed(lambda own: scattered(own, rows, len(states)))

    def _dates(self, states: Array) -> DateLane:
        """Return the lane of the dates: of days where all are midnights."""
        values = self._of(Kind.DATE, states)
        if self[Fact.TIMED]:
            return DateLane(values, True)
        return DateLane((values // DAY).astype(np.int32), False)

    def _of(self, kind: Kind, states: Array) -> Array:
        """Return the values of cells of a kind, 0 at others."""
        others = self[Fact.NUMBERS if kind is Kind.DATE else Fact.DATES] + self[Fact.WRITTEN]
        if not others:
            return self.values
        found: Array = np.where(states == kind, self.values, 0)
        return found
