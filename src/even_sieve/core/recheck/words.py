"""The words of criteria, read once more by a reader of the recheck's own.

What it makes of them are the same records (conditions and values); how it gets there it shares
with nobody: it knows the forms from docs/criteria.md alone. Parameters and periods that hang on
a date are put in as it goes.
"""

import re
from collections.abc import Callable, Iterable, Mapping, Sequence
from unicodedata import normalize

from even_sieve.core.criteria.conditions import Compared, Holding, Holds, OneOf, Order
from even_sieve.core.criteria.nodes import (
    EVERYTHING,
    And,
    Condition,
    Criteria,
    Not,
    Or,
    all_of,
    any_of,
    negated,
)
from even_sieve.core.criteria.ranges import RangeCriteria
from even_sieve.core.criteria.settings import Settings, operand_of, prepare
from even_sieve.core.recheck.plain_cells import same
from even_sieve.core.recheck.value_words import JOINT, PARAMETER, QUOTED, ValueWords

_MEANS = {"<>": "!=", "≠": "!=", "≤": "<=", "≥": ">="}
_OPERATOR = re.compile(r"(?<![^\W_])(?:in|is)(?!\w)|<=|>=|<>|!=|[≠≤≥=<>]", re.IGNORECASE)
_NOT = re.compile(r"(?<![^\W_])not(?!\w)", re.IGNORECASE)
_KIND = re.compile(
    r"(not(?!\w))?\s*(blank|filled|error|an error|numbers?|a number|text|date|a date|yes/no|empty)",
    re.IGNORECASE,
)
_HOLDING = {"empty": Holding.BLANK, "numbers": Holding.NUMBER}


def read_given_again(given: Iterable[object], names: Sequence[str], settings: Settings) -> Criteria:
    """Return criteria as a query holds them: what is in words is read, all of them hold.

    Criteria that were built of nodes have no words, and are taken as they are. Raises `ValueError`
    for words that cannot be read.
    """
    parts = [_one(each, names, settings) for each in given if each is not None]
    found = _joined(all_of, parts)
    return EVERYTHING if found is None else found


def _one(given: object, names: Sequence[str], settings: Settings) -> Criteria | None:
    if isinstance(given, str):
        return read_again(given, names, settings)
    if isinstance(given, Mapping):
        return _row(given.items(), settings)
    if isinstance(given, RangeCriteria):
        if given.cells:
            return _joined(any_of, [_row(row, settings) for row in given.cells])
        given = given.criteria
    made = prepare(given, settings).criteria  # type: ignore[arg-type]
    return None if made == EVERYTHING else made


def _row(row: Iterable[tuple[str, object]], settings: Settings) -> Criteria | None:
    """Return the criteria of one row: all its columns hold; a list of values is alternatives."""
    parts: list[Criteria | None] = []
    for column, value in row:
        several = isinstance(value, Sequence) and not isinstance(value, str)
        values: Iterable[object] = value if several else [value]  # type: ignore[assignment]
        found = [_cell(str(column), each, settings) for each in values]
        parts.append(_joined(any_of, found))
    return _joined(all_of, parts)


def _cell(column: str, value: object, settings: Settings) -> Criteria | None:
    if isinstance(value, str):
        return read_cell_again(value, column, settings)
    operand = operand_of(value)  # type: ignore[arg-type]
    return None if operand is None else Condition(column, OneOf((operand,)))


def read_again(text: str, names: Sequence[str], settings: Settings) -> Criteria | None:
    """Return the criteria that a text writes out; None where blank parameters leave nothing.

    >>> read_again("zone = Outer", ["zone"], Settings()).column
    'zone'
    """
    words = _Words(text, settings, names)
    found = words.alternatives()
    words.finish()
    return found


def read_cell_again(text: str, column: str, settings: Settings) -> Criteria | None:
    """Return the criteria of one cell of a criteria range, or of a mapping."""
    words = _Words(text, settings, in_cell=True)
    words.space()
    if words.at == len(text):
        return None
    found = words.clauses(column)
    words.finish()
    return found


def _joined(
    join: Callable[[Iterable[Criteria]], Criteria], parts: Sequence[Criteria | None]
) -> Criteria | None:
    left = [part for part in parts if part is not None]
    return join(left) if left else None


def _spelt(name: str) -> tuple[str, ...]:
    """Return a name as it is, with its letters composed, and with them decomposed."""
    return name, normalize("NFC", name), normalize("NFD", name)


class _Words(ValueWords):
    """Criteria in words."""

    def __init__(
        self, text: str, settings: Settings, names: Sequence[str] = (), *, in_cell: bool = False
    ) -> None:
        super().__init__(text, settings, in_cell=in_cell)
        spelt = [(each, name) for name in names for each in _spelt(name)]
        self.names = sorted(spelt, key=lambda pair: len(pair[0]), reverse=True)

    def alternatives(self) -> Criteria | None:
        parts = [self.all_together()]
        while self.joint("or"):
            parts.append(self.all_together())
        return _joined(any_of, parts)

    def all_together(self) -> Criteria | None:
        parts = [self.single()]
        while self.joint("and"):
            parts.append(self.single())
        return _joined(all_of, parts)

    def joint(self, word: str) -> bool:
        start, found = self.at, self.take(JOINT)
        if found is not None and found[1].lower() == word:
            return True
        self.at = start
        return False

    def single(self) -> Criteria | None:
        self.space()
        name = self.known_name()
        if name is not None:
            return self.clauses(name)
        if self.take(_NOT):
            part = self.single()
            return None if part is None else negated(part)
        if self.sign("("):
            part = self.alternatives()
            if not self.sign(")"):
                raise ValueError("a bracket is open")
            return part
        met = self.met()
        return met[0] if met else self.clauses(self.name())

    def met(self) -> list[Criteria | None]:
        """Return the criteria that a parameter holds, where it stands by itself; else nothing."""
        start, found = self.at, self.take(PARAMETER)
        value = self.values.get(same(found[1].strip())) if found else None
        if not isinstance(value, Condition | And | Or | Not):
            self.at = start
            return []
        made = prepare(value, self.settings).criteria
        return [None if made == EVERYTHING else made]

    def known_name(self) -> str | None:
        start = self.at
        for spelt, name in self.names:
            end = start + len(spelt)
            if spelt and self.text[start:end].casefold() == spelt.casefold():
                self.at = end
                self.space()
                if _OPERATOR.match(self.text, self.at):
                    return name
        self.at = start
        return None

    def name(self) -> str:
        found = self.take(QUOTED)
        if found:
            return found[1].replace('""', '"')
        operator = _OPERATOR.search(self.text, self.at)
        while operator is not None and not self.text[self.at : operator.start()].strip():
            operator = _OPERATOR.search(self.text, operator.end())
        if operator is None:
            raise ValueError("no comparison")
        name, self.at = self.text[self.at : operator.start()].strip(), operator.start()
        return name

    def clauses(self, column: str) -> Criteria | None:
        parts = [self.clause(column)]
        while self.sign("|"):
            parts.append(self.clause(column))
        return _joined(any_of, parts)

    def clause(self, column: str) -> Criteria | None:
        parts = [self.condition(column)]
        while self.sign("&"):
            parts.append(self.condition(column))
        return _joined(all_of, parts)

    def condition(self, column: str) -> Criteria | None:
        if self.take(_NOT):
            part = self.condition(column)
            return None if part is None else negated(part)
        word = self.take(_OPERATOR)
        symbol = word[0].lower() if word else "="
        if symbol == "is":
            return self.holding(column)
        symbol = _MEANS.get(symbol, symbol)
        if symbol in ("<", "<=", ">", ">="):
            one = self.value()
            return Condition(column, Compared(Order(symbol), one[0])) if one else None
        values = self.value()
        while self.more():
            values += self.value()
        return Condition(column, OneOf(tuple(values)), symbol == "!=") if values else None

    def holding(self, column: str) -> Criteria:
        found = self.take(_KIND)
        if found is None:
            raise ValueError("no kind after 'is'")
        word = found[2].lower()
        holding = _HOLDING.get(word) or Holding(word.removeprefix("an ").removeprefix("a "))
        return Condition(column, Holds(holding), found[1] is not None)

    def more(self) -> bool:
        """Move past a bar with a bare value behind it, and tell whether it stood there."""
        start = self.at
        if self.sign("|"):
            self.space()
            if not (_OPERATOR.match(self.text, self.at) or _NOT.match(self.text, self.at)):
                return True
        self.at = start
        return False
