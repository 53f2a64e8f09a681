"""What a condition asks of a cell: one kind of test is one module beside this one."""

from abc import ABC, abstractmethod
from typing import TYPE_CHECKING, ClassVar

from even_sieve.core.criteria.blocks import Probe
from even_sieve.core.criteria.operands import Piece, Putting, Writing

if TYPE_CHECKING:
    from even_sieve.core.criteria.asked_column import AskedColumn

#: How a verb is denied.
NEGATIVE: dict[str, str] = {
    "": "not",
    "is": "is not",
    "comes": "does not come",
    "begins with": "does not begin with",
    "ends with": "does not end with",
    "contains": "does not contain",
    "reads": "does not read",
}


class Test(ABC):
    """What is asked of the cells of one column."""

    #: Not to be collected as a test of this package.
    __test__: ClassVar[bool] = False

    def settled(self, putting: Putting) -> "Test | None":
        """Return the test with parameters and named periods put in; None if they are blank."""
        return self

    def beginning(self, count: int) -> "Test":
        """Return a test that is written as this one begins, with so many of its values."""
        return self

    @abstractmethod
    def bind(self, asked: "AskedColumn") -> Probe:
        """Return the probe for the column, with remarks on what cannot match."""

    @abstractmethod
    def write(self, column: str, negated: bool, writing: Writing) -> str:
        """Return the condition as text, after a column's name as it is written."""

    @abstractmethod
    def write_in_cell(self, negated: bool, bare: bool, writing: Writing) -> str:
        """Return the test as it stands in a cell; a bare one needs no equal sign."""

    @abstractmethod
    def say(self, column: str, negated: bool) -> str:
        """Return the condition in plain English."""

    def pieces(self) -> list[Piece]:
        """Return what cells it holds for, as far as that is known; empty if it is not."""
        return []
