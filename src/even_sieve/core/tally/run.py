"""One pass over a table for any number of measures.

The distinct selections, the distinct cells they look at and the distinct states they
gather are found first; then blocks of rows are gone through, on all threads, and the
threads' states are merged.
"""

from collections.abc import Sequence, Set
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field

import numpy as np

from even_sieve.core.criteria import Block, Probe, blocks
from even_sieve.core.measures import (
    BlockCells,
    Bucket,
    Counts,
    Gathered,
    Keep,
    Measure,
    State,
    Wanted,
)
from even_sieve.core.table import Mark, Table
from even_sieve.core.table.lanes import Array

BLOCK = 1 << 18
EVERY_MARK = Mark.SUBTOTAL | Mark.HIDDEN | Mark.FILTERED
_KEPT_MARKS = {
    Keep.SUBTOTALS: Mark.SUBTOTAL,
    Keep.HIDDEN: Mark.HIDDEN,
    Keep.FILTERED: Mark.FILTERED,
}


def skipped_marks(keep: frozenset[Keep]) -> Mark:
    """Return the marks whose rows are left out: all but those kept."""
    skipped = EVERY_MARK
    for word in keep:
        skipped &= ~_KEPT_MARKS.get(word, Mark(0))
    return skipped


@dataclass(frozen=True, eq=False)
class Selection:
    """Rows: those that the probe holds for and that carry none of the skipped marks."""

    probe: Probe
    skipped: Mark


@dataclass(frozen=True, eq=False)
class Ask:
    """One measure over one selection."""

    measure: Measure
    selection: Selection


_View = tuple[int, Wanted | None]


@dataclass
class _Gatherer:
    """What one thread gathers for every ask, one entry a group."""

    table: Table
    asks: Sequence[Ask]
    group_count: int
    groups: Array | None
    counts: dict[_View, Counts] = field(default_factory=dict)
    states: dict[tuple[_View, str], State] = field(default_factory=dict)

    def __post_init__(self) -> None:
        self.selections = {id(ask.selection): ask.selection for ask in self.asks}
        self.views: dict[_View, list[str]] = {}
        for ask in self.asks:
            view = _view(ask)
            self.views.setdefault(view, [])
            self.counts.setdefault(view, Counts(self.group_count))
            needed = ask.measure.state()
            if needed is not None and (view, needed[0]) not in self.states:
                self.states[view, needed[0]] = needed[1](self.group_count)
                self.views[view].append(needed[0])

    def add(self, block: Block, masks: dict[int, Array]) -> None:
        """Take in a block, given the mask of every selection on it."""
        groups = None if self.groups is None else self.groups[block.start : block.stop]
        for (selection, wanted), states in self.views.items():
            mask = masks[selection]
            if wanted is None:
                self._count_rows(selection, mask, groups)
                continue
            cells = BlockCells(wanted, block.start, block.stop, mask, self.group_count, groups)
            self.counts[selection, wanted].add(cells)
            for name in states:
                self.states[(selection, wanted), name].add(cells)

    def _count_rows(self, selection: int, mask: Array, groups: Array | None) -> None:
        counts = self.counts[selection, None].buckets
        if groups is None:
            counts[0, Bucket.USED] += np.count_nonzero(mask)
        else:
            counts[:, Bucket.USED] += np.bincount(groups[mask], minlength=self.group_count)

    def merge(self, other: "_Gatherer") -> None:
        """Take in what another thread gathered."""
        for view, counts in self.counts.items():
            counts.merge(other.counts[view])
        for key, state in self.states.items():
            state.merge(other.states[key])

    def gathered(self, ask: Ask) -> Gathered:
        """Return what was gathered for one ask."""
        view = _view(ask)
        needed = ask.measure.state()
        return Gathered(self.counts[view], None if needed is None else self.states[view, needed[0]])


def _view(ask: Ask) -> _View:
    return id(ask.selection), ask.measure.wanted()


@dataclass(frozen=True)
class Pass:
    """What a pass brought: for each ask, gathered over all rows and, if asked, by group."""

    whole: tuple[Gathered, ...]
    grouped: tuple[Gathered, ...] | None


def run_pass(
    table: Table,
    asks: Sequence[Ask],
    groups: Array | None,
    group_count: int,
    threads: int,
    shared: Set[int],
) -> Pass:
    """Go through the table once, in blocks, on so many threads.

    `shared` are the ids of the probes whose masks are worth keeping on a block.
    """

    def run(piece: tuple[int, int]) -> tuple[_Gatherer, _Gatherer | None]:
        whole = _Gatherer(table, asks, 1, None)
        grouped = None if groups is None else _Gatherer(table, asks, group_count, groups)
        for block in blocks(*piece, BLOCK, shared):
            _gather(table, block, whole, grouped)
        return whole, grouped

    pieces = _pieces(table.length, threads)
    if len(pieces) == 1:
        work = [run(pieces[0])]
    else:
        with ThreadPoolExecutor(len(pieces)) as pool:
            work = list(pool.map(run, pieces))
    whole, grouped = work[0]
    for other_whole, other_grouped in work[1:]:
        whole.merge(other_whole)
        if grouped is not None and other_grouped is not None:
            grouped.merge(other_grouped)
    return Pass(
        tuple(map(whole.gathered, asks)),
        None if grouped is None else tuple(map(grouped.gathered, asks)),
    )


def _pieces(length: int, threads: int) -> list[tuple[int, int]]:
    """Return the rows of each thread, whole blocks; at least one piece, maybe of no rows."""
    blocks = -(-length // BLOCK)
    share = max(-(-blocks // max(threads, 1)), 1) * BLOCK
    starts = range(0, max(length, 1), share)
    return [(start, min(start + share, length)) for start in starts]


def _gather(table: Table, block: Block, whole: _Gatherer, grouped: _Gatherer | None) -> None:
    """Work out every selection's mask on a block, and take the block in."""
    masks = {key: select(table, each, block) for key, each in whole.selections.items()}
    whole.add(block, masks)
    if grouped is not None:
        grouped.add(block, masks)
    for mask in masks.values():
        block.give_back(mask)


def select(table: Table, selection: Selection, block: Block) -> Array:
    """Return which rows of the block are selected, bool, shape (rows,), to be given back."""
    mask = block.own_mask(selection.probe)
    if table.marks is not None and selection.skipped:
        kept = unmarked(table.marks, selection.skipped, block)
        np.logical_and(mask, kept, out=mask)
        block.give_back(kept)
    return mask


def unmarked(every: Array, skipped: Mark, block: Block) -> Array:
    """Return which rows of the block carry none of the marks, to be given back."""
    marks = every[block.start : block.stop]
    kept = block.spare()
    if skipped == EVERY_MARK:
        return np.equal(marks, np.uint8(0), out=kept)
    bits = np.bitwise_and(marks, np.uint8(skipped), out=block.spare(marks.dtype))
    np.equal(bits, np.uint8(0), out=kept)
    block.give_back(bits)
    return kept
