"""Equality with any of several values, and lying in any of several windows."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import TYPE_CHECKING

from even_sieve.core.cells import fold
from even_sieve.core.criteria.blocks import Probe
from even_sieve.core.criteria.conditions.asked import NEGATIVE, Test
from even_sieve.core.criteria.conditions.value import more_values, value_here
from even_sieve.core.criteria.operands import Operand, Piece, Putting, Text, Writing
from even_sieve.core.criteria.probes import any_probe
from even_sieve.core.criteria.scanner import Scanner
from even_sieve.core.criteria.value_list import ValueList

if TYPE_CHECKING:
    from even_sieve.core.criteria.asked_column import AskedColumn


@dataclass(frozen=True)
class OneOf(Test):
    """The cell equals, or lies in, one of these."""

    values: tuple[Operand, ...]

    def settled(self, putting: Putting) -> "OneOf | None":
        """Return the list with parameters put in, which may hold several values each."""
        values = tuple(each for value in self.values for each in value.settled(putting))
        return OneOf(values) if values else None

    def beginning(self, count: int) -> "OneOf":
        """Return a list of so many of the first values."""
        return OneOf(self.values[:count])

    def bind(self, asked: "AskedColumn") -> Probe:
        """Return the probe that asks for any of the values, grouped by the lane they need."""
        chosen = ValueList(asked)
        values = [asked.suited(value) for value in self.values]
        chosen.look_up([fold(each.text) for each in values if isinstance(each, Text)])
        for value in values:
            value.add_to(chosen)
        return any_probe(chosen.probes())

    def write(self, column: str, negated: bool, writing: Writing) -> str:
        """Return `zone = Outer | Inner`, or `dues in 1..2` where there are windows."""
        spans = any(value.is_span for value in self.values)
        symbol = "!=" if negated else "in" if spans else "="
        return f"{column} {symbol} {self._barred(writing)}"

    def write_in_cell(self, negated: bool, bare: bool, writing: Writing) -> str:
        """Return `Outer | Inner`, or with a sign before it."""
        sign = "!= " if negated else "" if bare else "= "
        return f"{sign}{self._barred(writing)}"

    def _barred(self, writing: Writing) -> str:
        return " | ".join(value.write(writing) for value in self.values)

    def say(self, column: str, negated: bool) -> str:
        """Return alternatives in words; those that read alike share their verb."""
        phrases = [value.say_equal() for value in self.values]
        words: list[str] = []
        last = None
        for verb, rest in phrases:
            said = NEGATIVE[verb] if negated else verb
            words.append(rest if verb == last else f"{said} {rest}".strip())
            last = verb
        if len(words) == 1:
            return f"{column} {words[0]}"
        alike = len({verb for verb, _ in phrases}) == 1
        joint = "and" if negated and not alike else "or"
        return f"{column} {', '.join(words[:-1])} {joint} {words[-1]}"

    def pieces(self) -> list[Piece]:
        """Return the values, if every one is known."""
        pieces = [value.piece() for value in self.values]
        return [each for each in pieces if each is not None] if None not in pieces else []


def read_one_of(scanner: Scanner, symbol: str, *, in_cell: bool) -> OneOf:
    """Return the list of values that stands here, with bars between them."""
    return OneOf(tuple(_values(scanner, symbol, in_cell)))


def _values(scanner: Scanner, symbol: str, in_cell: bool) -> Iterator[Operand]:
    yield value_here(scanner, symbol, in_cell=in_cell)
    while more_values(scanner):
        scanner.skip_space()
        scanner.take("|")
        yield value_here(scanner, symbol, in_cell=in_cell)
