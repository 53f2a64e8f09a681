"""Columns one below the other, as if they had been read as one.

A cell stays what it is: numbers of different scales come to one, days among times become
midnights, texts share their spellings, first met first.
"""

from collections.abc import Callable, Iterable, Sequence
from dataclasses import replace
from fractions import Fraction
from typing import Any

import numpy as np

from even_sieve.core.cells import CellError, Kind
from even_sieve.core.cells.dates import DAY
from even_sieve.core.cells.written import PLAIN
from even_sieve.core.table.build import assemble
from even_sieve.core.table.coded_lanes import error_lane, text_lane
from even_sieve.core.table.columns import Column
from even_sieve.core.table.lanes import (
    Array,
    DateLane,
    FixedLane,
    FloatLane,
    Lane,
    YesNoLane,
    narrowest,
)
from even_sieve.core.table.shortest import shortest_decimals

_INT64 = 2**63 - 1
#: Up to here whole numbers are doubles, and so are the powers of ten of every scale.
_MOST_EXACT = 2**53


def join_columns(name: str, columns: Sequence[Column]) -> Column:
    """Return the cells of all columns, in order, as one column; its notices are new ones alone.

    >>> from even_sieve.core.table import column_from
    >>> both = join_columns("dues", [column_from("dues", [120]), column_from("dues", [80.5, "-"])])
    >>> list(both.cells())
    [120.0, 80.5, '-']
    """
    lengths = [column.length for column in columns]
    states = np.concatenate([_states(column) for column in columns])
    kinds = [kind for kind in Kind if any(kind in column.lanes for column in columns)]
    held = set(np.unique(states).tolist())
    lanes = {
        kind: _JOINS[kind]([column.lanes.get(kind) for column in columns], lengths)
        for kind in kinds
        if kind in held
    }
    joined = assemble(name, sum(lengths), lanes, states)
    said = [column.conventions for column in columns if column.conventions != PLAIN]
    trimmed = sum(column.trimmed for column in columns)
    return replace(joined, trimmed=trimmed, conventions=said[0] if said else PLAIN)


def _states(column: Column) -> Array:
    if column.states is not None:
        return column.states
    return np.full(column.length, column.only_kind, dtype=np.uint8)


def _put(
    values: Sequence[Array | None], lengths: Sequence[int], dtype: np.dtype[Any] | type
) -> Array:
    """Return arrays one below the other, zeros where there is none."""
    out = np.zeros(sum(lengths), dtype=dtype)
    start = 0
    for own, length in zip(values, lengths, strict=True):
        if own is not None:
            out[start : start + length] = own
        start += length
    return out


def _numbers(lanes: Sequence[Any], lengths: Sequence[int]) -> Lane:
    fixed = [lane for lane in lanes if isinstance(lane, FixedLane)]
    if len(fixed) == sum(lane is not None for lane in lanes):
        scale = max(lane.scale for lane in fixed)
        if all(lane.bound * 10 ** (scale - lane.scale) <= _INT64 for lane in fixed):
            grown = [
                None if lane is None else lane.values * 10 ** (scale - lane.scale) for lane in lanes
            ]
            return FixedLane(_put(grown, lengths, np.int64), scale)
    doubles = _put([None if lane is None else _doubles(lane) for lane in lanes], lengths, float)
    lost = next((lane.lost for lane in lanes if isinstance(lane, FloatLane) and lane.lost), "")
    if not fixed and all(lane is None or lane.given is None for lane in lanes):
        return FloatLane(doubles, None, lost)
    given = [(None, None) if lane is None else _given(lane) for lane in lanes]
    whole = _put([each[0] for each in given], lengths, np.int64)
    places = _put([each[1] for each in given], lengths, np.int16)
    return FloatLane(doubles, (whole, places), lost)


def _doubles(lane: FixedLane | FloatLane) -> Array:
    """Return the nearest doubles of a lane's numbers."""
    if isinstance(lane, FloatLane):
        return lane.values
    found: Array = lane.values / 10.0**lane.scale
    long = np.flatnonzero(np.abs(lane.values) >= _MOST_EXACT)
    found[long] = [float(Fraction(each, 10**lane.scale)) for each in lane.values[long].tolist()]
    return found


def _given(lane: FixedLane | FloatLane) -> tuple[Array, Array]:
    if isinstance(lane, FixedLane):
        return lane.values, np.full(len(lane.values), lane.scale, dtype=np.int16)
    whole, places = shortest_decimals(lane.values) if lane.given is None else lane.given
    return whole, places


def _dates(lanes: Sequence[Any], lengths: Sequence[int]) -> Lane:
    timed = any(lane is not None and lane.has_time for lane in lanes)

    def stored(lane: DateLane) -> Array:
        return lane.values if lane.has_time or not timed else lane.values.astype(np.int64) * DAY

    values = [None if lane is None else stored(lane) for lane in lanes]
    return DateLane(_put(values, lengths, np.int64 if timed else np.int32), timed)


def _texts(lanes: Sequence[Any], lengths: Sequence[int]) -> Lane:
    numbers, codes = _renumbered(lanes, lambda lane: lane.spellings)
    return text_lane(list(numbers), _put(codes, lengths, narrowest(len(numbers))))


def _errors(lanes: Sequence[Any], lengths: Sequence[int]) -> Lane:
    numbers, codes = _renumbered(lanes, lambda lane: lane.errors)
    found: list[CellError] = list(numbers)
    return error_lane(found, _put(codes, lengths, narrowest(len(numbers))))


def _renumbered(
    lanes: Sequence[Any], words: Callable[[Any], Iterable[Any]]
) -> tuple[dict[Any, int], list[Array | None]]:
    """Return the distinct words of coded lanes, numbered as first met, and codes into them."""
    numbers: dict[Any, int] = {}
    codes: list[Array | None] = []
    for lane in lanes:
        if lane is None:
            codes.append(None)
            continue
        own = [numbers.setdefault(each, len(numbers)) for each in words(lane)]
        codes.append(np.array(own or [0], dtype=narrowest(len(numbers)))[lane.codes])
    return numbers, codes


def _yes_no(lanes: Sequence[Any], lengths: Sequence[int]) -> Lane:
    values = [None if lane is None else lane.values for lane in lanes]
    return YesNoLane(_put(values, lengths, bool))


_JOINS: dict[Kind, Callable[[Sequence[Any], Sequence[int]], Lane]] = {
    Kind.NUMBER: _numbers,
    Kind.DATE: _dates,
    Kind.TEXT: _texts,
    Kind.YES_NO: _yes_no,
    Kind.ERROR: _errors,
}
