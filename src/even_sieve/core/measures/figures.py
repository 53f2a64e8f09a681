"""Measures: what each kind makes of what was gathered for it.

A measure names the cells it wants and the state it needs, and finishes a group's figure.
Measures that want the same cells and the same state share them.
"""

from collections.abc import Callable
from dataclasses import dataclass
from fractions import Fraction
from typing import ClassVar

from even_sieve.core.cells import Cell, CellError, Kind
from even_sieve.core.errors import UnsuitableColumn
from even_sieve.core.measures.cells import Bucket, Wanted
from even_sieve.core.measures.request import Keep, MeasureRequest
from even_sieve.core.measures.states import MOST_ROWS, Counts, Distinct, Extremes, State, Sums
from even_sieve.core.notices import Code, Notice, counted
from even_sieve.core.table import Column
from even_sieve.core.table.lanes import FixedLane

StateFactory = Callable[[int], State]


@dataclass(frozen=True)
class Figure:
    """A value, or None with the reason why there is none.

    `rows` are the positions (from 0) of the rows that gave it, where it is such a measure;
    `exact` is the figure before it was rounded, where it was worked out exactly.
    """

    value: Cell
    reason: str | None = None
    rows: tuple[int, ...] = ()
    notices: tuple[Notice, ...] = ()
    exact: Fraction | None = None


@dataclass(frozen=True)
class Gathered:
    """What was gathered for one measure: the bucket counts and, if it needs one, its state."""

    counts: Counts
    state: State | None

    def bucket(self, group: int, bucket: int) -> int:
        """Return one bucket's count."""
        return int(self.counts.buckets[group, bucket])


class Measure:
    """The base of the kinds. `column` is None for `rows` alone."""

    kind: ClassVar[str]

    def __init__(self, request: MeasureRequest, column: Column | None) -> None:
        self.request, self.column = request, column

    def wanted(self) -> Wanted | None:
        """Return the cells that the measure uses; None for none."""
        return self._wanted(None)

    def state(self) -> tuple[str, StateFactory] | None:
        """Return a key and a factory for the state that the measure needs; None for none."""
        return None

    def finish(self, gathered: Gathered, group: int) -> Figure:
        """Return the figure of one group."""
        raise NotImplementedError

    def _column(self) -> Column:
        if self.column is None:
            raise RuntimeError(f"{self.kind} needs a column")
        return self.column

    def _wanted(self, kind: Kind | None) -> Wanted:
        keep = self.request.keep
        blanks = Keep.BLANKS in keep and (kind is Kind.NUMBER or self.kind == "distinct")
        return Wanted(self._column(), kind, blanks, Keep.ERRORS in keep)

    def _kept_error(self, gathered: Gathered, group: int) -> Figure | None:
        """Return the figure that a kept error makes of the measure, if one was met."""
        row = int(gathered.counts.first_error[group])
        if row < 0:
            return None
        error = self._column().cell(row)
        return Figure(error, f"the error {error} was kept", (row,))

    def _like_numbers(self, gathered: Gathered) -> tuple[Notice, ...]:
        count = gathered.counts.text_like_numbers
        if not count:
            return ()
        name = self._column().name
        hold = f"{counted(count, 'cell')} {'holds' if count == 1 else 'hold'}"
        return (
            Notice(
                Code.TEXT_LIKE_NUMBERS,
                f"among the matched rows {hold} text in column '{name}' that looks like a "
                "number; text is not used: write it as a number in the source",
                {"cells": count},
            ),
        )


class Rows(Measure):
    """The matched rows."""

    kind = "rows"

    def wanted(self) -> None:
        """No cells are looked at."""

    def finish(self, gathered: Gathered, group: int) -> Figure:
        """Return the count."""
        return Figure(gathered.bucket(group, Bucket.USED))


class Filled(Measure):
    """The cells that hold anything."""

    kind = "filled"

    def finish(self, gathered: Gathered, group: int) -> Figure:
        """Return the count."""
        return Figure(gathered.bucket(group, Bucket.USED))


class Blanks(Measure):
    """The blank cells: the figure is the account's bucket `blank`."""

    kind = "blanks"

    def wanted(self) -> Wanted:
        """Blanks are what is counted and errors spoil no count: `keep` changes nothing."""
        return Wanted(self._column(), None)

    def finish(self, gathered: Gathered, group: int) -> Figure:
        """Return the count."""
        return Figure(gathered.bucket(group, Bucket.BLANK))


class Errors(Blanks):
    """The error cells: the figure is the account's bucket `error`."""

    kind = "errors"

    def finish(self, gathered: Gathered, group: int) -> Figure:
        """Return the count."""
        return Figure(gathered.bucket(group, Bucket.ERROR))


class DistinctValues(Measure):
    """The different values among the cells that hold anything, equal as in matching."""

    kind = "distinct"

    def wanted(self) -> Wanted:
        """A kept blank is one more value; a kept error spoils the figure."""
        return self._wanted(None)

    def state(self) -> tuple[str, StateFactory]:
        """Gather the values seen."""
        wanted = self.wanted()
        return "distinct", lambda groups: Distinct(groups, wanted)

    def finish(self, gathered: Gathered, group: int) -> Figure:
        """Return the count."""
        kept = self._kept_error(gathered, group)
        if kept is not None:
            return kept
        if not isinstance(gathered.state, Distinct):
            raise TypeError("distinct needs the values seen")
        return Figure(int(gathered.state.counts()[group]))


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


class Least(Measure):
    """The smallest number; of a column without numbers the earliest date, or the first text."""

    kind = "min"
    largest: ClassVar[bool] = False

    def wanted(self) -> Wanted:
        """The kind that leads the column. Raises `UnsuitableColumn` for yes/no."""
        column = self._column()
        leading = column.leading
        if leading is Kind.YES_NO:
            raise UnsuitableColumn(
                self.request.words, f"column '{column.name}' holds yes/no, which have no order"
            )
        orderly = leading in (Kind.NUMBER, Kind.DATE, Kind.TEXT)
        return self._wanted(leading if orderly else Kind.NUMBER)

    def state(self) -> tuple[str, StateFactory]:
        """Gather the extreme and its rows."""
        wanted, largest = self.wanted(), self.largest
        return f"extreme {largest}", lambda groups: Extremes(groups, wanted, largest)

    def finish(self, gathered: Gathered, group: int) -> Figure:
        """Return the extreme with its rows."""
        kept = self._kept_error(gathered, group)
        if kept is not None:
            return kept
        notices = self._like_numbers(gathered) if self.wanted().kind is Kind.NUMBER else ()
        state = gathered.state
        if not isinstance(state, Extremes):
            raise TypeError("an extreme needs the extremes")
        best = state.best[group]
        if best is None:
            kind = self.wanted().kind or Kind.NUMBER
            return Figure(None, f"no {_ONE_OF[kind]} was used", (), notices)
        rows = tuple(state.rows[group].tolist())
        if state.found[group] > MOST_ROWS:
            notices += (_many(self.request.words, state.found[group]),)
        return Figure(self._value(best, rows), None, rows, notices)

    def _value(self, stored: int | float, rows: tuple[int, ...]) -> Cell:
        wanted = self.wanted()
        if wanted.kind is Kind.TEXT:
            return self._column().cell(rows[0])
        return wanted.lane.to_cell(stored) if wanted.lane else None  # type: ignore[arg-type]


class Greatest(Least):
    """The largest number; of a column without numbers the latest date, or the last text."""

    kind = "max"
    largest = True


_ONE_OF = {Kind.NUMBER: "number", Kind.DATE: "date", Kind.TEXT: "text"}


def _many(words: str, found: int) -> Notice:
    return Notice(
        Code.MANY_EXTREMES,
        f"{words}: the value stands on {found} rows, of which the first {MOST_ROWS} are listed",
        {"rows": found},
    )


def is_error(value: Cell) -> bool:
    """Tell whether a figure is an error that was kept."""
    return isinstance(value, CellError)


MEASURES: dict[str, type[Measure]] = {
    each.kind: each
    for each in (
        Rows, Numbers, Filled, Blanks, Errors, DistinctValues, Sum, Average, Least, Greatest
    )
}  # fmt: skip
