"""The cell of another column in the same row."""

from dataclasses import dataclass
from typing import TYPE_CHECKING

from even_sieve.core.cells.quoting import quoted
from even_sieve.core.criteria.blocks import Probe
from even_sieve.core.criteria.operands.operand import Operand, Writing
from even_sieve.core.criteria.stored_range import Order

if TYPE_CHECKING:
    from even_sieve.core.criteria.asked_column import AskedColumn
    from even_sieve.core.criteria.value_list import ValueList


@dataclass(frozen=True)
class OtherColumn(Operand):
    """The cell of another column in the same row: `@name`."""

    name: str

    def write(self, writing: Writing) -> str:
        """Return the name after an `@`, in quotes where it could be read otherwise."""
        plain = all(each.isalnum() or each in " _-.#" for each in self.name)
        words = {word.lower() for word in self.name.split()}
        if plain and self.name == self.name.strip() and not words & {"and", "or"}:
            return f"@{self.name}"
        return f"@{quoted(self.name)}"

    def say(self) -> str:
        """Return whose cell it is."""
        return f"the {self.name} of the same row"

    def add_to(self, values: "ValueList") -> None:
        """Ask for the rows whose cell in the other column is equal."""
        values.others.append(values.asked.pairwise(self.name, "="))

    def ordered_probe(self, order: Order, asked: "AskedColumn") -> Probe:
        """Return the probe that compares the two columns, kind by kind."""
        return asked.pairwise(self.name, order.value)
