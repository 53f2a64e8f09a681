"""Fractions that are decimals of few digits: which they are, and how they are written."""

from collections.abc import Iterator

import numpy as np

from even_sieve.core.derive.fractions_at_once import Whole, largest, times
from even_sieve.core.table.lanes import Array

_DIGITS = 18
_MOST_DIGITS = 10**_DIGITS
_INT64 = 2**63 - 1
#: Powers of ten up to this one are whole numbers of 64 bits.
_LARGEST_POWER = 18
_TENS = [10**power for power in range(100)]
#: Rows that stand over so few numbers are told number by number.
_SAMPLE, _FEW = 256, 32


def decimals_of(over: Array, under: Whole) -> Iterator[tuple[Array, Array, Array, Array, Array]]:
    """Yield rows of fractions `over / under` that are decimals, by their positions.

    With them: which are of few digits, these as whole numbers (int64) with how many of their
    digits are decimals, and which are whole numbers of few digits and many zeros after them.
    """
    for some, above, below in _over_few(over, under):
        whole, places, told = _decimals(above, below)
        yield some[told], *_of_few_digits(whole, places)


def _over_few(over: Array, under: Whole) -> Iterator[tuple[Array, Array, Whole]]:
    """Yield rows that stand over the same number with what is above and below; else all at once."""
    every = np.arange(len(over))
    if isinstance(under, int) or len(set(under[:_SAMPLE].tolist())) > _FEW:
        yield every, over, under
        return
    numbers: dict[int, int] = {}
    which = np.array([numbers.setdefault(each, len(numbers)) for each in under.tolist()])
    if len(numbers) > _SAMPLE:
        yield every, over, under
        return
    for below, number in numbers.items():
        some = np.flatnonzero(which == number)
        yield some, over[some], below


def _decimals(over: Array, under: Whole) -> tuple[Whole, Array, Array]:
    """Return the fractions that are decimals, as whole numbers and places, and which they are."""
    if isinstance(under, int):
        factors, twos, fives = _factors(np.array([under], dtype=object))
        rest = int(factors[0])
        if rest > _INT64:
            over = over.astype(object)
        told = np.arange(len(over)) if rest == 1 else np.flatnonzero(over % rest == 0)
        places = np.maximum(twos, fives)
        factor: Whole = int(2 ** int(places[0] - twos[0]) * 5 ** int(places[0] - fives[0]))
        return times(over[told] // rest, factor), np.repeat(places, len(told)), told
    shared = np.gcd(over, under)
    rests, twos, fives = _factors(under // shared)
    told = np.flatnonzero(rests == 1)
    twos, fives = twos[told], fives[told]
    places = np.maximum(twos, fives)
    one = 1 if places.max(initial=0) <= _LARGEST_POWER else np.array([1], dtype=object)
    factors = (2 * one) ** (places - twos) * (5 * one) ** (places - fives)
    return times((over // shared)[told], factors), places, told


def _factors(numbers: Array) -> tuple[Array, Array, Array]:
    """Return numbers without their factors 2 and 5, and how many of these they had."""
    if numbers.dtype == object:
        rest, twos = _without(2, numbers)
    else:
        twos = np.frexp((numbers & -numbers).astype(np.float64))[1].astype(np.int64) - 1
        rest = numbers >> twos
    rest, fives = _without(5, rest)
    return rest, twos, fives


def _without(factor: int, numbers: Array) -> tuple[Array, Array]:
    """Return numbers without a factor, and how many times they had it."""
    rest, count = numbers.copy(), np.zeros(len(numbers), dtype=np.int64)
    some = np.flatnonzero((rest % factor == 0).astype(bool))
    for power in (512, 256, 128, 64, 32, 16, 8, 4, 2, 1):
        if len(some) and factor**power <= largest(rest[some]):
            even = some[(rest[some] % factor**power == 0).astype(bool)]
            rest[even] //= factor**power
            count[even] += power
    return rest, count


def _of_few_digits(whole: Whole, places: Array) -> tuple[Array, Array, Array, Array]:
    whole = np.broadcast_to(np.asarray(whole), places.shape)
    exact = np.asarray(np.abs(whole) < _MOST_DIGITS, dtype=bool)
    unknown = np.zeros(len(places), dtype=bool)
    few, places = np.where(exact, whole, 0).astype(np.int64), places.copy()
    long = np.flatnonzero(~exact)
    for at, number in zip(long.tolist(), whole[long].tolist(), strict=True):
        more = len(str(abs(number))) - _DIGITS
        shorter, rest = divmod(number, _TENS[more] if more < len(_TENS) else 10**more)
        if not rest:
            exact[at], few[at] = True, shorter
            places[at] -= more
            unknown[at] = places[at] < 0
    return exact & ~unknown, few, places, unknown
