"""Groups of an axis: plain records, from which criteria that hold for their rows are made.

They are made when they are asked for: most lines are only shown.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from decimal import Decimal
from typing import Protocol

import numpy as np

from even_sieve.core.cells import Cell, CellError
from even_sieve.core.criteria import Criteria, all_of, any_of
from even_sieve.core.criteria.conditions import Compared, Holding, Holds, OneOf, Order
from even_sieve.core.criteria.nodes import Condition, negated
from even_sieve.core.criteria.operands import Number, Period
from even_sieve.core.criteria.settings import operand_of
from even_sieve.core.lazy import Anew
from even_sieve.core.table.arrays import pick
from even_sieve.core.table.lanes import Array, narrowest


class Group(Protocol):
    """What the rows of a group share: a key to show, and criteria that hold for them alone."""

    @property
    def key(self) -> Cell:
        """The value, or the label, that stands for the group."""

    @property
    def criteria(self) -> Criteria:
        """Criteria that hold for the rows of the group alone."""

    @property
    def error(self) -> tuple[str, str] | None:
        """The column and the token of its errors: criteria cannot tell one from another."""


@dataclass(frozen=True)
class ValueGroup:
    """The rows that hold one value of a column.

    >>> from even_sieve.core.criteria import write_criteria
    >>> write_criteria(ValueGroup("zone", "Outer").criteria)
    'zone = Outer'
    """

    column: str
    key: Cell

    @property
    def criteria(self) -> Criteria:
        """The column is equal to the value, blank, or an error."""
        if self.error is not None:
            return Condition(self.column, Holds(Holding.ERROR))
        operand = operand_of(self.key)  # type: ignore[arg-type]
        test = Holds(Holding.BLANK) if operand is None else OneOf((operand,))
        return Condition(self.column, test)

    @property
    def error(self) -> tuple[str, str] | None:
        """The column and the token of its errors, where the value is one."""
        return (self.column, self.key.token) if isinstance(self.key, CellError) else None


def errors_together(
    keys: Sequence[Cell], codes: Array, values: int
) -> tuple[Sequence[Cell], Array]:
    """Return keys, and the codes of rows for them, with one for the errors of each token.

    The first `values` keys are none. Where reasons differ, the one for all of them has none.

    >>> lost = [CellError("not found", f"no berth {berth}") for berth in (7, 8)]
    >>> keys, codes = errors_together(["Inner", *lost, None], np.array([0, 1, 2, 3]), 1)
    >>> keys[1], codes.tolist()
    (CellError(token='not found', reason=''), [0, 1, 1, 2])
    """
    last = keys[values:]
    errors = [each for each in last if isinstance(each, CellError)]
    if len({each.token for each in errors}) == len(errors):
        return keys, codes
    kept: dict[str, Cell] = {}
    for each in errors:
        alike = kept.get(each.token, each) == each
        kept[each.token] = each if alike else CellError(each.token)
    places = {token: values + place for place, token in enumerate(kept)}
    number = np.arange(len(keys), dtype=narrowest(len(keys)))
    for place, cell in enumerate(last, values):
        number[place] = places[cell.token] if isinstance(cell, CellError) else values + len(kept)
    blank = [None] if None in last else []
    return [*keys[:values], *kept.values(), *blank], pick(number, codes)


@dataclass(frozen=True)
class ValueGroups(Anew[Group]):
    """A group for each of many values of a column, made when it is asked for.

    >>> ValueGroups("zone", ("Inner", "Outer"))[1]
    ValueGroup(column='zone', key='Outer')
    """

    column: str
    keys: Sequence[Cell]

    def __len__(self) -> int:
        return len(self.keys)

    def _at(self, place: int) -> Group:
        return ValueGroup(self.column, self.keys[place])


@dataclass(frozen=True)
class PeriodGroup:
    """The rows whose date lies in a period; its text is the label."""

    column: str
    period: Period
    error: None = None

    @property
    def key(self) -> str:
        """The label of the period."""
        return self.period.text

    @property
    def criteria(self) -> Criteria:
        """The column lies in the period."""
        return Condition(self.column, OneOf((self.period,)))


@dataclass(frozen=True)
class BandGroup:
    """The rows whose number is at least `low` and below `high`; None is an open end."""

    column: str
    low: Decimal | None
    high: Decimal | None
    error: None = None

    @property
    def key(self) -> str:
        """The band in words."""
        if self.low is None:
            return f"below {self.high:,f}"
        return (
            f"{self.low:,f} and above"
            if self.high is None
            else f"{self.low:,f} to below {self.high:,f}"
        )

    @property
    def criteria(self) -> Criteria:
        """The column lies in the band."""
        ends = ((Order.AT_LEAST, self.low), (Order.LESS, self.high))
        return all_of(
            Condition(self.column, Compared(order, Number(end, f"{end:f}")))
            for order, end in ends
            if end is not None
        )


@dataclass(frozen=True)
class LabelGroup:
    """The rows that a label takes: its own test holds, and none of those before it."""

    key: str
    tests: tuple[Criteria, ...]
    position: int
    error: None = None

    @property
    def criteria(self) -> Criteria:
        """The label's own test holds, and none of those before it; for the rest, none at all."""
        if self.position == len(self.tests):
            return negated(any_of(self.tests))
        return all_of([self.tests[self.position], *map(negated, self.tests[: self.position])])


@dataclass(frozen=True)
class OthersGroup:
    """The rows of all groups but the ones that were chosen."""

    key: str
    chosen: tuple[Group, ...]
    error: None = None

    @property
    def criteria(self) -> Criteria:
        """None of the chosen groups has the row."""
        return negated(any_of(criteria_of(self.chosen)))


def criteria_of(groups: Iterable[Group]) -> list[Criteria]:
    """Return the criteria of each group."""
    return [group.criteria for group in groups]
