"""What a condition compares a cell with: a frozen value, as the text gave it.

Each keeps what it means (and compares by that), and how it was spelt, so that it can be
written back and so that a column of text can take a bare `2031-Q1` as text. A kind of value
is one module beside this one.
"""

from abc import ABC, abstractmethod
from dataclasses import dataclass
from decimal import Decimal
from typing import TYPE_CHECKING, Any, ClassVar, Protocol, TypeAlias

from even_sieve.core.cells import Kind
from even_sieve.core.criteria.blocks import Probe
from even_sieve.core.criteria.operands.wildcards import Wild
from even_sieve.core.criteria.stored_range import Order, Ordered, Span, ordered_span, probe_of
from even_sieve.core.table import Column

if TYPE_CHECKING:
    from even_sieve.core.criteria.asked_column import AskedColumn
    from even_sieve.core.criteria.operands.parameter import Parameter
    from even_sieve.core.criteria.operands.period import NamedPeriod
    from even_sieve.core.criteria.value_list import ValueList


class Writing(Protocol):
    """How values are written back: in a condition, or in a cell of a criteria range."""

    def reads_back(self, text: str, values: "tuple[Operand, ...]") -> bool:
        """Tell whether the text, after an equal sign, is read as these values."""

    def seems_otherwise(self, text: str) -> bool:
        """Tell whether a text without quotes may be meant as something else, and refused."""


class Putting(Protocol):
    """What is put in the place of parameters and of periods that hang on a date."""

    def put(self, parameter: "Parameter") -> tuple["Operand", ...]:
        """Return the values a parameter is set to; none if it is blank."""

    def period(self, named: "NamedPeriod") -> "Operand":
        """Return the days that a named period means."""


@dataclass(frozen=True)
class Interval:
    """Numbers, or moments, from `low` to `high`, the ends in or out; None is open."""

    kind: Kind
    low: Decimal | int | None
    high: Decimal | int | None
    low_in: bool = True
    high_in: bool = True


#: What values come to where one condition is held against another: a folded text, a
#: pattern, an interval.
Piece: TypeAlias = str | tuple[str | Wild, ...] | Interval


class Operand(ABC):
    """A value of a condition."""

    #: The verb and the words of each order, before the value.
    orders: ClassVar[dict[Order, str]] = {
        Order.LESS: "below",
        Order.AT_MOST: "at most",
        Order.MORE: "above",
        Order.AT_LEAST: "at least",
    }
    ordered_verb: ClassVar[str] = "is"

    @abstractmethod
    def write(self, writing: Writing) -> str:
        """Return the value as it stands in a condition."""

    def write_ordered(self, writing: Writing) -> str:
        """Return the value as it stands after an order comparison."""
        return self.write(writing)

    @abstractmethod
    def say(self) -> str:
        """Return the value in plain English."""

    def say_equal(self) -> tuple[str, str]:
        """Return the verb and the rest of what it is to equal the value, or to lie in it."""
        return "is", self.say()

    def say_ordered(self, order: Order) -> tuple[str, str]:
        """Return the verb and the rest of what it is to stand in this order to the value."""
        return self.ordered_verb, f"{self.orders[order]} {self.say()}"

    @property
    def is_span(self) -> bool:
        """Whether it is a window, or a period longer than a day."""
        return False

    def settled(self, putting: Putting) -> tuple["Operand", ...]:
        """Return what it is when parameters and named periods are put in; none if blank."""
        return (self,)

    def suited(self, column: Column) -> "Operand":
        """Return the value as the column takes it."""
        return self

    def add_to(self, values: "ValueList") -> None:
        """Add the value to those that a column is asked for at once.

        A remark is made where it can match nothing.
        """
        raise TypeError(f"{self!r} was not prepared")

    def ordered_probe(self, order: Order, asked: "AskedColumn") -> Probe:
        """Return the probe for the cells that stand in this order to the value."""
        return asked.nothing(Kind.TEXT, self)

    def piece(self) -> Piece | None:
        """Return what it comes to beside another condition; None if that is not known."""
        return None


class Point(Operand):
    """A number or a period: what has a place in an order of stored values."""

    kind: ClassVar[Kind]
    text: str

    @abstractmethod
    def first(self, lane: Ordered) -> Any:
        """Return the least of what a lane stores for the cells that equal it."""

    @abstractmethod
    def last(self, lane: Ordered) -> Any:
        """Return the greatest of what a lane stores for the cells that equal it."""

    @abstractmethod
    def interval(self) -> Interval:
        """Return the numbers or moments that equal it."""

    def add_to(self, values: "ValueList") -> None:
        """Ask for the cells that equal it."""
        values.add_span(self.kind, self, self)

    def ordered_probe(self, order: Order, asked: "AskedColumn") -> Probe:
        """Return the probe for the cells of its own kind alone."""
        lane = asked.column.lanes.get(self.kind)
        if not isinstance(lane, Ordered):
            return asked.nothing(self.kind, self)
        asked.remarks.text_beside(self.kind)
        span = ordered_span(order, Span(self.first(lane), self.last(lane)))
        return asked.column_probe(self.kind, probe_of(lane, span))

    def piece(self) -> Piece | None:
        """Return the interval that equals it."""
        return self.interval()

    def half_line(self, order: Order) -> Interval:
        """Return the numbers or moments that stand in this order to it."""
        own = self.interval()
        return {
            Order.LESS: Interval(self.kind, None, own.low, high_in=False),
            Order.AT_MOST: Interval(self.kind, None, own.high),
            Order.MORE: Interval(self.kind, own.high, None, low_in=False),
            Order.AT_LEAST: Interval(self.kind, own.low, None),
        }[order]
