"""What criteria are certain to say of rows of which the ends of columns alone are known.

A yes and a no are certain, None is ignorance: whoever asks must look at the rows.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal
from typing import TypeVar

from even_sieve.core.cells import Kind
from even_sieve.core.criteria.conditions import Compared, Holding, Holds, OneOf
from even_sieve.core.criteria.nodes import And, Condition, Criteria, Not
from even_sieve.core.criteria.operands import Interval, Number, Operand, Period, Piece, Window
from even_sieve.core.criteria.operands.period_names import read_year

#: The last letter of ASCII, and the first one that is no blank.
_ASCII, _VISIBLE = "\x7f", "!"


@dataclass(frozen=True)
class Ends:
    """The cells of a column on some rows: the filled ones go from `least` to `greatest` of a kind.

    Numbers are decimals, dates microseconds since 1970, texts in the order of their code points.
    The kind is None where no cell is filled; `blanks` tells whether there are blanks, None where
    that is not known.
    """

    kind: Kind | None
    least: Decimal | int | str = 0
    greatest: Decimal | int | str = 0
    blanks: bool | None = None


EndsOf = Callable[[str], Ends | None]
_Value = TypeVar("_Value")


def is_certain(criteria: Criteria, ends_of: EndsOf) -> bool | None:
    """Tell whether prepared criteria hold for all rows (True), or for none (False), for certain.

    `ends_of` gives the ends of a column on the rows, None where they are not known.

    >>> from even_sieve.core.criteria.grammar import parse_criteria as read
    >>> ends = {"dues": Ends(Kind.NUMBER, Decimal(80), Decimal(120), blanks=False)}
    >>> [is_certain(read(each), ends.get) for each in ("dues < 80", "dues >= 80", "dues = 90")]
    [False, True, None]
    """
    if isinstance(criteria, Condition):
        return _of_condition(criteria, ends_of(criteria.column))
    if isinstance(criteria, Not):
        return _opposite(is_certain(criteria.part, ends_of))
    parts = [is_certain(part, ends_of) for part in criteria.parts]
    decides = not isinstance(criteria, And)
    if decides in parts:
        return decides
    return None if None in parts else not decides


def _opposite(found: bool | None) -> bool | None:
    return None if found is None else not found


def _of_condition(condition: Condition, ends: Ends | None) -> bool | None:
    if ends is None:
        return None
    test = condition.test
    found = _of_kind(test.what, ends) if isinstance(test, Holds) else _of_values(test, ends)
    return _opposite(found) if condition.negated else found


def _of_kind(what: Holding, ends: Ends) -> bool | None:
    """Tell whether the cells are blank, or filled; of other kinds nothing is certain."""
    if what not in (Holding.BLANK, Holding.FILLED):
        return None
    blank = True if ends.kind is None else False if ends.blanks is False else None
    return blank if what is Holding.BLANK else _opposite(blank)


def _of_values(test: object, ends: Ends) -> bool | None:
    """Tell whether a test of values holds: a blank is none of these."""
    pieces = _pieces(test, ends)
    if not pieces:
        return None
    if ends.kind is None:
        return False
    if isinstance(ends.least, str) or isinstance(ends.greatest, str):
        return None if any(_may_be(each, ends) for each in pieces) else False
    spans = [each for each in pieces if isinstance(each, Interval) and each.kind is ends.kind]
    if len(spans) < len(pieces):
        return None
    if ends.blanks is False and any(_holds_all(each, ends) for each in spans):
        return True
    return None if any(_meet(each, ends) for each in spans) else False


def _pieces(test: object, ends: Ends) -> Sequence[Piece]:
    """Return what a test asks for as the column takes it; nothing where that is not known."""
    dates = ends.kind is Kind.DATE
    if isinstance(test, OneOf):
        found = OneOf(tuple(_suited(each) for each in test.values)) if dates else test
        return found.pieces()
    if isinstance(test, Compared):
        return replace(test, value=_suited(test.value)).pieces() if dates else test.pieces()
    return []


def _suited(value: Operand) -> Operand:
    """Return a value as a column of dates takes it: four digits are a year."""
    if isinstance(value, Window):
        return Window(_year_of(value.low), _year_of(value.high))
    return _year_of(value)


def _year_of(value: _Value) -> "_Value | Period":
    return (read_year(value.text) or value) if isinstance(value, Number) else value


def _holds_all(span: Interval, ends: Ends) -> bool:
    """Tell whether an interval holds all from one end to the other."""
    return not _is_below(ends.least, span) and not _is_above(ends.greatest, span)


def _meet(span: Interval, ends: Ends) -> bool:
    """Tell whether an interval holds anything from one end to the other."""
    return not _is_below(ends.greatest, span) and not _is_above(ends.least, span)


def _is_below(value: Decimal | int | str, span: Interval) -> bool:
    low = span.low
    if low is None or isinstance(value, str):
        return False
    return value < low or (value == low and not span.low_in)


def _is_above(value: Decimal | int | str, span: Interval) -> bool:
    high = span.high
    if high is None or isinstance(value, str):
        return False
    return value > high or (value == high and not span.high_in)


def _may_be(piece: Piece, ends: Ends) -> bool:
    """Tell whether a text from one end to the other may equal a folded one.

    Texts in between begin with the letters that both ends begin with, and go on with one from
    that of the one end to that of the other. Of letters of ASCII the case is all that folding
    changes; of others nothing is said.
    """
    least, greatest = str(ends.least), str(ends.greatest)
    plain = isinstance(piece, str) and piece.isascii() and piece.isprintable()
    if not isinstance(piece, str) or not plain or piece[:1] in ("", "'"):  # quotes may be none
        return True
    for place, (low, high) in enumerate(zip(least, greatest, strict=False)):
        if max(low, high) > _ASCII or (place == 0 and low < _VISIBLE):
            return True
        wanted = piece[place : place + 1]
        if not wanted:
            return low < _VISIBLE  # what follows may be blank, and is taken away
        if low != high:
            return any(low <= each <= high for each in _cases(wanted))
        if low not in _cases(wanted):
            return False
    return True


def _cases(letter: str) -> tuple[str, str]:
    return letter.lower(), letter.upper()
