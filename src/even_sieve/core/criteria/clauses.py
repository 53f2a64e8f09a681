"""What stands after a column name in criteria, and in a cell of a criteria range."""

from collections.abc import Iterator

from even_sieve.core.criteria.nodes import (
    Compared,
    Condition,
    Criteria,
    Holding,
    Holds,
    OneOf,
    Order,
    Test,
    all_of,
    any_of,
    negated,
)
from even_sieve.core.criteria.operands import Operand, Window
from even_sieve.core.criteria.scanner import Scanner
from even_sieve.core.criteria.values import read_value
from even_sieve.core.errors import closest, listed

SYMBOLS = ("<=", ">=", "<>", "!=", "==", "=>", "=<", "=", "<", ">", "≠", "≤", "≥")
_MEANING = {"<>": "!=", "≠": "!=", "≤": "<=", "≥": ">="}
_MISWRITTEN = {"==": "=", "=>": ">=", "=<": "<="}
_KINDS = {
    **{kind.value: kind for kind in Holding},
    "numbers": Holding.NUMBER,
    "a number": Holding.NUMBER,
    "a date": Holding.DATE,
    "an error": Holding.ERROR,
    "empty": Holding.BLANK,
}


def operator_here(scanner: Scanner) -> bool:
    """Tell whether a comparison, `in` or `is` stands here."""
    return any(map(scanner.here, SYMBOLS)) or scanner.word_here() in ("in", "is")


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
        parts = [self._test()]
        while self._next_is("&"):
            parts.append(self._test())
        return all_of(parts)

    def _test(self) -> Criteria:
        scanner = self.scanner
        scanner.skip_space()
        position = self.position or scanner.at + 1
        if scanner.take_word("not"):
            return negated(self._test())
        if scanner.take_word("is"):
            return self._holds(position)
        test, negative = self.comparison()
        return Condition(self.column, test, negative, position)

    def _holds(self, position: int) -> Criteria:
        scanner = self.scanner
        scanner.skip_space()
        negative = scanner.take_word("not")
        scanner.skip_space()
        start = scanner.at
        for words in sorted(_KINDS, key=len, reverse=True):
            end = start + len(words)
            after = scanner.text[end : end + 1]
            if scanner.text[start:end].lower() == words and not after.isalnum():
                scanner.at = end
                return Condition(self.column, Holds(_KINDS[words]), negative, position)
        length = len(scanner.word_here())
        found = scanner.text[start : start + length] or scanner.text[start:].split(" ")[0]
        near = closest(found.lower(), [kind.value for kind in Holding])
        hint = f"Did you mean {listed(near)}? " if near else ""
        raise scanner.error(
            f"'is {found}' is not known" if found else "'is' needs a kind after it",
            f"{hint}Accepted are is blank, filled, error, number, text, date, yes/no, "
            f"each with not; to compare, write: {self.column} {'!=' if negative else '='} "
            f"{found or 'Outer'}",
            at=start,
        )

    def comparison(self) -> tuple[Test, bool]:
        """Return the test of a comparison, and whether it is a negative one."""
        scanner = self.scanner
        symbol = self.symbol()
        if symbol in ("=", "!=", "in"):
            return OneOf(tuple(self._values(symbol))), symbol == "!="
        scanner.skip_space()
        start = scanner.at
        value = self._value(symbol)
        if isinstance(value, Window):
            raise scanner.error(f"'{symbol}' takes one value, not a window", at=start)
        if self.more_values():
            raise scanner.error(
                f"'{symbol}' takes one value",
                f"Write the comparison again after the bar: … | {symbol} value",
            )
        return Compared(Order(symbol), value), False

    def symbol(self) -> str:
        """Return the comparison that stands here; in a cell, none means equal."""
        scanner = self.scanner
        for symbol in SYMBOLS:
            if scanner.here(symbol):
                if symbol in _MISWRITTEN:
                    right = _MISWRITTEN[symbol]
                    raise scanner.error(f"'{symbol}' is not a comparison", f"Write {right}")
                scanner.take(symbol)
                return _MEANING.get(symbol, symbol)
        return "in" if scanner.take_word("in") else "="

    def _values(self, symbol: str) -> Iterator[Operand]:
        yield self._value(symbol)
        while self.more_values():
            self._next_is("|")
            yield self._value(symbol)

    def more_values(self) -> bool:
        """Tell whether a bar follows with a bare value after it: one more of the same list."""
        scanner = self.scanner
        start = scanner.at
        try:
            if not self._next_is("|"):
                return False
            scanner.skip_space()
            word = scanner.word_here()
            return not any(map(scanner.here, SYMBOLS)) and word not in ("in", "is", "not")
        finally:
            scanner.at = start

    def _value(self, symbol: str) -> Operand:
        scanner = self.scanner
        scanner.skip_space()
        if any(map(scanner.here, SYMBOLS)):
            raise scanner.error("two comparisons in a row", 'Quote a value that begins so: "=5"')
        return read_value(scanner, symbol, in_cell=self.in_cell)
