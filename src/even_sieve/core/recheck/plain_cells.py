"""Cells as plain Python values that compare exactly: what the slow evaluator works on."""

import unicodedata
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date, datetime, timedelta
from decimal import Decimal
from fractions import Fraction
from functools import cached_property
from typing import Any, TypeAlias

from even_sieve.core.cells import Cell, CellError
from even_sieve.core.progress import steps
from even_sieve.core.table import Column
from even_sieve.core.table.lanes import FloatLane

_EPOCH = datetime(1970, 1, 1)


@dataclass(frozen=True, order=True)
class When:
    """The first microsecond of a date, counted from 1970."""

    at: int


Plain: TypeAlias = Fraction | When | str | bool | CellError | None


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
    places: dict[tuple[type, Cell], int] = {}
    read = steps(column.cells(), f"rechecking: reading {column.name}", column.length)
    codes = [places.setdefault((type(cell), cell), len(places)) for cell in read]
    cells = [cell for _, cell in places]
    said = column.conventions
    apart = PlainColumn(
        column.name,
        cells,
        [plain(cell) for cell in cells],
        any(isinstance(lane, FloatLane) for lane in column.lanes.values()),
        not any(isinstance(cell, datetime) for cell in cells),
        said.decimal,
        str(said.date_order or ""),
        said.written,
    )
    return SpreadColumn(apart, codes)


def plain(cell: Cell) -> Plain:
    """Return a cell as a value that compares exactly. A double counts as the decimal it shows."""
    if isinstance(cell, float):
        return Fraction(Decimal(repr(cell)))
    if isinstance(cell, bool | str | CellError) or cell is None:
        return cell
    if isinstance(cell, datetime):
        return When((cell - _EPOCH) // timedelta(microseconds=1))
    if isinstance(cell, date):
        return When(
            (datetime(cell.year, cell.month, cell.day) - _EPOCH) // timedelta(microseconds=1)
        )
    return Fraction(cell)


def same(text: str) -> str:
    """Return what texts that are equal have in common (Unicode NFC, case folding)."""
    folded = unicodedata.normalize("NFC", text).casefold()
    return unicodedata.normalize("NFC", folded)


def identity(value: Plain) -> object:
    """Return what two cells that are equal have in common."""
    return (type(value).__name__, same(value) if isinstance(value, str) else value)
