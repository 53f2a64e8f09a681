"""Mergeable exact totals: sums of numbers, of their products with weights, and products."""

from dataclasses import dataclass, field
from typing import Self

import numpy as np

from even_sieve.core.measures.cell_filter import CellFilter
from even_sieve.core.measures.cells import BlockCells
from even_sieve.core.measures.exact import ExactSums, add_fixed, add_floats, start_sums
from even_sieve.core.measures.factors import Product, product_of
from even_sieve.core.measures.products import Numbers, add_products, start_products
from even_sieve.core.measures.states import OnePass
from even_sieve.core.table.lanes import Array, FixedLane, FloatLane, Lane


@dataclass
class Totals(OnePass):
    """The base of exact sums; `sums` is None where there is no number to add."""

    groups: int
    filter: CellFilter
    sums: ExactSums | None = field(init=False)

    def __post_init__(self) -> None:
        self.sums = None

    def add(self, cells: BlockCells) -> None:
        """Take in a block."""
        raise NotImplementedError

    def merge(self, other: Self) -> None:
        """Add up the totals, exactly."""
        if self.sums is not None and other.sums is not None:
            self.sums.merge(other.sums)

    def _numbers(self) -> Numbers | None:
        return _numeric(self.filter.lane)

    def _weights(self) -> Numbers | None:
        return _numeric(self.filter.weight_lane)


def _numeric(lane: Lane | None) -> Numbers | None:
    return lane if isinstance(lane, FixedLane | FloatLane) else None


def _add(sums: ExactSums, lane: Numbers, values: Array, groups: Array | None) -> None:
    if isinstance(lane, FixedLane):
        add_fixed(sums, lane, values, groups)
    else:
        add_floats(sums, values, groups)


class Sums(Totals):
    """Exact sums of the used numbers."""

    def __post_init__(self) -> None:
        lane = self._numbers()
        self.sums = None if lane is None else start_sums(lane, self.groups)

    def add(self, cells: BlockCells) -> None:
        """Take in a block."""
        lane = self._numbers()
        if self.sums is not None and lane is not None:
            _add(self.sums, lane, cells.values, cells.used_groups)


class Weights(Totals):
    """Exact sums of the weights of the used numbers."""

    def __post_init__(self) -> None:
        lane = self._weights()
        self.sums = None if lane is None or not self._numbers() else start_sums(lane, self.groups)

    def add(self, cells: BlockCells) -> None:
        """Take in a block."""
        lane = self._weights()
        if self.sums is not None and lane is not None:
            _add(self.sums, lane, cells.weights, cells.used_groups)


class Squares(Totals):
    """Exact sums of the used numbers times themselves."""

    def __post_init__(self) -> None:
        lane = self._numbers()
        self.sums = None if lane is None else start_products(lane, lane, self.groups)

    def add(self, cells: BlockCells) -> None:
        """Take in a block."""
        lane = self._numbers()
        if self.sums is not None and lane is not None:
            values = cells.values
            add_products(self.sums, (lane, lane), (values, values), cells.used_groups)


class Weighted(Totals):
    """Exact sums of the used numbers times their weights."""

    def __post_init__(self) -> None:
        first, second = self._numbers(), self._weights()
        known = first is not None and second is not None
        self.sums = start_products(first, second, self.groups) if known else None  # type: ignore[arg-type]

    def add(self, cells: BlockCells) -> None:
        """Take in a block."""
        first, second = self._numbers(), self._weights()
        if self.sums is not None and first is not None and second is not None:
            values = cells.values, cells.weights
            add_products(self.sums, (first, second), values, cells.used_groups)


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
        values, groups = cells.values, cells.used_groups
        if groups is None:
            self.products[0].times(product_of(lane, values))
            return
        order = np.argsort(groups, kind="stable")
        values, groups = values[order], groups[order]
        starts = np.flatnonzero(np.concatenate(([len(groups) > 0], groups[1:] != groups[:-1])))
        for own, part in zip(groups[starts], np.split(values, starts[1:]), strict=False):
            self.products[int(own)].times(product_of(lane, part))

    def merge(self, other: "Factors") -> None:
        """Multiply the products."""
        for own, others in zip(self.products, other.products, strict=True):
            own.times(others)
