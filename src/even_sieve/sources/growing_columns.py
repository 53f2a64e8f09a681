"""Columns of strings that come piece by piece, kept small from the beginning.

A column of few different strings keeps codes; of one with many, each piece is read in bulk
and put into lanes made for all the rows that may come: memory that nothing is written to
is not taken. What a piece cannot settle by itself (numbers as people write them, a scale too
wide) makes the gathering give up: such a column is read again as a whole.
"""

from collections.abc import Iterator
from dataclasses import replace
from typing import Any

import numpy as np

from even_sieve.core.table import Column
from even_sieve.core.table.arrays import widened, zeros
from even_sieve.core.table.lanes import Array, narrowest
from even_sieve.sources.arrow_buffers import stored, strings_of, take_any
from even_sieve.sources.bulk_strings import begin_as_numbers, trim
from even_sieve.sources.growing_cells import Cells
from even_sieve.sources.like_dates import with_date_notice
from even_sieve.sources.source_options import SourceOptions
from even_sieve.sources.string_columns import (
    column_of_tokens,
    is_written,
    reads_in_bulk,
)
from even_sieve.sources.written_shapes import is_of_shape

#: The part of the first strings that differ from which on each is read: sooner where these are
#: numbers and dates, which are read at once.
_MANY, _MANY_NUMBERS = 0.5, 0.15
#: So many different strings are kept as codes.
MOST_TOKENS = 1 << 16
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
        if len(positions) > MOST_TOKENS:
            return False
        numbering = np.array(numbers, dtype=narrowest(len(positions)))
        if numbering.itemsize > self._codes.itemsize:
            self._codes = widened(self._codes, numbering.dtype, self._end)
        start, self._end = self._end, self._end + len(codes)
        np.take(numbering, codes, out=self._codes[start : self._end])
        return True

    def pieces(self) -> Iterator[Any]:
        """Yield the strings of the rows that were taken in, as Arrow arrays."""
        tokens = strings_of(list(self._positions))
        for start in range(0, self._end, _PIECE):
            codes = self._codes[start : min(start + _PIECE, self._end)]
            yield take_any(tokens, codes.astype(np.int64))

    @property
    def tokens(self) -> list[str]:
        """The different strings, in the order first met."""
        return list(self._positions)

    def numbered(self, name: str, every: list[str], options: SourceOptions) -> Column:
        """Return the column of all rows, as these different strings tell it; all are among them."""
        places = {token: number for number, token in enumerate(every)}
        own = [places[token] for token in self._positions]
        numbering = np.array(own, dtype=narrowest(len(every)))
        codes = np.take(numbering, self._codes[: self._end])
        return column_of_tokens(name, every, codes, options)

    def cells(self, options: SourceOptions) -> Cells:
        """Return the rows that were taken in, each read by itself."""
        cells = Cells(self._end, options.blank_as)
        for each in self.pieces():
            cells.add(each)
        return cells

    def merge(self, other: "Codes") -> bool:
        """Take in the rows that another one has; False if there are too many to keep so."""
        return self._take(list(other._positions), other._codes[: other._end])

    def cut(self) -> "Codes":
        """Return itself without the room for rows that did not come."""
        self._codes = self._codes[: self._end].copy()
        return self

    def column(self, name: str, options: SourceOptions) -> Column | None:
        """Return the column of all rows."""
        return column_of_tokens(name, list(self._positions), self._codes[: self._end], options)


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
        if isinstance(self._kept, Cells):
            self._kept.add(strings)
        elif self._kept is not None and not self._kept.add(strings):
            self._kept = self._as_cells(self._kept, strings)
            self._given_up = self._kept is None

    @property
    def kept(self) -> Codes | Cells | None:
        """What the rows are kept in; None where the column is better read as a whole."""
        return self._kept

    def _as_cells(self, kept: Codes, strings: Any) -> Cells | None:
        """Return what is kept of few strings, and the next that make them many, as cells."""
        if not self._goes_into_cells(strings):
            return None
        cells = Cells(self._most, self._options.blank_as)
        for each in (*kept.pieces(), strings):
            cells.add(each)
        return cells

    def _goes_into_cells(self, strings: Any) -> bool:
        return reads_in_bulk(self._options) and not is_of_shape(trim(strings)[0], self._options)

    def _start(self, strings: Any) -> Codes | Cells | None:
        """Return what the column is kept in; None where it is better read as a whole."""
        different = strings.unique()
        part = len(different) / max(len(strings), 1)
        may_be_cells = part > (_MANY_NUMBERS if begin_as_numbers(different) else _MANY)
        if may_be_cells and self._goes_into_cells(strings):
            return Cells(self._most, self._options.blank_as)
        return Codes(self._most) if part <= _MANY else None

    def merge(self, other: "Gathering") -> None:
        """Take in the rows that another one has, which come after those that are here."""
        own, others = self._kept, other._kept
        if own is None and others is not None and not self._given_up:
            codes = isinstance(others, Codes)
            own = Codes(self._most) if codes else Cells(self._most, self._options.blank_as)
        if isinstance(own, Cells) and isinstance(others, Cells):
            own.merge(others)
        elif not (isinstance(own, Codes) and isinstance(others, Codes) and own.merge(others)):
            own = None  # what it is kept in may differ: then it is read as a whole
        self._kept, self._given_up = own, own is None

    def cut(self) -> "Gathering":
        """Return itself without the room for rows that did not come, to be sent elsewhere."""
        if self._kept is not None:
            self._kept = self._kept.cut()
        return self

    def column(self, name: str) -> Column | None:
        """Return the column of all the rows; None if it must be read as a whole."""
        kept, self._kept = self._kept, None
        if not isinstance(kept, Cells):
            return None if kept is None else kept.column(name, self._options)
        column = kept.column(name)
        if is_written(column):
            return None
        return replace(with_date_notice(column), trimmed=kept.trimmed)
