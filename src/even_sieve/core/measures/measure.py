"""What every measure has in common: the cells it wants, the state it needs, its figure.

Measures that want the same cells and the same state share them.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from fractions import Fraction
from functools import cached_property
from typing import Any, ClassVar, TypeVar

from even_sieve.core.cells import Cell, CellError, Kind
from even_sieve.core.errors import UnsuitableColumn
from even_sieve.core.measures.cell_filter import Bucket, CellFilter
from even_sieve.core.measures.ranked import Target
from even_sieve.core.measures.request import Keep, MeasureRequest
from even_sieve.core.measures.states import Counts, State
from even_sieve.core.notices import Code, Notice, counted
from even_sieve.core.table import Column
from even_sieve.core.table.how_to_read import how_to_read
from even_sieve.core.table.lanes import Array, Lane

#: What one cell of a kind is called.
ONE_OF = {
    Kind.NUMBER: "number", Kind.DATE: "date", Kind.TEXT: "text", Kind.YES_NO: "yes/no",
}  # fmt: skip
_AnyState = TypeVar("_AnyState")


@dataclass(frozen=True)
class Need:
    """A state that a measure needs: its name, what begins it, and the ranks it is to find.

    Measures of the same cells that need a state of the same name share it. A light one stands
    where long arrays do, and takes no memory of its own however many groups there are.
    """

    name: str
    begin: Callable[[int, tuple[Target, ...]], State]
    targets: tuple[Target, ...] = ()
    light: bool = False


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
    """What was gathered for one measure: the bucket counts and the states that it needs.

    `whole` is what was gathered of the whole that a share is taken of.
    """

    counts: Counts
    states: Mapping[str, State]
    whole: "Gathered | None" = None

    def within(self, group: int) -> tuple["Gathered", int]:
        """Return what holds the states of a group, and the group's number in it."""
        return self, group

    def bucket(self, group: int, bucket: int) -> int:
        """Return one bucket's count."""
        return int(self.counts.buckets[group, bucket])

    def used(self, group: int) -> int:
        """Return how many cells of the group are used."""
        return self.bucket(group, Bucket.USED)

    def state(self, name: str, kind: type[_AnyState]) -> _AnyState:
        """Return a state by its name. Raises `TypeError` if it is of another sort."""
        found = self.states[name]
        if not isinstance(found, kind):
            raise TypeError(f"the state '{name}' is a {type(found).__name__}")
        return found


#: Every kind of measure by its name: a class with a `kind` is one as soon as it is written.
MEASURES: dict[str, type["Measure"]] = {}


class Measure:
    """The base of the kinds. `column` is None for `rows` alone; `weight` where none is taken."""

    kind: ClassVar[str]
    #: Whether all that is said beside a value, if it is there and not 0, is the same of every
    #: group: its notices are, and no rows gave it.
    says_alike: ClassVar[bool] = False

    def __init_subclass__(cls) -> None:
        if "kind" in vars(cls):
            MEASURES[cls.kind] = cls

    def __init__(
        self, request: MeasureRequest, column: Column | None, weight: Column | None = None
    ) -> None:
        self.request, self.column, self.weight = request, column, weight

    @cached_property
    def cells(self) -> CellFilter | None:
        """The cells that the measure uses, worked out once."""
        return self.cell_filter()

    def cell_filter(self) -> CellFilter | None:
        """Return the cells that the measure uses; None for none."""
        return self._filter(None)

    def needs(self) -> tuple[Need, ...]:
        """Return the states that the measure needs."""
        return ()

    def finish(self, gathered: Gathered, group: int) -> Figure:
        """Return the figure of one group."""
        raise NotImplementedError

    def values(self, gathered: Gathered, groups: Array) -> list[Cell]:
        """Return the values of the figures of many groups (int64, shape (n,))."""
        wrong = gathered.counts.first_error[groups] >= 0
        some = groups[~wrong] if wrong.any() else groups
        found = self._at_once(gathered, some)
        if found is None:
            return [self.finish(gathered, group).value for group in groups.tolist()]
        if some is groups:
            return found
        others = iter(found)
        alone = (self.finish(gathered, group).value for group in groups[wrong].tolist())
        return [next(alone if each else others) for each in wrong.tolist()]

    def _at_once(self, gathered: Gathered, groups: Array) -> list[Cell] | None:
        """Return the values of groups without a kept error; None: each is to be finished alone."""

    def rows_of(self, gathered: Gathered, groups: Array) -> list[tuple[int, ...] | None] | None:
        """Return the rows that gave the figures of many groups (int64, shape (n,)), by position.

        None for a group of whose figure, if it is there and not 0, more is said than the value
        and these rows; None where that may be so of all.
        """
        if self.says_alike:
            return [()] * len(groups)
        wrong = gathered.counts.first_error[groups] >= 0
        found = self._rows_at_once(gathered, groups[~wrong])
        if found is None or not wrong.any():
            return found
        others = iter(found)
        return [None if each else next(others) for each in wrong.tolist()]

    def _rows_at_once(
        self, gathered: Gathered, groups: Array
    ) -> list[tuple[int, ...] | None] | None:
        """Return the rows, as `rows_of` does, of groups without a kept error."""

    def _column(self) -> Column:
        if self.column is None:
            raise RuntimeError(f"{self.kind} needs a column")
        return self.column

    def _lane(self) -> Lane:
        """Return the lane of the used values, once a cell was used."""
        lane = None if self.cells is None else self.cells.lane
        if lane is None:
            raise RuntimeError(f"{self.kind} needs cells of one kind")
        return lane

    def _filter(self, kind: Kind | None) -> CellFilter:
        keep = self.request.keep
        blanks = Keep.BLANKS in keep and kind is Kind.NUMBER
        return CellFilter(self._column(), kind, blanks, Keep.ERRORS in keep, self.weight)

    def _kept_error(self, gathered: Gathered, group: int) -> Figure | None:
        """Return the figure that a kept error makes of the measure, if one was met."""
        row = int(gathered.counts.first_error[group])
        if row < 0:
            return None
        error = self._column().cell(row)
        if not is_error(error) and self.weight is not None:
            error = self.weight.cell(row)
        return Figure(error, f"the error {error} was kept", (row,))

    def _nothing(self, gathered: Gathered, kind: Kind = Kind.NUMBER) -> Figure:
        """Return the figure where no cell was used, with the reason."""
        notices = self._like_numbers(gathered) if kind is Kind.NUMBER else ()
        return Figure(None, f"no {ONE_OF[kind]} was used", (), notices)

    def _unsuitable(self, fact: str, hint: str = "") -> UnsuitableColumn:
        """Return the refusal of a column: `fact` goes on after its name."""
        return UnsuitableColumn(self.request.words, f"column '{self._column().name}' {fact}", hint)

    def _like_numbers(self, gathered: Gathered) -> tuple[Notice, ...]:
        count = gathered.counts.text_like_numbers
        if not count:
            return ()
        columns = [each for each in (self.column, self.weight) if each]
        names = " and ".join(f"'{each.name}'" for each in columns)
        place = f"column{'s' if self.weight else ''} {names}"
        hold = f"{counted(count, 'cell')} {'holds' if count == 1 else 'hold'}"
        return (
            Notice(
                Code.TEXT_LIKE_NUMBERS,
                f"among the matched rows {hold} text in {place} that looks like a "
                f"number; text is not used: {how_to_read(columns)}",
                {"cells": count},
            ),
        )


def counts_of(gathered: Gathered, groups: Array, bucket: int = Bucket.USED) -> list[Any]:
    """Return a bucket's counts of many groups."""
    counts: list[Any] = gathered.counts.buckets[groups, bucket].tolist()
    return counts


def is_error(value: Cell) -> bool:
    """Tell whether a figure is an error that was kept."""
    return isinstance(value, CellError)
