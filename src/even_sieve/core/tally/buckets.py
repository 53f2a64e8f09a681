"""Where each row of a figure's table went: the account, row by row."""

from collections.abc import Sequence

import numpy as np

from even_sieve.core.axes import Group
from even_sieve.core.cells import CellError
from even_sieve.core.criteria import Block
from even_sieve.core.errors import CallError, closest, listed
from even_sieve.core.measures import Bucket, MeasureRequest
from even_sieve.core.table import Mark
from even_sieve.core.table.lanes import Array
from even_sieve.core.table.marks import MARKS
from even_sieve.core.tally.account import BUCKETS
from even_sieve.core.tally.plan import Plan
from even_sieve.core.tally.selection import skipped_marks

NAMES = tuple(BUCKETS)
#: So many bytes of buckets are kept.
_MOST_KEPT = 1 << 26
_CELL_BUCKETS = {
    Bucket.BLANK: "blank",
    Bucket.ERROR: "error",
    Bucket.NOT_A_NUMBER: "not_a_number",
    Bucket.USED: "used",
}
_MARK_BUCKETS = {Mark.SUBTOTAL: "subtotal", Mark.HIDDEN: "hidden", Mark.FILTERED: "filtered"}


class RowBuckets:
    """The buckets of the rows of a plan's table; those of a measure are worked out once."""

    def __init__(self, plan: Plan) -> None:
        self.plan = plan
        self._of: dict[MeasureRequest, Array] = {}

    def everywhere(self, request: MeasureRequest) -> Array:
        """Return the bucket of every row as if it stood in the figure's line.

        They are positions among `BUCKETS`, uint8, shape (rows,).
        """
        if request not in self._of:
            if len(self._of) * self.plan.table.length > _MOST_KEPT:
                self._of.clear()
            job = self.plan.job(request)
            buckets = self._by_cell(request)
            matched = Block(0, self.plan.table.length).own_mask(job.selection.probe)
            buckets[~matched] = NAMES.index("unmatched")
            marks, skipped = self.plan.table.marks, skipped_marks(job.measure.request.keep)
            for mark in reversed(MARKS):
                if marks is not None and mark & skipped:
                    buckets[(marks & np.uint8(mark)) != 0] = NAMES.index(_MARK_BUCKETS[mark])
            self._of[request] = buckets
        return self._of[request]

    def in_place(self, place: Sequence[Group]) -> Array:
        """Return which rows stand in a line of a breakdown, bool, shape (rows,)."""
        table, binder = self.plan.table, self.plan.binder
        block = Block(0, table.length)
        found = np.ones(table.length, dtype=bool)
        for group in place:
            found &= block.mask(binder.probe(group.criteria))
            if group.error is not None:
                name, token = group.error
                identity = table.column(name).identity
                ours = np.zeros(len(identity.keys), dtype=bool)
                for place_of, key in enumerate(identity.keys[identity.values :], identity.values):
                    ours[place_of] = isinstance(key, CellError) and key.token == token
                found &= ours[identity.codes]
        return found

    def of(self, request: MeasureRequest, place: Sequence[Group]) -> Array:
        """Return the bucket of every row: outside of the line, what is left in is unmatched."""
        found = self.everywhere(request)
        if not place:
            return found
        unmatched = np.uint8(NAMES.index("unmatched"))
        return np.where(self.in_place(place) | (found < unmatched), found, unmatched)

    def rows_in(self, request: MeasureRequest, place: Sequence[Group], bucket: str) -> list[int]:
        """Return the source's numbers of the rows in a bucket. Raises `CallError` for no bucket."""
        name = bucket.strip().lower().replace(" ", "_")
        if name not in BUCKETS:
            near = closest(name, BUCKETS)
            known = f"The buckets are: {', '.join(BUCKETS)}"
            hint = f"Did you mean {listed(near)}?" if near else known
            raise CallError(f"no bucket '{bucket}'\n{hint}")
        hits = np.flatnonzero(self.of(request, place) == NAMES.index(name))
        return list(map(self.plan.table.number, hits.tolist()))

    def _by_cell(self, request: MeasureRequest) -> Array:
        """Return the bucket of every row as if it matched, uint8, shape (rows,)."""
        used_cells, length = self.plan.job(request).measure.cells, self.plan.table.length
        if used_cells is None:
            return np.full(length, NAMES.index("used"), dtype=np.uint8)
        places = np.array([NAMES.index(_CELL_BUCKETS[i]) for i in range(Bucket.COUNT)], np.uint8)
        states = used_cells.states(0, length)
        if states is None:
            only = places[used_cells.bucket_of[used_cells.column.only_kind]]
            return np.full(length, only, dtype=np.uint8)
        found: Array = places[used_cells.bucket_of[states]]
        return found
