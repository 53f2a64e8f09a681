"""The ends of the columns of a Parquet file's groups of rows, as its statistics tell them."""

import json
from collections.abc import Callable
from decimal import Decimal
from typing import Any

import pyarrow as pa

from even_sieve.core.cells import Kind
from even_sieve.core.cells.dates import DAY
from even_sieve.core.criteria.certain import Ends

_Reads = Callable[[Any, Any], tuple[Any, Any] | None]
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
    found, reads = _read_as(kind)
    ends = reads(facts, column) if reads is not None and facts.has_min_max else None
    if found is None or ends is None or ends[0] > ends[1]:
        return None
    # A NaN is a blank too, and a text may stand for one: neither is a null.
    hidden = pa.types.is_floating(kind) or found is Kind.TEXT
    return Ends(found, *ends, blanks=True if facts.null_count else None if hidden else False)


def kind_of(kind: Any) -> Kind | None:
    """Return the kind of the cells of an Arrow type, BLANK if it has none, None if not of one."""
    return Kind.BLANK if pa.types.is_null(kind) else _read_as(kind)[0]


def _read_as(kind: Any) -> "tuple[Kind | None, _Reads | None]":
    return next(((found, reads) for is_one, found, reads in _TYPES if is_one(kind)), (None, None))


def _raw(facts: Any) -> tuple[int, int] | None:
    low, high = facts.min_raw, facts.max_raw
    return (low, high) if isinstance(low, int) and isinstance(high, int) else None


def _whole_numbers(facts: Any, _column: Any) -> tuple[Any, Any] | None:
    found = _raw(facts)
    return None if found is None else (Decimal(found[0]), Decimal(found[1]))


def _without_signs(facts: Any, column: Any) -> tuple[Any, Any] | None:
    """Return the ends of numbers without a sign: the largest look like negative ones."""
    found = _whole_numbers(facts, column)
    return None if found is None or found[0] < 0 else found


def _doubles(facts: Any, _column: Any) -> tuple[Any, Any] | None:
    low, high = Decimal(facts.min_raw), Decimal(facts.max_raw)
    if not low.is_finite() or not high.is_finite():
        return None
    return low - abs(low) * _ROOM, high + abs(high) * _ROOM


def _decimals(facts: Any, _column: Any) -> tuple[Any, Any] | None:
    low, high = facts.min, facts.max
    return (low, high) if isinstance(low, Decimal) and isinstance(high, Decimal) else None


def _days(facts: Any, _column: Any) -> tuple[Any, Any] | None:
    found = _raw(facts)
    return None if found is None else (found[0] * DAY, found[1] * DAY)


def _moments(facts: Any, column: Any) -> tuple[Any, Any] | None:
    found, said = _raw(facts), json.loads(column.logical_type.to_json())
    unit = _UNITS.get(said.get("timeUnit", ""))
    if found is None or unit is None:
        return None
    times, parts = unit
    return found[0] * times // parts, -(-found[1] * times // parts)


def _texts(facts: Any, _column: Any) -> tuple[Any, Any] | None:
    low, high = facts.min, facts.max
    return (low, high) if isinstance(low, str) and isinstance(high, str) else None


def _is_text(kind: Any) -> bool:
    if pa.types.is_dictionary(kind):
        kind = kind.value_type
    return bool(
        pa.types.is_string(kind) or pa.types.is_large_string(kind) or pa.types.is_string_view(kind)
    )


#: What the cells of a type are, and what reads their ends; of some these are not read.
_TYPES: tuple[tuple[Callable[[Any], bool], Kind, _Reads | None], ...] = (
    (pa.types.is_signed_integer, Kind.NUMBER, _whole_numbers),
    (pa.types.is_unsigned_integer, Kind.NUMBER, _without_signs),
    (pa.types.is_float64, Kind.NUMBER, _doubles),
    (pa.types.is_floating, Kind.NUMBER, None),
    (pa.types.is_decimal, Kind.NUMBER, _decimals),
    (pa.types.is_date, Kind.DATE, _days),
    (pa.types.is_timestamp, Kind.DATE, _moments),
    (pa.types.is_boolean, Kind.YES_NO, None),
    (_is_text, Kind.TEXT, _texts),
)
