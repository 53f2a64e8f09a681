"""The ends of the columns of a Parquet file's groups of rows, as its statistics tell them."""

import json
from collections.abc import Callable
from decimal import Decimal
from typing import Any

import pyarrow as pa

from even_sieve.core.cells import Kind
from even_sieve.core.cells.dates import DAY
from even_sieve.core.criteria.certain import Ends

_Reads = Callable[[Any, Any], tuple[Kind, Any, Any] | None]
#: So many of a unit make a microsecond, or so many microseconds a unit.
_UNITS = {"milliseconds": (1000, 1), "microseconds": (1, 1), "nanoseconds": (1, 1000)}
#: Doubles are held against numbers with this room, so that no rounding decides.
_ROOM = Decimal("1e-12")


def ends_of_chunk(chunk: Any, column: Any, kind: Any) -> Ends | None:
    """Return the ends of a chunk of a column; None where its statistics do not tell them.

    `column` is that of the file's schema, `kind` the Arrow type that it is read as.
    """
    facts = chunk.statistics if chunk.is_stats_set else None
    if facts is None or not facts.has_null_count:
        return None
    if facts.null_count == chunk.num_values:
        return Ends(None, blanks=True)
    reads = next((reads for is_one, reads in _READS if is_one(kind)), None)
    found = reads(facts, column) if reads is not None and facts.has_min_max else None
    if found is None:
        return None
    # A NaN is a blank too, and a text may stand for one: neither is a null.
    hidden = pa.types.is_floating(kind) or found[0] is Kind.TEXT
    return Ends(*found, blanks=True if facts.null_count else None if hidden else False)


def kind_of(kind: Any) -> Kind | None:
    """Return the kind of the cells of an Arrow type, BLANK if it has none, None if not of one."""
    if pa.types.is_null(kind):
        return Kind.BLANK
    return next((found for is_one, found in _KINDS if is_one(kind)), None)


def _whole_numbers(facts: Any, _column: Any) -> tuple[Kind, Any, Any] | None:
    low, high = facts.min_raw, facts.max_raw
    known = isinstance(low, int) and isinstance(high, int) and low <= high
    return (Kind.NUMBER, Decimal(low), Decimal(high)) if known else None


def _without_signs(facts: Any, column: Any) -> tuple[Kind, Any, Any] | None:
    """Return the ends of numbers without a sign: the largest look like negative ones."""
    found = _whole_numbers(facts, column)
    return None if found is None or found[1] < 0 else found


def _doubles(facts: Any, _column: Any) -> tuple[Kind, Any, Any] | None:
    low, high = Decimal(facts.min_raw), Decimal(facts.max_raw)
    if not low.is_finite() or not high.is_finite():
        return None
    return Kind.NUMBER, low - abs(low) * _ROOM, high + abs(high) * _ROOM


def _decimals(facts: Any, _column: Any) -> tuple[Kind, Any, Any] | None:
    low, high = facts.min, facts.max
    known = isinstance(low, Decimal) and isinstance(high, Decimal) and low <= high
    return (Kind.NUMBER, low, high) if known else None


def _days(facts: Any, _column: Any) -> tuple[Kind, Any, Any] | None:
    low, high = facts.min_raw, facts.max_raw
    known = isinstance(low, int) and isinstance(high, int) and low <= high
    return (Kind.DATE, low * DAY, high * DAY) if known else None


def _moments(facts: Any, column: Any) -> tuple[Kind, Any, Any] | None:
    low, high = facts.min_raw, facts.max_raw
    said = json.loads(column.logical_type.to_json())
    unit = _UNITS.get(said.get("timeUnit", ""))
    if unit is None or not (isinstance(low, int) and isinstance(high, int) and low <= high):
        return None
    times, parts = unit
    return Kind.DATE, low * times // parts, -(-high * times // parts)


def _texts(facts: Any, _column: Any) -> tuple[Kind, Any, Any] | None:
    low, high = facts.min, facts.max
    known = isinstance(low, str) and isinstance(high, str) and low <= high
    return (Kind.TEXT, low, high) if known else None


def _is_text(kind: Any) -> bool:
    if pa.types.is_dictionary(kind):
        kind = kind.value_type
    return bool(
        pa.types.is_string(kind) or pa.types.is_large_string(kind) or pa.types.is_string_view(kind)
    )


_READS: tuple[tuple[Callable[[Any], bool], _Reads], ...] = (
    (pa.types.is_signed_integer, _whole_numbers),
    (pa.types.is_unsigned_integer, _without_signs),
    (pa.types.is_float64, _doubles),
    (pa.types.is_decimal, _decimals),
    (pa.types.is_date, _days),
    (pa.types.is_timestamp, _moments),
    (_is_text, _texts),
)
_KINDS: tuple[tuple[Callable[[Any], bool], Kind], ...] = (
    (pa.types.is_integer, Kind.NUMBER),
    (pa.types.is_floating, Kind.NUMBER),
    (pa.types.is_decimal, Kind.NUMBER),
    (pa.types.is_date, Kind.DATE),
    (pa.types.is_timestamp, Kind.DATE),
    (pa.types.is_boolean, Kind.YES_NO),
    (_is_text, Kind.TEXT),
)
