"""Rows counted and found under criteria, outside of measures."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from even_sieve.core.criteria import Criteria
from even_sieve.core.notices import Notice
from even_sieve.core.query import Query
from even_sieve.core.table import Mark, Table
from even_sieve.core.table.arrays import zeros
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
    found = look(plan, [selection], _Found.of)
    rows = zeros(sum(each.count for each in found), np.intp)
    end = 0
    for each in found:
        begin, end = end, end + each.count
        rows[begin:end] = each.rows()
    return rows


@dataclass(frozen=True)
class _Found:
    """The rows of a block that were found, a bit each: those of all blocks are held at once."""

    first: int
    length: int
    count: int
    bits: Array

    @classmethod
    def of(cls, masks: Sequence[Array], first: int) -> "_Found":
        """Return the rows of the one mask of a block that begins at a row."""
        (mask,) = masks
        return cls(first, len(mask), int(np.count_nonzero(mask)), np.packbits(mask))

    def rows(self) -> Array:
        """Return their positions in the table, ascending."""
        return np.flatnonzero(np.unpackbits(self.bits, count=self.length)) + self.first


def matching_rows(query: Query, table: Table) -> tuple[Array, tuple[Notice, ...]]:
    """Return the positions (from 0) of the rows that match and that no mark leaves out.

    The array is intp, shape (matching,), ascending; the notices are those of the criteria.
    """
    plan = Plan.of(query, table)
    return find_rows(plan, plan.shared.criteria, plan.skipped), plan.shared_notices()
