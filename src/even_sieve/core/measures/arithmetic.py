"""Measures of the numbers of a column: how many, sum, product, average, spread."""

from collections.abc import Callable, Sequence
from fractions import Fraction
from typing import Any, ClassVar

from even_sieve.core.cells import Cell, Kind
from even_sieve.core.measures.cell_filter import CellFilter
from even_sieve.core.measures.exact import ExactSums
from even_sieve.core.measures.measure import Figure, Gathered, Measure, Need, counts_of
from even_sieve.core.measures.rounding import TOO_LARGE, as_double, root_to_double, to_double
from even_sieve.core.measures.states import State
from even_sieve.core.measures.totals import Factors, Squares, Sums, Totals, Weighted, Weights
from even_sieve.core.notices import Code, Notice
from even_sieve.core.table.lanes import FixedLane


class Numeric(Measure):
    """A measure of the numbers of a column alone."""

    #: Why dates are refused; empty where they are merely not used.
    no_dates: ClassVar[str] = ""

    def cell_filter(self) -> CellFilter:
        """Numbers, and kept blanks as zeros. Raises `UnsuitableColumn` for a column of dates."""
        column = self._column()
        if self.no_dates and column.leading is Kind.DATE:
            hint = f"Ask for min or max of {column.name}"
            raise self._unsuitable(f"holds dates, and {self.no_dates}", hint)
        return self._filter(Kind.NUMBER)

    def _numbers(self) -> CellFilter:
        if self.cells is None:
            raise RuntimeError(f"{self.kind} needs cells")
        return self.cells

    def _notices(self, gathered: Gathered) -> tuple[Notice, ...]:
        """Return what is to be known of cells that are no numbers."""
        like, column = self._like_numbers(gathered), self._column()
        if Kind.NUMBER in column.counts or not column.length:
            return like
        return (
            *like,
            Notice(
                Code.NO_NUMBERS,
                f"column '{column.name}' holds {column.words} and no number; "
                f"to count cells that hold anything, ask for: filled of {column.name}",
            ),
        )

    def _rounded(self, gathered: Gathered, exact: Fraction, *, whole: bool = False) -> Figure:
        """Return an exact figure rounded once, or as a whole number."""
        notices = self._notices(gathered)
        value = int(exact) if whole else to_double(exact)
        if value is None:
            return Figure(None, TOO_LARGE, (), notices, exact)
        return Figure(value, None, (), notices, exact)

    def _no_number(self, gathered: Gathered) -> Figure:
        return Figure(None, "no number was used", (), self._notices(gathered))

    def _in_whole_numbers(self) -> bool:
        lane = self._column().lanes.get(Kind.NUMBER)
        return lane is None or (isinstance(lane, FixedLane) and lane.scale == 0)


class Numbers(Numeric):
    """The cells that hold a number."""

    kind = "numbers"

    def cell_filter(self) -> CellFilter:
        """A kept blank is still no number, and an error spoils no count."""
        return CellFilter(self._column(), Kind.NUMBER)

    def finish(self, gathered: Gathered, group: int) -> Figure:
        """Return the count."""
        return Figure(gathered.used(group), notices=self._notices(gathered))

    def values(self, gathered: Gathered, groups: Sequence[int]) -> list[Cell]:
        """Return the counts of many groups."""
        return counts_of(gathered, groups)


class Sum(Numeric):
    """The exact sum of the numbers, rounded once; 0 where none is used."""

    kind = "sum"
    no_dates = "dates do not add up"

    def needs(self) -> tuple[Need, ...]:
        """Gather exact sums."""
        return (_need("sums", Sums, self._numbers()),)

    def finish(self, gathered: Gathered, group: int) -> Figure:
        """Return the sum."""
        kept = self._kept_error(gathered, group)
        if kept is not None:
            return kept
        total = total_of(gathered, "sums", group)
        return self._rounded(gathered, total, whole=self._in_whole_numbers())

    def values(self, gathered: Gathered, groups: Sequence[int]) -> list[Cell]:
        """Return the sums of many groups."""
        sums = gathered.state("sums", Totals).sums
        if not isinstance(sums, ExactSums) or (gathered.counts.first_error >= 0).any():
            return super().values(gathered, groups)
        totals, unit, used = sums.totals, sums.unit, counts_of(gathered, groups)
        tops = [totals[group] * unit.numerator for group in groups]
        return self._divided(tops, unit.denominator, used)

    def _divided(self, tops: list[int], bottom: int, used: list[Any]) -> list[Cell]:
        """Return the values of totals over `bottom`, each rounded once."""
        if self._in_whole_numbers():
            return [top // bottom for top in tops]
        return [as_double(top, bottom) for top in tops]


class Average(Sum):
    """The exact sum over the count, rounded once; no value where none is used."""

    kind = "average"

    def finish(self, gathered: Gathered, group: int) -> Figure:
        """Return the average."""
        kept, used = self._kept_error(gathered, group), gathered.used(group)
        if kept is not None or not used:
            return kept or self._no_number(gathered)
        return self._rounded(gathered, total_of(gathered, "sums", group) / used)

    def _divided(self, tops: list[int], bottom: int, used: list[Any]) -> list[Cell]:
        pairs = zip(tops, used, strict=True)
        return [as_double(top, bottom * count) if count else None for top, count in pairs]


class Share(Numeric):
    """The sum at its place over the sum of the whole, rounded once.

    The whole is the same measure without its own criteria, over all places.
    """

    kind = "share"
    no_dates = "dates do not add up"

    def needs(self) -> tuple[Need, ...]:
        """Gather exact sums."""
        return (_need("sums", Sums, self._numbers()),)

    def finish(self, gathered: Gathered, group: int) -> Figure:
        """Return the share. No value where the whole is 0."""
        whole = gathered.whole
        if whole is None:
            raise RuntimeError("a share needs its whole")
        kept = self._kept_error(gathered, group) or self._kept_error(whole, 0)
        if kept is not None:
            return kept
        total = total_of(whole, "sums", 0)
        if not total:
            reason = "the whole is 0" if whole.used(0) else "no number stands in the whole"
            return Figure(None, reason, (), self._notices(gathered))
        return self._rounded(gathered, total_of(gathered, "sums", group) / total)


class WeightedAverage(Numeric):
    """The exact sum of the numbers times their weights over that of the weights."""

    kind = "weighted average"
    no_dates = "dates have no average"

    def needs(self) -> tuple[Need, ...]:
        """Gather exact sums of products and of weights."""
        used = self._numbers()
        return _need("weighted", Weighted, used), _need("weights", Weights, used)

    def finish(self, gathered: Gathered, group: int) -> Figure:
        """Return the average. No value where the weights add up to 0."""
        kept = self._kept_error(gathered, group)
        if kept is not None or not gathered.used(group):
            return kept or self._no_number(gathered)
        weights = total_of(gathered, "weights", group)
        if not weights:
            return Figure(None, "the weights add up to 0", (), self._notices(gathered))
        return self._rounded(gathered, total_of(gathered, "weighted", group) / weights)


class Variance(Numeric):
    """The mean squared distance from the average; of a sample, over one less than the count."""

    kind = "variance"
    no_dates = "dates have no spread in numbers"

    def needs(self) -> tuple[Need, ...]:
        """Gather exact sums, and exact sums of squares."""
        used = self._numbers()
        return _need("sums", Sums, used), _need("squares", Squares, used)

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
        return self._spread(gathered, (squares * used - total * total) / (used * over))

    def _spread(self, gathered: Gathered, variance: Fraction) -> Figure:
        return self._rounded(gathered, variance)


class Deviation(Variance):
    """The square root of the variance."""

    kind = "deviation"

    def _spread(self, gathered: Gathered, variance: Fraction) -> Figure:
        value, notices = root_to_double(variance), self._notices(gathered)
        return Figure(value, TOO_LARGE if value is None else None, (), notices)


class ProductOf(Numeric):
    """The product of the numbers, rounded once; no value where none is used."""

    kind = "product"
    no_dates = "dates cannot be multiplied"

    def needs(self) -> tuple[Need, ...]:
        """Gather products."""
        return (_need("factors", Factors, self._numbers()),)

    def finish(self, gathered: Gathered, group: int) -> Figure:
        """Return the product."""
        kept = self._kept_error(gathered, group)
        if kept is not None or not gathered.used(group):
            return kept or self._no_number(gathered)
        found, notices = gathered.state("factors", Factors).products[group], self._notices(gathered)
        exact = found.exact
        if exact is not None and self._in_whole_numbers():
            return Figure(int(exact), None, (), notices, exact)
        value = found.nearest()
        if value is None:
            return Figure(None, TOO_LARGE, (), notices, exact)
        if not value and found.core:
            reason = "the figure is nearer to 0 than any double, about 5e-324"
            return Figure(None, reason, (), notices, exact)
        return Figure(value, None, (), notices, exact)


def _need(name: str, state: Callable[[int, CellFilter], State], used: CellFilter) -> Need:
    return Need(name, lambda groups, _: state(groups, used))


def total_of(gathered: Gathered, name: str, group: int) -> Fraction:
    """Return the exact total that a state gathered for a group; 0 where nothing adds up."""
    sums = gathered.state(name, Totals).sums
    return Fraction(0) if sums is None else sums.total(group)
