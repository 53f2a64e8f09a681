"""Lanes: the cells of one kind in a column, as one array each.

A column has a lane for every kind it holds (blanks need none). Every lane is as long as
the column; where a cell is of another kind the lane holds a filler that nobody reads.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from datetime import date
from decimal import Decimal
from functools import cached_property
from typing import Any, ClassVar, TypeAlias

import numpy as np
from numpy.typing import NDArray

from even_sieve.core.cells import CellError, Kind
from even_sieve.core.cells.dates import date_from_days, datetime_from_micros
from even_sieve.core.table.arrays import ends_of, picked
from even_sieve.core.table.later import MadeLater
from even_sieve.core.table.ordered_texts import begins, places_beginning, places_equal
from even_sieve.core.table.shortest import (
    aligned,
    decimal_of,
    shortest_decimals,
    written_as,
    written_longer,
)
from even_sieve.core.table.texts_of_rows import TextsOfRows

Array: TypeAlias = NDArray[Any]
Rows: TypeAlias = NDArray[np.intp] | slice

#: Decimals of up to 15 digits and doubles go into one another without loss.
MOST_EXACT = 10**15
_FEW = 100


def narrowest(count: int) -> np.dtype[Any]:
    """Return the smallest unsigned type that holds `count` codes: 0 to count - 1."""
    return np.min_scalar_type(max(count - 1, 0))


@dataclass(frozen=True, eq=False)
class FixedLane:
    """Decimal numbers as whole multiples of `10 ** -scale`: `values` int64, shape (n,)."""

    values: Array
    scale: int
    kind: ClassVar[Kind] = Kind.NUMBER

    @cached_property
    def ends(self) -> tuple[int, int]:
        """The least and the largest stored value, fillers among them; 0 and 0 without rows."""
        return ends_of(self.values)

    @property
    def bound(self) -> int:
        """The largest absolute value among `values`, as a Python integer."""
        low, high = self.ends
        return max(high, -low)

    def take(self, rows: Rows) -> "FixedLane":
        """Return the lane of these rows alone."""
        return FixedLane(picked(self.values, rows), self.scale)

    def cell(self, row: int) -> int | float | Decimal:
        """Return one number: int without decimals, else the float that shows it, or a Decimal."""
        return self.to_cell(int(self.values[row]))

    def to_cell(self, stored: int) -> int | float | Decimal:
        """Return the number that the lane stores as `stored`."""
        if not self.scale:
            return stored
        scale = self.scale
        if abs(stored) >= MOST_EXACT:
            while scale and not stored % 10:
                stored, scale = stored // 10, scale - 1
        value = float(stored / 10**scale)
        if abs(stored) < MOST_EXACT:
            return value
        written = decimal_of(stored, scale)
        return value if Decimal(repr(value)) == written else written


@dataclass(frozen=True, eq=False)
class FloatLane:
    """Numbers of many digits: `values` float64, shape (n,), all finite.

    Each counts as its shortest decimal unless `given` says which decimal it was written as:
    whole numbers (int64) and how many of their digits are decimals (int16), shape (n,) each.
    `lost` is the first that was written with more digits than are kept, if any.
    """

    values: Array
    given: tuple[Array, Array] | None = None
    lost: str = ""
    kind: ClassVar[Kind] = Kind.NUMBER

    @cached_property
    def decimals(self) -> tuple[Array, Array]:
        """What each number is: a whole number (int64), and how many digits are decimals (int16)."""
        return aligned(*(shortest_decimals(self.values) if self.given is None else self.given))

    @cached_property
    def ends(self) -> tuple[float, float]:
        """The least and the largest stored value, fillers among them; 0 and 0 without rows."""
        return ends_of(self.values)

    def take(self, rows: Rows) -> "FloatLane":
        """Return the lane of these rows alone."""
        return self.changed(lambda stored: picked(stored, rows))

    def changed(self, change: Callable[[Array], Array]) -> "FloatLane":
        """Return the lane with a change made to each of its arrays."""
        given = None if self.given is None else (change(self.given[0]), change(self.given[1]))
        return FloatLane(change(self.values), given, self.lost)

    def cell(self, row: int) -> float | Decimal:
        """Return one number: the double, or the decimal that was written where that is longer."""
        value = float(self.values[row])
        if self.given is None or value not in self._written:
            return value + 0.0  # -0.0 is 0.0
        return written_as(*(int(each[row]) for each in self.given))

    @cached_property
    def _written(self) -> dict[float, float | Decimal]:
        if self.given is None:
            return {}
        return written_longer(self.values, self.given, self.decimals)

    @property
    def longer(self) -> bool:
        """Whether any was written with more digits than its double shows."""
        return bool(self._written)

    def to_cell(self, stored: float) -> float | Decimal:
        """Return the number that the lane stores as `stored`."""
        return self._written.get(float(stored), float(stored) + 0.0)  # -0.0 is 0.0


@dataclass(frozen=True, eq=False)
class DateLane:
    """Dates: whole days (int32) or, where a cell has a time, microseconds (int64), from 1970."""

    values: Array
    has_time: bool
    kind: ClassVar[Kind] = Kind.DATE

    @cached_property
    def ends(self) -> tuple[int, int]:
        """The least and the largest stored value, fillers among them; 0 and 0 without rows."""
        return ends_of(self.values)

    def take(self, rows: Rows) -> "DateLane":
        """Return the lane of these rows alone."""
        return DateLane(picked(self.values, rows), self.has_time)

    def cell(self, row: int) -> date:
        """Return one date, or date and time."""
        return self.to_cell(int(self.values[row]))

    def to_cell(self, stored: int) -> date:
        """Return the date that the lane stores as `stored`."""
        return datetime_from_micros(stored) if self.has_time else date_from_days(stored)


@dataclass(frozen=True, eq=False)
class TextLane(MadeLater):
    """Text as codes into the distinct spellings, sorted by folded value, then as first met.

    Spellings that are equal (`Outer`, `OUTER`) stand side by side, so that a value, a
    beginning, and an order comparison are each one range of codes. A lane that waits is put in
    order when more is asked of it than `of_rows`.
    """

    codes: Array
    spellings: Sequence[str]
    folded: Sequence[str]
    kind: ClassVar[Kind] = Kind.TEXT

    @property
    def of_rows(self) -> TextsOfRows | None:
        """The texts of its rows, where it is not put in order yet."""
        found: TextsOfRows | None = self.__dict__.get("_of_rows")
        return found

    @property
    def values(self) -> Array:
        """The codes: what is stored a row."""
        return self.codes

    @cached_property
    def groups(self) -> NDArray[np.intp]:
        """The number of the folded value of each code, shape (spellings,)."""
        if self.folded is self.spellings:
            return np.arange(len(self.folded))
        return np.cumsum(self._begins, dtype=np.intp) - 1

    @cached_property
    def group_starts(self) -> NDArray[np.intp]:
        """The first code of each folded value: its first spelling met."""
        alone = self.folded is self.spellings  # texts that are all folded, and all different
        return np.arange(len(self.folded)) if alone else np.flatnonzero(self._begins)

    @property
    def _begins(self) -> Array:
        """Which codes are the first of their folded value, bool, shape (spellings,)."""
        return begins(self.folded)

    def range_of(self, folded: str) -> tuple[int, int]:
        """Return the codes `low <= code < high` of the texts equal to `folded`."""
        return places_equal(self.folded, folded)

    def range_beginning(self, folded: str) -> tuple[int, int]:
        """Return the codes `low <= code < high` of the texts that begin with `folded`."""
        return places_beginning(self.folded, folded)

    def take(self, rows: Rows) -> "TextLane":
        """Return the lane of these rows alone, with the spellings that they use."""
        codes = picked(self.codes, rows)
        kept = np.flatnonzero(np.bincount(codes, minlength=len(self.spellings)))
        if len(kept) == len(self.spellings):
            return replace(self, codes=codes)
        renumbered = np.zeros(len(self.spellings), dtype=narrowest(len(kept)))
        renumbered[kept] = np.arange(len(kept))
        texts = (self.spellings, self.folded)
        if len(kept) > _FEW:
            texts = (tuple(self.spellings), tuple(self.folded))
        chosen = kept.tolist()
        return TextLane(
            renumbered[codes], *(tuple(map(each.__getitem__, chosen)) for each in texts)
        )

    def cell(self, row: int) -> str:
        """Return one text as it was spelt."""
        waiting = self.of_rows
        return self.spellings[int(self.codes[row])] if waiting is None else waiting.cell(row)

    def to_cell(self, stored: int) -> str:
        """Return the text that the lane stores as `stored`."""
        return self.spellings[stored]


@dataclass(frozen=True, eq=False)
class YesNoLane:
    """Yes/no: `values` bool, shape (n,)."""

    values: Array
    kind: ClassVar[Kind] = Kind.YES_NO

    def take(self, rows: Rows) -> "YesNoLane":
        """Return the lane of these rows alone."""
        return YesNoLane(picked(self.values, rows))

    def cell(self, row: int) -> bool:
        """Return one value."""
        return bool(self.values[row])

    def to_cell(self, stored: bool) -> bool:
        """Return the value that the lane stores as `stored`."""
        return bool(stored)


@dataclass(frozen=True, eq=False)
class ErrorLane:
    """Error cells as codes into the distinct errors, sorted by token."""

    codes: Array
    errors: tuple[CellError, ...]
    kind: ClassVar[Kind] = Kind.ERROR

    @property
    def values(self) -> Array:
        """The codes: what is stored a row."""
        return self.codes

    def take(self, rows: Rows) -> "ErrorLane":
        """Return the lane of these rows alone."""
        return ErrorLane(picked(self.codes, rows), self.errors)

    def cell(self, row: int) -> CellError:
        """Return one error."""
        return self.errors[int(self.codes[row])]

    def to_cell(self, stored: int) -> CellError:
        """Return the error that the lane stores as `stored`."""
        return self.errors[stored]


Lane: TypeAlias = FixedLane | FloatLane | DateLane | TextLane | YesNoLane | ErrorLane


def changed(lane: Lane, change: Callable[[Array], Array]) -> Lane:
    """Return a lane with a change made to what it stores a row: rows taken, or put elsewhere."""
    if isinstance(lane, FloatLane):
        return lane.changed(change)
    if isinstance(lane, TextLane | ErrorLane):
        return replace(lane, codes=change(lane.codes))
    return replace(lane, values=change(lane.values))
