"""Measures of the numbers of a column: how many, the sum, the average."""

from fractions import Fraction

from even_sieve.core.cells import Kind
from even_sieve.core.errors import UnsuitableColumn
from even_sieve.core.measures.cells import Bucket, Wanted
from even_sieve.core.measures.measure import Figure, Gathered, Measure, StateFactory
from even_sieve.core.measures.states import Sums
from even_sieve.core.notices import Code, Notice
from even_sieve.core.table.lanes import FixedLane


class Numeric(Measure):
    """A measure of the numbers of a column alone."""

    def wanted(self) -> Wanted:
        """Numbers, and kept blanks as zeros."""
        return self._wanted(Kind.NUMBER)

    def _no_numbers(self) -> tuple[Notice, ...]:
        column = self._column()
        if Kind.NUMBER in column.counts or not column.length:
            return ()
        return (
            Notice(
                Code.NO_NUMBERS,
                f"column '{column.name}' holds {column.words} and no number; "
                f"to count cells that hold anything, ask for: filled of {column.name}",
            ),
        )


class Numbers(Numeric):
    """The cells that hold a number."""

    kind = "numbers"

    def wanted(self) -> Wanted:
        """A kept blank is still no number, and an error spoils no count."""
        return Wanted(self._column(), Kind.NUMBER)

    def finish(self, gathered: Gathered, group: int) -> Figure:
        """Return the count."""
        notices = self._like_numbers(gathered) + self._no_numbers()
        return Figure(gathered.bucket(group, Bucket.USED), notices=notices)


class Sum(Numeric):
    """The exact sum of the numbers, rounded once; 0 where none is used."""

    kind = "sum"

    def state(self) -> tuple[str, StateFactory]:
        """Gather exact sums. Raises `UnsuitableColumn` for a column of dates."""
        column, wanted = self._column(), self.wanted()
        if column.leading is Kind.DATE:
            raise UnsuitableColumn(
                self.request.words,
                f"column '{column.name}' holds dates, and dates do not add up",
                f"Ask for min or max of {column.name}",
            )
        return "sums", lambda groups: Sums(groups, wanted)

    def finish(self, gathered: Gathered, group: int) -> Figure:
        """Return the sum."""
        return self._finish(gathered, group, Fraction(1))

    def _finish(self, gathered: Gathered, group: int, share: Fraction) -> Figure:
        kept = self._kept_error(gathered, group)
        if kept is not None:
            return kept
        notices = self._like_numbers(gathered) + self._no_numbers()
        exact = self._total(gathered, group) * share
        whole = share == 1 and self._in_whole_numbers()
        try:
            value = int(exact) if whole else exact.numerator / exact.denominator
        except OverflowError:
            reason = "the figure is beyond the largest double, about 1.8e308"
            return Figure(None, reason, (), notices, exact)
        return Figure(value, None, (), notices, exact)

    def _total(self, gathered: Gathered, group: int) -> Fraction:
        state = gathered.state
        if not isinstance(state, Sums):
            raise TypeError("a sum needs exact sums")
        return state.sums.total(group) if state.sums is not None else Fraction(0)

    def _in_whole_numbers(self) -> bool:
        lane = self._column().lanes.get(Kind.NUMBER)
        return lane is None or (isinstance(lane, FixedLane) and lane.scale == 0)


class Average(Sum):
    """The exact sum over the count, rounded once; no value where none is used."""

    kind = "average"

    def finish(self, gathered: Gathered, group: int) -> Figure:
        """Return the average."""
        used = gathered.bucket(group, Bucket.USED)
        if not used:
            notices = self._like_numbers(gathered) + self._no_numbers()
            return Figure(None, "no number was used", (), notices)
        return self._finish(gathered, group, Fraction(1, used))
