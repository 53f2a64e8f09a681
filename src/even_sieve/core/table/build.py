"""Columns from cells, and from distinct cells with codes."""

from collections.abc import Callable, Iterable, Sequence
from datetime import UTC, date, datetime, time
from decimal import Decimal
from math import isfinite, isnan
from numbers import Integral, Real
from typing import Any

import numpy as np

from even_sieve.core.cells import Cell, CellError, Kind
from even_sieve.core.cells.dates import DAY, days_of, micros_of
from even_sieve.core.notices import Code, Notice, each_once
from even_sieve.core.table.arrays import holds, pick
from even_sieve.core.table.coded_lanes import error_lane, text_lane
from even_sieve.core.table.columns import Column
from even_sieve.core.table.lanes import (
    Array,
    DateLane,
    FixedLane,
    FloatLane,
    Lane,
    YesNoLane,
    changed,
    narrowest,
)
from even_sieve.core.table.shortest import shortest_decimal
from even_sieve.core.understood import called

LARGEST_SCALE = 18
_INT64 = 2**63 - 1
#: The decimals of the smallest doubles.
_MOST_PLACES = 350
MIDNIGHT = time()
INFINITE = CellError("infinite", "the number is infinite")
OUTSIDE = CellError("no date", "the date lies outside of the years 1 to 9999")
BEYOND = CellError("infinite", "the number is beyond the largest double")
LARGEST = int(float(np.finfo(np.float64).max))
_LARGEST_EXPONENT = 308


def column_from_cells(
    name: str, cells: Iterable[object], notices: tuple[Notice, ...] = ()
) -> Column:
    """Return a column from Python values of any mixture of kinds."""
    given = list(cells)
    if set(map(type, given)) <= {str, type(None)}:
        plain: list[Cell] = [None if cell is None else cell.strip() or None for cell in given]  # type: ignore[attr-defined]
    else:
        plain = [cell if type(cell) in _AS_THEY_ARE else _plain(name, cell) for cell in given]  # type: ignore[misc]
    return column_from_codes(name, plain, None, notices)


def column_from_codes(
    name: str, cells: Sequence[Cell], codes: Array | None, notices: tuple[Notice, ...] = ()
) -> Column:
    """Return a column from cells and, for each row, the position of its cell among them.

    Without codes each cell is one row. The cells come in the order first met.
    """
    kinds = np.fromiter(map(kind_of, cells), dtype=np.uint8, count=len(cells))
    lanes: dict[Kind, Lane] = {}
    for kind in map(Kind, np.flatnonzero(np.bincount(kinds)).tolist()):
        if kind is not Kind.BLANK:
            where = np.flatnonzero(kinds == kind)
            lanes[kind] = _LANES[kind]([cells[i] for i in where.tolist()], where, len(cells))
    if codes is None:
        return assemble(name, len(kinds), lanes, kinds, notices)
    lanes = {kind: changed(lane, lambda each: pick(each, codes)) for kind, lane in lanes.items()}
    if len(lanes) == 1 and len(codes) and (kinds != Kind.BLANK).all():
        return Column(name, len(codes), lanes, None, _with_lost(name, lanes, notices))
    return assemble(name, len(codes), lanes, pick(kinds, codes), notices)


def assemble(
    name: str,
    length: int,
    lanes: dict[Kind, Lane],
    states: Array | None,
    notices: tuple[Notice, ...] = (),
) -> Column:
    """Return a column from its lanes and states; states that say nothing are dropped.

    None stands for the one kind that there is.
    """
    alone = len(lanes) == 1 and (states is None or not holds(states, Kind.BLANK))
    return Column(name, length, lanes, None if alone else states, _with_lost(name, lanes, notices))


def _with_lost(
    name: str, lanes: dict[Kind, Lane], notices: tuple[Notice, ...]
) -> tuple[Notice, ...]:
    """Return the notices, with one on numbers that have more digits than are kept."""
    lane = lanes.get(Kind.NUMBER)
    if not isinstance(lane, FloatLane) or not lane.lost:
        return notices
    text = (
        f"column '{name}' holds numbers with more digits than are kept, such as {lane.lost}: "
        "they count as the nearest double"
    )
    return each_once((*notices, Notice(Code.DIGITS_LOST, text)))


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


#: Cells of these types are plain as they are given.
_AS_THEY_ARE = frozenset({bool, date, CellError, type(None)})


def _plain(name: str, value: object) -> Cell:
    """Return the value as a cell of one of the exact types in `_KINDS`."""
    if value is None:
        return None
    if type(value) is str:
        return value.strip() or None
    if type(value) is float:
        return value if isfinite(value) else _finite(value, isnan(value), False)
    if type(value) is int:
        return BEYOND if is_beyond(value) else value
    if isinstance(value, np.floating) and value.itemsize < np.float64().itemsize:
        value = float(str(value))  # it counts as the decimal that it prints
    elif isinstance(value, np.generic):
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
        f"column '{name}': {called(value)} cannot be a cell\n"
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
        power = number.adjusted()
        return power >= _LARGEST_EXPONENT and (
            power > _LARGEST_EXPONENT or abs(number) > Decimal(LARGEST)
        )
    return abs(number) > LARGEST


def _finite(number: float | Decimal, missing: bool, finite: bool) -> Cell:
    return None if missing else number if finite else INFINITE


def _scatter(values: Array, where: Array, length: int) -> Array:
    out = np.zeros(length, dtype=values.dtype)
    out[where] = values
    return out


def _number_lane(cells: list[Any], where: Array, length: int) -> Lane:
    exact = [_mantissa(cell) for cell in cells]
    scale = max((decimals for _, decimals in exact), default=0)
    if scale <= LARGEST_SCALE:
        stored = [whole * 10 ** (scale - decimals) for whole, decimals in exact]
        if all(abs(value) <= _INT64 for value in stored):
            return FixedLane(_scatter(np.array(stored, dtype=np.int64), where, length), scale)
    doubles = _scatter(np.array([float(cell) for cell in cells]), where, length)
    if all(type(cell) is float for cell in cells):
        return FloatLane(doubles)
    given, lost = zip(*map(_kept, cells, exact), strict=True)
    whole, places = (np.array(part) for part in zip(*given, strict=True))
    kept = (
        _scatter(whole.astype(np.int64), where, length),
        _scatter(places.astype(np.int16), where, length),
    )
    return FloatLane(doubles, kept, next(filter(None, lost), ""))


def _kept(cell: int | float | Decimal, exact: tuple[int, int]) -> tuple[tuple[int, int], str]:
    """Return what is kept of a number, and the number in words if that is not all of it."""
    whole, places = exact
    if abs(whole) <= _INT64 and places <= _MOST_PLACES:
        return exact, ""
    near = shortest_decimal(float(cell))
    lost = isinstance(cell, int | Decimal) and exact != _shortened(*near)
    return near, str(cell) if lost else ""


def _mantissa(cell: int | float | Decimal) -> tuple[int, int]:
    """Return a number as a whole one and how many of its digits are decimals, as few as can be.

    >>> _mantissa(Decimal("12.500")), _mantissa(1e3)
    ((125, 1), (1000, 0))
    """
    if isinstance(cell, int):
        return cell, 0
    digits, _, exponent = str(cell).partition("e" if isinstance(cell, float) else "E")
    before, _, after = digits.partition(".")
    after = after.rstrip("0")
    return _shortened(int(before + after), len(after) - int(exponent or 0))


def _shortened(whole: int, places: int) -> tuple[int, int]:
    """Return a number with as few decimals as can be, none of them below 0."""
    if places <= 0 or not whole:
        return whole * 10**-places if whole else 0, 0
    while places and not whole % 10:
        whole, places = whole // 10, places - 1
    return whole, places


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
