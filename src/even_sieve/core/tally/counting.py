"""Rows counted and found under criteria, outside of measures."""

from collections.abc import Sequence

import numpy as np

from even_sieve.core.criteria import Criteria, blocks
from even_sieve.core.notices import Notice
from even_sieve.core.query import Query
from even_sieve.core.table import Mark, Table
from even_sieve.core.table.lanes import Array
from even_sieve.core.tally.plan import Plan
from even_sieve.core.tally.selection import Selection, select

_BLOCK = 1 << 16


def count_rows(plan: Plan, criteria: Sequence[Criteria], skipped: Mark) -> list[int]:
    """Return for how many rows each of the prepared criteria holds, skipped marks left out."""
    selections = [Selection(plan.binder.probe(each), skipped) for each in criteria]
    counts = [0] * len(selections)
    for block in blocks(0, plan.table.length, _BLOCK, plan.binder.shared):
        for position, selection in enumerate(selections):
            mask = select(plan.table, selection, block)
            counts[position] += int(np.count_nonzero(mask))
            block.give_back(mask)
    return counts


def find_rows(plan: Plan, criteria: Criteria, skipped: Mark) -> Array:
    """Return the positions (from 0) of the rows, ascending, intp, shape (found,)."""
    selection = Selection(plan.binder.probe(criteria), skipped)
    found = []
    for block in blocks(0, plan.table.length, _BLOCK, plan.binder.shared):
        mask = select(plan.table, selection, block)
        found.append(np.flatnonzero(mask) + block.start)
        block.give_back(mask)
    return np.concatenate(found) if found else np.empty(0, dtype=np.intp)


def matching_rows(query: Query, table: Table) -> tuple[Array, tuple[Notice, ...]]:
    """Return the positions (from 0) of the rows that match and that no mark leaves out.

    The array is intp, shape (matching,), ascending; the notices are those of the criteria.
    """
    plan = Plan.of(query, table)
    return find_rows(plan, plan.shared.criteria, plan.skipped), plan.shared_notices()
