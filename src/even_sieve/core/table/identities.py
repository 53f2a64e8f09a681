"""Each cell of a column as the number of its value, wherever the rows stand."""

from collections.abc import Callable, Sequence
from itertools import accumulate
from typing import TYPE_CHECKING

import numpy as np

from even_sieve.core.cells import Cell, Kind
from even_sieve.core.lazy import many_of
from even_sieve.core.table.arrays import pick, zeros
from even_sieve.core.table.distinct import Values, by_kind, numbered
from even_sieve.core.table.far_arrays import worked_out
from even_sieve.core.table.keys import ChainedKeys, Identity, StoredCells
from even_sieve.core.table.lanes import Array, TextLane, narrowest

if TYPE_CHECKING:
    from even_sieve.core.table.columns import Column

#: What gives the different values of a kind of a column, and each row's code.
_Different = Callable[["Column", Kind], tuple[Sequence[Cell], Array]]


def identity_of(column: "Column", different: _Different) -> Identity:
    """Return each cell as the number of its value, of those that are different."""
    parts = [(kind, *different(column, kind)) for kind in Kind if kind in column.counts]
    if not parts:  # there are no rows
        return Identity(zeros(0, np.uint8), (), 0)
    sizes = [len(keys) for _, keys, _ in parts]
    orderly = sum(len(keys) for kind, keys, _ in parts if kind < Kind.ERROR)
    if len(parts) == 1:
        return Identity(parts[0][2], parts[0][1], orderly)
    starts = [0, *accumulate(sizes)]
    together = by_kind(
        column.states, narrowest(starts[-1]),
        [(kind, codes, start) for start, (kind, _, codes) in zip(starts, parts, strict=False)],
    )  # fmt: skip
    return Identity(together, ChainedKeys([keys for _, keys, _ in parts]), orderly)


def spelt_of(column: "Column", kind: Kind) -> tuple[Sequence[Cell], Array]:
    """Return what `distinct_of` does, texts of another spelling apart."""
    lane = column.lanes.get(kind)
    if isinstance(lane, TextLane):
        return lane.spellings, lane.codes
    return distinct_of(column, kind)


def distinct_of(column: "Column", kind: Kind) -> tuple[Sequence[Cell], Array]:
    """Return the distinct values of one kind in order, and each row's code (rubbish elsewhere)."""
    if kind is Kind.BLANK:
        if column.states is None:
            return [None], zeros(column.length, np.uint8)
        return [None], worked_out(_no_codes, np.uint8, column.states)
    lane = column.lanes[kind]
    if isinstance(lane, TextLane):
        starts = lane.group_starts
        if len(starts) == len(lane.spellings):
            return lane.spellings, lane.codes
        groups = lane.groups.astype(narrowest(len(starts)))
        return many_of(lane.spellings, starts), pick(groups, lane.codes)
    values, states = lane.values, column.states
    stored, codes = numbered(Values((values,), states=states, kind=kind))
    return StoredCells(stored, lane), codes


def _no_codes(states: Array) -> Array:
    return zeros(len(states), np.uint8)
