"""Cells as plain Python values that compare exactly: what the slow evaluator works on."""

import unicodedata
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from decimal import Decimal
from fractions import Fraction
from functools import cached_property
from typing import Any, TypeAlias

from even_sieve.core.cells import Cell, CellError
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
    cells: tuple[Cell, ...]
    values: tuple[Plain, ...]
    doubles: bool
    whole_days: bool
    decimal: str = "."
    date_order: str = ""
    written: bool = False

    @cached_property
    def holds(self) -> set[type]:
        """The types of the plain values."""
        return {type(value) for value in self.values}

    @cached_property
    def taken(self) -> dict[int, tuple[object, Any]]:
        """Values of criteria as the column takes them, by the identity of each, kept beside."""
        return {}

    @cached_property
    def texts(self) -> set[str]:
        """What its texts have in common with those that are equal to them."""
        return {same(value) for value in self.values if isinstance(value, str)}


def plain_column(column: Column) -> PlainColumn:
    """Return the column in plain values."""
    doubles = any(isinstance(lane, FloatLane) for lane in column.lanes.values())
    cells = tuple(column.cells())
    dates = [cell for cell in cells if isinstance(cell, date)]
    whole_days = not any(isinstance(cell, datetime) for cell in dates)
    said = column.conventions
    return PlainColumn(
        column.name,
        cells,
        tuple(plain(cell) for cell in cells),
        doubles,
        whole_days,
        said.decimal,
        str(said.date_order or ""),
        said.written,
    )


def plain(cell: Cell) -> Plain:
    """Return a cell as a value that compares exactly. A double counts as the decimal it shows."""
    if isinstance(cell, bool | str | CellError) or cell is None:
        return cell
    if isinstance(cell, datetime):
        return When((cell - _EPOCH) // timedelta(microseconds=1))
    if isinstance(cell, date):
        return When(
            (datetime(cell.year, cell.month, cell.day) - _EPOCH) // timedelta(microseconds=1)
        )
    if isinstance(cell, float):
        return Fraction(Decimal(repr(cell)))
    return Fraction(cell)


def same(text: str) -> str:
    """Return what texts that are equal have in common (Unicode NFC, case folding)."""
    folded = unicodedata.normalize("NFC", text).casefold()
    return unicodedata.normalize("NFC", folded)


def identity(value: Plain) -> object:
    """Return what two cells that are equal have in common."""
    return (type(value).__name__, same(value) if isinstance(value, str) else value)
