"""What rows are put in order by: keys of a column, without a list of its different values."""

from collections.abc import Callable

import numpy as np

from even_sieve.core.cells import Kind
from even_sieve.core.table.columns import Column
from even_sieve.core.table.lanes import Array, FloatLane, TextLane

#: Gives the keys of some rows, the last one foremost.
Keys = Callable[[Array], tuple[Array, ...]]


def sort_keys(column: Column, *, descending: bool = False) -> Keys:
    """Return what gives the keys by which rows of a column are put in order.

    Numbers come first, then dates, texts (whatever their case), no and yes; errors and blanks come
    last, whichever way.

    >>> from even_sieve.core.table import column_from
    >>> keys = sort_keys(column_from("dues", [12.5, None, -3, 7]), descending=True)
    >>> np.lexsort(keys(np.arange(4))).tolist()
    [0, 3, 2, 1]
    """
    kinds = set(column.counts) - {Kind.BLANK}
    lane = column.lanes[kinds.pop()] if len(kinds) == 1 else None
    if lane is None or lane.kind is Kind.ERROR or (isinstance(lane, FloatLane) and lane.longer):
        return _ranks(column, descending)
    values, groups = lane.values, lane.groups if isinstance(lane, TextLane) else None

    def keys(rows: Array) -> tuple[Array, ...]:
        own: Array = values[rows]
        own = own + 0.0 if own.dtype.kind == "f" else own.astype(np.int64)
        if groups is not None:
            own = groups[own]
        if descending:
            own = -own if own.dtype.kind == "f" else np.invert(own)
        if column.states is None:
            return (own,)
        blank = column.states[rows] == Kind.BLANK
        return np.where(blank, 0, own), blank

    return keys


def _ranks(column: Column, descending: bool) -> Keys:
    """Return what gives the ranks of rows among the different values of a column."""
    identity = column.identity
    rank = np.arange(max(len(identity.keys), 1))
    if descending:
        rank[: identity.values] = rank[: identity.values][::-1].copy()
    return lambda rows: (rank[identity.codes[rows]],)
