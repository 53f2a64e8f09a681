"""Numbers as a double and what it lacks: some 31 digits, many at once.

The sums and products are those of Dekker (Numer. Math. 18 (1971)) and of Joldes, Muller, Popescu
(ACM Trans. Math. Softw. 44 (2017)). None is wrong by more than 2**-98 of its result.
"""

from fractions import Fraction

import numpy as np

from even_sieve.core.table.lanes import Array

_SPLIT = 2.0**27 + 1
#: Powers of ten are known from the one that is less by so much than 1 to that which is more.
MOST_POWER = 90
_POWERS = range(-MOST_POWER, MOST_POWER + 1)


def parted(value: Fraction) -> tuple[float, float]:
    """Return a fraction as a double and what it lacks.

    >>> parted(Fraction(1, 10))
    (0.1, -5.551115123125783e-18)
    """
    high = float(value)
    return high, float(value - Fraction(high))


_TENS = np.array([parted(Fraction(10) ** power) for power in _POWERS]).T


def ten_to(power: Array) -> Array:
    """Return powers of ten as doubles alone."""
    ten: Array = _TENS[0][power - _POWERS.start]
    return ten


def _two_sum(one: Array, other: Array) -> tuple[Array, Array]:
    whole = one + other
    part = whole - one
    return whole, (one - (whole - part)) + (other - part)


def _two_product(one: Array, other: Array) -> tuple[Array, Array]:
    product = one * other
    (a, b), (c, d) = _halves(one), _halves(other)
    return product, ((a * c - product) + a * d + b * c) + b * d


def _halves(number: Array) -> tuple[Array, Array]:
    large = _SPLIT * number
    high = large - (large - number)
    return high, number - high


def plus(ah: Array, al: Array, bh: Array, bl: Array) -> tuple[Array, Array]:
    """Return sums.

    >>> plus(np.array([0.1]), np.array([0.0]), np.array([1e-20]), np.array([0.0]))
    (array([0.1]), array([1.e-20]))
    """
    high, low = _two_sum(ah, bh)
    more, less = _two_sum(al, bl)
    high, low = _two_sum(high, low + more)
    return _two_sum(high, low + less)


def times(ah: Array, al: Array, bh: Array, bl: Array) -> tuple[Array, Array]:
    """Return products."""
    high, low = _two_product(ah, bh)
    return _two_sum(high, low + (ah * bl + al * bh))


def divided(ah: Array, al: Array, bh: Array, bl: Array) -> tuple[Array, Array]:
    """Return quotients; none of what is divided by is 0."""
    first = ah / bh
    high, low = plus(ah, al, *(-each for each in times(bh, bl, first, np.zeros_like(first))))
    second = high / bh
    high, low = plus(high, low, *(-each for each in times(bh, bl, second, np.zeros_like(first))))
    whole, part = _two_sum(first, second)
    return plus(whole, part, high / bh, np.zeros_like(first))


def scaled(high: Array, low: Array, power: Array) -> tuple[Array, Array]:
    """Return numbers times powers of ten."""
    tens = _TENS[:, power - _POWERS.start]
    return times(high, low, tens[0], tens[1])
