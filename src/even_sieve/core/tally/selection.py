"""Selections: the rows that criteria hold for and that carry no mark that leaves them out."""

from dataclasses import dataclass

import numpy as np

from even_sieve.core.criteria import Block, Probe
from even_sieve.core.measures import Keep
from even_sieve.core.table import Mark
from even_sieve.core.table.lanes import Array

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


def select(marks: Array | None, selection: Selection, block: Block) -> Array:
    """Return which rows of the block are selected, bool, shape (rows,), to be given back.

    `marks` are those of all rows that are here.
    """
    mask = block.own_mask(selection.probe)
    if marks is not None and selection.skipped:
        kept = unmarked(marks, selection.skipped, block)
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
