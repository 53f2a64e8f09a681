"""Columns from cells, and from distinct cells with codes."""

from collections.abc import Callable, Iterable, Sequence
from dataclasses import replace
from datetime import UTC, date, datetime, time
from decimal import Decimal
from math import isfinite, isnan
from numbers import Integral, Real
from typing import Any

import numpy as np

from even_sieve.core.cells import Cell, CellError, Kind
from even_sieve.core.cells.dates import DAY, days_of, micros_of
from even_sieve.core.notices import Notice
from even_sieve.core.table.columns import Column
from even_sieve.core.table.lanes import (
    Array,
    DateLane,
    ErrorLane,
    FixedLane,
    FloatLane,
    Lane,
    TextLane,
    YesNoLane,
    error_lane,
    narrowest,
    text_lane,
)

LARGEST_SCALE = 18
#: A double whose shortest decimal has at most 15 digits is that decimal.
_SHORT = 10**15
_INT64 = 2**63 - 1
_BLOCK = 1 << 16
MIDNIGHT = time()
INFINITE = CellError("infinite", "the number is infinite")
BEYOND = CellError("infinite", "the number is beyond the largest double")
LARGEST = int(float(np.finfo(np.float64).max))
_LARGEST_EXPONENT = 308


def column_from_cells(
    name: str, cells: Iterable[object], notices: tuple[Notice, ...] = ()
) -> Column:
    """Return a column from Python values of any mixture of kinds."""
    plain = [_plain(name, cell) for cell in cells]
    return column_from_codes(name, plain, None, notices)


def column_from_codes(
    name: str, cells: Sequence[Cell], codes: Array | None, notices: tuple[Notice, ...] = ()
) -> Column:
    """Return a column from cells and, for each row, the position of its cell among them.

    Without codes each cell is one row. The cells come in the order first met.
    """
    kinds = np.fromiter(map(kind_of, cells), dtype=np.uint8, count=len(cells))
    lanes: dict[Kind, Lane] = {}
    for kind in Kind:
        where = np.flatnonzero(kinds == kind)
        if len(where) and kind is not Kind.BLANK:
            lanes[kind] = _LANES[kind]([cells[i] for i in where.tolist()], where, len(cells))
    if codes is None:
        return assemble(name, len(kinds), lanes, kinds, notices)
    lanes = {kind: _spread(lane, codes) for kind, lane in lanes.items()}
    if len(lanes) == 1 and len(codes) and (kinds != Kind.BLANK).all():
        return Column(name, len(codes), lanes, None, notices)
    return assemble(name, len(codes), lanes, pick(kinds, codes), notices)


def assemble(
    name: str,
    length: int,
    lanes: dict[Kind, Lane],
    states: Array,
    notices: tuple[Notice, ...] = (),
) -> Column:
    """Return a column from its lanes and states; states that say nothing are dropped."""
    alone = len(lanes) == 1 and not (states == Kind.BLANK).any()
    return Column(name, length, lanes, None if alone else states, notices)


def kind_of(cell: Cell) -> Kind:
    """Return the kind of a plain cell."""
    if cell is None:
        return Kind.BLANK
    return _KINDS[type(cell)]


_KINDS: dict[type, Kind] = {
    int: Kind.NUMBER,
    float: Kind.NUMBER,
    Decimal: Kind.NUMBER,
    str: Kind.TEXT,
    bool: Kind.YES_NO,
    date: Kind.DATE,
    datetime: Kind.DATE,
    CellError: Kind.ERROR,
}


def _plain(name: str, value: object) -> Cell:
    """Return the value as a cell of one of the exact types in `_KINDS`."""
    if value is None:
        return None
    if isinstance(value, np.generic):
        value = value.item()
    if isinstance(value, str):
        return value.strip() or None
    if isinstance(value, bool | CellError):
        return value
    if isinstance(value, datetime):
        return _plain_datetime(value)
    if isinstance(value, date):
        return value
    if isinstance(value, Decimal):
        if value.is_finite() and is_beyond(value):
            return BEYOND
        return _finite(value, value.is_nan(), value.is_finite())
    if isinstance(value, Integral):
        return BEYOND if is_beyond(int(value)) else int(value)
    if isinstance(value, Real):
        number = float(value)
        return _finite(number, isnan(number), isfinite(number))
    raise TypeError(
        f"column '{name}': a {type(value).__name__} cannot be a cell\n"
        "Cells are numbers, text, dates, yes/no, None for a blank, or CellError."
    )


def _plain_datetime(value: datetime) -> datetime | None:
    if value != value:  # a missing time compares unequal to itself
        return None
    if value.tzinfo is not None:
        value = value.astimezone(UTC).replace(tzinfo=None)
    return datetime(*value.timetuple()[:6], value.microsecond)


def is_beyond(number: int | Decimal) -> bool:
    """Tell whether a number is larger than any double: it cannot be a cell.

    >>> is_beyond(Decimal("1e400")), is_beyond(10**300)
    (True, False)
    """
    if isinstance(number, Decimal):
        return number.adjusted() > _LARGEST_EXPONENT or abs(number) > Decimal(LARGEST)
    return abs(number) > LARGEST


def _finite(number: float | Decimal, missing: bool, finite: bool) -> Cell:
    return None if missing else number if finite else INFINITE


def _spread(lane: Lane, codes: Array) -> Lane:
    if isinstance(lane, TextLane):  # every spelling is used: nothing to leave out
        return TextLane(pick(lane.codes, codes), lane.spellings, lane.folded)
    if isinstance(lane, ErrorLane):
        return ErrorLane(pick(lane.codes, codes), lane.errors)
    spread: Lane = replace(lane, values=pick(lane.values, codes))
    return spread


def pick(values: Array, codes: Array) -> Array:
    """Return `values[codes]` a block at a time: NumPy widens all codes that it indexes by."""
    out = np.empty(len(codes), dtype=values.dtype)
    for start in range(0, len(codes), _BLOCK):
        block = slice(start, start + _BLOCK)
        np.take(values, codes[block], out=out[block], mode="clip")
    return out


def _scatter(values: Array, where: Array, length: int) -> Array:
    out = np.zeros(length, dtype=values.dtype)
    out[where] = values
    return out


def _number_lane(cells: list[Any], where: Array, length: int) -> Lane:
    fixed = _fixed_from_cells(cells)
    if fixed is not None:
        values, scale = fixed
        return FixedLane(_scatter(values, where, length), scale)
    return FloatLane(_scatter(np.array([float(cell) for cell in cells]), where, length))


def _fixed_from_cells(cells: list[Any]) -> tuple[Array, int] | None:
    """Return the numbers as int64 with a scale, or None if some need more digits than that."""
    exact = [_mantissa(cell) for cell in cells]
    scale = max((decimals for _, decimals in exact), default=0)
    if scale > LARGEST_SCALE:
        return None
    for cell, (mantissa, _) in zip(cells, exact, strict=True):
        if type(cell) is float and abs(mantissa) >= _SHORT:
            return None  # a double that is no decimal of a person's
    stored = [mantissa * 10 ** (scale - decimals) for mantissa, decimals in exact]
    if any(abs(value) > _INT64 for value in stored):
        return None
    return np.array(stored, dtype=np.int64), scale


def _mantissa(cell: int | float | Decimal) -> tuple[int, int]:
    """Return a number as a whole one and how many of its digits are decimals, as few as can be.

    >>> _mantissa(Decimal("12.500")), _mantissa(1e3)
    ((125, 1), (1000, 0))
    """
    if isinstance(cell, int):
        return cell, 0
    sign, digits, exponent = (Decimal(repr(cell)) if isinstance(cell, float) else cell).as_tuple()
    whole = int("".join(map(str, digits)) or 0) * (-1 if sign else 1)
    if not whole or not isinstance(exponent, int):
        return whole, 0
    if exponent >= 0:
        return whole * 10**exponent, 0
    while exponent < 0 and not whole % 10:
        whole, exponent = whole // 10, exponent + 1
    return whole, -exponent


def _date_lane(cells: list[Any], where: Array, length: int) -> Lane:
    if any(type(cell) is datetime and cell.time() != MIDNIGHT for cell in cells):
        micros = [
            micros_of(cell) if type(cell) is datetime else days_of(cell) * DAY for cell in cells
        ]
        return DateLane(_scatter(np.array(micros, dtype=np.int64), where, length), True)
    days = np.array([days_of(cell) for cell in cells], dtype=np.int32)
    return DateLane(_scatter(days, where, length), False)


def _coded(cells: list[Any]) -> tuple[list[Any], Array]:
    positions: dict[Any, int] = {}
    codes = [positions.setdefault(cell, len(positions)) for cell in cells]
    return list(positions), np.array(codes, dtype=narrowest(len(positions)))


def _text_lane(cells: list[Any], where: Array, length: int) -> Lane:
    words, codes = _coded(cells)
    return text_lane(words, _scatter(codes, where, length))


def _error_lane(cells: list[Any], where: Array, length: int) -> Lane:
    errors, codes = _coded(cells)
    return error_lane(errors, _scatter(codes, where, length))


def _yes_no_lane(cells: list[Any], where: Array, length: int) -> Lane:
    return YesNoLane(_scatter(np.array(cells, dtype=bool), where, length))


_LANES: dict[Kind, Callable[[list[Any], Array, int], Lane]] = {
    Kind.NUMBER: _number_lane,
    Kind.DATE: _date_lane,
    Kind.TEXT: _text_lane,
    Kind.YES_NO: _yes_no_lane,
    Kind.ERROR: _error_lane,
}
