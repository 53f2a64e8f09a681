"""Exact figures rounded once to the nearest double, halves to even."""

from fractions import Fraction
from math import isqrt

_BITS = 64

TOO_LARGE = "the figure is beyond the largest double, about 1.8e308"


def to_double(exact: Fraction) -> float | None:
    """Return the nearest double, or None beyond the largest one."""
    return as_double(exact.numerator, exact.denominator)


def as_double(top: int, bottom: int) -> float | None:
    """Return the double nearest to a fraction, or None beyond the largest one.

    Python divides whole numbers with one correct rounding.
    """
    try:
        return top / bottom if top else 0.0  # no -0.0 over a negative number
    except OverflowError:
        return None


def root_to_double(exact: Fraction) -> float | None:
    """Return the double nearest to the square root of a figure that is not negative.

    The root is taken in whole numbers with bits to spare, the last one odd if there is a
    rest, so that a single rounding to a double follows.

    >>> root_to_double(Fraction(2)), root_to_double(Fraction(1, 4))
    (1.4142135623730951, 0.5)
    """
    top, bottom = exact.numerator, exact.denominator
    shift = max(0, _BITS - (top.bit_length() - bottom.bit_length()) // 2)
    scaled, rest = divmod(top << 2 * shift, bottom)
    root = isqrt(scaled)
    sticky = rest > 0 or root * root != scaled
    return to_double(Fraction(2 * root + sticky, 2 << shift))
