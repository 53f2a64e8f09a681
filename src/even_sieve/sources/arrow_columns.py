"""Columns of Arrow arrays, by their types.

Whatever is as long as the table is done by Arrow or NumPy; Python sees a value by itself only
where no lane holds such, or once for each different one.
"""

from collections.abc import Callable
from dataclasses import replace
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from even_sieve.core.cells import Kind
from even_sieve.core.errors import SourceError
from even_sieve.core.table import Column, column_from, column_from_cells
from even_sieve.core.table.build import assemble
from even_sieve.core.table.coded_column import column_of_places
from even_sieve.core.table.distinct import once_each
from even_sieve.core.table.from_arrays import column_of_moments, fixed_together
from even_sieve.core.table.lanes import FixedLane, FloatLane, Lane, YesNoLane
from even_sieve.core.table.number_lanes import LARGEST_SCALE
from even_sieve.core.table.offsets import zone_notices
from even_sieve.core.table.shortest import shortest_decimals
from even_sieve.sources.arrow_buffers import (
    array_of,
    mask_of,
    scalar_of,
    stored,
    strings_of,
    take_any,
)
from even_sieve.sources.byte_columns import identifiers, is_bytes, texts_of_bytes
from even_sieve.sources.text_columns import column_of_coded_texts, column_of_texts, places_of

_INT64 = 2**63 - 1


def column_of_array(name: str, array: Any, source: str) -> Column:
    """Return the column of an Arrow array; nulls and NaN are blanks.

    Raises `SourceError` for lists, records, and others that are no single values.

    >>> list(column_of_array("dues", pa.array([120, None]), "calls").cells())
    [120, None]
    """
    kind = array.type
    if isinstance(kind, pa.UuidType):
        return identifiers(name, array.storage)
    if isinstance(kind, pa.BaseExtensionType):
        return column_of_array(name, array.storage, source)
    if pa.types.is_run_end_encoded(kind):
        return column_of_array(name, pc.run_end_decode(array), source)
    if pa.types.is_dictionary(kind):
        if _is_text(array.dictionary.type):
            return column_of_coded_texts(name, array)
        return column_of_places(column_of_array(name, array.dictionary, source), places_of(array))
    if pa.types.is_string_view(kind):
        array, kind = pc.cast(array, pa.string()), pa.string()
    if is_bytes(kind):
        return texts_of_bytes(name, array)
    if _is_text(kind):
        return column_of_texts(name, array)
    build = next((build for is_one, build in _BUILDS if is_one(kind)), None)
    if build is None:
        raise SourceError(source, f"column '{name}' holds {kind}", "Cells are single values")
    return build(name, array)


def holds_single_values(kind: Any) -> bool:
    """Tell whether `column_of_array` knows a type of Arrow: no lists, no records.

    >>> holds_single_values(pa.int8()), holds_single_values(pa.list_(pa.int8()))
    (True, False)
    """
    if isinstance(kind, pa.BaseExtensionType):
        return holds_single_values(kind.storage_type)
    if pa.types.is_dictionary(kind) or pa.types.is_run_end_encoded(kind):
        return holds_single_values(kind.value_type)
    plain = pa.types.is_string_view(kind) or _is_text(kind) or is_bytes(kind)
    return plain or any(is_one(kind) for is_one, _ in _BUILDS)


def _is_text(kind: Any) -> bool:
    return bool(pa.types.is_string(kind) or pa.types.is_large_string(kind))


def filled(array: Any, value: Any) -> Any:
    """Return an array with a value in the place of nulls."""
    return pc.fill_null(array, scalar_of(value, array.type)) if array.null_count else array


def _of_kind(name: str, array: Any, lane: Lane) -> Column:
    """Return a column of the lane's kind, blank where the array has nulls."""
    if not array.null_count:
        return assemble(name, len(array), {lane.kind: lane}, None)
    kinds = np.array([Kind.BLANK, lane.kind], dtype=np.uint8)
    states = kinds[mask_of(pc.is_valid(array)).view(np.uint8)]
    lanes: dict[Kind, Lane] = {lane.kind: lane} if array.null_count < len(array) else {}
    return assemble(name, len(array), lanes, states)


def _blanks(name: str, array: Any) -> Column:
    return assemble(name, len(array), {}, np.full(len(array), Kind.BLANK, dtype=np.uint8))


def _yes_no(name: str, array: Any) -> Column:
    return _of_kind(name, array, YesNoLane(mask_of(pc.fill_null(array, scalar_of(False)))))


def _integers(name: str, array: Any) -> Column:
    try:
        values = stored(filled(pc.cast(array, pa.int64()), 0), np.int64)
    except pa.ArrowInvalid:  # some are larger
        return _of_kind(name, array, _large(stored(filled(array, 0), np.uint64)))
    lane = FixedLane(values, 0)
    if lane.ends[0] < -_INT64:  # it has no counterpart above: kept as a double, as from a text
        return column_from_cells(name, array.to_pylist())
    return _of_kind(name, array, lane)


def _large(values: Any) -> FloatLane:
    """Return the lane of whole numbers of 64 bits without a sign: the largest as doubles."""
    doubles = values.astype(np.float64)
    large = values > _INT64
    whole, places = np.where(large, 0, values).astype(np.int64), np.zeros(len(values), np.int16)
    whole[large], places[large] = shortest_decimals(doubles[large])
    kept = whole[large].astype(np.uint64) * 10 ** (-places[large]).astype(np.uint64)
    lost = values[large][kept != values[large]]
    return FloatLane(doubles, (whole, places), str(lost[0]) if len(lost) else "")


def _decimals(name: str, array: Any) -> Column:
    """Return the column of decimals with as few places as all of them need."""
    scale = array.type.scale
    values = _whole(array)
    if values is None or scale > LARGEST_SCALE:  # are there places that none of them needs?
        for fewer in range(min(scale, LARGEST_SCALE + 1)):
            scale, values = fewer, _whole(_of_scale(array, fewer))
            if values is not None:
                break
    if values is None or not 0 <= scale <= LARGEST_SCALE:
        return column_from_cells(name, array.to_pylist())
    while scale > 0 and not (values % 10).any():
        values //= 10
        scale -= 1
    return _of_kind(name, array, FixedLane(values, scale))


#: Decimals of fewer bits are brought to so many; of so many digits they fit.
_WIDTH, _DIGITS = 128, 38


def _of_scale(array: Any, scale: int) -> Any:
    """Return decimals with so many places; None where one needs more."""
    made = pa.decimal128 if array.type.bit_width <= _WIDTH else pa.decimal256
    try:
        return pc.cast(array, made(array.type.precision, scale))
    except pa.ArrowInvalid:
        return None


def _whole(array: Any) -> Any:
    """Return decimals without their point, int64, 0 for null; None if one does not fit."""
    if array is None:
        return None
    if array.type.bit_width < _WIDTH:
        array = pc.cast(array, pa.decimal128(_DIGITS, array.type.scale))
    words = array.type.bit_width // 64
    parts = np.frombuffer(array.buffers()[1] or b"", dtype=np.int64)
    parts = parts[words * array.offset : words * (array.offset + len(array))].reshape(-1, words)
    missing = _missing(array)
    if missing is not None:
        parts = np.where(missing[:, None], 0, parts)
    values = parts[:, 0].copy()  # the lowest word first
    if (parts[:, 1:] != (values >> 63)[:, None]).any() or values.min(initial=0) < -_INT64:
        return None
    return values


def _of_doubles(name: str, array: Any) -> Column:
    """Return the column of doubles, or of shorter ones; NaN is a blank."""
    if pa.types.is_float64(array.type):
        fixed = fixed_together(stored(filled(array, 0.0), np.float64))
        if fixed is not None:
            return _of_kind(name, array, FixedLane(*fixed))
        return column_from(name, stored(filled(array, float("nan")), np.float64))
    short = stored(filled(array, float("nan")), array.type.to_pandas_dtype())
    return column_from(name, short)


def _moments(name: str, array: Any) -> Column:
    """Return the column of times in UTC; of days where no cell has a time."""
    values = stored(filled(pc.cast(array, pa.int64()), 0), np.int64)
    column = column_of_moments(name, values, array.type.unit, _missing(array))
    told = zone_notices(name, str(array.type.tz or "UTC"))
    return replace(column, notices=(*column.notices, *told)) if told else column


def _days(name: str, array: Any) -> Column:
    if pa.types.is_date64(array.type):
        days = stored(filled(pc.cast(array, pa.int64()), 0), np.int64) // _MILLIS
    else:
        days = stored(filled(pc.cast(array, pa.int32()), 0), np.int32)
    return column_of_moments(name, days, "D", _missing(array))


#: The milliseconds of a day.
_MILLIS = 86_400_000


def _missing(array: Any) -> Any:
    """Return which cells are null, bool, shape (n,); None if none is."""
    return mask_of(pc.is_null(array)) if array.null_count else None


def _times_of_day(name: str, array: Any) -> Column:
    """Return the column of times of a day, as texts: with as many digits as they need."""
    fine = array.type == pa.time64("ns")
    try:
        return column_of_texts(name, pc.cast(pc.cast(array, pa.time32("s")), pa.string()))
    except pa.ArrowInvalid:  # some have parts of a second
        texts = pc.cast(array if fine else pc.cast(array, pa.time64("us")), pa.string())
    texts = pc.replace_substring_regex(texts, r"\.0+$", "")
    if fine:
        texts = pc.replace_substring_regex(texts, r"(\.[0-9]{6})000$", r"\1")
    return column_of_texts(name, texts)


def _durations(name: str, array: Any) -> Column:
    """Return the column of lengths of time, as texts: `1 day, 2:30:00`."""
    second = _A_SECOND[array.type.unit]
    lengths = stored(filled(pc.cast(array, pa.int64()), 0), np.int64)
    days, clocks = np.divmod(lengths, second * _SECONDS)

    seconds, part = np.divmod(clocks, second)
    times = array_of(seconds.astype(np.int32), pa.time32("s")).cast(pa.string())
    texts = pc.binary_join_element_wise(
        _said(days, lambda each: f"{each} day{'s' * (abs(each) != 1)}, " if each else ""),
        pc.replace_substring_regex(times, "^0", ""),
        _parts(part * (_A_SECOND["ns"] // second)),
        scalar_of(""),
    )
    missing = _missing(array)
    there = texts if missing is None else pc.if_else(array.is_valid(), texts, scalar_of(""))
    return column_of_texts(name, there)


def _parts(billionths: Any) -> Any:
    """Return parts of a second in digits: six, or nine where they need so many; none of none.

    >>> _parts(np.array([0, 500_000_000, 1])).to_pylist()
    ['', '.500000', '.000000001']
    """
    behind = array_of(billionths + _A_SECOND["ns"], pa.int64()).cast(pa.string())
    behind = pc.replace_substring_regex(behind, "^1", ".")
    return pc.replace_substring_regex(behind, "^[.]000000000$|000$", "")


#: The units of a second, the seconds of a day.
_A_SECOND, _SECONDS = {"s": 1, "ms": 10**3, "us": 10**6, "ns": 10**9}, 86_400


def _said(values: Any, words: Callable[[int], str]) -> Any:
    """Return whole numbers in words, an Arrow array: each different one is said once."""
    found = once_each(values)
    return take_any(
        strings_of([words(each) for each in found.tolist()]), np.searchsorted(found, values)
    )


#: How a column of a type is made.
_BUILDS: tuple[tuple[Callable[[Any], bool], Callable[[str, Any], Column]], ...] = (
    (pa.types.is_null, _blanks),
    (pa.types.is_boolean, _yes_no),
    (pa.types.is_floating, _of_doubles),
    (pa.types.is_integer, _integers),
    (pa.types.is_date, _days),
    (pa.types.is_timestamp, _moments),
    (pa.types.is_decimal, _decimals),
    (pa.types.is_time, _times_of_day),
    (pa.types.is_duration, _durations),
)
