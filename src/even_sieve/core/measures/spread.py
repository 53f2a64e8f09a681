"""Measures of how far the numbers of a column lie apart: variance and standard deviation."""

from fractions import Fraction
from typing import ClassVar

from even_sieve.core.cells import Cell
from even_sieve.core.measures.arithmetic import Numeric, need
from even_sieve.core.measures.cell_filter import Bucket
from even_sieve.core.measures.measure import Figure, Gathered, Need
from even_sieve.core.measures.quotients import total_of, totals_of
from even_sieve.core.measures.rounding import TOO_LARGE, as_double, root_to_double
from even_sieve.core.measures.totals import Squares, Sums
from even_sieve.core.table.lanes import Array


class Variance(Numeric):
    """The mean squared distance from the average; of a sample, over one less than the count."""

    kind = "variance"
    says_alike = True
    is_exact: ClassVar[bool] = True
    no_dates = "dates have no spread in numbers"

    def needs(self) -> tuple[Need, ...]:
        """Gather exact sums, and exact sums of squares."""
        used = self._numbers()
        return need("sums", Sums, used), need("squares", Squares, used)

    def finish(self, gathered: Gathered, group: int) -> Figure:
        """Return the variance. No value of a sample of one."""
        kept, used = self._kept_error(gathered, group), gathered.used(group)
        if kept is not None or not used:
            return kept or self._no_number(gathered)
        over = used if self.request.way == "population" else used - 1
        if not over:
            reason = "one number was used: a sample of one has no spread"
            return Figure(None, reason, (), self._notices(gathered))
        total, squares = (total_of(gathered, name, group) for name in ("sums", "squares"))
        exact = (squares * used - total * total) / (used * over)
        value = self._of(exact.numerator, exact.denominator)
        beyond, told = TOO_LARGE if value is None else None, exact if self.is_exact else None
        return Figure(value, beyond, (), self._notices(gathered), told)

    def _at_once(self, gathered: Gathered, groups: Array) -> list[Cell]:
        used = gathered.counts.buckets[groups, Bucket.USED]
        over = used if self.request.way == "population" else used - 1
        (tops, bottom), (squares, under) = (
            totals_of(gathered, name, groups) for name in ("sums", "squares")
        )
        own = zip(tops.tolist(), squares.tolist(), used.tolist(), over.tolist(), strict=True)
        part, whole = bottom * bottom, bottom * bottom * under
        return [
            self._of((square * part * count - top * top * under), whole * count * rest)
            if count > 0 and rest > 0
            else None
            for top, square, count, rest in own
        ]

    def _of(self, top: int, bottom: int) -> float | None:
        """Return the figure of a variance."""
        return as_double(top, bottom)


class Deviation(Variance):
    """The square root of the variance."""

    kind = "deviation"
    is_exact = False

    def _of(self, top: int, bottom: int) -> float | None:
        return root_to_double(Fraction(top, bottom))
