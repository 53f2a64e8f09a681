"""Rows counted and found under criteria, outside of measures."""

from collections.abc import Sequence

import numpy as np

from even_sieve.core.criteria import Criteria
from even_sieve.core.notices import Notice
from even_sieve.core.query import Query
from even_sieve.core.table import Mark, Table
from even_sieve.core.table.lanes import Array
from even_sieve.core.tally.looking import look
from even_sieve.core.tally.plan import Plan
from even_sieve.core.tally.selection import Selection


def count_rows(plan: Plan, criteria: Sequence[Criteria], skipped: Mark) -> list[int]:
    """Return for how many rows each of the prepared criteria holds, skipped marks left out."""
    selections = [Selection(plan.binder.probe(each), skipped) for each in criteria]
    counts = look(plan, selections, _counts)
    return [*map(sum, zip(*counts, strict=True))] if counts else [0] * len(selections)


def _counts(masks: Sequence[Array], _first: int) -> list[int]:
    return [int(np.count_nonzero(mask)) for mask in masks]


def find_rows(plan: Plan, criteria: Criteria, skipped: Mark) -> Array:
    """Return the positions (from 0) of the rows, ascending, intp, shape (found,)."""
    selection = Selection(plan.binder.probe(criteria), skipped)
    found = look(plan, [selection], _places)
    return np.concatenate(found) if found else np.empty(0, dtype=np.intp)


def _places(masks: Sequence[Array], first: int) -> Array:
    return np.flatnonzero(masks[0]) + first


def matching_rows(query: Query, table: Table) -> tuple[Array, tuple[Notice, ...]]:
    """Return the positions (from 0) of the rows that match and that no mark leaves out.

    The array is intp, shape (matching,), ascending; the notices are those of the criteria.
    """
    plan = Plan.of(query, table)
    return find_rows(plan, plan.shared.criteria, plan.skipped), plan.shared_notices()
