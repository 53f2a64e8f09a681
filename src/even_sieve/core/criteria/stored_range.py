"""Operands brought to the stored type of a lane: inclusive spans of what is stored."""

from dataclasses import dataclass
from decimal import Decimal
from fractions import Fraction
from math import ceil, floor, isinf, nextafter
from typing import Any, TypeAlias

import numpy as np

from even_sieve.core.cells.dates import DAY
from even_sieve.core.criteria.nodes import Order
from even_sieve.core.criteria.operands import Number, Period
from even_sieve.core.criteria.probes import Between, Constant, Probe
from even_sieve.core.table.lanes import DateLane, FixedLane, FloatLane

Ordered: TypeAlias = FixedLane | FloatLane | DateLane


@dataclass(frozen=True)
class Span:
    """Stored values from `low` to `high`, both included; None is an open end."""

    low: Any
    high: Any


def span_of(lane: Ordered, value: Number | Period) -> Span:
    """Return what is stored for the cells that equal the value (or lie in the period)."""
    return Span(_first(lane, value), _last(lane, value))


def ordered_span(lane: Ordered, order: Order, value: Number | Period) -> Span:
    """Return what is stored for the cells that stand in this order to the value."""
    if order is Order.AT_LEAST:
        return Span(_first(lane, value), None)
    if order is Order.AT_MOST:
        return Span(None, _last(lane, value))
    if order is Order.LESS:
        return Span(None, _before(lane, value))
    return Span(_after(lane, value), None)


def probe_of(lane: Ordered, span: Span) -> Probe:
    """Return the probe for a span, its ends in the lane's own type."""
    low, high = _within_type(lane, span)
    if low is not None and high is not None and low > high:
        return Constant(False)
    if low is None and high is None:
        return Constant(True)
    kind = lane.values.dtype.type
    return Between(
        lane.values, None if low is None else kind(low), None if high is None else kind(high)
    )


def _within_type(lane: Ordered, span: Span) -> tuple[Any, Any]:
    """Return the ends with those beyond the stored type's range opened or turned round."""
    low, high = span.low, span.high
    if isinstance(lane, FloatLane):
        return low, high
    limits = np.iinfo(lane.values.dtype)
    least, most = int(limits.min), int(limits.max)
    if (low is not None and low > most) or (high is not None and high < least):
        return 1, 0
    low = None if low is not None and low < least else low
    return low, None if high is not None and high > most else high


def _scaled(lane: FixedLane, number: Decimal) -> Fraction:
    return Fraction(number) * int(10**lane.scale)


def _first(lane: Ordered, value: Number | Period) -> Any:
    if isinstance(value, Period):
        return value.start if _in_micros(lane) else -(-value.start // DAY)
    if isinstance(lane, FixedLane):
        return ceil(_scaled(lane, value.value))
    return float(value.value)


def _last(lane: Ordered, value: Number | Period) -> Any:
    if isinstance(value, Period):
        return value.end - 1 if _in_micros(lane) else (value.end - 1) // DAY
    if isinstance(lane, FixedLane):
        return floor(_scaled(lane, value.value))
    return float(value.value)


def _before(lane: Ordered, value: Number | Period) -> Any:
    first = _first(lane, value)
    return nextafter(first, -float("inf")) if isinstance(first, float) else first - 1


def _after(lane: Ordered, value: Number | Period) -> Any:
    last = _last(lane, value)
    if isinstance(last, float):
        return last if isinf(last) else nextafter(last, float("inf"))
    return last + 1


def _in_micros(lane: Ordered) -> bool:
    return isinstance(lane, DateLane) and lane.has_time
