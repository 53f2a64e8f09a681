"""Arithmetic over columns: a small grammar, exact where decimals allow it.

    dues / tonnage      (tonnage - net) * 1.5      round(dues / hours, 2)
    abs(x)   min(a, b)   max(a, b)   departed - arrived (days)

A column's name may hold spaces; one with an operator or a comma in it stands in quotes.
Nothing but this grammar is read: no Python is run.
"""

import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from decimal import ROUND_HALF_UP, Context, Decimal
from fractions import Fraction
from typing import TypeAlias

from even_sieve.core.cells import Cell, CellError
from even_sieve.core.cells.quoting import DEEPEST, hide_quoted
from even_sieve.core.errors import CallError

_TOKEN = re.compile(
    r'\s*(?:(?P<number>\d+(?:\.\d+)?|\.\d+)(?![\w"])|"(?P<quoted>(?:[^"]|"")+)"'
    r"|(?P<sign>[-+*/(),])|(?P<name>[^-+*/(),\"]+))"
)
_FUNCTIONS = ("round", "abs", "min", "max")


@dataclass(frozen=True)
class Literal:
    """A number that is written out."""

    value: Fraction


@dataclass(frozen=True)
class Name:
    """The cell of a column."""

    column: str


@dataclass(frozen=True)
class Apply:
    """An operator or a function, and what it is applied to."""

    what: str
    parts: tuple["Expression", ...]


Expression: TypeAlias = Literal | Name | Apply


_DECIMAL_COMMA = re.compile(r"\b\d+,\d+\b")


def parse_arithmetic(text: str) -> Expression:
    """Return the expression that is written out. Raises `CallError` with its position."""
    comma = _DECIMAL_COMMA.search(hide_quoted(text))
    if comma is not None:
        number, apart = comma[0].replace(",", "."), comma[0].replace(",", ", ")
        raise CallError(
            f"'{text}', position {comma.start() + 1}: '{comma[0]}' can be read in two ways\n"
            f"Write a number with a point: {number}; two values apart: {apart}"
        )
    reader = _ExpressionReader(text)
    found = reader.sum()
    if reader.token is not None:
        raise reader.error(f"'{reader.token[1]}' is not expected here")
    return found


def steps_of(expression: Expression) -> list[Expression]:
    """Return an expression's parts in the order in which they are worked out, itself last.

    >>> [type(step).__name__ for step in steps_of(parse_arithmetic("dues + 1"))]
    ['Name', 'Literal', 'Apply']
    """
    found, waiting = [], [expression]
    while waiting:  # a sum of many terms is as deep as it is long: nothing calls itself
        found.append(waiting.pop())
        waiting += found[-1].parts if isinstance(found[-1], Apply) else ()
    return found[::-1]


def names_in(steps: Sequence[Expression]) -> list[str]:
    """Return the columns that the steps of an expression take, each once."""
    return list(dict.fromkeys(step.column for step in steps if isinstance(step, Name)))


class _ExpressionReader:
    """Reads an expression from left to right."""

    def __init__(self, text: str) -> None:
        self.text, at = text, 0
        self.tokens: list[tuple[str, str, int]] = []
        while text[at:].strip():
            found = _TOKEN.match(text, at)
            if found is None:
                raise CallError(f"'{text}', position {at + 1}: this cannot be read")
            kind = str(found.lastgroup)
            word = found[kind].strip().replace('""', '"')
            self.tokens.append((kind, word, found.start(kind) + 1))
            at = found.end()
        self.place = self.depth = 0

    @property
    def token(self) -> tuple[str, str, int] | None:
        return self.tokens[self.place] if self.place < len(self.tokens) else None

    def error(self, fact: str) -> CallError:
        at = self.token[2] if self.token else len(self.text) + 1
        return CallError(f"'{self.text}', position {at}: {fact}")

    def take(self, *signs: str) -> str:
        """Return the sign that stands here and go on, if it is one of these."""
        if self.token and self.token[0] == "sign" and self.token[1] in signs:
            self.place += 1
            return self.tokens[self.place - 1][1]
        return ""

    def sum(self) -> Expression:
        found = self.product()
        while sign := self.take("+", "-"):
            found = Apply(sign, (found, self.product()))
        return found

    def product(self) -> Expression:
        found = self.single()
        while sign := self.take("*", "/"):
            found = Apply(sign, (found, self.single()))
        return found

    def single(self) -> Expression:
        self.depth += 1
        if self.depth > DEEPEST:
            raise self.error(f"brackets and signs are nested more than {DEEPEST} deep")
        found = self.one()
        self.depth -= 1
        return found

    def one(self) -> Expression:
        if self.take("-"):
            return Apply("-", (Literal(Fraction(0)), self.single()))
        if self.take("("):
            found = self.sum()
            self.close()
            return found
        if self.token is None or self.token[0] == "sign":
            raise self.error("a number or a column is missing")
        kind, text, _ = self.token
        self.place += 1
        if kind == "number":
            return Literal(Fraction(text))
        if kind == "name" and text.lower() in _FUNCTIONS and self.take("("):
            return self.function(text.lower())
        return Name(text)

    def function(self, name: str) -> Expression:
        parts = [self.sum()]
        while self.take(","):
            parts.append(self.sum())
        self.close()
        wanted = {"abs": (1, 1), "round": (1, 2)}.get(name, (2, 99))
        if not wanted[0] <= len(parts) <= wanted[1]:
            raise self.error(f"'{name}' does not take {len(parts)} values")
        if name == "round" and len(parts) == 2 and not _is_places(parts[1]):
            raise self.error("'round' takes a number of decimals from 0 to 15")
        return Apply(name, tuple(parts))

    def close(self) -> None:
        if not self.take(")"):
            raise self.error("a bracket is not closed")


def _is_places(part: Expression) -> bool:
    if not isinstance(part, Literal):
        return False
    return part.value.denominator == 1 and 0 <= part.value <= 15


#: What a division by zero gives.
DIVISION_BY_ZERO = CellError("division by zero", "division by zero")


def _divide(parts: Sequence[Fraction]) -> Fraction | CellError:
    if not parts[1]:
        return DIVISION_BY_ZERO
    return parts[0] / parts[1]


def _round(parts: Sequence[Fraction]) -> Fraction:
    places = int(parts[1]) if len(parts) > 1 else 0
    scaled = abs(parts[0]) * 10**places
    whole = (2 * scaled + 1) // 2  # halves away from zero
    return Fraction(whole if parts[0] >= 0 else -whole, 10**places)


_APPLY: dict[str, Callable[[Sequence[Fraction]], Fraction | CellError]] = {
    "+": lambda parts: parts[0] + parts[1],
    "-": lambda parts: parts[0] - parts[1],
    "*": lambda parts: parts[0] * parts[1],
    "/": _divide,
    "abs": lambda parts: abs(parts[0]),
    "min": min,
    "max": max,
    "round": _round,
}


def applied(what: str, parts: Sequence[Fraction]) -> Fraction | CellError:
    """Return what an operator or a function makes of numbers, exactly."""
    return _APPLY[what](parts)


def work_out(
    steps: Sequence[Expression], cells: dict[str, Fraction | CellError | None]
) -> Fraction | CellError | None:
    """Return the exact result for one row; blank if a part is, the first error if one is."""
    found: list[Fraction | CellError | None] = []
    for step in steps:
        if isinstance(step, Literal):
            found.append(step.value)
        elif isinstance(step, Name):
            found.append(cells[step.column])
        else:
            parts = found[-len(step.parts) :]
            del found[-len(step.parts) :]
            found.append(_applied(step.what, parts))
    return found[0]


def _applied(
    what: str, parts: Sequence[Fraction | CellError | None]
) -> Fraction | CellError | None:
    wrong = next((part for part in parts if isinstance(part, CellError)), None)
    if wrong is not None:
        return wrong
    known = [part for part in parts if isinstance(part, Fraction)]
    return applied(what, known) if len(known) == len(parts) else None


_EXACT = Context(prec=18, rounding=ROUND_HALF_UP)
#: From this power of ten on a decimal may be beyond the largest double.
_LARGEST_EXPONENT = 308


def to_cell(found: Fraction | CellError | None) -> Cell:
    """Return a result as a cell: a decimal where it is one of few digits, else a double."""
    if not isinstance(found, Fraction):
        return found
    if found.denominator == 1 and abs(found.numerator) < 10**18:
        return int(found)
    rest = found.denominator
    for factor in (2, 5):
        while rest % factor == 0:
            rest //= factor
    if rest == 1:
        exact = _EXACT.divide(Decimal(found.numerator), Decimal(found.denominator))
        if Fraction(exact) == found and exact.adjusted() < _LARGEST_EXPONENT:
            return exact
    try:
        return found.numerator / found.denominator
    except OverflowError:
        return CellError("too large", "the result is beyond the largest double")
