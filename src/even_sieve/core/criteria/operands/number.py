"""A number, exact."""

from dataclasses import dataclass, field
from decimal import Decimal
from fractions import Fraction
from math import ceil, floor
from typing import Any, ClassVar

from even_sieve.core.cells import Kind
from even_sieve.core.criteria.operands.operand import Interval, Operand, Point, Writing
from even_sieve.core.criteria.operands.period_names import read_year
from even_sieve.core.criteria.stored_range import Ordered
from even_sieve.core.table import Column
from even_sieve.core.table.lanes import FixedLane


@dataclass(frozen=True)
class Number(Point):
    """A number, exact."""

    value: Decimal
    text: str = field(compare=False, default="")
    kind: ClassVar[Kind] = Kind.NUMBER

    def write(self, writing: Writing) -> str:
        """Return the number as it was spelt."""
        return self.text or str(self.value)

    def say(self) -> str:
        """Return the number, grouped by thousands from five digits on."""
        # Four digits may be a year, which nobody groups.
        return f"{self.value:,f}" if abs(self.value) >= 10_000 else f"{self.value:f}"

    def suited(self, column: Column) -> Operand:
        """Return the year that four digits are, where the column holds dates and no numbers."""
        if Kind.DATE in column.counts and Kind.NUMBER not in column.counts:
            return read_year(self.text) or self
        return self

    def first(self, lane: Ordered) -> Any:
        """Return the least multiple that is no smaller, or the nearest double."""
        return ceil(_scaled(lane, self.value)) if isinstance(lane, FixedLane) else float(self.value)

    def last(self, lane: Ordered) -> Any:
        """Return the greatest multiple that is no larger, or the nearest double."""
        if isinstance(lane, FixedLane):
            return floor(_scaled(lane, self.value))
        return float(self.value)

    def interval(self) -> Interval:
        """Return the number alone."""
        return Interval(self.kind, self.value, self.value)


def _scaled(lane: FixedLane, number: Decimal) -> Fraction:
    return Fraction(number) * int(10**lane.scale)
