"""Arithmetic on numbers of many digits, each as a double and what it lacks.

With each number goes a bound on its error, so that it is known of nearly every result which
decimal, or which nearest double, it is exactly; the others are left to exact fractions.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from fractions import Fraction
from functools import reduce
from typing import Any

import numpy as np

from even_sieve.core.derive.expressions import Expression, Literal, Name, applied
from even_sieve.core.derive.two_doubles import (
    MOST_POWER,
    divided,
    parted,
    plus,
    scaled,
    ten_to,
    times,
)
from even_sieve.core.table.lanes import Array
from even_sieve.core.table.shortest import take_zeros_off

#: No operation is wrong by more than this share of its result.
_UNIT = 2.0**-98
#: What takes as many digits as a result may have to be a decimal of few.
_DIGITS = 18
#: Numbers outside of this range are left to fractions.
_LEAST, _MOST = 1e-60, 1e60
_LARGEST_WHOLE = 2**62
_ENDLESS = 1 << 20
#: Errors in the last of these digits are smaller than this.
_CLOSE = 2.0**-7


@dataclass(frozen=True, eq=False)
class Twofold:
    """Numbers `high + low`, each wrong by at most `error`; `places` are decimals that they have.

    More decimals than `places` none of them has. `wrong` are divisions by zero.
    """

    high: Array
    low: Array
    error: Array
    places: Array
    wrong: Array

    def parts(self) -> tuple[Array, Array, Array, Array]:
        """Return all but what is wrong."""
        return self.high, self.low, self.error, self.places


@dataclass(frozen=True, eq=False)
class Known:
    """What results are: `few` are decimals, `whole` with `places`; `near` are nearest doubles.

    Others that are `close` are these decimals too, or none of few digits. Rows that are none of
    this, and not `wrong`, are to be worked out another way.
    """

    few: Array
    close: Array
    whole: Array
    places: Array
    near: Array
    doubles: Array
    wrong: Array


def twofold(whole: Array, places: Array) -> Twofold:
    """Return decimals: whole numbers (int64), and how many of their digits are decimals.

    >>> found = twofold(np.array([1]), np.array([1]))
    >>> Fraction(found.high[0]) + Fraction(found.low[0]) - Fraction(1, 10) < Fraction(1, 10**32)
    True
    """
    sure = (np.abs(whole) < _LARGEST_WHOLE) & (np.abs(places) < MOST_POWER // 2)
    whole, places = np.where(sure, whole, 0), np.where(sure, places, 0).astype(np.int64)
    take_zeros_off(whole, places)
    high = whole.astype(np.float64)
    low = (whole - high.astype(np.int64)).astype(np.float64)
    made = scaled(high, low, -places)
    error = np.where(sure, _UNIT * np.abs(made[0]), np.inf)
    return Twofold(*made, error, np.maximum(places, 0), np.zeros(len(whole), dtype=bool))


def worked_out(steps: Sequence[Expression], numbers: dict[str, Twofold]) -> Known:
    """Return what is known of the results of an expression's steps."""
    length = len(next(iter(numbers.values())).high)
    found: list[Any] = []
    with np.errstate(all="ignore"):  # what is beyond the range is left
        for step in steps:
            if isinstance(step, Literal):
                found.append(step.value)
            elif isinstance(step, Name):
                found.append(numbers[step.column])
            else:
                given = found[-len(step.parts) :]
                del found[-len(step.parts) :]
                found.append(_applied(step.what, given, length))
        return _known(_numbers(found[0], length))


def _applied(what: str, given: Sequence[Any], length: int) -> Any:
    if all(isinstance(each, Fraction) for each in given) and (what != "/" or given[1]):
        return applied(what, given)
    if what == "round":
        return _round(_numbers(given[0], length), *given[1:])
    if what == "/" and isinstance(given[1], Fraction) and given[1]:
        turned = 1 / given[1]
        if _places(turned) is not None:
            what, given = "*", (given[0], turned)
    return _APPLY[what](*[_numbers(each, length) for each in given])


def _numbers(value: "Twofold | Fraction", length: int) -> Twofold:
    if isinstance(value, Twofold):
        return value
    high, low = parted(value)
    places = _places(value)
    return Twofold(
        np.full(length, high), np.full(length, low), np.full(length, _UNIT * abs(high)),
        np.full(length, _ENDLESS if places is None else places),
        np.zeros(length, dtype=bool),
    )  # fmt: skip


def _places(value: Fraction) -> int | None:
    """Return how many decimals a number has; None for very many, or without an end."""
    every = range(_DIGITS * 2)
    return next((each for each in every if 10**each % value.denominator == 0), None)


def _add(one: Twofold, other: Twofold, sign: float = 1.0) -> Twofold:
    high, low = plus(one.high, one.low, sign * other.high, sign * other.low)
    error = one.error + other.error + _UNIT * np.abs(high)
    places = np.maximum(one.places, other.places)
    return Twofold(high, low, error, places, one.wrong | other.wrong)


def _multiply(one: Twofold, other: Twofold) -> Twofold:
    high, low = times(one.high, one.low, other.high, other.low)
    error = np.abs(one.high) * other.error + np.abs(other.high) * one.error
    error = 2 * error + one.error * other.error + _UNIT * np.abs(high)
    places = np.minimum(one.places + other.places, _ENDLESS)
    return Twofold(high, low, error, places, one.wrong | other.wrong)


def _divide(one: Twofold, other: Twofold) -> Twofold:
    # What may be zero, and is not certainly, is left; a zero that is certain is wrong.
    zero = (other.high == 0) & (other.error == 0)
    sure = np.abs(other.high) > 4 * other.error
    below = np.where(sure, other.high, 1.0), np.where(sure, other.low, 0.0)
    high, low = divided(one.high, one.low, *below)
    error = 4 * (one.error + np.abs(high) * other.error) / np.abs(below[0])
    error = np.where(sure, error + _UNIT * np.abs(high), np.inf)
    places = np.full(len(high), _ENDLESS)
    return Twofold(high, low, error, places, one.wrong | other.wrong | zero)


def _absolute(one: Twofold) -> Twofold:
    sign = np.where(one.high < 0, -1.0, 1.0)
    return Twofold(sign * one.high, sign * one.low, one.error, one.places, one.wrong)


def _extreme(largest: bool) -> Callable[..., Twofold]:
    def chosen(one: Twofold, other: Twofold) -> Twofold:
        apart = _add(one, other, -1.0)
        alike = np.abs(apart.high) + apart.error < ten_to(-_few_places(apart.places))
        sure = alike | (np.abs(apart.high) > apart.error)
        first = (apart.high > 0) if largest else (apart.high < 0)
        high, low, error, places = (
            np.where(first, *pair) for pair in zip(one.parts(), other.parts(), strict=True)
        )
        error = np.where(sure, error, np.inf)
        return Twofold(high, low, error, places, one.wrong | other.wrong)

    return lambda *parts: reduce(chosen, parts)


def _round(one: Twofold, decimals: Fraction = Fraction(0)) -> Twofold:
    """Round halves away from zero; what is too close to a half to tell is left."""
    power = np.full(len(one.high), int(decimals))
    high, low = scaled(one.high, one.low, power)
    error = one.error * ten_to(power) * 1.01 + _UNIT * np.abs(high)
    near = np.rint(high)
    rest = (high - near) + low
    sure = (np.abs(high) < 2.0**52) & (np.abs(np.abs(rest) - 0.5) > error + 2.0**-52)
    whole = near + (rest > 0.5) - (rest < -0.5)
    found = twofold(_as_whole(whole, sure), power)
    error = np.where(sure, found.error, np.inf)
    return Twofold(found.high, found.low, error, found.places, one.wrong)


_APPLY: dict[str, Callable[..., Twofold]] = {
    "+": _add,
    "-": lambda one, other: _add(one, other, -1.0),
    "*": _multiply,
    "/": _divide,
    "abs": _absolute,
    "min": _extreme(False),
    "max": _extreme(True),
}


def _known(found: Twofold) -> Known:
    """Return which results are decimals of few digits, and which are certainly not.

    Those that have no more decimals than they show with 18 digits are whole numbers of these.
    """
    size = np.abs(found.high)
    sure = (size > _LEAST) & (size < _MOST) & np.isfinite(found.error) & ~found.wrong
    high, low, error = (np.where(sure, e, 1.0) for e in (found.high, found.low, found.error))
    power = _DIGITS - 1 - np.floor(np.log10(np.abs(high))).astype(np.int64)
    whole, part = scaled(high, low, power)
    error = error * ten_to(power) * 1.01 + _UNIT * np.abs(whole)
    sure &= (error < _CLOSE) & (np.abs(whole) < _LARGEST_WHOLE) & _of_all_digits(whole, part)
    small = np.rint(part)
    digits = _as_whole(whole, sure) + _as_whole(small, sure)
    few = sure & (found.places <= power) & (power >= 0) & (np.abs(digits) < 10**_DIGITS)
    near = sure & ~few & (np.abs(part - small) > error)
    slack = found.error * 1.01 + np.abs(found.low) * 2.0**-50
    for moved in (found.low + slack, found.low - slack):
        near &= found.high + moved == found.high
    least = ten_to(-_few_places(found.places))
    zero = (found.high == 0) & (4 * found.error < least) & ~found.wrong
    few, digits, power = few | zero, np.where(zero, 0, digits), np.where(zero, 0, power)
    return Known(few, sure & (power >= 0), digits, power, near, found.high, found.wrong)


def _few_places(places: Array) -> Array:
    """Return numbers of decimals, those without an end as the most that are known."""
    few: Array = np.minimum(places, MOST_POWER)
    return few


def _of_all_digits(whole: Array, part: Array) -> Array:
    """Tell which numbers have all the digits of a decimal of few before their point, or more."""
    least = 10.0 ** (_DIGITS - 1)
    away = np.where(whole < 0, -part, part)
    found: Array = (np.abs(whole) > least) | ((np.abs(whole) == least) & (away >= 0))
    return found


def _as_whole(number: Array, sure: Array) -> Array:
    return np.where(sure, number, 0.0).astype(np.int64)
