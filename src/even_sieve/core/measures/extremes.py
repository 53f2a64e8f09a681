"""The smallest and the largest value, and the rows that hold them."""

from typing import ClassVar

from even_sieve.core.cells import Cell, Kind
from even_sieve.core.errors import UnsuitableColumn
from even_sieve.core.measures.cells import Wanted
from even_sieve.core.measures.measure import Figure, Gathered, Measure, StateFactory
from even_sieve.core.measures.states import MOST_ROWS, Extremes
from even_sieve.core.notices import Code, Notice


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
