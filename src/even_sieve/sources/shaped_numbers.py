"""Numbers told by their shapes: how many digits each has, where its point stands, its sign."""

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from even_sieve.core.table.lanes import Array, FixedLane
from even_sieve.sources.arrow_buffers import stored
from even_sieve.sources.shaped import Shaped

#: So many digits go into whole numbers of 64 bits, whichever they are.
MOST_DIGITS = 18
NO_DIGITS = bytes(each for each in range(256) if each not in b"0123456789")
_TEN = 10


def fixed_of(tokens: Shaped, mark: str = ".") -> FixedLane | None:
    """Return numbers, each with at most one decimal mark; None where their digits do not fit.

    What else stands among the digits is passed over; one with `-` or `(` is negative.

    >>> from even_sieve.sources.arrow_buffers import strings_of
    >>> fixed_of(Shaped(strings_of(["$1,200.50", "(3)", "-0.25"])))
    FixedLane(values=array([120050,   -300,    -25]), scale=2)
    """
    if not tokens.shapes:
        return None
    parts = [shape.partition(mark) for shape in tokens.shapes]
    whole, after = ([digits_in(part[place]) for part in parts] for place in (0, 2))
    scale = max(after)
    if max(whole) + scale > MOST_DIGITS:
        return None
    signs = [-1 if "-" in shape or "(" in shape else 1 for shape in tokens.shapes]
    units = [sign * _TEN ** (scale - own) for sign, own in zip(signs, after, strict=True)]
    values = stored(pc.cast(tokens.without(NO_DIGITS), pa.int64()), np.int64)
    if any(unit != 1 for unit in units):
        values = values * np.array(units, dtype=np.int64)[tokens.codes]
    return FixedLane(*without_zeros(values, scale))


def digits_in(text: str) -> int:
    """Return how many digits a shape has."""
    return sum(each in "01" for each in text)


def without_zeros(values: Array, scale: int) -> tuple[Array, int]:
    """Return fixed-point numbers with the smallest scale that they need."""
    while scale and not (values % _TEN).any():
        values, scale = values // _TEN, scale - 1
    return values, scale
