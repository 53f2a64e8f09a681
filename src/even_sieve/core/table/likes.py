"""The texts of a column that look like numbers or dates to a person."""

from collections.abc import Iterable

import numpy as np

from even_sieve.core.cells import Kind, all_like_dates, all_like_numbers
from even_sieve.core.cells.likeness import Likeness
from even_sieve.core.table.columns import Column
from even_sieve.core.table.lanes import Array, TextLane

_TESTS = {Likeness.NUMBER: all_like_numbers, Likeness.DATE: all_like_dates}


def rows_like(column: Column, what: Likeness) -> Array | None:
    """Return which rows hold texts that look like something, bool, shape (n,); None if none does.

    >>> from even_sieve.core.table import column_from
    >>> rows_like(column_from("dues", ["12 EUR", 12, "waived"]), Likeness.NUMBER).tolist()
    [True, False, False]
    """
    lane = column.lanes.get(Kind.TEXT)
    if not isinstance(lane, TextLane):
        return None
    waiting = lane.of_rows
    if waiting is not None:
        return waiting.rows_like(_TESTS[what])
    like = _codes_like(column, what)
    if like is None:
        return None
    found: Array = like[lane.codes]
    if column.states is not None:
        found &= column.states == Kind.TEXT
    return found if found.any() else None


def count_like(column: Column, what: Likeness) -> int:
    """Return how many cells are texts that look like something.

    >>> from even_sieve.core.table import column_from
    >>> count_like(column_from("paid", ["5-May-2031", "later"]), Likeness.DATE)
    1
    """
    rows = rows_like(column, what)
    return 0 if rows is None else int(np.count_nonzero(rows))


def texts_like(column: Column, what: Likeness) -> Iterable[str]:
    """Return the different texts that look like something, in order.

    >>> from even_sieve.core.table import column_from
    >>> [*texts_like(column_from("dues", ["12 EUR", "7-", "waived"]), Likeness.NUMBER)]
    ['12 EUR', '7-']
    """
    lane = column.lanes.get(Kind.TEXT)
    if not isinstance(lane, TextLane):
        return ()
    waiting = lane.of_rows
    some = None if waiting is None else waiting.texts_like(_TESTS[what])
    if some is not None:
        return some
    like = _codes_like(column, what)
    spelt = lane.spellings
    return () if like is None else (spelt[place] for place in np.flatnonzero(like).tolist())


def _codes_like(column: Column, what: Likeness) -> Array | None:
    return column.number_like if what is Likeness.NUMBER else column.date_like
