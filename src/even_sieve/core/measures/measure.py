"""What every measure has in common: the cells it wants, the state it needs, its figure.

Measures that want the same cells and the same state share them.
"""

from collections.abc import Callable
from dataclasses import dataclass
from fractions import Fraction
from typing import ClassVar

from even_sieve.core.cells import Cell, CellError, Kind
from even_sieve.core.measures.cells import Wanted
from even_sieve.core.measures.request import Keep, MeasureRequest
from even_sieve.core.measures.states import Counts, State
from even_sieve.core.notices import Code, Notice, counted
from even_sieve.core.table import Column

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


def is_error(value: Cell) -> bool:
    """Tell whether a figure is an error that was kept."""
    return isinstance(value, CellError)
