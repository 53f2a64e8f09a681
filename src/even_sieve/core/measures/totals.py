"""Mergeable exact totals: sums of numbers, of their products with weights, and products."""

from dataclasses import dataclass, field
from fractions import Fraction
from typing import Self, TypeAlias

import numpy as np

from even_sieve.core.measures.cell_filter import CellFilter
from even_sieve.core.measures.cells import BlockCells
from even_sieve.core.measures.exact import AnySums, DecimalSums, ExactSums, add_integers
from even_sieve.core.measures.factors import Product, product_of
from even_sieve.core.measures.products import add_decimal_products, add_products
from even_sieve.core.measures.states import OnePass
from even_sieve.core.table.lanes import Array, FixedLane, FloatLane, Lane

Numbers: TypeAlias = FixedLane | FloatLane


@dataclass
class Totals(OnePass):
    """The base of exact sums; `sums` is None where there is no number to add."""

    groups: int
    filter: CellFilter
    sums: AnySums | None = field(init=False)

    def __post_init__(self) -> None:
        self.sums = None
        lanes = self._lanes()
        if None not in lanes and self._numbers() is not None:
            fixed = [lane for lane in lanes if isinstance(lane, FixedLane)]
            unit = Fraction(1, 10 ** sum(lane.scale for lane in fixed))
            exact = len(fixed) == len(lanes)
            self.sums = ExactSums(self.groups, unit) if exact else DecimalSums(self.groups)

    def _lanes(self) -> tuple[Numbers | None, ...]:
        """Return the lanes whose numbers are added, or multiplied and then added."""
        return (self._numbers(),)

    def add(self, cells: BlockCells) -> None:
        """Take in a block."""
        if self.sums is None:
            return
        lanes = [lane for lane in self._lanes() if lane is not None]
        groups = cells.used_groups
        if isinstance(self.sums, ExactSums):
            whole = [cells.stored(lane.values) for lane in lanes]
            bounds = [lane.bound for lane in lanes if isinstance(lane, FixedLane)]
            if len(lanes) == 1:
                add_integers(self.sums, whole[0], bounds[0], groups)
            else:
                add_products(self.sums, (whole[0], whole[1]), (bounds[0], bounds[1]), groups)
            return
        numbers = [_decimals(lane, cells) for lane in lanes]
        if len(lanes) == 1:
            self.sums.add(*numbers[0], groups)
        else:
            (first, places), (second, more) = numbers
            add_decimal_products(self.sums, (first, second), places + more, groups)

    def merge(self, other: Self) -> None:
        """Add up the totals, exactly."""
        if self.sums is not None and other.sums is not None:
            self.sums.merge(other.sums)  # type: ignore[arg-type]

    def _numbers(self) -> Numbers | None:
        return _numeric(self.filter.lane)

    def _weights(self) -> Numbers | None:
        return _numeric(self.filter.weight_lane)


def _numeric(lane: Lane | None) -> Numbers | None:
    return lane if isinstance(lane, FixedLane | FloatLane) else None


def _decimals(lane: Numbers, cells: BlockCells) -> tuple[Array, Array]:
    """Return the used numbers as whole ones and their numbers of decimals."""
    if isinstance(lane, FixedLane):
        whole = cells.stored(lane.values)
        return whole, np.full(len(whole), lane.scale, dtype=np.int16)
    return cells.stored(lane.decimals[0]), cells.stored(lane.decimals[1])


class Sums(Totals):
    """Exact sums of the used numbers."""


class Weights(Totals):
    """Exact sums of the weights of the used numbers."""

    def _lanes(self) -> tuple[Numbers | None, ...]:
        return (self._weights(),)


class Squares(Totals):
    """Exact sums of the used numbers times themselves."""

    def _lanes(self) -> tuple[Numbers | None, ...]:
        return (self._numbers(), self._numbers())


class Weighted(Totals):
    """Exact sums of the used numbers times their weights."""

    def _lanes(self) -> tuple[Numbers | None, ...]:
        return (self._numbers(), self._weights())


@dataclass
class Factors(OnePass):
    """Products of the used numbers."""

    groups: int
    filter: CellFilter
    products: list[Product] = field(init=False)

    def __post_init__(self) -> None:
        self.products = [Product() for _ in range(self.groups)]

    def add(self, cells: BlockCells) -> None:
        """Take in a block."""
        lane = _numeric(self.filter.lane)
        if lane is None:
            return
        (whole, places), groups = _decimals(lane, cells), cells.used_groups
        if groups is None:
            self.products[0].times(product_of(whole, places))
            return
        order = np.argsort(groups, kind="stable")
        groups = groups[order]
        starts = np.flatnonzero(np.concatenate(([len(groups) > 0], groups[1:] != groups[:-1])))
        for own, rows in zip(groups[starts], np.split(order, starts[1:]), strict=False):
            self.products[int(own)].times(product_of(whole[rows], places[rows]))

    def merge(self, other: "Factors") -> None:
        """Multiply the products."""
        for own, others in zip(self.products, other.products, strict=True):
            own.times(others)
