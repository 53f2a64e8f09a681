"""The values that one name has in the records of a JSON file, as a column."""

from collections.abc import Sequence
from decimal import Decimal
from typing import Any

import numpy as np

from even_sieve.core.cells import Cell, CellError, Kind
from even_sieve.core.notices import Notice
from even_sieve.core.table import Column, column_from
from even_sieve.core.table.build import BEYOND
from even_sieve.core.table.lanes import Array
from even_sieve.sources.arrow_buffers import Bytes, fitting, strings_of, take
from even_sieve.sources.bulk_strings import trim
from even_sieve.sources.byte_dates import lane_of_moments, moments
from even_sieve.sources.growing_cells import read_in_bulk
from even_sieve.sources.set_aside import are_words, without_blanks
from even_sieve.sources.shaped import Shaped
from even_sieve.sources.text_lanes import text_lane_of
from even_sieve.sources.tokens import TokenReader
from even_sieve.sources.woven import in_order

#: Of fewer values each text is read by itself, and so are texts of so many different shapes.
_MANY = 1 << 8
_NESTED = CellError("#nested", "the cell holds a list or an object")
_INFINITE = r"(?i)^[+-]*inf(?:inity)?$"
#: Of what type values are: texts, numbers as they are written, others.
_TEXT, _WRITTEN, _OTHER = range(3)
_IS_DIGIT = np.isin(np.arange(256), list(b"0123456789"))


class Written(str):
    """A number with decimals or an exponent, as it is written."""

    __slots__ = ()


_KINDS: dict[type, int] = {str: _TEXT, Written: _WRITTEN}


class JsonColumn:
    """Reads the values of one name, all at once or in pieces, and remembers their offsets.

    Texts that are ISO dates or error tokens are read as such; all others stay, numbers in quotes
    too. Lists and objects are error cells.

    >>> made = JsonColumn(()).column("dues", ["2031-01-05", "12", 12, [1], None, "#N/A"])
    >>> list(map(str, made.cells()))
    ['2031-01-05', '12', '12', '#nested', 'None', '#N/A']
    """

    def __init__(self, blank_as: tuple[str, ...]) -> None:
        self._blank_as = blank_as
        self._reader = TokenReader(blank_as)

    def notices(self, name: str) -> tuple[Notice, ...]:
        """Return what is to be known of the times that were read so far."""
        return self._reader.notices(name)

    def column(self, name: str, values: Sequence[object]) -> Column:
        """Return the column of these values."""
        kinds = np.array([_KINDS.get(type(value), _OTHER) for value in values], dtype=np.uint8)
        texts, numbers, rest = (np.flatnonzero(kinds == each) for each in (_TEXT, _WRITTEN, _OTHER))
        if len(texts) + len(numbers) < _MANY:
            return column_from(name, [self._cell(value) for value in values])
        try:
            strings = strings_of([str(values[at]) for at in texts.tolist()])
        except UnicodeEncodeError:  # half of a letter is no UTF-8
            return column_from(name, [self._cell(value) for value in values])
        parts = [(texts[own], column) for own, column in self._texts(name, strings)]
        if len(numbers):
            written = strings_of([str(values[at]) for at in numbers.tolist()])
            parts.append((numbers, read_in_bulk(name, written)))
        others = [
            _NESTED if isinstance(v := values[at], dict | list) else v for at in rest.tolist()
        ]
        if len(rest):
            parts.append((rest, column_from(name, others)))
        return in_order(name, len(values), parts)

    def _cell(self, value: Any) -> Cell:
        if isinstance(value, Written):
            return Decimal(value)
        if isinstance(value, dict | list):
            return _NESTED
        if not isinstance(value, str):
            return value  # type: ignore[no-any-return]
        read = self._reader.read(value)
        is_number = isinstance(read, bool | int | Decimal) or read is BEYOND
        return value if is_number else read

    def _texts(self, name: str, strings: Any) -> list[tuple[Array, Column]]:
        """Return dates, errors and texts among strings, each kind with the places it stands at."""
        strings = without_blanks(trim(strings)[0], self._blank_as)
        places = np.flatnonzero(Bytes.of(strings).lengths)
        strings = take(strings, places)
        left = np.ones(len(places), dtype=bool)
        found: list[tuple[Array, Column]] = []
        first, _ = Bytes.of(strings).ends()
        alone = (first == ord("#")) | fitting(strings, _INFINITE)
        dated = np.flatnonzero(_IS_DIGIT[first] & ~are_words(strings))
        some = Shaped(take(strings, dated))
        read = None if some.shapes is None else moments(some)
        if some.shapes is None:
            alone[dated] = True
        if read is not None:
            own = dated[read.places]
            lane = lane_of_moments(read.micros)
            found.append((own, Column(name, len(own), {Kind.DATE: lane}, None)))
            left[own] = False
            self._reader.offsets |= read.offsets
            self._reader.cut = self._reader.cut or read.cut
        rows = np.flatnonzero(alone)
        cells = [self._cell(text) for text in take(strings, rows).to_pylist()]
        turned = [not isinstance(cell, str) for cell in cells]
        if any(turned):
            rows = rows[turned]
            left[rows] = False
            others = [cell for cell, other in zip(cells, turned, strict=True) if other]
            found.append((rows, column_from(name, others)))
        rows = np.flatnonzero(left)
        if len(rows):
            lane_of_texts = text_lane_of(take(strings, rows))
            found.append((rows, Column(name, len(rows), {Kind.TEXT: lane_of_texts}, None)))
        return [(places[own], column) for own, column in found]
