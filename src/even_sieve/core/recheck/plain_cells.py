"""Cells as plain Python values that compare exactly: what the slow evaluator works on."""

import unicodedata
from collections import defaultdict
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from datetime import date, datetime, timedelta
from decimal import Decimal
from fractions import Fraction
from functools import cached_property
from itertools import count
from typing import Any, NamedTuple, TypeAlias

from even_sieve.core.cells import Cell, CellError
from even_sieve.core.progress import Steps
from even_sieve.core.table import Column
from even_sieve.core.table.lanes import FloatLane

_EPOCH = datetime(1970, 1, 1)
_MICROSECOND = timedelta(microseconds=1)
#: A double without an exponent shows 17 digits, after up to four zeros.
_TENS = [10**places for places in range(24)]


class When(NamedTuple):
    """The first microsecond of a date, counted from 1970."""

    at: int


Plain: TypeAlias = Fraction | When | str | bool | CellError | None
Key: TypeAlias = tuple[Any, ...]


@dataclass(frozen=True)
class PlainColumn:
    """A column's name, its cells as they are shown and as plain values, and what it holds.

    `doubles` says that its numbers are compared as the doubles nearest to them, `whole_days` that
    its dates have no times. How its source writes numbers and dates:
    `decimal` mark, `date_order`, and whether `written` with signs.
    """

    name: str
    cells: Sequence[Cell]
    values: Sequence[Plain]
    doubles: bool
    whole_days: bool
    decimal: str = "."
    date_order: str = ""
    written: bool = False

    @cached_property
    def holds(self) -> set[type]:
        """The types of the plain values."""
        return set(map(type, self.values))

    def key(self, value: Plain) -> Key:
        """Return what a value is equal to others by, and stands in order by among its kind."""
        if isinstance(value, str):
            return "text", same(value)
        if isinstance(value, When):
            return "When", value.at
        if not isinstance(value, Fraction):
            return type(value).__name__, value
        # The double first: it is compared sooner, and what is larger has no smaller one.
        return ("number", nearest(value), None if self.doubles else value)

    @cached_property
    def keys(self) -> list[Key]:
        """The keys of the plain values."""
        if self.holds == {When}:
            return [("When", each.at) for each in self.values if isinstance(each, When)]
        return list(map(self.key, self.values))

    @cached_property
    def taken(self) -> dict[int, tuple[object, Any]]:
        """Values of criteria as the column takes them, by the identity of each, kept beside."""
        return {}

    @cached_property
    def texts(self) -> dict[str, list[int]]:
        """The rows of its texts, by what these have in common with those that are equal."""
        found: dict[str, list[int]] = {}
        for row, value in enumerate(self.values):
            if isinstance(value, str):
                found.setdefault(same(value), []).append(row)
        return found

    @cached_property
    def numbers(self) -> dict[float, list[int]]:
        """The rows of its numbers, by the nearest double: equal ones have it in common."""
        found: dict[float, list[int]] = {}
        for row, value in enumerate(self.values):
            if isinstance(value, Fraction):
                found.setdefault(value.numerator / value.denominator, []).append(row)
        return found


@dataclass(frozen=True)
class SpreadColumn:
    """A column whose different cells stand once, in `apart`; `codes` has the place of each row."""

    apart: PlainColumn
    codes: Sequence[int]

    @cached_property
    def whole(self) -> PlainColumn:
        """The column row by row."""
        cells = [self.apart.cells[code] for code in self.codes]
        values = [self.apart.values[code] for code in self.codes]
        return replace(self.apart, cells=cells, values=values)

    @cached_property
    def rows(self) -> list[list[int]]:
        """The rows of each different cell, in order."""
        found: list[list[int]] = [[] for _ in self.apart.cells]
        for row, code in enumerate(self.codes):
            found[code].append(row)
        return found


def plain_column(column: Column) -> SpreadColumn:
    """Return the column in plain values, each different cell once."""
    numbers = count()
    places: dict[type, dict[Cell, int]] = {}
    codes: list[int] = []
    done = Steps(f"rechecking: reading {column.name}", column.length)
    for block in column.blocks():
        for kind in set(map(type, block)):
            places.setdefault(kind, defaultdict(numbers.__next__))
        if len(places) == 1:
            codes += map(places[type(block[0])].__getitem__, block)
        else:
            codes += [places[type(cell)][cell] for cell in block]
        done.took(len(block))
    cells = _in_order_met(list(places.values()))
    said, kinds = column.conventions, set(places)
    apart = PlainColumn(
        column.name,
        cells,
        list(map(_PLAIN[kinds.pop()] if len(kinds) == 1 else plain, cells)),
        any(isinstance(lane, FloatLane) for lane in column.lanes.values()),
        not any(isinstance(cell, datetime) for cell in cells),
        said.decimal,
        str(said.date_order or ""),
        said.written,
    )
    return SpreadColumn(apart, codes)


def _in_order_met(places: Sequence[dict[Cell, int]]) -> list[Cell]:
    """Return the cells of dictionaries by the numbers that they were given."""
    if len(places) == 1:
        return list(places[0])
    coded = {code: cell for kind in places for cell, code in kind.items()}
    return [coded[code] for code in range(len(coded))]


def plain(cell: Cell) -> Plain:
    """Return a cell as a value that compares exactly. A double counts as the decimal it shows."""
    return _PLAIN[type(cell)](cell)


def _moment(cell: datetime) -> When:
    return When((cell - _EPOCH) // _MICROSECOND)


def _day(cell: date) -> When:
    return _moment(datetime(cell.year, cell.month, cell.day))


def _double(cell: float) -> Fraction:
    shown = repr(cell)
    if "e" in shown:
        return Fraction(*Decimal(shown).as_integer_ratio())
    whole, _, after = shown.partition(".")
    return Fraction(int(whole + after), _TENS[len(after)])


def _itself(cell: Plain) -> Plain:
    return cell


_PLAIN: dict[type, Callable[[Any], Plain]] = {
    **dict.fromkeys((str, bool, CellError, type(None)), _itself),
    **dict.fromkeys((int, Decimal), Fraction),
    float: _double,
    datetime: _moment,
    date: _day,
}


def same(text: str) -> str:
    """Return what texts that are equal have in common (Unicode NFC, case folding)."""
    folded = unicodedata.normalize("NFC", text).casefold()
    return unicodedata.normalize("NFC", folded)


def nearest(number: Fraction) -> float:
    """Return the double nearest to a number."""
    try:
        return number.numerator / number.denominator
    except OverflowError:
        return float("inf") if number > 0 else float("-inf")
