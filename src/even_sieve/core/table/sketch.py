"""Sketches of columns: a few cells that have all that is told of the whole."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Any, cast

import numpy as np

from even_sieve.core.cells import Kind
from even_sieve.core.table.columns import Column
from even_sieve.core.table.growing import Growing
from even_sieve.core.table.lanes import (
    Array,
    ErrorLane,
    FixedLane,
    FloatLane,
    Lane,
    TextLane,
    changed,
)
from even_sieve.core.table.number_lanes import scattered

#: Numbers of fewer digits are the shortest decimals of their doubles.
_MOST_SHOWN_BY_DOUBLES = 10**15


@dataclass(frozen=True, eq=False)
class Sketch:
    """What is known of a column whose cells are elsewhere, in pieces.

    `column` holds a few cells with the same kinds, the same ends and scale of numbers and dates,
    and the same texts in the order first met; `counts` how many cells of each kind there are, and
    `places` which column it is of each piece, None where one lacks it.
    """

    column: Column
    counts: dict[Kind, int]
    places: tuple[int | None, ...]


def sketched(column: Column, *places: int | None) -> Sketch | None:
    """Return the sketch of a column; None of one with numbers that only all of it tells.

    >>> from even_sieve.core.table import column_from
    >>> found = sketched(column_from("dues", [120, 80.5, 99, "-", None, "-"]), 0)
    >>> list(found.column.cells()), {kind.name: count for kind, count in found.counts.items()}
    ([0.0, 120.0, '-', None], {'NUMBER': 3, 'TEXT': 2, 'BLANK': 1})
    """
    lanes, counts = {k: _plain(lane) for k, lane in column.lanes.items()}, column.counts
    if column.length and lanes.keys() != counts.keys() - {Kind.BLANK}:
        return None
    shown: dict[Kind, Array] = {}
    for kind in counts:
        if kind is not Kind.BLANK:
            cells = _telling(lanes[kind])
            if cells is None:
                return None
            shown[kind] = cells
    sizes = {kind: len(shown.get(kind, (None,))) for kind in counts}
    states = np.repeat([*map(int, sizes)], [*sizes.values()]).astype(np.uint8)
    small = {
        kind: changed(lanes[kind], _placed(cells, np.flatnonzero(states == kind), len(states)))
        for kind, cells in shown.items()
    }
    cells_of_few = replace(
        column,
        length=len(states),
        lanes=small if counts else lanes,
        states=None if column.states is None else states,
    )
    return Sketch(cells_of_few, dict(counts), places)


def _has_given(lane: Lane | None) -> bool:
    return isinstance(lane, FloatLane) and lane.given is not None


def _plain(lane: Lane) -> Lane:
    """Return a lane of doubles without how they were written, where they show it themselves."""
    if not isinstance(lane, FloatLane) or lane.given is None or lane.lost or lane.longer:
        return lane
    return FloatLane(lane.values)


def _shows_itself(lane: Lane | None) -> bool:
    """Tell whether each number that a lane may hold is what its double shows."""
    return not isinstance(lane, FixedLane) or lane.bound < _MOST_SHOWN_BY_DOUBLES


def _placed(cells: Array, where: Array, length: int) -> Callable[[Array], Array]:
    return lambda _: scattered(cells, where, length)


def _telling(lane: Lane) -> Array | None:
    """Return what a few cells store that tell all of a lane."""
    if isinstance(lane, TextLane):
        return np.arange(len(lane.spellings)).astype(lane.codes.dtype)
    if isinstance(lane, ErrorLane):
        return np.arange(len(lane.errors)).astype(lane.codes.dtype)
    if _has_given(lane):
        return None
    if lane.kind is Kind.YES_NO:
        return np.zeros(1, dtype=bool)
    return np.array(cast(Any, lane).ends, dtype=lane.values.dtype)


def joined_sketch(
    sketches: Sequence[Sketch | None], join: Callable[[Sequence[Column]], Column]
) -> Sketch | None:
    """Return the sketch of columns one below the other, of which `join` makes one.

    None where one of them has none, or what comes has none.
    """
    known = [each for each in sketches if each is not None]
    if len(known) < len(sketches):
        return None
    together = join([each.column for each in known])
    if _has_given(together.lanes.get(Kind.NUMBER)):
        if not all(_shows_itself(each.column.lanes.get(Kind.NUMBER)) for each in known):
            return None
        together = _plain_numbers(together)
    counts: dict[Kind, int] = {}
    for each in known:
        for kind, count in each.counts.items():
            counts[kind] = counts.get(kind, 0) + count
    places = tuple(place for each in known for place in each.places)
    return Sketch(together, counts, places)


def stored_as(sketch: Sketch, column: Column) -> Column:
    """Return a piece of the column that a sketch is of, stored as the whole column stores it.

    >>> from even_sieve.core.table import column_from
    >>> whole = sketched(column_from("zone", ["Outer", "Inner"]), 0)
    >>> stored_as(whole, column_from("zone", ["Outer"])).lanes[Kind.TEXT].codes.tolist()
    [1]
    """
    known, length = sketch.column.length, column.length
    grown = Growing(column.name, known + length)
    grown.add(sketch.column)
    grown.add(column)
    found = grown.column()
    lanes = {
        kind: changed(lane, lambda stored: stored[known:]) for kind, lane in found.lanes.items()
    }
    states = None if found.states is None else found.states[known:]
    made = replace(found, length=length, lanes=lanes, states=states)
    if not _has_given(sketch.column.lanes.get(Kind.NUMBER)):
        made = _plain_numbers(made)
    refuse_unlike(sketch.column, made)
    return made


def _plain_numbers(column: Column) -> Column:
    return replace(column, lanes={kind: _plain(lane) for kind, lane in column.lanes.items()})


def with_facts(sketch: Sketch, column: Column) -> Column:
    """Return a piece of a column, or its sketch, that tells of itself what is true of the whole.

    What is gathered of several pieces goes together only if they agree in that.
    """
    lanes = {kind: changed(lane, lambda stored: stored) for kind, lane in column.lanes.items()}
    for kind, lane in lanes.items():
        if hasattr(type(lane), "ends"):
            lane.__dict__["ends"] = cast(Any, sketch.column.lanes[kind]).ends
    made = replace(column, length=sum(sketch.counts.values()), lanes=lanes)
    made.__dict__["counts"] = {kind: sketch.counts[kind] for kind in sorted(sketch.counts)}
    return made


def refuse_unlike(known: Column, found: Column) -> None:
    """Raise `RuntimeError` if a column is not stored as the one that is known."""
    alike = known.lanes.keys() == found.lanes.keys()
    alike = alike and (known.states is None) == (found.states is None)
    if not alike or any(
        _storing(lane) != _storing(found.lanes[kind]) for kind, lane in known.lanes.items()
    ):
        raise RuntimeError(f"column '{known.name}': a piece is stored in another way than all")


def _storing(lane: Lane) -> tuple[object, ...]:
    """Return how a lane stores its cells."""
    coded = len(lane.spellings) if isinstance(lane, TextLane) else len(getattr(lane, "errors", ()))
    how = getattr(lane, "scale", None), getattr(lane, "has_time", None)
    return type(lane), lane.values.dtype, coded, getattr(lane, "given", None) is None, *how
