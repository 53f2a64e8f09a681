"""Fractions by the thousand: the arithmetic of `expressions`, exact, on arrays.

A number is a whole one over another, above zero. Whole numbers are of 64 bits as long as they
certainly fit, and Python's own from there on, in the same arrays.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import reduce
from math import lcm
from typing import Any, TypeAlias

import numpy as np

from even_sieve.core.table.lanes import Array

#: A whole number for all rows, or one for each.
Whole: TypeAlias = Array | int
_MOST = 2**63 - 1


@dataclass(frozen=True, eq=False)
class Fractions:
    """Numbers `over / under`; a row may be `blank`, or `wrong`: something was divided by zero.

    Where it is one of these its number is of no meaning.
    """

    over: Whole
    under: Whole = 1
    blank: Array | None = None
    wrong: Array | None = None


def apply(what: str, parts: Sequence[Fractions]) -> Fractions:
    """Return what an operator or a function makes of numbers, row by row."""
    found = _APPLY[what](parts)
    wrong = _either(*[each.wrong for each in parts])
    blank = _either(*[each.blank for each in parts])
    if blank is not None and wrong is not None:
        blank = blank & ~wrong
    if found.wrong is not None:
        zero = found.wrong if blank is None else found.wrong & ~blank
        wrong = _either(wrong, zero)
    return replace(found, blank=blank, wrong=wrong)


def _either(*masks: Array | None) -> Array | None:
    known = [each for each in masks if each is not None]
    return reduce(np.logical_or, known) if known else None


def largest(whole: Whole) -> int:
    """Return the largest absolute value."""
    if isinstance(whole, int):
        return abs(whole)
    return max(int(whole.max()), -int(whole.min())) if len(whole) else 0


def size_of(whole: Whole) -> Whole:
    """Return absolute values."""
    return abs(whole) if isinstance(whole, int) else np.abs(whole)


def times(one: Whole, other: Whole) -> Whole:
    """Return products."""
    if isinstance(one, int) and isinstance(other, int):
        return one * other
    one, other = _for_results(largest(one) * largest(other), one, other)
    return one * other


def plus(one: Whole, other: Whole, sign: int = 1) -> Whole:
    """Return sums, or differences."""
    if isinstance(one, int) and isinstance(other, int):
        return one + sign * other
    one, other = _for_results(largest(one) + largest(other), one, other)
    return one + other if sign > 0 else one - other


def _for_results(bound: int, *numbers: Whole) -> list[Any]:
    """Return numbers as what results of at most this size go into."""
    if bound <= _MOST and all(not isinstance(each, int) or abs(each) <= _MOST for each in numbers):
        return list(numbers)
    return [each if isinstance(each, int) else each.astype(object) for each in numbers]


def _add(sign: int) -> Callable[[Sequence[Fractions]], Fractions]:
    def add(parts: Sequence[Fractions]) -> Fractions:
        one, other, under = _over_the_same(*parts)
        return Fractions(plus(one, other, sign), under)

    return add


def _over_the_same(one: Fractions, other: Fractions) -> tuple[Whole, Whole, Whole]:
    """Return the numbers above, of two fractions over the same."""
    if isinstance(one.under, int) and isinstance(other.under, int):
        under = lcm(one.under, other.under)
        return times(one.over, under // one.under), times(other.over, under // other.under), under
    return (
        times(one.over, other.under),
        times(other.over, one.under),
        times(one.under, other.under),
    )


def _multiply(parts: Sequence[Fractions]) -> Fractions:
    one, other = parts
    return Fractions(times(one.over, other.over), times(one.under, other.under))


def _divide(parts: Sequence[Fractions]) -> Fractions:
    one, other = parts
    divisor = other.over
    zero = np.asarray(divisor == 0)
    if isinstance(divisor, int):
        over = times(times(one.over, _signs(divisor)), other.under)
        under = times(one.under, abs(divisor) or 1)
        return Fractions(over, under, wrong=zero if divisor == 0 else None)
    divisor = np.where(zero, 1, divisor)
    over = times(times(one.over, _signs(divisor)), other.under)
    return Fractions(over, times(one.under, size_of(divisor)), wrong=zero)


def _absolute(parts: Sequence[Fractions]) -> Fractions:
    return Fractions(size_of(parts[0].over), parts[0].under)


def _extreme(largest_one: bool) -> Callable[[Sequence[Fractions]], Fractions]:
    def extreme(parts: Sequence[Fractions]) -> Fractions:
        found, *others = parts
        for each in others:
            one, other, _ = _over_the_same(found, each)
            kept = np.asarray(one >= other if largest_one else one <= other)
            found = Fractions(
                _chosen(kept, found.over, each.over), _chosen(kept, found.under, each.under)
            )
        return Fractions(found.over, found.under)

    return extreme


def _chosen(kept: Array, one: Whole, other: Whole) -> Whole:
    if isinstance(one, int) and isinstance(other, int) and (one == other or not kept.ndim):
        return one if kept.all() else other
    return np.where(kept, _as_array(one), _as_array(other))


def _as_array(whole: Whole) -> Array:
    if isinstance(whole, int):
        return np.array(whole, dtype=np.int64 if abs(whole) <= _MOST else object)
    return whole


def _round(parts: Sequence[Fractions]) -> Fractions:
    """Round halves away from zero."""
    number, unit = parts[0], 1
    if len(parts) > 1 and isinstance(parts[1].over, int):
        unit = 10 ** parts[1].over
    twice = times(size_of(number.over), 2 * unit)
    whole, under = _for_results(
        largest(twice) + 2 * largest(number.under), plus(twice, number.under), number.under
    )
    whole = whole // times(under, 2)
    return Fractions(times(_signs(number.over), whole), unit)


def _signs(whole: Whole) -> Whole:
    """Return -1 for numbers below zero, and 1 for others."""
    if isinstance(whole, int):
        return -1 if whole < 0 else 1
    return np.where(np.asarray(whole < 0), -1, 1)


_APPLY: dict[str, Callable[[Sequence[Fractions]], Fractions]] = {
    "+": _add(1),
    "-": _add(-1),
    "*": _multiply,
    "/": _divide,
    "abs": _absolute,
    "min": _extreme(False),
    "max": _extreme(True),
    "round": _round,
}
