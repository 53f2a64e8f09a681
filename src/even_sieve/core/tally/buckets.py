"""Where each row of a tally's table went: the account, row by row."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from even_sieve.core.criteria import Block, all_of
from even_sieve.core.errors import CallError, closest, listed
from even_sieve.core.measures import Bucket, MeasureRequest
from even_sieve.core.recheck import Question
from even_sieve.core.table import Mark
from even_sieve.core.table.lanes import Array
from even_sieve.core.table.marks import MARKS
from even_sieve.core.tally.account import BUCKETS
from even_sieve.core.tally.axes import Group
from even_sieve.core.tally.call import Call
from even_sieve.core.tally.selection import skipped_marks

_NAMES = tuple(BUCKETS)
_CELL_BUCKETS = {
    Bucket.BLANK: "blank",
    Bucket.ERROR: "error",
    Bucket.NOT_A_NUMBER: "not_a_number",
    Bucket.USED: "used",
}
_MARK_BUCKETS = {Mark.SUBTOTAL: "subtotal", Mark.HIDDEN: "hidden", Mark.FILTERED: "filtered"}


@dataclass(frozen=True, eq=False)
class Origin:
    """What a tally was worked out from: the call, the measure, and its line of a breakdown."""

    call: Call
    request: MeasureRequest
    places: tuple[Group, ...] = ()

    def question(self) -> Question:
        """Return what the recheck is to work out."""
        return Question(
            self.call.table,
            self.call.job(self.request).measure.request,
            self.call.shared_for(self.request),
            self.call.own(self.request).criteria,
            all_of(place.criteria for place in self.places),
            tuple(place.error for place in self.places if place.error is not None),
        )


def row_buckets(origin: Origin) -> Array:
    """Return the bucket of every row as its position among `BUCKETS`, uint8, shape (rows,)."""
    call, job = origin.call, origin.call.job(origin.request)
    buckets = _cell_buckets(origin)
    block = Block(0, call.table.length)
    matched = block.own_mask(job.selection.probe)
    for place in origin.places:
        matched &= block.mask(call.binder.probe(place.criteria))
        if place.error is not None:
            name, error = place.error
            identity = call.table.column(name).identity
            matched &= identity.codes == identity.keys.index(error)
    buckets[~matched] = _NAMES.index("unmatched")
    marks, skipped = call.table.marks, skipped_marks(job.measure.request.keep)
    for mark in reversed(MARKS):
        if marks is not None and mark & skipped:
            buckets[(marks & np.uint8(mark)) != 0] = _NAMES.index(_MARK_BUCKETS[mark])
    return buckets


def _cell_buckets(origin: Origin) -> Array:
    """Return the bucket of every row as if it matched, uint8, shape (rows,)."""
    used_cells, length = origin.call.job(origin.request).measure.cells, origin.call.table.length
    used = _NAMES.index("used")
    if used_cells is None:
        return np.full(length, used, dtype=np.uint8)
    places = np.array([_NAMES.index(_CELL_BUCKETS[i]) for i in range(Bucket.COUNT)], np.uint8)
    if used_cells.states is None:
        only = places[used_cells.bucket_of[used_cells.column.only_kind]]
        return np.full(length, only, dtype=np.uint8)
    found: Array = places[used_cells.bucket_of[used_cells.states]]
    return found


def rows_in(origin: Origin, bucket: str) -> tuple[int, ...]:
    """Return the source's numbers of the rows in a bucket. Raises `CallError` for no bucket."""
    name = bucket.strip().lower().replace(" ", "_")
    if name not in BUCKETS:
        near: Sequence[str] = closest(name, BUCKETS)
        hint = f"Did you mean {listed(near)}?" if near else f"The buckets are: {', '.join(BUCKETS)}"
        raise CallError(f"no bucket '{bucket}'\n{hint}")
    hits = np.flatnonzero(row_buckets(origin) == _NAMES.index(name))
    return tuple(map(origin.call.table.number, hits.tolist()))
