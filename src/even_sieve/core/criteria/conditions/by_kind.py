"""What kind of thing a cell holds: `dues is blank`."""

from dataclasses import dataclass
from enum import StrEnum
from typing import TYPE_CHECKING

from even_sieve.core.cells import Kind
from even_sieve.core.criteria.blocks import Probe
from even_sieve.core.criteria.conditions.asked import Test
from even_sieve.core.criteria.operands import Writing
from even_sieve.core.criteria.probes import Opposite, kind_probe
from even_sieve.core.criteria.scanner import Scanner
from even_sieve.core.criteria.seeming import NO_VALUE
from even_sieve.core.errors import closest, listed

if TYPE_CHECKING:
    from even_sieve.core.criteria.asked_column import AskedColumn


class Holding(StrEnum):
    """What `is` asks of a cell."""

    BLANK = "blank"
    FILLED = "filled"
    ERROR = "error"
    NUMBER = "number"
    TEXT = "text"
    DATE = "date"
    YES_NO = "yes/no"


_KIND_OF = {
    Holding.BLANK: Kind.BLANK,
    Holding.FILLED: Kind.BLANK,
    Holding.ERROR: Kind.ERROR,
    Holding.NUMBER: Kind.NUMBER,
    Holding.TEXT: Kind.TEXT,
    Holding.DATE: Kind.DATE,
    Holding.YES_NO: Kind.YES_NO,
}
_WORDS = {
    Holding.ERROR: "an error",
    Holding.NUMBER: "a number",
    Holding.DATE: "a date",
    Holding.YES_NO: "a yes/no",
}
_READ = {
    **{kind.value: kind for kind in Holding},
    "numbers": Holding.NUMBER,
    "a number": Holding.NUMBER,
    "a date": Holding.DATE,
    "an error": Holding.ERROR,
    "empty": Holding.BLANK,
}
_LONGEST_FIRST = sorted(_READ, key=len, reverse=True)


@dataclass(frozen=True)
class Holds(Test):
    """The cell holds this kind of thing."""

    what: Holding

    def bind(self, asked: "AskedColumn") -> Probe:
        """Return the probe that looks at the kinds of the column's cells."""
        probe = kind_probe(asked.column, _KIND_OF[self.what])
        return Opposite(probe) if self.what is Holding.FILLED else probe

    def write(self, column: str, negated: bool, writing: Writing) -> str:
        """Return `dues is not blank`."""
        return f"{column} {self.write_in_cell(negated, False, writing)}"

    def write_in_cell(self, negated: bool, bare: bool, writing: Writing) -> str:
        """Return `is not blank`."""
        return f"is {'not ' if negated else ''}{self.what}"

    def say(self, column: str, negated: bool) -> str:
        """Return `dues is not a number`."""
        return f"{column} is {'not ' if negated else ''}{_WORDS.get(self.what, self.what.value)}"


def read_holds(scanner: Scanner, column: str) -> tuple[Holds, bool]:
    """Return what stands after `is`, and whether it is denied. `column` is for messages."""
    scanner.skip_space()
    negative = scanner.take_word("not")
    scanner.skip_space()
    start = scanner.at
    for words in _LONGEST_FIRST:
        end = start + len(words)
        after = scanner.text[end : end + 1]
        if scanner.text[start:end].lower() == words and not after.isalnum():
            scanner.at = end
            return Holds(_READ[words]), negative
    length = len(scanner.word_here())
    found = scanner.text[start : start + length] or scanner.text[start:].split(" ")[0]
    no_value = found and found.lower() in NO_VALUE
    near = ["blank"] if no_value else closest(found.lower(), list(Holding))
    hint = f"Did you mean {listed(near)}? " if near else ""
    raise scanner.error(
        f"'is {found}' is not known" if found else "'is' needs a kind after it",
        f"{hint}Accepted are is blank, filled, error, number, text, date, yes/no, "
        f"each with not; to compare, write: {column} {'!=' if negative else '='} "
        f"{found or 'Outer'}",
        at=start,
    )
