"""Doubles as the shortest decimals that read back as them: what they are printed as.

A double counts as that decimal everywhere, so that a number is the same from a text, a list
or a file of doubles. Up to 15 digits one multiplication tells it; for 16 and 17 the product
with a power of ten is taken with its error (Dekker, "A floating-point technique for extending
the available precision", Numer. Math. 18 (1971)) and compared with half of the double's last
bit. What is too large, too small or too close to tell goes the way of single numbers (`repr`).
"""

from decimal import Decimal
from fractions import Fraction
from functools import cache
from typing import Any, TypeAlias

import numpy as np
from numpy.typing import NDArray

from even_sieve.core.table.arrays import spans, zeros

Array: TypeAlias = NDArray[Any]


_SPLIT = np.float64(2**27 + 1)
_LARGEST_POWER = 22  # the powers of ten up to here are doubles
_POWERS = np.array([float(10**n) for n in range(_LARGEST_POWER + 1)])
_LOWEST = -330
#: The doubles nearest to the powers of ten from 1e-330 on.
_STEPS = np.array([float(f"1e{n}") for n in range(_LOWEST, 309)] + [np.inf])
_DIGITS = 18
_TENS = 10 ** np.arange(_DIGITS + 1, dtype=np.int64)
_BLOCK = 1 << 16
_NEAR = 1e-6
#: With powers of ten up to this one no product is too large or too small.
_FARTHEST = 280
#: Of numbers that have 17 digits with these powers decimals of 15 digits are told before.
_ALL_TOLD = slice(2 - _LARGEST_POWER, 2 + _LARGEST_POWER)


def shortest_decimal(value: float) -> tuple[int, int]:
    """Return a whole number and how many of its digits are decimals.

    >>> shortest_decimal(0.1), shortest_decimal(-1e22), shortest_decimal(1 / 3)
    ((1, 1), (-1, -22), (3333333333333333, 16))
    """
    digits, _, exponent = repr(value).partition("e")
    before, _, after = digits.partition(".")
    after = after.rstrip("0")
    return int(before + after), len(after) - int(exponent or 0)


def decimal_of(stored: int, scale: int) -> Decimal:
    """Return `stored / 10**scale` exactly, whatever the caller's decimal context.

    >>> decimal_of(-125, 2)
    Decimal('-1.25')
    """
    return Decimal((int(stored < 0), tuple(map(int, str(abs(stored)))), -scale))


def written_as(stored: int, scale: int) -> float | Decimal:
    """Return `stored / 10**scale`: the double that shows it, or a decimal where that is longer.

    >>> written_as(125, 1), written_as(1000000000000000001, 1)
    (12.5, Decimal('100000000000000000.1'))
    """
    own = decimal_of(stored, scale)
    return float(own) if own == Decimal(repr(float(own))) else own


def written_longer(
    values: Array, given: tuple[Array, Array], decimals: tuple[Array, Array]
) -> dict[float, float | Decimal]:
    """Return what numbers were written as, by their doubles, where one is longer than its double.

    `given` are the whole numbers, and how many of their digits are decimals, `decimals` the same
    `aligned`. Of several that share a double the first is told: they count as equal.
    """
    shown = aligned(*shortest_decimals(values))
    differ = np.flatnonzero((shown[0] != decimals[0]) | (shown[1] != decimals[1]))
    own, other = ((each[0][differ], each[1][differ]) for each in (decimals, shown))
    for each in (own, other):
        take_zeros_off(*each)
    differ = differ[(own[0] != other[0]) | (own[1] != other[1])]

    def written(row: int) -> float | Decimal:
        return written_as(*(int(each[row]) for each in given))

    longer = [row for row in differ.tolist() if isinstance(written(row), Decimal)]
    rows = np.flatnonzero(np.isin(values, values[longer]))[::-1]
    return dict(zip(values[rows].tolist(), map(written, rows.tolist()), strict=True))


def exact_decimal(value: float) -> Fraction:
    """Return the shortest decimal of a double as a fraction.

    >>> exact_decimal(0.1)
    Fraction(1, 10)
    """
    return Fraction(Decimal(repr(value)))


def shortest_decimals(values: Array) -> tuple[Array, Array]:
    """Return whole numbers (int64) and their decimals (int16) for finite doubles, shape (n,).

    Each double is `whole / 10 ** decimals`; zeros may stand at the end of the whole number.
    """
    whole, places = zeros(len(values), np.int64), zeros(len(values), np.int16)
    for rows in spans(len(values)):
        for start in range(rows.start, rows.stop, _BLOCK):
            own = slice(start, min(start + _BLOCK, rows.stop))
            _fill(values[own], whole[own], places[own])
    return whole, places


def take_zeros_off(whole: Array, places: Array) -> None:
    """Take zeros off the ends of decimals, where they are.

    >>> whole, places = np.array([1500, 0]), np.array([2, 7], dtype=np.int16)
    >>> take_zeros_off(whole, places)
    >>> whole.tolist(), places.tolist()
    ([15, 0], [0, 0])
    """
    places[whole == 0] = 0
    for power in (16, 8, 4, 2, 1):
        needless = (places >= power) & (whole % 10**power == 0)
        whole[needless] //= 10**power
        places[needless] -= power


def aligned(whole: Array, places: Array) -> tuple[Array, Array]:
    """Return the same numbers, as many as can be with one number of decimals.

    What adds up in one unit adds up fast: that of the largest with 18 digits is taken.
    """
    most = [_before_points(whole[rows], places[rows]) for rows in spans(len(whole))]
    common = _DIGITS - max((each for each in most if each is not None), default=_DIGITS)
    found = zeros(len(whole), np.int64), zeros(len(whole), np.int16)
    for rows in spans(len(whole)):
        found[0][rows], found[1][rows] = _at(common, whole[rows], places[rows])
    return found


def _before_points(whole: Array, places: Array) -> int | None:
    """Return the most digits that a number has before its point; None where all are 0."""
    filled = whole != 0
    if not filled.any():
        return None
    digits = _decades(np.abs(whole[filled]).astype(np.float64)) + 1
    return int((digits - places[filled]).max())


def _at(common: int, whole: Array, places: Array) -> tuple[Array, Array]:
    """Return numbers with so many decimals, where that can be."""
    up = common - places.astype(np.int64)
    whole, places = whole.copy(), places.copy()
    more = (up >= 0) & (up <= _DIGITS)
    whole *= _TENS[np.where(more, up, 0)]
    less = np.flatnonzero((up < 0) & (up >= -_DIGITS))
    power = _TENS[-up[less]]
    even = whole[less] % power == 0
    whole[less[even]] //= power[even]
    more[less[even]] = True
    places[more | (whole == 0)] = common
    return whole, places


def _fill(values: Array, whole: Array, places: Array) -> None:
    size = np.abs(values)
    decade = _decades(size)
    scale = 14 - decade
    low, high = int(scale.min()), int(scale.max())
    if low >= 0 and high <= _LARGEST_POWER:
        power = _POWERS[scale]
        digits = np.rint(values * power)
        found = digits / power == values
    else:
        digits, found = _of_any_size(values, scale)
    whole[:] = digits
    places[:] = scale
    left = np.flatnonzero(~found)
    if len(left):
        _fill_long(values[left], decade[left], left, whole, places)


def _of_any_size(values: Array, scale: Array) -> tuple[Array, Array]:
    """Return the first 15 digits as a whole number, and whether the double is that decimal."""
    known = np.abs(scale) <= _LARGEST_POWER
    power = _POWERS[np.where(known, np.abs(scale), 0)]
    below = scale >= 0
    digits = np.rint(np.where(below, values * power, values / power))
    found = known & (np.where(below, digits / power, digits * power) == values)
    return np.where(found, digits, 0.0), found


def _decades(size: Array) -> Array:
    """Return the power of ten of the first digit, int64; 0 for zero."""
    with np.errstate(divide="ignore"):
        rough = np.floor(np.log10(size))
    rough[size == 0] = 0
    decade = rough.astype(np.intp)
    steps = decade - _LOWEST
    decade += size >= _STEPS[steps + 1]
    decade -= (size < _STEPS[steps]) & (size > 0)
    return decade


def _fill_long(values: Array, decade: Array, at: Array, whole: Array, places: Array) -> None:
    """Fill in the numbers of 16 and 17 digits, and those of fewer that are large or small."""
    fits = np.abs(decade) <= _FARTHEST
    # Just above a power of two the doubles below stand closer: left to the way of single ones.
    fits &= np.frexp(values)[0] != np.copysign(0.5, values)
    known = np.arange(len(values)) if fits.all() else np.flatnonzero(fits)
    scale = 16 - decade[known]
    number, off, half = _scaled(values[known], scale)
    # The nearest number of 16 digits, as a whole one of 17, and how far from the double it is.
    last = number % 10
    up = (last > 5) | ((last == 5) & (off > 0))
    shorter = number - last + 10 * up
    away = np.abs((number - shorter) + off)
    short = away < half
    found = np.where(short, shorter, number)
    close = np.abs(away - half) <= _NEAR * half
    close |= ~short & (np.abs(np.abs(off) - 0.5) <= _NEAR)
    close |= short & (last == 5) & (np.abs(off) <= _NEAR)
    if len(scale) and (scale.min() < _ALL_TOLD.start or scale.max() > _ALL_TOLD.stop):
        # That of 15 digits was not looked for: there is no other one so near.
        least = np.sign(number) * ((np.abs(number) + 50) // 100 * 100)
        apart = np.abs((number - least) + off)
        found = np.where(apart < half, least, found)
        close = np.where(apart < half, False, close) | (np.abs(apart - half) <= _NEAR * half)
    whole[at[known]], places[at[known]] = found, scale
    for place in np.concatenate((np.flatnonzero(~fits), known[close])).tolist():
        whole[at[place]], places[at[place]] = shortest_decimal(float(values[place]))


@cache
def _tens() -> Array:
    """Return powers of ten, from the least that is needed on: doubles, and what they lack."""
    powers = (Fraction(10) ** power for power in range(-_FARTHEST, _FARTHEST + 17))
    return np.array([(float(each), float(each - Fraction(float(each)))) for each in powers]).T


def _scaled(values: Array, scale: Array) -> tuple[Array, Array, Array]:
    """Return the nearest whole number to `values * 10**scale`, what is left, and half a bit."""
    exact = not len(scale) or (scale.min() >= 0 and scale.max() <= _LARGEST_POWER)
    power, lacking = (_POWERS[scale], 0.0) if exact else _tens()[:, scale + _FARTHEST]
    product = values * power
    high, low = _halves(values)
    up, down = _halves(power)
    error = ((high * up - product) + high * down + low * up) + low * down + values * lacking
    near = np.rint(product)
    left = (product - near) + error
    beside = np.rint(left)
    half = np.spacing(np.abs(values)) * (power / 2)
    return near.astype(np.int64) + beside.astype(np.int64), left - beside, half


def _halves(values: Array) -> tuple[Array, Array]:
    """Return the leading and the trailing half of each double's bits (Veltkamp)."""
    scaled = values * _SPLIT
    high = scaled - (scaled - values)
    return high, values - high
