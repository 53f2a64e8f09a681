"""A span of numbers or dates, both ends included."""

from dataclasses import dataclass
from typing import TYPE_CHECKING, TypeAlias

from even_sieve.core.cells import Kind
from even_sieve.core.criteria.operands.number import Number
from even_sieve.core.criteria.operands.operand import Interval, Operand, Piece, Putting, Writing
from even_sieve.core.criteria.operands.parameter import Parameter
from even_sieve.core.criteria.operands.period import NamedPeriod, Period, say_within
from even_sieve.core.criteria.operands.text import Text, is_likely_end
from even_sieve.core.errors import ParameterError

if TYPE_CHECKING:
    from even_sieve.core.criteria.value_list import ValueList

WindowEnd: TypeAlias = Number | Period | NamedPeriod | Parameter | Text | None


@dataclass(frozen=True)
class Window(Operand):
    """A span of numbers or dates, both ends included; None is an open end."""

    low: WindowEnd
    high: WindowEnd

    def write(self, writing: Writing) -> str:
        """Return the ends with two points between them."""
        return f"{_written(self.low, writing)}..{_written(self.high, writing)}"

    def say(self) -> str:
        """Return from where to where it goes."""
        return self.say_equal()[1]

    def say_equal(self) -> tuple[str, str]:
        """Return from where to where it goes; an end without a word is open."""
        low, high = self.low, self.high
        if isinstance(low, Period | NamedPeriod) or isinstance(high, Period | NamedPeriod):
            return "", say_within(low, high)
        if low is None:
            return "is", f"at most {'' if high is None else high.say()}"
        if high is None:
            return "is", f"at least {low.say()}"
        return "is", f"from {low.say()} to {high.say()}, both included"

    @property
    def is_span(self) -> bool:
        """Always."""
        return True

    def settled(self, putting: Putting) -> tuple[Operand, ...]:
        """Return the window with its ends put in; none if both are blank."""
        low, high = _settled(self.low, putting), _settled(self.high, putting)
        return () if low is None and high is None else (Window(low, high),)

    def add_to(self, values: "ValueList") -> None:
        """Ask for the cells from one end to the other."""
        low, high = (values.asked.end(end) for end in (self.low, self.high))
        kinds = {end.kind for end in (low, high) if end is not None}
        if len(kinds) != 1:
            values.remarks.mixed_window(self)
            return
        if _reversed(low, high):
            values.remarks.reversed_window(self)
        values.add_span(kinds.pop(), low, high)

    def piece(self) -> Piece | None:
        """Return the interval from one end to the other, if both are known and of one kind."""
        low, high = self.low, self.high
        if isinstance(low, Number | None) and isinstance(high, Number | None):
            return Interval(Kind.NUMBER, low.value if low else None, high.value if high else None)
        if isinstance(low, Period | None) and isinstance(high, Period | None):
            return Interval(Kind.DATE, low.start if low else None, high.end - 1 if high else None)
        return None


def _written(end: WindowEnd, writing: Writing) -> str:
    if isinstance(end, Text):
        return end.text
    return "" if end is None else end.write(writing)


def _settled(end: WindowEnd, putting: Putting) -> WindowEnd:
    if end is None:
        return None
    put = end.settled(putting)
    if not put:
        return None
    if len(put) == 1 and isinstance(put[0], Number | Period):
        return put[0]
    if len(put) == 1 and isinstance(put[0], Text) and is_likely_end(put[0].text):
        return put[0]
    name = end.name if isinstance(end, Parameter) else "window"
    raise ParameterError(name, "the end of a window is one number or date")


def _reversed(low: Number | Period | None, high: Number | Period | None) -> bool:
    if isinstance(low, Number) and isinstance(high, Number):
        return low.value > high.value
    return isinstance(low, Period) and isinstance(high, Period) and low.start >= high.end
