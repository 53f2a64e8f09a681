"""What stands after a column name in criteria, and in a cell of a criteria range."""

from even_sieve.core.criteria.conditions import (
    Order,
    Test,
    read_compared,
    read_holds,
    read_one_of,
)
from even_sieve.core.criteria.nodes import Condition, Criteria, all_of, any_of, negated
from even_sieve.core.criteria.scanner import Scanner
from even_sieve.core.criteria.symbols import take_symbol


class Clauses:
    """Reads what stands after a column name, or in a cell of a criteria range."""

    def __init__(self, scanner: Scanner, column: str, position: int, *, in_cell: bool) -> None:
        self.scanner, self.column, self.in_cell = scanner, column, in_cell
        self.position = position

    def read(self) -> Criteria:
        """Return the whole of it: alternatives of clauses that all hold."""
        parts = [self._clause()]
        while self._next_is("|"):
            parts.append(self._clause())
        return any_of(parts)

    def _next_is(self, symbol: str) -> bool:
        self.scanner.skip_space()
        return self.scanner.take(symbol)

    def _clause(self) -> Criteria:
        parts = [self._condition()]
        while self._next_is("&"):
            parts.append(self._condition())
        return all_of(parts)

    def _condition(self) -> Criteria:
        scanner = self.scanner
        scanner.skip_space()
        position = self.position or scanner.at + 1
        if scanner.take_word("not"):
            with scanner.nested():
                return negated(self._condition())
        test, negative = self._test()
        return Condition(self.column, test, negative, position)

    def _test(self) -> tuple[Test, bool]:
        """Return the test that stands here, and whether it is denied."""
        if self.scanner.take_word("is"):
            return read_holds(self.scanner, self.column)
        symbol = take_symbol(self.scanner)
        if symbol in set(Order):
            return read_compared(self.scanner, symbol, in_cell=self.in_cell), False
        return read_one_of(self.scanner, symbol, in_cell=self.in_cell), symbol == "!="
