"""Columns from cells, and from distinct cells with codes."""

from collections import defaultdict
from collections.abc import Callable, Iterable, Sequence
from dataclasses import replace
from datetime import UTC, date, datetime, time
from decimal import Decimal
from itertools import count
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
    FloatLane,
    Lane,
    YesNoLane,
    changed,
    narrowest,
)
from even_sieve.core.table.number_lanes import lane_of_numbers, number_lane, scattered
from even_sieve.core.table.offsets import offset_notices, offsets_in
from even_sieve.core.understood import called

MIDNIGHT = time()
INFINITE = CellError("infinite", "the number is infinite")
OUTSIDE = CellError("no date", "the date lies outside of the years 1 to 9999")
BEYOND = CellError("infinite", "the number is beyond the largest double")
LARGEST = int(float(np.finfo(np.float64).max))
#: So far doubles hold every whole number.
WHOLE_AS_DOUBLES = 2**53
_LARGEST_EXPONENT = 308


def column_from_cells(
    name: str, cells: Iterable[object], notices: tuple[Notice, ...] = ()
) -> Column:
    """Return a column from Python values of any mixture of kinds."""
    given = list(cells)
    kinds = set(map(type, given))
    if any(issubclass(kind, datetime) for kind in kinds):
        times = (cell for cell in given if isinstance(cell, datetime))
        notices = (*notices, *offset_notices(name, offsets_in(times)))
    if kinds <= {str, type(None)}:
        return _column_of_texts(name, given, notices)  # type: ignore[arg-type]
    if kinds <= _OF_NUMBERS and (made := _column_of_numbers(name, given, kinds, notices)):
        return made
    plain = [cell if type(cell) in _AS_THEY_ARE else _plain(name, cell) for cell in given]
    return column_from_codes(name, plain, None, notices)  # type: ignore[arg-type]


def _column_of_texts(name: str, given: list[str | None], notices: tuple[Notice, ...]) -> Column:
    """Return the column of texts and blanks: each different one is looked at once."""
    apart, codes = _coded(given)
    plain = [None if cell is None else cell.strip() or None for cell in apart]
    return column_from_codes(name, plain, codes, notices)


def _column_of_numbers(
    name: str, given: list[Any], kinds: set[type], notices: tuple[Notice, ...]
) -> Column | None:
    """Return the column of whole numbers, doubles and blanks; None for some that are none."""
    filled = np.arange(len(given))
    if type(None) in kinds:
        filled = np.flatnonzero(np.fromiter((cell is not None for cell in given), bool, len(given)))
    cells = given if len(filled) == len(given) else [given[place] for place in filled.tolist()]
    lane = lane_of_numbers(cells, kinds - {type(None)}) if cells else None
    if lane is None:
        return None
    states = np.full(len(given), Kind.BLANK, dtype=np.uint8)
    states[filled] = Kind.NUMBER
    if len(cells) < len(given):
        lane = changed(lane, lambda values: scattered(values, filled, len(given)))
    return assemble(name, len(given), {Kind.NUMBER: lane}, states, notices)


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


def of_kinds_held(column: Column) -> Column:
    """Return a column without the lanes of kinds that none of its cells has.

    >>> made = column_from_codes("size", [1, "large"], np.array([0, 0]))
    >>> [kind.name for kind in made.lanes], [kind.name for kind in of_kinds_held(made).lanes]
    (['NUMBER', 'TEXT'], ['NUMBER'])
    """
    if not column.length or column.lanes.keys() <= column.counts.keys():
        return column
    lanes = {kind: lane for kind, lane in column.lanes.items() if kind in column.counts}
    alone = len(lanes) == 1 and Kind.BLANK not in column.counts
    return replace(column, lanes=lanes, states=None if alone else column.states)


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
_OF_NUMBERS = frozenset({int, float, type(None)})
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
        wide = float(value)
        is_whole = wide.is_integer() and abs(wide) < WHOLE_AS_DOUBLES
        value = wide if is_whole else float(str(value))  # the decimal that it prints
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
    if type(value).__name__ == "NAType":  # what pandas has for a missing cell
        return None
    if hasattr(value, "as_py"):  # an item of an Arrow array
        return _plain(name, value.as_py())
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


def within_doubles(cell: Cell) -> Cell:
    """Return a cell as it is, or the error that stands for a number that no cell can hold.

    >>> within_doubles(Decimal("12.5")), str(within_doubles(Decimal("1e400")))
    (Decimal('12.5'), 'infinite')
    """
    return BEYOND if isinstance(cell, int | Decimal) and is_beyond(cell) else cell


def is_beyond(number: int | Decimal) -> bool:
    """Tell whether a number is larger than any double: it cannot be a cell.

    >>> is_beyond(Decimal("1e400")), is_beyond(10**300), is_beyond(Decimal("0e400"))
    (True, False, False)
    """
    if isinstance(number, Decimal):
        power = number.adjusted() if number else 0
        return power >= _LARGEST_EXPONENT and (
            power > _LARGEST_EXPONENT or abs(number) > Decimal(LARGEST)
        )
    return abs(number) > LARGEST


def _finite(number: float | Decimal, missing: bool, finite: bool) -> Cell:
    return None if missing else number if finite else INFINITE


def _date_lane(cells: list[Any], where: Array, length: int) -> Lane:
    if any(type(cell) is datetime and cell.time() != MIDNIGHT for cell in cells):
        micros = [
            micros_of(cell) if type(cell) is datetime else days_of(cell) * DAY for cell in cells
        ]
        return DateLane(scattered(np.array(micros, dtype=np.int64), where, length), True)
    days = np.array([days_of(cell) for cell in cells], dtype=np.int32)
    return DateLane(scattered(days, where, length), False)


def _coded(cells: list[Any]) -> tuple[list[Any], Array]:
    positions: dict[Any, int] = defaultdict(count().__next__)
    codes = np.fromiter(map(positions.__getitem__, cells), dtype=np.intp, count=len(cells))
    return list(positions), codes.astype(narrowest(len(positions)))


def _text_lane(cells: list[Any], where: Array, length: int) -> Lane:
    words, codes = _coded(cells)
    return text_lane(words, scattered(codes, where, length))


def _error_lane(cells: list[Any], where: Array, length: int) -> Lane:
    errors, codes = _coded(cells)
    return error_lane(errors, scattered(codes, where, length))


def _yes_no_lane(cells: list[Any], where: Array, length: int) -> Lane:
    return YesNoLane(scattered(np.array(cells, dtype=bool), where, length))


_LANES: dict[Kind, Callable[[list[Any], Array, int], Lane]] = {
    Kind.NUMBER: number_lane,
    Kind.DATE: _date_lane,
    Kind.TEXT: _text_lane,
    Kind.YES_NO: _yes_no_lane,
    Kind.ERROR: _error_lane,
}
