"""Columns of strings that come piece by piece, kept small from the beginning.

A column of few different strings keeps codes; of one with many, each piece is read in bulk
and put into lanes made for all the rows that may come: memory that nothing is written to
is not taken. What a piece cannot settle by itself (numbers as people write them, a scale too
wide) makes the gathering give up: such a column is read again as a whole.
"""

from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
import pyarrow as pa

from even_sieve.core.cells import Kind
from even_sieve.core.cells.dates import DAY
from even_sieve.core.table import Column
from even_sieve.core.table.arrays import spans, zeros
from even_sieve.core.table.growing import join_columns
from even_sieve.core.table.lanes import (
    MOST_EXACT,
    Array,
    DateLane,
    FixedLane,
    Lane,
    YesNoLane,
    narrowest,
)
from even_sieve.sources.arrow_buffers import stored, strings_of, take_any
from even_sieve.sources.bulk_strings import Piece, column_of_piece, read_piece, trim
from even_sieve.sources.source_options import SourceOptions
from even_sieve.sources.string_columns import (
    column_of_tokens,
    is_written,
    reads_in_bulk,
    with_date_notice,
)
from even_sieve.sources.tokens import TokenReader
from even_sieve.sources.written_shapes import is_of_shape

_MANY = 0.5
_MOST_TOKENS = 1 << 16
_TEN = 10
_PIECE = 1 << 18


class Codes:
    """A column of few different strings: each one once, and its number for every row."""

    def __init__(self, most: int) -> None:
        self._positions: dict[str, int] = {}
        self._codes = zeros(most, np.uint8)
        self._end = 0

    def add(self, strings: Any) -> bool:
        """Take in the next rows, an Arrow array; False if there are too many to keep so."""
        coded = strings.dictionary_encode()
        return self._take(coded.dictionary.to_pylist(), stored(coded.indices, np.int32))

    def _take(self, tokens: list[str], codes: Array) -> bool:
        positions = self._positions
        numbers = list(map(positions.get, tokens))
        if None in numbers:
            numbers = [positions.setdefault(token, len(positions)) for token in tokens]
        if len(positions) > _MOST_TOKENS:
            return False
        numbering = np.array(numbers, dtype=narrowest(len(positions)))
        if numbering.itemsize > self._codes.itemsize:
            self._codes = _widened(self._codes, numbering.dtype, self._end)
        start, self._end = self._end, self._end + len(codes)
        np.take(numbering, codes, out=self._codes[start : self._end])
        return True

    def pieces(self) -> Iterator[Any]:
        """Yield the strings of the rows that were taken in, as Arrow arrays."""
        tokens = strings_of(list(self._positions))
        for start in range(0, self._end, _PIECE):
            codes = self._codes[start : min(start + _PIECE, self._end)]
            yield take_any(tokens, codes.astype(np.int64))

    def merge(self, other: "Codes") -> bool:
        """Take in the rows that another one has; False if there are too many to keep so."""
        return self._take(list(other._positions), other._codes[: other._end])

    def cut(self) -> None:
        """Let go of room for rows that did not come."""
        self._codes = self._codes[: self._end].copy()

    def column(self, name: str, options: SourceOptions) -> Column | None:
        """Return the column of all rows."""
        return column_of_tokens(name, list(self._positions), self._codes[: self._end], options)


@dataclass
class Cells:
    """A column of many different strings: lanes for `most` rows, filled a piece at a time."""

    most: int
    blank_as: tuple[str, ...]
    reader: TokenReader
    whole: Piece
    words: list[Any] = field(default_factory=list)
    apart: list[tuple[Array, Column]] = field(default_factory=list)
    end: int = 0
    trimmed: int = 0

    @classmethod
    def starting(cls, most: int, blank_as: tuple[str, ...]) -> "Cells":
        """Return the lanes without rows."""
        whole = Piece(0, {}, zeros(most, np.uint8))
        return cls(most, blank_as, TokenReader(blank_as), whole)

    def add(self, strings: Any) -> bool:
        """Take in the next rows, an Arrow array; False if they must be read with the others."""
        strings, trimmed = trim(strings)
        piece = read_piece(strings, self.blank_as, self.reader)
        start, self.end = self.end, self.end + piece.length
        self.trimmed += trimmed
        if piece.apart is not None:
            self.apart.append((piece.apart[0] + start, piece.apart[1]))
        self.whole.states[start : self.end] = piece.states
        if piece.words is not None:
            self.words.append(piece.words)
        return all(self._put(kind, lane, start) for kind, lane in piece.lanes.items())

    def merge(self, other: "Cells") -> bool:
        """Take in the rows that another one has; False if they must be read with the others."""
        start, self.end = self.end, self.end + other.end
        self.whole.states[start : self.end] = other.whole.states[: other.end]
        self.trimmed += other.trimmed
        self.words += other.words
        self.apart += [(rows + start, column) for rows, column in other.apart]
        self.reader.offsets |= other.reader.offsets
        self.reader.cut = self.reader.cut or other.reader.cut
        lanes = other.whole.lanes.items()
        return all(
            self._put(kind, _with_values(lane, lane.values[: other.end]), start)
            for kind, lane in lanes
        )

    def cut(self) -> None:
        """Let go of room for rows that did not come."""
        lanes = {
            kind: _with_values(lane, lane.values[: self.end].copy())
            for kind, lane in self.whole.lanes.items()
        }
        self.whole = replace(self.whole, lanes=lanes, states=self.whole.states[: self.end].copy())

    def _put(self, kind: Kind, lane: Lane, start: int) -> bool:
        """Put a piece's lane where it belongs; False if it does not go with those before it."""
        store = _STORES.get(type(lane))
        kept = self.whole.lanes.get(kind)
        if store is None or not (kept is None or type(kept) is type(lane)):
            return False
        if kept is None:
            kept = _with_values(lane, zeros(self.most, lane.values.dtype))
        kept = store(kept, lane, start)
        if kept is None:
            return False
        self.whole.lanes[kind] = kept
        return True

    def column(self, name: str, _options: SourceOptions) -> Column | None:
        """Return the column of all rows; None if it must be read as a whole."""
        words = pa.concat_arrays(self.words) if self.words else None
        self.words.clear()
        lanes = {
            kind: _with_values(lane, lane.values[: self.end])
            for kind, lane in self.whole.lanes.items()
        }
        apart = None
        if self.apart:
            places, columns = zip(*self.apart, strict=True)
            apart = np.concatenate(places), join_columns(name, columns)
        whole = Piece(self.end, lanes, self.whole.states[: self.end], words, apart)
        column = column_of_piece(name, whole, self.reader.notices(name))
        if is_written(column):
            return None
        return replace(with_date_notice(column), trimmed=self.trimmed)


class Gathering:
    """One column while its pieces come in; `most` is how many rows may come."""

    def __init__(self, most: int, options: SourceOptions) -> None:
        self._most, self._options = most, options
        self._kept: Codes | Cells | None = None
        self._given_up = False

    def add(self, strings: Any) -> None:
        """Take in the next rows, an Arrow array of strings without nulls."""
        if self._kept is None and not self._given_up:
            self._kept = self._start(strings)
            self._given_up = self._kept is None
        if self._kept is not None and not self._kept.add(strings):
            self._kept = self._as_cells(self._kept, strings)
            self._given_up = self._kept is None

    def _as_cells(self, kept: "Codes | Cells", strings: Any) -> "Cells | None":
        """Return what is kept of few strings, and the next that make them many, as cells."""
        if isinstance(kept, Cells) or not self._goes_into_cells(strings):
            return None
        cells = Cells.starting(self._most, self._options.blank_as)
        return cells if all(map(cells.add, (*kept.pieces(), strings))) else None

    def _goes_into_cells(self, strings: Any) -> bool:
        return reads_in_bulk(self._options) and not is_of_shape(trim(strings)[0], self._options)

    def _start(self, strings: Any) -> Codes | Cells | None:
        """Return what the column is kept in; None where it is better read as a whole."""
        if len(strings.unique()) <= _MANY * len(strings):
            return Codes(self._most)
        if not self._goes_into_cells(strings):
            return None
        return Cells.starting(self._most, self._options.blank_as)

    def merge(self, other: "Gathering") -> None:
        """Take in the rows that another one has, which come after those that are here."""
        if self._given_up or other._kept is None:
            self._kept, self._given_up = None, True
            return
        if self._kept is None:
            most, options = self._most, self._options
            codes = isinstance(other._kept, Codes)
            self._kept = Codes(most) if codes else Cells.starting(most, options.blank_as)
        # What it is kept in may differ: then it is read as a whole.
        if type(self._kept) is not type(other._kept) or not self._kept.merge(other._kept):  # type: ignore[arg-type]
            self._kept, self._given_up = None, True

    def cut(self) -> "Gathering":
        """Return itself without the room for rows that did not come, to be sent elsewhere."""
        if self._kept is not None:
            self._kept.cut()
        return self

    def column(self, name: str) -> Column | None:
        """Return the column of all the rows; None if it must be read as a whole."""
        kept, self._kept = self._kept, None
        return None if kept is None else kept.column(name, self._options)


def _with_values(lane: Any, values: Array) -> Lane:
    changed: Lane = replace(lane, values=values)
    return changed


def _widened(values: Array, dtype: np.dtype[Any], end: int) -> Array:
    """Return the values as a wider type; those from `end` on are zeros still."""
    wide = zeros(len(values), dtype)
    for rows in spans(end):
        wide[rows] = values[rows]
    return wide


def _store_fixed(kept: Any, lane: Any, start: int) -> FixedLane | None:
    """Return the lane with decimals put in, both brought to the larger scale."""
    scale = max(kept.scale, lane.scale)
    for each in (kept, lane):
        if scale > each.scale and each.bound * _TEN ** (scale - each.scale) >= MOST_EXACT:
            return None
    if scale > kept.scale:
        for rows in spans(start):
            kept.values[rows] *= _TEN ** (scale - kept.scale)
        kept = FixedLane(kept.values, scale)
    end = start + len(lane.values)
    np.multiply(lane.values, _TEN ** (scale - lane.scale), out=kept.values[start:end])
    stored_lane: FixedLane = kept
    return stored_lane


def _store_dates(kept: Any, lane: Any, start: int) -> DateLane:
    """Return the lane with dates put in, as times where one of both has times."""
    if lane.has_time and not kept.has_time:
        values = _widened(kept.values, np.dtype(np.int64), start)
        for rows in spans(start):
            values[rows] *= DAY
        kept = DateLane(values, True)
    end, put = start + len(lane.values), kept.values
    put[start:end] = lane.values
    if kept.has_time and not lane.has_time:
        put[start:end] *= DAY
    stored_lane: DateLane = kept
    return stored_lane


def _store_plain(kept: Any, lane: Any, start: int) -> YesNoLane:
    kept.values[start : start + len(lane.values)] = lane.values
    stored_lane: YesNoLane = kept
    return stored_lane


#: How a piece's lane is put into the lane of all rows; what is not here is read as a whole.
_STORES: dict[type, Any] = {
    FixedLane: _store_fixed,
    DateLane: _store_dates,
    YesNoLane: _store_plain,
}
