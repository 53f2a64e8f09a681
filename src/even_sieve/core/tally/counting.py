"""Rows counted and found under criteria, outside of measures."""

from collections.abc import Sequence

import numpy as np

from even_sieve.core.criteria import EVERYTHING, Criteria, blocks
from even_sieve.core.notices import Notice
from even_sieve.core.table import Mark, Table
from even_sieve.core.table.lanes import Array
from even_sieve.core.tally.call import Call, Options
from even_sieve.core.tally.selection import Selection, select, skipped_marks

_BLOCK = 1 << 16


def count_rows(call: Call, criteria: Sequence[Criteria], skipped: Mark) -> list[int]:
    """Return for how many rows each of the prepared criteria holds, skipped marks left out."""
    selections = [Selection(call.binder.probe(each), skipped) for each in criteria]
    counts = [0] * len(selections)
    for block in blocks(0, call.table.length, _BLOCK, call.binder.shared):
        for position, selection in enumerate(selections):
            mask = select(call.table, selection, block)
            counts[position] += int(np.count_nonzero(mask))
            block.give_back(mask)
    return counts


def find_rows(call: Call, criteria: Criteria, skipped: Mark) -> Array:
    """Return the positions (from 0) of the rows, ascending, intp, shape (found,)."""
    selection = Selection(call.binder.probe(criteria), skipped)
    found = []
    for block in blocks(0, call.table.length, _BLOCK, call.binder.shared):
        mask = select(call.table, selection, block)
        found.append(np.flatnonzero(mask) + block.start)
        block.give_back(mask)
    return np.concatenate(found) if found else np.empty(0, dtype=np.intp)


def matching_rows(
    table: Table, where: Criteria = EVERYTHING, options: Options | None = None
) -> tuple[Array, tuple[Notice, ...]]:
    """Return the positions (from 0) of the rows that match and that no mark leaves out.

    The array is intp, shape (matching,), ascending; the notices are those of the criteria.
    """
    options = options or Options()
    call = Call(table, where, options)
    rows = find_rows(call, call.shared.criteria, skipped_marks(options.keep))
    return rows, call.shared_notices()
