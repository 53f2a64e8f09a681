"""The smallest and the largest value with the rows that hold them, and what lies between."""

from functools import cached_property
from typing import ClassVar

from even_sieve.core.cells import Cell, Kind
from even_sieve.core.measures.arithmetic import Numeric
from even_sieve.core.measures.best import Extremes
from even_sieve.core.measures.cell_filter import CellFilter
from even_sieve.core.measures.first_rows import MOST_ROWS
from even_sieve.core.measures.many import apart, to_exact, where
from even_sieve.core.measures.measure import Figure, Gathered, Measure, Need
from even_sieve.core.measures.quotients import quotients
from even_sieve.core.measures.rounding import TOO_LARGE, to_double
from even_sieve.core.notices import Code, Notice, times_words
from even_sieve.core.table.how_to_read import date_by_letters, option_for_dates
from even_sieve.core.table.keys import cells_of
from even_sieve.core.table.lanes import Array, FixedLane, FloatLane, TextLane

#: Whole numbers below have differences that are int64.
_ROOM = 2**62


class Ordered(Measure):
    """A measure of the kind that leads a column: numbers if it holds any, else dates, else text."""

    #: Whether yes/no can be told apart by it, though they have no order.
    takes_yes_no: ClassVar[bool] = False
    #: Whether its figure hangs on the order of the values.
    has_order: ClassVar[bool] = True

    def cell_filter(self) -> CellFilter:
        """The kind that leads the column. Raises `UnsuitableColumn` for yes/no."""
        leading = self._column().leading
        if leading is Kind.YES_NO and not self.takes_yes_no:
            raise self._unsuitable("holds yes/no, which have no order")
        orderly = leading in (Kind.NUMBER, Kind.DATE, Kind.TEXT, Kind.YES_NO)
        return self._filter(leading if orderly else Kind.NUMBER)

    @property
    def _kind(self) -> Kind:
        """The kind of the values that are used."""
        kind = None if self.cells is None else self.cells.kind
        return Kind.NUMBER if kind is None else kind

    def _many(self, found: int) -> tuple[Notice, ...]:
        """Return a notice if a value stands on more rows than are listed."""
        if found <= MOST_ROWS:
            return ()
        text = (
            f"{self.request.words}: the value stands on {found} rows, of which the first "
            f"{MOST_ROWS} are listed"
        )
        return (Notice(Code.MANY_EXTREMES, text, {"rows": found}),)

    def _listed(self, rows: list[tuple[int, ...]], found: Array) -> list[tuple[int, ...] | None]:
        """Return the rows of many groups, None where more were found than are listed."""
        pairs = zip(rows, (found > MOST_ROWS).tolist(), strict=True)
        return [None if more else own for own, more in pairs]

    def _like(self, gathered: Gathered) -> tuple[Notice, ...]:
        if self._kind is Kind.TEXT and self.has_order:
            return self._by_letters
        return self._like_numbers(gathered) if self._kind is Kind.NUMBER else ()

    @cached_property
    def _by_letters(self) -> tuple[Notice, ...]:
        """The notice on times and dates that are texts, where letters put them in another order."""
        column = self._column()
        pair = column.times_out_of_order()
        if pair is not None:
            text = f"{self.request.words}: {times_words(column.name, pair)}"
            return (Notice(Code.COMPARED_AS_TEXT, text),)
        told = any(notice.code is Code.TEXT_LIKE_DATES for notice in column.notices)
        example = "" if told else date_by_letters(column)
        if not example:
            return ()
        option = option_for_dates(column)
        text = (
            f"{self.request.words}: column '{column.name}' holds text that looks like dates, such "
            f"as '{example}', and is put in order letter by letter"
        )
        return (Notice(Code.COMPARED_AS_TEXT, f"{text}: see {option}" if option else text),)


def _extreme(used: CellFilter, largest: bool) -> Need:
    """Return what gathers an extreme: whether texts wait is looked up once, for all threads."""
    lane = used.lane
    waiting = lane.of_rows if isinstance(lane, TextLane) else None
    return Need(f"extreme {largest}", lambda groups, _: Extremes(groups, used, largest, waiting))


class Least(Ordered):
    """The smallest number; of a column without numbers the earliest date, or the first text."""

    kind = "min"
    largest: ClassVar[bool] = False

    def needs(self) -> tuple[Need, ...]:
        """Gather the extreme and its rows."""
        return (_extreme(self.cell_filter(), self.largest),)

    def finish(self, gathered: Gathered, group: int) -> Figure:
        """Return the extreme with its rows."""
        kept = self._kept_error(gathered, group)
        if kept is not None:
            return kept
        state = gathered.state(f"extreme {self.largest}", Extremes)
        found = int(state.found[group])
        if not found:
            return self._nothing(gathered, self._kind)
        notices = self._like(gathered) + self._many(found)
        rows, lane = state.rows(group), self._lane()
        if isinstance(lane, TextLane):
            return Figure(self._column().cell(rows[0]), None, rows, notices)
        return Figure(lane.to_cell(state.best[group].item()), None, rows, notices)

    def _at_once(self, gathered: Gathered, groups: Array) -> list[Cell]:
        state = gathered.state(f"extreme {self.largest}", Extremes)
        return where(state.found[groups] > 0, lambda own: self._cells_of(state, groups[own]))

    def _rows_at_once(self, gathered: Gathered, groups: Array) -> list[tuple[int, ...] | None]:
        """Return the rows that hold the extremes of many groups."""
        state = gathered.state(f"extreme {self.largest}", Extremes)
        return self._listed(state.rows_of_many(groups), state.found[groups])

    def _cells_of(self, state: Extremes, groups: Array) -> list[Cell]:
        """Return the extremes of groups that have one; texts as they are first spelt."""
        if not len(groups):
            return []
        lane = self._lane()
        if isinstance(lane, TextLane):
            return [*self._column().cells(state.firsts(groups).tolist())]
        return cells_of(lane, state.best[groups])


class Greatest(Least):
    """The largest number; of a column without numbers the latest date, or the last text."""

    kind = "max"
    largest = True


class Range(Numeric):
    """The largest number less the smallest."""

    kind = "range"
    no_dates = "a range is a difference of numbers"

    def needs(self) -> tuple[Need, ...]:
        """Gather both extremes."""
        used = self.cell_filter()
        return _extreme(used, False), _extreme(used, True)

    def finish(self, gathered: Gathered, group: int) -> Figure:
        """Return the difference, with the rows of both extremes."""
        kept = self._kept_error(gathered, group)
        if kept is not None:
            return kept
        least, most = (gathered.state(f"extreme {largest}", Extremes) for largest in (False, True))
        if not least.found[group]:
            return self._no_number(gathered)
        lane = self._lane()
        exact = to_exact(lane, most.best[group].item()) - to_exact(lane, least.best[group].item())
        value = int(exact) if self._in_whole_numbers() else to_double(exact)
        every = {row for state in (least, most) for row in state.rows(group)}
        rows, notices = tuple(sorted(every)), self._notices(gathered)
        return Figure(value, TOO_LARGE if value is None else None, rows, notices, exact)

    def _at_once(self, gathered: Gathered, groups: Array) -> list[Cell]:
        least, most = (gathered.state(f"extreme {largest}", Extremes) for largest in (False, True))

        def cells(own: Array) -> list[Cell]:
            if not len(own):
                return []
            lane, low, high = self._lane(), least.best[groups[own]], most.best[groups[own]]
            if isinstance(lane, FixedLane) and lane.bound < _ROOM:
                whole = high - low
                return cells_of(lane, whole) if not lane.scale else quotients(whole, 10**lane.scale)
            if isinstance(lane, FloatLane):
                return apart(lane, low, high)
            pairs = zip(low.tolist(), high.tolist(), strict=True)
            exact = [to_exact(lane, last) - to_exact(lane, first) for first, last in pairs]
            return [int(each) if self._in_whole_numbers() else to_double(each) for each in exact]

        return where(least.found[groups] > 0, cells)

    def _rows_at_once(self, gathered: Gathered, groups: Array) -> list[tuple[int, ...] | None]:
        """Return the rows that hold either extreme of many groups."""
        ends = (gathered.state(f"extreme {each}", Extremes) for each in (False, True))
        pairs = zip(*(each.rows_of_many(groups) for each in ends), strict=True)
        return [tuple(sorted({*low, *high})) for low, high in pairs]
