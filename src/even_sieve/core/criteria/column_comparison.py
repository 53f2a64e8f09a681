"""Comparisons of two columns, row by row."""

from collections.abc import Callable, Sequence
from functools import partial

import numpy as np

from even_sieve.core.cells import Kind
from even_sieve.core.cells.dates import DAY
from even_sieve.core.criteria.blocks import Probe
from even_sieve.core.criteria.probes import Pairwise, Side
from even_sieve.core.table.lanes import (
    Array,
    DateLane,
    FixedLane,
    Lane,
    TextLane,
)


def _same(values: Array) -> Array:
    return values


def _number_pair(comparison: str, left: Lane, right: Lane) -> Probe:
    if isinstance(left, FixedLane) and isinstance(right, FixedLane):
        scale = max(left.scale, right.scale)
        grown = [lane.bound * 10 ** (scale - lane.scale) for lane in (left, right)]
        if max(grown) < 2**63:
            return Pairwise(comparison, _scaled(left, scale), _scaled(right, scale))
    return Pairwise(comparison, _as_floats(left), _as_floats(right))


def _scaled(lane: FixedLane, scale: int) -> Side:
    return Side(lane.values, partial(np.multiply, np.int64(10 ** (scale - lane.scale))))


def _as_floats(lane: Lane) -> Side:
    if isinstance(lane, FixedLane):
        divisor = float(10**lane.scale)
        return Side(lane.values, lambda values: values / divisor)
    return Side(lane.values, _same)


def _date_pair(comparison: str, left: Lane, right: Lane) -> Probe:
    if not (isinstance(left, DateLane) and isinstance(right, DateLane)):
        raise TypeError("two date lanes are needed")
    if not left.has_time and not right.has_time:
        return Pairwise(comparison, Side(left.values, _same), Side(right.values, _same))
    width = 0 if right.has_time else DAY - 1
    return Pairwise(comparison, _as_micros(left), _as_micros(right), width)


def _as_micros(lane: DateLane) -> Side:
    return Side(lane.values, _same if lane.has_time else _days_to_micros)


def _days_to_micros(days: Array) -> Array:
    return days.astype(np.int64) * DAY


def _text_pair(comparison: str, left: Lane, right: Lane) -> Probe:
    if not (isinstance(left, TextLane) and isinstance(right, TextLane)):
        raise TypeError("two text lanes are needed")
    order = {word: i for i, word in enumerate(sorted({*left.folded, *right.folded}))}
    first, second = _rank(left.folded, order), _rank(right.folded, order)
    return Pairwise(comparison, Side(left.codes, first), Side(right.codes, second))


def _rank(folded: Sequence[str], order: dict[str, int]) -> Callable[[Array], Array]:
    ranks = np.array([order[word] for word in folded], dtype=np.int32)
    return lambda codes: ranks[codes]


def _yes_no_pair(comparison: str, left: Lane, right: Lane) -> Probe:
    return Pairwise(comparison, Side(left.values, _same), Side(right.values, _same))


#: How the lanes of each kind are compared.
PAIRS: dict[Kind, Callable[[str, Lane, Lane], Probe]] = {
    Kind.NUMBER: _number_pair,
    Kind.DATE: _date_pair,
    Kind.TEXT: _text_pair,
    Kind.YES_NO: _yes_no_pair,
}
