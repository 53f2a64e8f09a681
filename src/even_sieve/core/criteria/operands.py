"""What a condition compares a cell with: frozen values, as the text gave them.

Each keeps what it means (and compares by that), and how it was spelt, so that it can be
written back and so that a column of text can take a bare `2031-Q1` as text.
"""

from dataclasses import dataclass, field
from decimal import Decimal
from enum import Enum
from typing import TypeAlias


@dataclass(frozen=True)
class Number:
    """A number, exact."""

    value: Decimal
    text: str = field(compare=False, default="")


@dataclass(frozen=True)
class Period:
    """A span of time from `start` up to, not including, `end`: microseconds since 1970.

    A day is the whole day; a date with a time is the one microsecond.
    """

    start: int
    end: int
    text: str = field(compare=False, default="")


@dataclass(frozen=True)
class NamedPeriod:
    """A period that hangs on the as-of date or the fiscal year: `last 30 days`, `FY2031`."""

    name: str

    @property
    def text(self) -> str:
        """The name as it was spelt."""
        return self.name


@dataclass(frozen=True)
class YesNo:
    """A bare `yes`, `no`, `true` or `false`: yes/no where the column holds such, else text."""

    value: bool
    text: str = field(compare=False, default="")


@dataclass(frozen=True)
class Text:
    """A text, to the letter.

    A `bare` one had no quotes: a column may take it for a number or a date as it writes them.
    """

    text: str
    bare: bool = field(compare=False, default=False)


class Wild(Enum):
    """The two wildcards."""

    ANY_RUN = "*"
    ONE = "?"


@dataclass(frozen=True)
class Parameter:
    """The value that a person sets under this name: `{name}`."""

    name: str


@dataclass(frozen=True)
class Pattern:
    """A text with wildcards, over the whole cell: literal pieces, wildcards, parameters."""

    parts: tuple["str | Wild | Parameter", ...]


@dataclass(frozen=True)
class OtherColumn:
    """The cell of another column in the same row: `@name`."""

    name: str


WindowEnd: TypeAlias = Number | Period | NamedPeriod | Parameter | Text | None


@dataclass(frozen=True)
class Window:
    """A span of numbers or dates, both ends included; None is an open end."""

    low: WindowEnd
    high: WindowEnd


Operand: TypeAlias = (
    Number | Period | NamedPeriod | YesNo | Text | Pattern | Window | Parameter | OtherColumn
)
