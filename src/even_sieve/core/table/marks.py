"""Marks: facts about whole rows that are not data."""

from enum import IntFlag

import numpy as np

from even_sieve.core.table.lanes import Array


class Mark(IntFlag):
    """The marks that a row can carry, as bits. The first that applies names its bucket."""

    SUBTOTAL = 1
    HIDDEN = 2
    FILTERED = 4


#: Every mark in the order in which a row's bucket is chosen.
MARKS = (Mark.SUBTOTAL, Mark.HIDDEN, Mark.FILTERED)


def count_bits(marks: Array | None) -> dict[int, int]:
    """Return how many rows carry each combination of marks, for those that carry any."""
    if marks is None:
        return {}
    found = {bits: int(np.count_nonzero(marks == bits)) for bits in range(1, 8)}
    return {bits: count for bits, count in found.items() if count}


def count_skipped(bits_counts: dict[int, int], skipped: Mark) -> dict[Mark, int]:
    """Return how many rows each skipped mark puts out; a row counts for its first mark alone."""
    counts = dict.fromkeys(MARKS, 0)
    for bits, count in bits_counts.items():
        first = next((mark for mark in MARKS if bits & mark & skipped), None)
        if first is not None:
            counts[first] += count
    return counts
