"""A bare `yes`, `no`, `true` or `false`."""

from dataclasses import dataclass, field
from typing import TYPE_CHECKING, ClassVar

from even_sieve.core.cells import Kind
from even_sieve.core.criteria.operands.operand import Operand, Writing
from even_sieve.core.criteria.operands.text import TEXT_ORDERS, Text, say_text
from even_sieve.core.criteria.stored_range import Order
from even_sieve.core.table import Column

if TYPE_CHECKING:
    from even_sieve.core.criteria.value_list import ValueList

YES_NO = {"yes": True, "true": True, "no": False, "false": False}


@dataclass(frozen=True)
class YesNo(Operand):
    """A bare `yes`, `no`, `true` or `false`: yes/no where the column holds such, else text."""

    value: bool
    text: str = field(compare=False, default="")
    orders: ClassVar[dict[Order, str]] = TEXT_ORDERS
    ordered_verb: ClassVar[str] = "comes"

    def write(self, writing: Writing) -> str:
        """Return the word that was written."""
        return self.text

    def say(self) -> str:
        """Return the word that was written."""
        return say_text(self.text)

    def suited(self, column: Column) -> Operand:
        """Return the word as a text where the column holds no yes/no."""
        return self if Kind.YES_NO in column.counts else Text(self.text, bare=True)

    def add_to(self, values: "ValueList") -> None:
        """Ask for the one or the other."""
        values.yes_no.add(self.value)
