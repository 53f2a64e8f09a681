"""Measures of the numbers of a column: how many, sum, product, average, spread."""

from collections.abc import Callable
from fractions import Fraction
from typing import ClassVar

from even_sieve.core.cells import Cell, Kind
from even_sieve.core.measures.cell_filter import Bucket, CellFilter
from even_sieve.core.measures.measure import Figure, Gathered, Measure, Need, counts_of
from even_sieve.core.measures.quotients import quotients, total_of, totals_of
from even_sieve.core.measures.rounding import TOO_LARGE, as_double, to_double
from even_sieve.core.measures.states import State
from even_sieve.core.measures.totals import Factors, Sums, Weighted, Weights
from even_sieve.core.notices import Code, Notice, seconds_hint
from even_sieve.core.table.lanes import Array, FixedLane


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
        hint = f"to count cells that hold anything, ask for: filled of {column.name}"
        if column.times:
            hint = f"some of it looks like times; {seconds_hint(column.name)}"
        text = f"column '{column.name}' holds {column.words} and no number; {hint}"
        return (*like, Notice(Code.NO_NUMBERS, text))

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
    says_alike = True

    def cell_filter(self) -> CellFilter:
        """A kept blank is still no number, and an error spoils no count."""
        return CellFilter(self._column(), Kind.NUMBER)

    def finish(self, gathered: Gathered, group: int) -> Figure:
        """Return the count."""
        return Figure(gathered.used(group), notices=self._notices(gathered))

    def values(self, gathered: Gathered, groups: Array) -> list[Cell]:
        """Return the counts of many groups."""
        return counts_of(gathered, groups)


class Sum(Numeric):
    """The exact sum of the numbers, rounded once; 0 where none is used."""

    kind = "sum"
    says_alike = True
    no_dates = "dates do not add up"

    def needs(self) -> tuple[Need, ...]:
        """Gather exact sums."""
        return (need("sums", Sums, self._numbers()),)

    def finish(self, gathered: Gathered, group: int) -> Figure:
        """Return the sum."""
        kept = self._kept_error(gathered, group)
        if kept is not None:
            return kept
        total = total_of(gathered, "sums", group)
        return self._rounded(gathered, total, whole=self._in_whole_numbers())

    def _at_once(self, gathered: Gathered, groups: Array) -> list[Cell]:
        tops, bottom = totals_of(gathered, "sums", groups)
        if self._in_whole_numbers():
            return [top // bottom for top in tops.tolist()]
        return quotients(tops, bottom)


class Average(Sum):
    """The exact sum over the count, rounded once; no value where none is used."""

    kind = "average"

    def finish(self, gathered: Gathered, group: int) -> Figure:
        """Return the average."""
        kept, used = self._kept_error(gathered, group), gathered.used(group)
        if kept is not None or not used:
            return kept or self._no_number(gathered)
        return self._rounded(gathered, total_of(gathered, "sums", group) / used)

    def _at_once(self, gathered: Gathered, groups: Array) -> list[Cell]:
        tops, bottom = totals_of(gathered, "sums", groups)
        return quotients(tops, bottom, gathered.counts.buckets[groups, Bucket.USED])


class Share(Numeric):
    """The sum at its place over the sum of the whole, rounded once.

    The whole is the same measure without its own criteria, over all places.
    """

    kind = "share"
    says_alike = True
    no_dates = "dates do not add up"

    def needs(self) -> tuple[Need, ...]:
        """Gather exact sums."""
        return (need("sums", Sums, self._numbers()),)

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

    def _at_once(self, gathered: Gathered, groups: Array) -> list[Cell] | None:
        whole = gathered.whole
        total = Fraction(0) if whole is None else total_of(whole, "sums", 0)
        if whole is None or not total or self._kept_error(whole, 0) is not None:
            return None
        tops, bottom = totals_of(gathered, "sums", groups)
        times, over = total.denominator, bottom * total.numerator
        return [as_double(top * times, over) for top in tops.tolist()]


class WeightedAverage(Numeric):
    """The exact sum of the numbers times their weights over that of the weights."""

    kind = "weighted average"
    says_alike = True
    no_dates = "dates have no average"

    def needs(self) -> tuple[Need, ...]:
        """Gather exact sums of products and of weights."""
        used = self._numbers()
        return need("weighted", Weighted, used), need("weights", Weights, used)

    def finish(self, gathered: Gathered, group: int) -> Figure:
        """Return the average. No value where the weights add up to 0."""
        kept = self._kept_error(gathered, group)
        if kept is not None or not gathered.used(group):
            return kept or self._no_number(gathered)
        weights = total_of(gathered, "weights", group)
        if not weights:
            return Figure(None, "the weights add up to 0", (), self._notices(gathered))
        return self._rounded(gathered, total_of(gathered, "weighted", group) / weights)

    def _at_once(self, gathered: Gathered, groups: Array) -> list[Cell]:
        (tops, bottom), (weights, under) = (
            totals_of(gathered, name, groups) for name in ("weighted", "weights")
        )
        pairs = zip(tops.tolist(), weights.tolist(), strict=True)
        return [as_double(top * under, bottom * each) if each else None for top, each in pairs]


class ProductOf(Numeric):
    """The product of the numbers, rounded once; no value where none is used."""

    kind = "product"
    says_alike = True
    no_dates = "dates cannot be multiplied"

    def needs(self) -> tuple[Need, ...]:
        """Gather products."""
        return (need("factors", Factors, self._numbers()),)

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


def need(name: str, state: Callable[[int, CellFilter], State], used: CellFilter) -> Need:
    """Return the need of a state of these cells."""
    light = state is Sums and isinstance(used.lane, FixedLane)
    return Need(name, lambda groups, _: state(groups, used), light=light)
