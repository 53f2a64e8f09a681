"""Order comparisons: `dues > 500`."""

from dataclasses import dataclass
from typing import TYPE_CHECKING

from even_sieve.core.criteria.blocks import Probe
from even_sieve.core.criteria.conditions.asked import NEGATIVE, Test
from even_sieve.core.criteria.conditions.value import more_values, value_here
from even_sieve.core.criteria.operands import (
    Operand,
    Parameter,
    Piece,
    Point,
    Putting,
    Window,
    Writing,
)
from even_sieve.core.criteria.scanner import Scanner
from even_sieve.core.criteria.stored_range import Order
from even_sieve.core.errors import ParameterError

if TYPE_CHECKING:
    from even_sieve.core.criteria.asked_column import AskedColumn


@dataclass(frozen=True)
class Compared(Test):
    """The cell stands in this order to the value."""

    order: Order
    value: Operand

    def settled(self, putting: Putting) -> "Compared | None":
        """Return the test with its value put in. Raises `ParameterError` for several."""
        put = self.value.settled(putting)
        if len(put) > 1:
            name = self.value.name if isinstance(self.value, Parameter) else str(self.value)
            raise ParameterError(name, f"'{self.order}' takes one value, not {len(put)}")
        return Compared(self.order, put[0]) if put else None

    def bind(self, asked: "AskedColumn") -> Probe:
        """Return the probe that the value makes of its order."""
        return asked.suited(self.value).ordered_probe(self.order, asked)

    def write(self, column: str, negated: bool, writing: Writing) -> str:
        """Return `dues > 500`, after `not` if it is denied."""
        text = f"{column} {self.order} {self.value.write_ordered(writing)}"
        return f"not {text}" if negated else text

    def write_in_cell(self, negated: bool, bare: bool, writing: Writing) -> str:
        """Return `> 500`, after `not` if it is denied."""
        return f"{'not ' if negated else ''}{self.order} {self.value.write_ordered(writing)}"

    def say(self, column: str, negated: bool) -> str:
        """Return `dues is above 500`."""
        verb, rest = self.value.say_ordered(self.order)
        return f"{column} {NEGATIVE[verb] if negated else verb} {rest}"

    def pieces(self) -> list[Piece]:
        """Return the half line, for a number or a period."""
        return [self.value.half_line(self.order)] if isinstance(self.value, Point) else []


def read_compared(scanner: Scanner, symbol: str, *, in_cell: bool) -> Compared:
    """Return the order comparison whose value stands here."""
    scanner.skip_space()
    start = scanner.at
    value = value_here(scanner, symbol, in_cell=in_cell)
    if isinstance(value, Window):
        raise scanner.error(f"'{symbol}' takes one value, not a window", at=start)
    if more_values(scanner):
        raise scanner.error(
            f"'{symbol}' takes one value",
            f"Write the comparison again after the bar: … | {symbol} value",
        )
    return Compared(Order(symbol), value)
