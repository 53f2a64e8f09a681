"""Criteria that a parameter holds: `{late}` in the place of a whole condition."""

from dataclasses import dataclass
from typing import TYPE_CHECKING

from even_sieve.core.criteria.blocks import Probe
from even_sieve.core.criteria.conditions.asked import Test
from even_sieve.core.criteria.operands import Writing
from even_sieve.core.criteria.scanner import Scanner

if TYPE_CHECKING:
    from even_sieve.core.criteria.asked_column import AskedColumn


@dataclass(frozen=True)
class Meets(Test):
    """The row meets the criteria that a parameter holds; `column` of its condition is empty."""

    name: str

    def bind(self, asked: "AskedColumn") -> Probe:
        """Raise `TypeError`: its criteria are put in before anything is bound."""
        raise TypeError(f"'{self.name}' was not prepared")

    def write(self, column: str, negated: bool, writing: Writing) -> str:
        """Return the name in braces."""
        return f"{'not ' if negated else ''}{{{self.name}}}"

    def write_in_cell(self, negated: bool, bare: bool, writing: Writing) -> str:
        """Raise `ValueError`: it asks no one column."""
        raise ValueError(f"'{self.write('', negated, writing)}' does not fit into a criteria range")

    def say(self, column: str, negated: bool) -> str:
        """Return `meets 'late'`."""
        return f"{'does not meet' if negated else 'meets'} '{self.name}'"


def read_meets(scanner: Scanner) -> Meets | None:
    """Return the parameter that stands here for a whole condition, if one does."""
    start = scanner.at
    end = scanner.text.find("}", start)
    if not scanner.here("{") or end < 0:
        return None
    name = scanner.text[start + 1 : end].strip()
    scanner.at = end + 1
    scanner.skip_space()
    if name and (scanner.done or scanner.here(")") or scanner.joint_here()):
        return Meets(name)
    scanner.at = start
    return None
