"""Values brought to the stored type of a lane: inclusive spans of what is stored."""

from dataclasses import dataclass
from enum import StrEnum
from math import isinf, nextafter
from typing import Any, TypeAlias

import numpy as np

from even_sieve.core.criteria.blocks import Probe
from even_sieve.core.criteria.probes import Between, Constant
from even_sieve.core.table.lanes import DateLane, FixedLane, FloatLane, TextLane

Ordered: TypeAlias = FixedLane | FloatLane | DateLane


@dataclass(frozen=True)
class Span:
    """Stored values from `low` to `high`, both included; None is an open end."""

    low: Any
    high: Any


class Order(StrEnum):
    """The order comparisons."""

    LESS = "<"
    AT_MOST = "<="
    MORE = ">"
    AT_LEAST = ">="


def ordered_span(order: Order, equal: Span) -> Span:
    """Return what is stored for the cells that stand in this order to those of a span."""
    if order is Order.AT_LEAST:
        return Span(equal.low, None)
    if order is Order.AT_MOST:
        return Span(None, equal.high)
    if order is Order.LESS:
        return Span(None, _before(equal.low))
    return Span(_after(equal.high), None)


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


def _before(first: Any) -> Any:
    return nextafter(first, -float("inf")) if isinstance(first, float) else first - 1


def _after(last: Any) -> Any:
    if isinstance(last, float):
        return last if isinf(last) else nextafter(last, float("inf"))
    return last + 1


def codes_probe(lane: TextLane, low: int, high: int) -> Probe:
    """Return the probe for the codes `low <= code < high`."""
    if low >= high:
        return Constant(False)
    kind = lane.codes.dtype.type
    first = None if low == 0 else kind(low)
    last = None if high == len(lane.spellings) else kind(high - 1)
    if first is None and last is None:
        return Constant(True)
    return Between(lane.codes, first, last)
