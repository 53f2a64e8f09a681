"""What a cell can be."""

from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from enum import IntEnum


class Kind(IntEnum):
    """The kind of a cell. The order is that in which kinds lead a mixed column."""

    NUMBER = 0
    DATE = 1
    TEXT = 2
    YES_NO = 3
    ERROR = 4
    BLANK = 5

    @property
    def words(self) -> str:
        """The kind as a person says it, in the plural: `yes/no values`."""
        return _WORDS[self]


_WORDS = {
    Kind.NUMBER: "numbers",
    Kind.DATE: "dates",
    Kind.TEXT: "text",
    Kind.YES_NO: "yes/no values",
    Kind.ERROR: "errors",
    Kind.BLANK: "blanks",
}


@dataclass(frozen=True)
class CellError:
    """A cell whose value could not be had: its `token` as the source shows it, and why.

    >>> from even_sieve import table_from
    >>> found = table_from({"dues": [120, CellError("#N/A", "no tariff")]}).tally("sum of dues")[0]
    >>> found.value, found.account.error
    (120, 1)
    """

    token: str
    reason: str = ""

    def __str__(self) -> str:
        return self.token


#: One cell as Python has it: None is a blank; a date without time is a `date`, one with a
#: time a `datetime` without zone, in UTC if the source gave an offset.
Cell = int | float | Decimal | str | bool | date | CellError | None

# The error values of ISO/IEC 29500-1, section 18.17.2.7.
_ERROR_TOKENS = {
    "#DIV/0!": "division by zero",
    "#GETTING_DATA": "the value had not arrived when the file was saved",
    "#N/A": "no value is available, as when a lookup key is not found",
    "#NAME?": "a name in the formula is not known",
    "#NULL!": "two ranges that should meet do not",
    "#NUM!": "a number is out of its range",
    "#REF!": "a reference leads nowhere",
    "#VALUE!": "a value is of the wrong kind",
}


def error_from_token(token: str) -> CellError | None:
    """Return the error cell that an ISO/IEC 29500 error token stands for, or None.

    >>> error_from_token("#DIV/0!").reason
    'division by zero'
    >>> error_from_token("#5") is None
    True
    """
    reason = _ERROR_TOKENS.get(token.upper())
    return None if reason is None else CellError(token.upper(), reason)
