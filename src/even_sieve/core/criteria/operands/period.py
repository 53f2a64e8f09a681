"""Spans of time: known ones, and those that hang on the as-of date or the fiscal year."""

from dataclasses import dataclass, field
from typing import Any, ClassVar

from even_sieve.core.cells import Kind, read_date
from even_sieve.core.cells.dates import DAY
from even_sieve.core.criteria.operands.moments import say_moment
from even_sieve.core.criteria.operands.operand import (
    Interval,
    Operand,
    Point,
    Putting,
    Writing,
)
from even_sieve.core.criteria.operands.text import Text
from even_sieve.core.criteria.stored_range import Order, Ordered
from even_sieve.core.table import Column
from even_sieve.core.table.lanes import DateLane

_ORDERS = {
    Order.LESS: "before",
    Order.AT_MOST: "no later than the end of",
    Order.MORE: "after",
    Order.AT_LEAST: "on or after",
}


@dataclass(frozen=True)
class Period(Point):
    """A span of time from `start` up to, not including, `end`: microseconds since 1970.

    A day is the whole day; a date with a time is the one microsecond.
    """

    start: int
    end: int
    text: str = field(compare=False, default="")
    kind: ClassVar[Kind] = Kind.DATE
    orders: ClassVar[dict[Order, str]] = _ORDERS

    def write(self, writing: Writing) -> str:
        """Return the period as it was spelt."""
        return self.text

    @property
    def first_words(self) -> str:
        """Its first day or moment, in words."""
        return say_moment(self.start)

    @property
    def last_words(self) -> str:
        """Its last day or moment, in words."""
        return say_moment(self.end - DAY if self.end % DAY == 0 else self.end - 1)

    def say(self) -> str:
        """Return its day, or its first and last."""
        if self.end - self.start <= DAY:
            return self.first_words
        return f"{self.first_words} to {self.last_words}"

    def say_equal(self) -> tuple[str, str]:
        """Return the days that it spans."""
        return "", say_within(self, self)

    def say_ordered(self, order: Order) -> tuple[str, str]:
        """Return the order, without an end where it is one moment."""
        verb, rest = super().say_ordered(order)
        return verb, rest.replace(" the end of", "", 1) if self.end - self.start == 1 else rest

    @property
    def is_span(self) -> bool:
        """Whether it is longer than a day."""
        return self.end - self.start > DAY

    def suited(self, column: Column) -> Operand:
        """Return text where the column holds texts and no dates; an ISO date is always a date."""
        if Kind.DATE in column.counts or Kind.TEXT not in column.counts or read_date(self.text):
            return self
        return Text(self.text)

    def first(self, lane: Ordered) -> Any:
        """Return its first microsecond, or its first whole day."""
        return self.start if _in_micros(lane) else -(-self.start // DAY)

    def last(self, lane: Ordered) -> Any:
        """Return its last microsecond, or its last whole day."""
        return self.end - 1 if _in_micros(lane) else (self.end - 1) // DAY

    def interval(self) -> Interval:
        """Return its moments."""
        return Interval(self.kind, self.start, self.end - 1)


def _in_micros(lane: Ordered) -> bool:
    return isinstance(lane, DateLane) and lane.has_time


@dataclass(frozen=True)
class NamedPeriod(Operand):
    """A period that hangs on the as-of date or the fiscal year: `last 30 days`, `FY2031`."""

    name: str
    orders: ClassVar[dict[Order, str]] = _ORDERS

    @property
    def text(self) -> str:
        """The name as it was spelt."""
        return self.name

    def write(self, writing: Writing) -> str:
        """Return its name."""
        return self.name

    def say(self) -> str:
        """Return its name as a name."""
        return f"the period '{self.name}'"

    def say_equal(self) -> tuple[str, str]:
        """Return that it is the span."""
        return "", say_within(self, self)

    @property
    def is_span(self) -> bool:
        """Always: even `today` is known as a span."""
        return True

    def settled(self, putting: Putting) -> tuple[Operand, ...]:
        """Return the days that it means."""
        return (putting.period(self),)


def say_within(low: Operand | None, high: Operand | None) -> str:
    """Return a span of dates: `from 1 January 2031 to 31 March 2031, both days included`."""
    if low is high and isinstance(low, NamedPeriod):
        return f"in the period '{low.name}'"
    first = low.first_words if isinstance(low, Period) else low.say() if low else ""
    last = high.last_words if isinstance(high, Period) else high.say() if high else ""
    if not first:
        return f"up to {last}, that day included"
    if not last:
        return f"from {first} on, that day included"
    return f"on {first}" if first == last else f"from {first} to {last}, both days included"
