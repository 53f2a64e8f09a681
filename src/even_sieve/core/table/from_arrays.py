"""Columns from NumPy arrays, all cells at once."""

from collections.abc import Callable
from datetime import date, datetime
from operator import attrgetter
from typing import Any

import numpy as np

from even_sieve.core.cells import Kind
from even_sieve.core.cells.dates import DAY, FIRST_DAY, LAST_DAY
from even_sieve.core.notices import Notice
from even_sieve.core.table.build import (
    INFINITE,
    OUTSIDE,
    WHOLE_AS_DOUBLES,
    assemble,
    column_from_cells,
    column_from_codes,
)
from even_sieve.core.table.coded_lanes import error_lane
from even_sieve.core.table.columns import Column
from even_sieve.core.table.lanes import (
    MOST_EXACT,
    Array,
    DateLane,
    FixedLane,
    FloatLane,
    Lane,
    YesNoLane,
    narrowest,
)
from even_sieve.core.table.number_lanes import LARGEST_SCALE
from even_sieve.core.table.offsets import cut_notices

_EPOCH = date(1970, 1, 1)
_SAMPLE, _BLOCK = 256, 1 << 15
_INT64 = 2**63 - 1
#: How many of a unit a day has.
_A_DAY = {"D": 1, "s": 86_400, "ms": DAY // 1000, "us": DAY, "ns": DAY * 1000}
#: More places than these are printed one by one.
_PRINTED = 9
#: In microseconds.
_PARTS_OF_CLOCK = {
    "hour": 3_600_000_000, "minute": 60_000_000, "second": 1_000_000, "microsecond": 1
}  # fmt: skip
_TENS = 10.0 ** np.arange(LARGEST_SCALE + 1)
_TENS_EXACT = 10 ** np.arange(LARGEST_SCALE + 1, dtype=np.int64)


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
    cells = values if isinstance(values, list) else list(values)
    kinds = set(map(type, cells))
    filled = kinds - {type(None)}
    if filled and filled <= {int, float}:
        numbers = _numbers(cells, kinds)
        column = None if numbers is None else _from_floats(name, numbers)
        if column is not None and isinstance(column.lanes.get(Kind.NUMBER), FixedLane):
            return column
    elif filled and filled <= {date, datetime}:
        moments = _moments(cells, kinds)
        if moments is not None:
            return column_of_moments(name, *moments)
    return column_from_cells(name, cells)  # long numbers are told one by one


def _numbers(cells: list[Any], kinds: set[type]) -> Array | None:
    """Return numbers and blanks as doubles, NaN for a blank; None where one has more digits."""
    try:
        numbers = np.array(cells, dtype=np.float64)  # None becomes NaN
    except OverflowError:
        return None
    long = int in kinds and (np.abs(numbers) >= MOST_EXACT).any()
    if long and any(abs(each) >= MOST_EXACT for each in cells if type(each) is int):
        return None
    return numbers


def _moments(cells: list[Any], kinds: set[type]) -> tuple[Array, str, Array | None] | None:
    """Return dates as days, or as microseconds, that unit, and which are blank.

    None where one of them has an offset.
    """
    missing = None
    if type(None) in kinds:
        missing = np.array([each is None for each in cells])
        cells = [_EPOCH if each is None else each for each in cells]
    days = np.fromiter(map(date.toordinal, cells), dtype=np.int64, count=len(cells))
    days -= _EPOCH.toordinal()
    if datetime not in kinds:
        return days, "D", missing
    places = [at for at, each in enumerate(cells) if type(each) is datetime]
    moments = cells if len(places) == len(cells) else [cells[at] for at in places]
    if {*map(attrgetter("tzinfo"), moments)} != {None}:
        return None
    micros = days * DAY
    for part, unit in _PARTS_OF_CLOCK.items():
        found = np.fromiter(map(attrgetter(part), moments), dtype=np.int64, count=len(moments))
        micros[places] += found * unit
    return micros, "us", missing


def column_of_one_kind(name: str, lane: Lane, notices: tuple[Notice, ...] = ()) -> Column:
    """Return a column whose cells are all of the lane's kind."""
    return Column(name, len(lane.values), {lane.kind: lane}, None, notices)


def fixed_from_floats(values: Array) -> tuple[Array, int] | None:
    """Return float64 values as decimals of at most 15 digits each (int64, scale), or None.

    A value counts as the decimal that it is the nearest double to, the one that printing
    it shows: 0.1 is one tenth. Each is told by itself, whatever the others are.

    >>> fixed_from_floats(np.array([1000000000.1, 0.0000001]))
    (array([10000000001000000,                 1]), 7)
    """
    known = _decimal_scales(values[:_SAMPLE])
    if not known.all():
        return None
    scales = (known if len(known) == len(values) else _decimal_scales(values)) - 1
    if (scales < 0).any():
        return None
    scale = int(scales.max(initial=0))
    own = np.rint(values * _TENS[scales]).astype(np.int64)
    grown = _TENS_EXACT[scale - scales]
    if (np.abs(own) > _INT64 // grown).any():
        return None
    return own * grown, scale


def fixed_together(values: Array) -> tuple[Array, int] | None:
    """Return float64 values as `fixed_from_floats` does, of the scale that the first ones need.

    None where others need a larger one, or are no short decimals. They are told a block at a time,
    on arrays that stay near the processor.
    """
    known = _decimal_scales(values[:_SAMPLE])
    if not known.all():
        return None
    scale = int(known.max(initial=1)) - 1
    found = np.empty(len(values), dtype=np.int64)
    digits, back = np.empty(_BLOCK), np.empty(_BLOCK)
    with np.errstate(over="ignore", invalid="ignore"):
        for start in range(0, len(values), _BLOCK):
            here = values[start : start + _BLOCK]
            own = np.multiply(here, _TENS[scale], out=digits[: len(here)])
            np.rint(own, out=own)
            same = np.divide(own, _TENS[scale], out=back[: len(here)]) == here
            if not same.all() or not -MOST_EXACT < own.min() <= own.max() < MOST_EXACT:
                return None
            found[start : start + _BLOCK] = own
    return found, scale


def _decimal_scales(values: Array) -> Array:
    """Return one more than the decimals that each value has; 0 where it is no short decimal."""
    found = np.zeros(len(values), dtype=np.int64)
    left = np.arange(len(values))
    for scale in range(LARGEST_SCALE + 1):
        here = values[left]
        with np.errstate(over="ignore", invalid="ignore"):
            stored = np.rint(here * _TENS[scale])
            fits = (np.abs(stored) < MOST_EXACT) & (stored / _TENS[scale] == here)
        found[left[fits]] = scale + 1
        left = left[~fits]
        if not len(left):
            break
    return found


def _from_integers(name: str, values: Array) -> Column:
    if values.dtype == np.uint64 and len(values) and values.max() > _INT64:
        return column_from_cells(name, values.tolist())
    lane = FixedLane(values.astype(np.int64), 0)
    if lane.ends[0] < -_INT64:  # it has no counterpart above: kept as a double, as from a text
        return column_from_cells(name, values.tolist())
    return column_of_one_kind(name, lane)


def _from_floats(name: str, values: Array) -> Column:
    values = _as_printed(values) if values.dtype.itemsize < 8 else values.astype(np.float64)
    finite = np.isfinite(values)
    safe = values if finite.all() else np.where(finite, values, 0.0)
    fixed = fixed_together(safe) or fixed_from_floats(safe)
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


def _as_printed(values: Array) -> Array:
    """Return short floating-point numbers as the doubles that are nearest to what each prints.

    That is the decimal of the fewest places that comes back as the number; whole numbers are what
    they are, as doubles are, so far as these hold each of them. Larger and very small ones are
    printed one by one.

    >>> _as_printed(np.array([0.1, 123456792, 1e-20, 1e30], dtype=np.float32)).tolist()
    [0.1, 123456792.0, 1e-20, 1e+30]
    """
    with np.errstate(over="ignore", invalid="ignore"):
        wide = values.astype(np.float64)
        left = np.flatnonzero(np.isfinite(wide) & (wide != np.rint(wide)))
        for scale in range(1, _PRINTED + 1):
            decimal = np.rint(wide[left] * _TENS[scale]) / _TENS[scale]
            same = decimal.astype(values.dtype) == values[left]
            wide[left[same]] = decimal[same]
            left = left[~same]
    large = np.isfinite(wide) & (np.abs(wide) >= WHOLE_AS_DOUBLES)
    rest = np.concatenate([left, np.flatnonzero(large)])
    wide[rest] = values[rest].astype(np.str_).astype(np.float64)
    return wide


def _from_yes_no(name: str, values: Array) -> Column:
    return column_of_one_kind(name, YesNoLane(values.copy()))


def _from_dates(name: str, values: Array) -> Column:
    unit, count = np.datetime_data(values.dtype)
    if unit not in _A_DAY or count != 1:  # months, hours, or so many of a unit
        unit = {"Y": "D", "M": "D", "W": "D", "h": "s", "m": "s"}.get(unit, "us")
        values = values.astype(f"datetime64[{unit}]")
    missing = np.isnat(values)
    return column_of_moments(name, values.astype(np.int64), unit, missing)


def column_of_moments(name: str, values: Array, unit: str, missing: Array | None = None) -> Column:
    """Return the column of moments counted from 1970 (int64) in a unit: D, s, ms, us or ns.

    Where no moment has a time of day they are days; nanoseconds are cut, with a notice. What lies
    outside of the calendar is an error; what is `missing` (bool, shape (n,)) is blank.

    >>> column_of_moments("arrived", np.array([0, 10**9]), "D").cell(1)
    CellError(token='no date', reason='the date lies outside of the years 1 to 9999')
    """
    a_day = _A_DAY[unit]
    low, high = max(FIRST_DAY * a_day, -_INT64), min((LAST_DAY + 1) * a_day, _INT64)
    outside = (values < low) | (values >= high)
    left = outside if missing is None else outside & ~missing
    gone = outside if missing is None else outside | missing
    if gone.any():
        values = np.where(gone, 0, values)
    told: tuple[Notice, ...] = ()
    if a_day == 1:
        lane = DateLane(values.astype(np.int32), False)
    else:
        micros = values * (DAY // a_day) if a_day <= DAY else values // (a_day // DAY)
        if a_day > DAY and (values != micros * (a_day // DAY)).any():
            told = cut_notices(name)
        whole = not (micros % DAY).any()
        lane = DateLane((micros // DAY).astype(np.int32) if whole else micros, not whole)
    if not gone.any():
        return column_of_one_kind(name, lane, told)
    states = np.where(gone, Kind.BLANK, Kind.DATE).astype(np.uint8)
    lanes: dict[Kind, Lane] = {} if gone.all() else {Kind.DATE: lane}
    if left.any():
        states[left] = Kind.ERROR
        lanes[Kind.ERROR] = error_lane([OUTSIDE], np.zeros(len(values), dtype=np.uint8))
    return assemble(name, len(values), lanes, states, told)


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
