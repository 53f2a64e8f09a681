"""Exact sums of products: of squares, and of values with weights.

Integers are multiplied in halves of 32 bits where 64 would not hold the product. Doubles
are multiplied without loss into a product and its error (Dekker, "A floating-point
technique for extending the available precision", Numer. Math. 18 (1971)), after bringing
them near 1, so that neither part overflows or loses bits.
"""

from collections.abc import Iterator
from fractions import Fraction
from itertools import product

import numpy as np

from even_sieve.core.measures.exact import CHUNK, SMALLEST, ExactSums, add_floats, add_integers
from even_sieve.core.table.lanes import Array, FixedLane, FloatLane, Rows

_SPLIT = np.float64(2**27 + 1)
_MOST = 2**63
_LOW = np.int64(2**32 - 1)
_HALF = 31
#: Doubles from `low` up to `high` are multiplied after a shift by so many bits.
_RANGES = ((0.0, 2.0**-400, 600), (2.0**-400, 2.0**400, 0), (2.0**400, np.inf, -600))

Numbers = FixedLane | FloatLane
_Shifted = tuple[Array, int]


def start_products(first: Numbers, second: Numbers, groups: int) -> ExactSums:
    """Return the identity of merging for sums of products of two lanes' values."""
    scale = sum(lane.scale for lane in (first, second) if isinstance(lane, FixedLane))
    doubles = sum(isinstance(lane, FloatLane) for lane in (first, second))
    return ExactSums(groups, Fraction(1, 10**scale * 2 ** (SMALLEST * doubles)))


def add_products(
    sums: ExactSums,
    lanes: tuple[Numbers, Numbers],
    values: tuple[Array, Array],
    groups: Array | None,
) -> None:
    """Add the products of stored values (shape (n,) each, n at most 2 ** 20) to their groups."""
    if not len(values[0]):
        return
    if isinstance(lanes[0], FixedLane) and isinstance(lanes[1], FixedLane):
        _add_whole(sums, values, (lanes[0].bound, lanes[1].bound), groups)
        return
    doubles = int(isinstance(lanes[0], FloatLane)) + int(isinstance(lanes[1], FloatLane))
    square = values[0] is values[1]
    for start in range(0, len(values[0]), CHUNK):
        part = slice(start, start + CHUNK)
        some = None if groups is None else groups[part]
        first = _as_doubles(lanes[0], values[0][part])
        second = first if square else _as_doubles(lanes[1], values[1][part])
        for a, b in product(first, second):
            _add_doubles(sums, a, b, some, SMALLEST * (doubles - 1))


def _add_whole(
    sums: ExactSums, values: tuple[Array, Array], bounds: tuple[int, int], groups: Array | None
) -> None:
    first, second = values
    bound = bounds[0] * bounds[1]
    if bound < _MOST:
        add_integers(sums, first * second, bound, groups)
        return
    for (a, up), (b, more) in product(_in_halves(first), _in_halves(second)):
        part = ExactSums(sums.groups, sums.unit)
        add_integers(part, a * b, 1 << 2 * _HALF, groups)
        sums.totals = [
            total + (own << up + more) for total, own in zip(sums.totals, part.totals, strict=True)
        ]


def _in_halves(values: Array) -> tuple[tuple[Array, int], ...]:
    """Return parts of at most 2 ** 31 with the bits by which each is shifted."""
    low = values & ((1 << _HALF) - 1)
    rest = values >> _HALF
    middle = rest & ((1 << _HALF) - 1)
    return (low, 0), (middle, _HALF), (rest >> _HALF, 2 * _HALF)


def _as_doubles(lane: Numbers, values: Array) -> list[Array]:
    """Return doubles that add up to the stored values, each exact."""
    if isinstance(lane, FloatLane):
        return [values]
    if lane.bound < 2**53:
        return [values.astype(np.float64)]
    low = values & _LOW
    return [(values - low).astype(np.float64), low.astype(np.float64)]


def _add_doubles(
    sums: ExactSums, first: Array, second: Array, groups: Array | None, shift: int
) -> None:
    """Add the exact products of doubles, in units of 2 ** (-1074 - shift)."""
    for (a, a_shift), (b, b_shift), hits in _near_one(first, second):
        some = None if groups is None else groups[hits]
        for part in _two_product(a, b):
            add_floats(sums, part, some, shift - a_shift - b_shift)


def _near_one(first: Array, second: Array) -> Iterator[tuple[_Shifted, _Shifted, Rows]]:
    """Yield the pairs by the shifts that bring them near 1, and which ones they are."""
    if _plain(first) and (second is first or _plain(second)):
        yield (first, 0), (second, 0), slice(None)
        return
    sizes = np.abs(first), np.abs(second)
    for (low, high, up), (least, most, more) in product(_RANGES, _RANGES):
        inside = (sizes[0] >= low) & (sizes[0] < high) & (sizes[1] >= least) & (sizes[1] < most)
        hits = np.flatnonzero(inside)
        if len(hits):
            yield (np.ldexp(first[hits], up), up), (np.ldexp(second[hits], more), more), hits


def _plain(values: Array) -> bool:
    """Tell whether all values are 0 or can be multiplied as they are."""
    _, (low, high, _), _ = _RANGES
    sizes = np.abs(values)
    if sizes.max() >= high:
        return False
    return bool(sizes.min() >= low) or not ((sizes < low) & (sizes > 0)).any()


def _two_product(a: Array, b: Array) -> tuple[Array, Array]:
    """Return the rounded products and their errors: together they are exact."""
    whole = a * b
    a_high, a_low = _split(a)
    b_high, b_low = (a_high, a_low) if a is b else _split(b)
    error = ((a_high * b_high - whole) + a_high * b_low + a_low * b_high) + a_low * b_low
    return whole, error


def _split(values: Array) -> tuple[Array, Array]:
    """Return the leading and the trailing half of each double's bits (Veltkamp)."""
    scaled = values * _SPLIT
    high = scaled - (scaled - values)
    return high, values - high
