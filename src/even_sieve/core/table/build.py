"""Columns from cells, from arrays, and from distinct cells with codes."""

from collections.abc import Callable, Iterable, Sequence
from datetime import UTC, date, datetime
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
    MOST_EXACT,
    Array,
    DateLane,
    FixedLane,
    FloatLane,
    Lane,
    TextLane,
    YesNoLane,
    error_lane,
    narrowest,
    text_lane,
)

_LARGEST_SCALE = 18
_LARGEST_FLOAT_SCALE = 15
_INT64 = 2**63 - 1
_SAMPLE = 256
INFINITE = CellError("infinite", "the number is infinite")


def column_from(name: str, values: Any) -> Column:
    """Return a column from a NumPy array or any sequence of cells.

    None and NaN are blanks, infinite numbers are error cells, and text is trimmed.

    >>> column_from("dues", [120, 80.5, "waived", None]).words
    'numbers, text and blanks'
    """
    if isinstance(values, np.ndarray):
        if values.ndim != 1:
            raise ValueError(f"column '{name}': an array of one dimension is needed")
        build = _FROM_ARRAY.get(values.dtype.kind)
        if build is not None:
            return build(name, values)
    return column_from_cells(name, values)


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
    states = kinds
    if codes is not None:
        lanes = {kind: _spread(lane, codes) for kind, lane in lanes.items()}
        states = kinds[codes]
    return assemble(name, len(states), lanes, states, notices)


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
        return _finite(value, value.is_nan(), value.is_finite())
    if isinstance(value, Integral):
        return int(value)
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


def _finite(number: float | Decimal, missing: bool, finite: bool) -> Cell:
    return None if missing else number if finite else INFINITE


def _spread(lane: Lane, codes: Array) -> Lane:
    if isinstance(lane, TextLane):  # every spelling is used: nothing to leave out
        return TextLane(lane.codes[codes], lane.spellings, lane.folded)
    return lane.take(codes)


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
    exact = [Decimal(repr(cell)) if type(cell) is float else Decimal(cell) for cell in cells]
    scale = 0
    for number in exact:
        exponent = number.normalize().as_tuple().exponent if number else 0
        scale = max(scale, -int(exponent))
    if scale > _LARGEST_SCALE:
        return None
    stored = [int(number.scaleb(scale)) if abs(number) < 10**19 else _INT64 + 1 for number in exact]
    if any(abs(value) > _INT64 for value in stored):
        return None
    floats = [value for cell, value in zip(cells, stored, strict=True) if type(cell) is float]
    if floats and (scale > _LARGEST_FLOAT_SCALE or max(map(abs, floats)) >= MOST_EXACT):
        return None
    return np.array(stored, dtype=np.int64), scale


def fixed_from_floats(values: Array) -> tuple[Array, int] | None:
    """Return float64 values as decimals of at most 15 digits (int64, scale), or None.

    A value counts as the decimal that it is the nearest double to, the one that printing
    it shows: 0.1 is one tenth. `stored / 10**scale` gives back the very same double.
    """
    for scale in range(_LARGEST_FLOAT_SCALE + 1):
        if not _is_decimal(values[:_SAMPLE], scale):
            continue
        if _is_decimal(values, scale):
            return np.rint(values * 10.0**scale).astype(np.int64), scale
    return None


def _is_decimal(values: Array, scale: int) -> bool:
    with np.errstate(over="ignore", invalid="ignore"):
        stored = np.rint(values * 10.0**scale)
        small = np.abs(stored) < MOST_EXACT
        return bool(small.all() and (stored / 10.0**scale == values).all())


def _date_lane(cells: list[Any], where: Array, length: int) -> Lane:
    if any(type(cell) is datetime for cell in cells):
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


def column_of_one_kind(name: str, lane: Lane, notices: tuple[Notice, ...] = ()) -> Column:
    """Return a column whose cells are all of the lane's kind."""
    return Column(name, len(lane.values), {lane.kind: lane}, None, notices)


def _from_integers(name: str, values: Array) -> Column:
    if values.dtype == np.uint64 and len(values) and values.max() > _INT64:
        return column_from_cells(name, values.tolist())
    return column_of_one_kind(name, FixedLane(values.astype(np.int64), 0))


def _from_floats(name: str, values: Array) -> Column:
    values = values.astype(np.float64)
    finite = np.isfinite(values)
    safe = values if finite.all() else np.where(finite, values, 0.0)
    fixed = fixed_from_floats(safe)
    lane: Lane = FloatLane(safe) if fixed is None else FixedLane(*fixed)
    if finite.all():
        return column_of_one_kind(name, lane)
    lanes: dict[Kind, Lane] = {Kind.NUMBER: lane} if finite.any() else {}
    states = np.where(finite, Kind.NUMBER, Kind.BLANK).astype(np.uint8)
    infinite = np.isinf(values)
    if infinite.any():
        states[infinite] = Kind.ERROR
        lanes[Kind.ERROR] = error_lane([INFINITE], np.zeros(len(values), dtype=np.uint8))
    return assemble(name, len(values), lanes, states)


def _from_yes_no(name: str, values: Array) -> Column:
    return column_of_one_kind(name, YesNoLane(values.copy()))


def _from_dates(name: str, values: Array) -> Column:
    missing = np.isnat(values)
    micros = values.astype("datetime64[us]").astype(np.int64)
    micros[missing] = 0
    whole = not (micros % DAY).any()
    stored = (micros // DAY).astype(np.int32) if whole else micros
    states = np.where(missing, Kind.BLANK, Kind.DATE).astype(np.uint8)
    lanes: dict[Kind, Lane] = {} if missing.all() else {Kind.DATE: DateLane(stored, not whole)}
    return assemble(name, len(values), lanes, states)


def _from_text(name: str, values: Array) -> Column:
    distinct, first, codes = np.unique(values, return_index=True, return_inverse=True)
    order = np.argsort(first)
    rank = np.empty(len(order), dtype=narrowest(len(order)))
    rank[order] = np.arange(len(order))
    words = [str(distinct[i]).strip() or None for i in order]
    return column_from_codes(name, words, rank[codes])


_FROM_ARRAY: dict[str, Callable[[str, Array], Column]] = {
    "i": _from_integers,
    "u": _from_integers,
    "f": _from_floats,
    "b": _from_yes_no,
    "M": _from_dates,
    "U": _from_text,
}
