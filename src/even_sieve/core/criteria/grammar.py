"""Criteria read from text, and from a cell of a criteria range: one grammar.

    criteria  = all {"or" all}
    all       = single {"and" single}
    single    = "not" single | "(" criteria ")" | "{" name "}" | column clauses
    clauses   = clause {"|" clause}          in a cell of a range: all there is
    clause    = test {"&" test}
    test      = ["not"] ( comparison value {"|" value} | "in" … | "is" ["not"] kind | value )

A value without a comparison before it stands in a cell of a range, or after `|`.
"""

import re
from collections.abc import Sequence

from even_sieve.core.cells import fold
from even_sieve.core.cells.quoting import for_example
from even_sieve.core.cells.text import spellings
from even_sieve.core.criteria.clauses import Clauses
from even_sieve.core.criteria.conditions import read_meets
from even_sieve.core.criteria.nodes import Condition, Criteria, all_of, any_of, negated
from even_sieve.core.criteria.scanner import Scanner
from even_sieve.core.criteria.symbols import operator_here
from even_sieve.core.errors import CriteriaError
from even_sieve.core.understood import text_of

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
#: Words that may stand in the name of a column, too.
_ORDERS_IN_WORDS = {
    "before": "< {}", "after": "> {}", "since": ">= {}", "until": "<= {}", "from": ">= {}",
    "over": "> {}", "above": "> {}", "under": "< {}", "below": "< {}", "more than": "> {}",
    "greater than": "> {}", "less than": "< {}", "at least": ">= {}", "at most": "<= {}",
}  # fmt: skip
_VALUE_BEFORE = re.compile(
    r"([^\s=<>|()]+) *(!=|=|in) *([^|()=<>]+?) +(?:or|and) *\Z", re.IGNORECASE
)
_BETWEEN = re.compile(r"between (\S+) and (\S+)", re.IGNORECASE)
_OPERATORS = "Accepted are =, !=, <, <=, >, >=, in, is"


def _example(columns: Sequence[str]) -> str:
    (name,) = for_example(columns, "zone")
    return f"Write for example: {name} is filled"


def parse_criteria(text: str, columns: Sequence[str] = ()) -> Criteria:
    """Return the criteria that the text writes out.

    `columns`, the names a table has, let a name with `in`, `is` or an operator in it go
    without quotes. Raises `CriteriaError` at the position of what cannot be read.

    >>> parse_criteria("dues > 500").column
    'dues'
    """
    scanner = Scanner(text_of("criteria", text, "a text such as 'zone = Outer'"))
    scanner.skip_space()
    if scanner.done:
        raise scanner.error("there are no criteria", _example(columns), at=0)
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
        spelt = [(each, name) for name in columns for each in spellings(name)]
        self.columns = sorted(spelt, key=lambda pair: len(pair[0]), reverse=True)
        self.names = columns

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
            raise scanner.error("a condition is missing here", _example(self.names))
        known = self.known_column()
        if known is None:
            if scanner.take_word("not"):
                with scanner.nested():
                    return negated(self.single())
            if scanner.here("("):
                with scanner.nested():
                    return self.group()
            opened = scanner.at
            met = read_meets(scanner)
            if met is not None:
                return Condition("", met, position=opened + 1)
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
        for spelt, name in self.columns:
            end = start + len(spelt)
            if spelt and scanner.text[start:end].casefold() == spelt.casefold():
                scanner.at = end
                scanner.skip_space()
                if operator_here(scanner):
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
            if not operator_here(scanner):
                raise self.no_operator(start, name)
            return name
        while not scanner.done:
            if operator_here(scanner):
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
        if self.names and name.lower().endswith(" not"):
            hint = f"Write: not {name[:-4].strip()} {self.scanner.text[self.scanner.at :].strip()}"
            raise self.scanner.error("'not' stands before a condition here", hint, at=start)
        for words, form in _IN_WORDS.items():
            if f" {words} " in f" {name.lower()} ":
                raise self.in_words(start, name, words, form)

    def no_operator(self, start: int, name: str) -> CriteriaError:
        for words, form in {**_IN_WORDS, **_ORDERS_IN_WORDS}.items():
            if f" {words} " in f" {name.lower()} ":
                return self.in_words(start, name, words, form)
        for spelt, column in self.columns:
            value = name[len(spelt) :]
            if name.lower().startswith(spelt.lower()) and value[:1].isspace():
                return self.scanner.error(
                    f"no comparison after '{column}'",
                    f"{_OPERATORS}; for example: {column} = {value.strip()}",
                    at=start,
                )
        before = _VALUE_BEFORE.search(self.scanner.text[:start])
        if before is not None and name:
            several = f"{before[1]} {before[2]} {before[3]} | {name}"
            hint = f"For several values of one column write: {several}"
            return self.scanner.error(f"no comparison after '{name}'", hint, at=start)
        return self.scanner.error(
            f"no comparison after '{name}'",
            f"{_OPERATORS}; for example: {self.own(name)} is filled",
            at=start,
        )

    def own(self, name: str) -> str:
        """Return what was meant for a column if it is one, else the first one, for an example."""
        known = [each for each in self.names if fold(each) == fold(name.strip())]
        return for_example(known or self.names, "zone")[0]

    def in_words(self, start: int, name: str, words: str, form: str) -> CriteriaError:
        at = f" {name.lower()} ".index(f" {words} ")
        column, value = name[:at].strip(), name[at + len(words) :].strip()
        value = value or ("100" if words in _ORDERS_IN_WORDS else "B")
        both = _BETWEEN.match(self.scanner.text[start + at :])
        if both is not None:
            value, form = both[1], f"in {{}}..{both[2]}"
        return self.scanner.error(
            f"'{words}' is not a comparison here",
            f"Write: {column} {form.format(value)}",
            at=start + at,
        )
