"""Lanes of codes, made from the distinct texts or errors in the order first met."""

from collections.abc import Sequence

import numpy as np

from even_sieve.core.cells import CellError, fold
from even_sieve.core.table.arrays import pick
from even_sieve.core.table.lanes import Array, ErrorLane, TextLane, narrowest


def text_lane(spellings: Sequence[str], codes: Array) -> TextLane:
    """Return a text lane from distinct spellings in the order first met, and codes into them."""
    folded = [fold(spelling) for spelling in spellings]
    order = sorted(range(len(folded)), key=folded.__getitem__)  # stable: first met first
    return TextLane(
        pick(ranks(order), codes),
        tuple(spellings[i] for i in order),
        tuple(folded[i] for i in order),
    )


def ranks(order: Sequence[int] | Array) -> Array:
    """Return each position's place in an order that lists positions, as narrow codes."""
    rank = np.empty(max(len(order), 1), dtype=narrowest(len(order)))
    rank[np.asarray(order, dtype=np.intp)] = np.arange(len(order))
    return rank


def error_lane(errors: Sequence[CellError], codes: Array) -> ErrorLane:
    """Return an error lane from distinct errors and codes into them."""
    order = sorted(range(len(errors)), key=lambda i: (errors[i].token, errors[i].reason))
    return ErrorLane(pick(ranks(order), codes), tuple(errors[i] for i in order))
