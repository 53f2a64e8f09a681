"""The value that a person sets under a name."""

from dataclasses import dataclass

from even_sieve.core.criteria.operands.operand import Operand, Putting, Writing


@dataclass(frozen=True)
class Parameter(Operand):
    """The value that a person sets under this name: `{name}`."""

    name: str

    def write(self, writing: Writing) -> str:
        """Return the name in braces."""
        return self.braced

    @property
    def braced(self) -> str:
        """The name in braces."""
        return f"{{{self.name}}}"

    def say(self) -> str:
        """Return that it is a value to be set."""
        return f"the value of {self.braced}"

    def settled(self, putting: Putting) -> tuple[Operand, ...]:
        """Return the values it is set to; none if it is blank."""
        return putting.put(self)
