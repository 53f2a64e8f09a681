"""Criteria read from text, and from a cell of a criteria range: one grammar.

    criteria  = all {"or" all}
    all       = single {"and" single}
    single    = "not" single | "(" criteria ")" | column clauses
    clauses   = clause {"|" clause}          in a cell of a range: all there is
    clause    = test {"&" test}
    test      = ["not"] ( comparison value {"|" value} | "in" … | "is" ["not"] kind | value )

A value without a comparison before it stands in a cell of a range, or after `|`.
"""

import re
from collections.abc import Iterator, Sequence

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
from even_sieve.core.errors import CriteriaError, closest, listed

_SYMBOLS = ("<=", ">=", "<>", "!=", "==", "=>", "=<", "=", "<", ">", "≠", "≤", "≥")
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
_IN_WORDS = {
    "begins with": "= {}*",
    "starts with": "= {}*",
    "ends with": "= *{}",
    "does not contain": "!= *{}*",
    "contains": "= *{}*",
    "between": "in {}..",
    "like": "= {}",
    "equals": "= {}",
    "is not": "!= {}",
}
_BETWEEN = re.compile(r"between (\S+) and (\S+)", re.IGNORECASE)
_OPERATORS = "Accepted are =, !=, <, <=, >, >=, in, is"


def parse_criteria(text: str, columns: Sequence[str] = ()) -> Criteria:
    """Return the criteria that the text writes out.

    `columns`, the names a table has, let a name with `in`, `is` or an operator in it go
    without quotes. Raises `CriteriaError` at the position of what cannot be read.

    >>> parse_criteria("dues > 500").column
    'dues'
    """
    scanner = Scanner(text)
    scanner.skip_space()
    if scanner.done:
        raise scanner.error("there are no criteria", "Write for example: zone = Outer", at=0)
    criteria = _TextParser(scanner, columns).alternatives()
    if scanner.here(")"):
        raise scanner.error("this bracket closes nothing")
    if not scanner.done:
        raise scanner.error(
            f"'{scanner.text[scanner.at :]}' is one too many", "Join conditions with and, or"
        )
    return criteria


def parse_cell(text: str, column: str, place: str = "criteria") -> Criteria | None:
    """Return the criteria that a cell of a criteria range holds for its column.

    None if the cell is blank: it sets no condition.
    """
    scanner = Scanner(text, place)
    scanner.skip_space()
    if scanner.done:
        return None
    criteria = Clauses(scanner, column, 0, in_cell=True).read()
    if not scanner.done:
        raise scanner.error(f"'{scanner.text[scanner.at :]}' is one too many")
    return criteria


class _TextParser:
    """Reads criteria with and, or, not, brackets and column names."""

    def __init__(self, scanner: Scanner, columns: Sequence[str]) -> None:
        self.scanner = scanner
        self.columns = sorted(columns, key=len, reverse=True)

    def alternatives(self) -> Criteria:
        parts = [self.all()]
        while self.joined_by("or"):
            parts.append(self.all())
        return any_of(parts)

    def all(self) -> Criteria:
        parts = [self.single()]
        while self.joined_by("and"):
            parts.append(self.single())
        return all_of(parts)

    def joined_by(self, word: str) -> bool:
        self.scanner.skip_space()
        return self.scanner.joint_here() == word and self.scanner.take_word(word)

    def single(self) -> Criteria:
        scanner = self.scanner
        scanner.skip_space()
        if scanner.done:
            raise scanner.error("a condition is missing here", "Write for example: zone = Outer")
        known = self.known_column()
        if known is None:
            if scanner.take_word("not"):
                return negated(self.single())
            if scanner.here("("):
                return self.group()
            if scanner.joint_here():
                raise scanner.error(f"a condition is missing before '{scanner.joint_here()}'")
        start = scanner.at
        column = self.column() if known is None else known
        return Clauses(scanner, column, start + 1, in_cell=False).read()

    def group(self) -> Criteria:
        opened = self.scanner.at
        self.scanner.take("(")
        criteria = self.alternatives()
        self.scanner.skip_space()
        if not self.scanner.take(")"):
            raise self.scanner.error("the bracket that opens here is not closed", at=opened)
        return criteria

    def known_column(self) -> str | None:
        """Return the longest known column name that stands here before an operator, if any."""
        scanner = self.scanner
        start = scanner.at
        for name in self.columns:
            end = start + len(name)
            if name and scanner.text[start:end].casefold() == name.casefold():
                scanner.at = end
                scanner.skip_space()
                if _operator_here(scanner):
                    return name
        scanner.at = start
        return None

    def column(self) -> str:
        """Return the column name that stands before the next operator."""
        scanner = self.scanner
        start = scanner.at
        if scanner.here('"'):
            name = scanner.quoted()
            scanner.skip_space()
            if not _operator_here(scanner):
                raise self.no_operator(start, name)
            return name
        while not scanner.done:
            if _operator_here(scanner):
                name = scanner.text[start : scanner.at].strip()
                if name:
                    self.refuse_words(start, name)
                    return name
                raise scanner.error("a column name is missing before the operator")
            if scanner.here("(") or scanner.here(")") or scanner.joint_here():
                break
            scanner.at += 1
        raise self.no_operator(start, scanner.text[start : scanner.at].strip())

    def refuse_words(self, start: int, name: str) -> None:
        """Refuse a comparison put in words where another operator follows later."""
        for words, form in _IN_WORDS.items():
            if f" {words} " in f" {name.lower()} ":
                raise self.in_words(start, name, words, form)

    def no_operator(self, start: int, name: str) -> CriteriaError:
        for words, form in _IN_WORDS.items():
            if f" {words} " in f" {name.lower()} ":
                return self.in_words(start, name, words, form)
        for column in self.columns:
            value = name[len(column) :]
            if name.lower().startswith(column.lower()) and value[:1].isspace():
                return self.scanner.error(
                    f"no comparison after '{column}'",
                    f"{_OPERATORS}; for example: {column} = {value.strip()}",
                    at=start,
                )
        return self.scanner.error(
            f"no comparison after '{name}'", f"{_OPERATORS}; for example: zone = B*", at=start
        )

    def in_words(self, start: int, name: str, words: str, form: str) -> CriteriaError:
        at = f" {name.lower()} ".index(f" {words} ")
        column, value = name[:at].strip(), name[at + len(words) :].strip() or "B"
        both = _BETWEEN.match(self.scanner.text[start + at :])
        if both is not None:
            value, form = both[1], f"in {{}}..{both[2]}"
        return self.scanner.error(
            f"'{words}' is not a comparison here",
            f"Write: {column} {form.format(value)}",
            at=start + at,
        )


def _operator_here(scanner: Scanner) -> bool:
    return any(map(scanner.here, _SYMBOLS)) or scanner.word_here() in ("in", "is")


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
        found = scanner.word_here() or scanner.text[start:].split(" ")[0]
        near = closest(found, [kind.value for kind in Holding])
        hint = f"Did you mean {listed(near)}? " if near else ""
        raise scanner.error(
            f"'is {found}' is not known" if found else "'is' needs a kind after it",
            f"{hint}Accepted are is blank, filled, error, number, text, date, yes/no, "
            f"each with not; to compare, write: {self.column} = {found or 'Outer'}",
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
        for symbol in _SYMBOLS:
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
            return not any(map(scanner.here, _SYMBOLS)) and word not in ("in", "is", "not")
        finally:
            scanner.at = start

    def _value(self, symbol: str) -> Operand:
        scanner = self.scanner
        scanner.skip_space()
        if any(map(scanner.here, _SYMBOLS)):
            raise scanner.error("two comparisons in a row", 'Quote a value that begins so: "=5"')
        return read_value(scanner, symbol, in_cell=self.in_cell)
