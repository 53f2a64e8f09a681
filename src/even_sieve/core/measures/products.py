"""Exact sums of products: of squares, and of values with weights.

Whole numbers are multiplied in pieces of 31 bits where 64 would not hold the product.
"""

from collections.abc import Callable, Iterator
from itertools import product
from typing import TypeVar

import numpy as np

from even_sieve.core.measures.exact import DecimalSums, ExactSums, add_integers
from even_sieve.core.measures.scattering import are_many
from even_sieve.core.table.distinct import once_each
from even_sieve.core.table.lanes import Array

_MOST = 2**63
_HALF = 31
_LOW = (1 << _HALF) - 1

_Sums = TypeVar("_Sums")


def add_products(
    sums: ExactSums,
    values: tuple[Array, Array],
    bounds: tuple[int, int],
    groups: Array | None,
) -> None:
    """Add the products of int64 (shape (n,) each, n at most 2 ** 20) to their groups.

    No value is larger than its bound.
    """

    def add(to: ExactSums, products: Array, bound: int) -> None:
        add_integers(to, products, bound, groups)

    if bounds[0] * bounds[1] < _MOST:
        add(sums, values[0] * values[1], bounds[0] * bounds[1])
        return
    found = _own(groups, sums.groups)
    if found is not None:
        own, local = found
        few = ExactSums(len(own), sums.unit)
        add_products(few, values, bounds, local)
        sums.add_at(own, few.totals)
        return
    for part, shift in _in_parts(values, add, lambda: ExactSums(sums.groups, sums.unit)):
        sums.merge(part, shift)


def add_decimal_products(
    sums: DecimalSums, values: tuple[Array, Array], places: Array, groups: Array | None
) -> None:
    """Add products of whole numbers over 10 ** places, the sum of both numbers of decimals."""

    def add(to: DecimalSums, products: Array, bound: int) -> None:
        to.add(products, places, groups)

    first, second = (max(int(np.abs(each).max()), 1) if len(each) else 0 for each in values)
    if first * second < _MOST:
        add(sums, values[0] * values[1], first * second)
        return
    found = _own(groups, sums.groups)
    if found is not None:
        own, local = found
        few = DecimalSums(len(own))
        add_decimal_products(few, values, places, local)
        for number, part_of_few in few.parts.items():
            sums.part(number).add_at(own, part_of_few.totals)
        return
    for part, shift in _in_parts(values, add, lambda: DecimalSums(sums.groups)):
        sums.merge(part, shift)


def _own(groups: Array | None, count: int) -> tuple[Array, Array] | None:
    """Return those of many groups that occur, and the place of each row's own among them.

    None where all occur, or where there are not many.
    """
    if groups is None or not are_many(count, len(groups)):
        return None
    own = once_each(groups)
    return None if len(own) == count else (own, np.searchsorted(own, groups))


def _in_parts(
    values: tuple[Array, Array],
    add: Callable[[_Sums, Array, int], None],
    start: Callable[[], _Sums],
) -> Iterator[tuple[_Sums, int]]:
    """Yield sums of the products of pieces, with the bits by which each is shifted."""
    first, second = map(_in_pieces, values)
    for (a, up), (b, more) in product(first, second):
        part = start()
        add(part, a * b, 1 << 2 * _HALF)
        yield part, up + more


def _in_pieces(values: Array) -> list[tuple[Array, int]]:
    """Return pieces below 2 ** 31, with the bits by which each is shifted; those of zeros go."""
    sign, size = np.sign(values), np.abs(values)
    parts = [(size >> shift) & _LOW for shift in (0, _HALF, 2 * _HALF)]
    return [(part * sign, at * _HALF) for at, part in enumerate(parts) if part.any()]
