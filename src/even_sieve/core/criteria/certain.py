"""What criteria are certain to say of rows of which the ends of columns alone are known.

A yes and a no are certain, None is ignorance: whoever asks must look at the rows.
"""

from bisect import bisect_left, bisect_right
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal
from itertools import accumulate, takewhile
from typing import Any, TypeVar, cast

from even_sieve.core.cells import Kind, read_date
from even_sieve.core.criteria.conditions import Compared, Holding, Holds, OneOf
from even_sieve.core.criteria.nodes import And, Condition, Criteria, Not, conditions
from even_sieve.core.criteria.operands import (
    Interval,
    Number,
    Operand,
    Period,
    Piece,
    Text,
    Window,
    YesNo,
    is_likely_end,
)
from even_sieve.core.criteria.operands.period_names import read_year

#: The last letter of ASCII, and the first one that is no blank.
_ASCII, _VISIBLE = "\x7f", "!"
#: So many spans are looked at one by one, so many texts at the most.
_FEW, _MANY = 16, 100


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


class Certainty:
    """What criteria that are prepared are certain to say of rows, stretch after stretch of these.

    >>> from even_sieve.core.criteria.grammar import parse_criteria as read
    >>> ends = {"dues": Ends(Kind.NUMBER, Decimal(80), Decimal(120), blanks=False)}
    >>> asked = [Certainty(read(each)) for each in ("dues < 80", "dues >= 80", "dues = 90")]
    >>> [each.of(ends.get) for each in asked]
    [False, True, None]
    """

    def __init__(self, criteria: Criteria) -> None:
        self.criteria = criteria
        self._sought: dict[tuple[int, bool], _Sought] = {}

    def of(self, ends_of: EndsOf) -> bool | None:
        """Tell whether the criteria hold for all rows (True), or for none (False), for certain.

        `ends_of` gives the ends of a column on the rows, None where they are not known.
        """
        return self._of(self.criteria, ends_of)

    def _of(self, criteria: Criteria, ends_of: EndsOf) -> bool | None:
        if isinstance(criteria, Condition):
            return self._of_condition(criteria, ends_of(criteria.column))
        if isinstance(criteria, Not):
            return _opposite(self._of(criteria.part, ends_of))
        parts = [self._of(part, ends_of) for part in criteria.parts]
        decides = not isinstance(criteria, And)
        if decides in parts:
            return decides
        return None if None in parts else not decides

    def _of_condition(self, condition: Condition, ends: Ends | None) -> bool | None:
        if ends is None:
            return None
        test = condition.test
        if isinstance(test, Holds):
            found = _of_kind(test.what, ends)
        else:
            key = id(test), ends.kind is Kind.DATE
            if key not in self._sought:
                self._sought[key] = _Sought(_pieces(test, dates=key[1]))
            found = self._sought[key].among(ends)
        return _opposite(found) if condition.negated else found


def hangs_on_cells(criteria: Criteria, is_of_one_kind: Callable[[str], bool]) -> bool:
    """Tell whether what a value of criteria means hangs on the cells of its column.

    `2031` is a year where there are dates and no numbers, `2031-Q1` a text where there are texts
    and no dates, and single quotes are letters where a cell has them.

    >>> from even_sieve.core.criteria.grammar import parse_criteria as read
    >>> [hangs_on_cells(read(each), "dues".__eq__) for each in ("dues = 2031", "size = 2031")]
    [False, True]
    """
    return any(
        _is_open(value) or (_has_readings(value) and not is_of_one_kind(condition.column))
        for condition in conditions(criteria)
        for value in _values(condition.test)
    )


def _values(test: object) -> Iterator[Operand]:
    found = test.values if isinstance(test, OneOf) else ()
    for value in (test.value,) if isinstance(test, Compared) else found:
        ends = (value.low, value.high) if isinstance(value, Window) else (value,)
        yield from (end for end in ends if isinstance(end, Operand))


def _is_open(value: Operand) -> bool:
    return isinstance(value, Text) and value.bare and value.text[:1] == "'"


def _has_readings(value: Operand) -> bool:
    """Tell whether a value is read by the kinds of cells that its column has."""
    if isinstance(value, Number):
        return read_year(value.text) is not None
    if isinstance(value, Text):
        return value.bare and is_likely_end(value.text)
    return isinstance(value, YesNo) or (isinstance(value, Period) and not read_date(value.text))


def _opposite(found: bool | None) -> bool | None:
    return None if found is None else not found


def _of_kind(what: Holding, ends: Ends) -> bool | None:
    """Tell whether the cells are blank, or filled; of other kinds nothing is certain."""
    if what not in (Holding.BLANK, Holding.FILLED):
        return None
    blank = True if ends.kind is None else False if ends.blanks is False else None
    return blank if what is Holding.BLANK else _opposite(blank)


class _Sought:
    """The values that a test asks for, in order: those that may lie among others are found fast."""

    def __init__(self, pieces: Sequence[Piece]) -> None:
        self._count = len(pieces)
        self._texts = sorted(each for each in pieces if isinstance(each, str) and _is_plain(each))
        spans = [each for each in pieces if isinstance(each, Interval)]
        self._kinds = {each.kind for each in spans}
        self._open = [each for each in spans if each.low is None or each.high is None]
        closed = [each for each in spans if each.low is not None and each.high is not None]
        self._spans: list[Any] = sorted(closed, key=lambda each: cast(Any, (each.low, each.high)))
        self._known = len(self._texts) if not spans else len(spans)
        self._highest = list(accumulate((each.high for each in self._spans), max))

    def among(self, ends: Ends) -> bool | None:
        """Tell whether all cells that lie between ends are asked for, or none; a blank is not."""
        if self._known < self._count or not self._count:
            return None
        if ends.kind is None:
            return False
        if ends.kind is Kind.TEXT:
            return None if not self._texts or self._texts_among(ends) else False
        if self._kinds != {ends.kind}:
            return None
        # Those that begin no later than the last cell; of these one ends no sooner than the first.
        last: Any = ends.greatest
        place = bisect_right(self._spans, last, key=lambda each: each.low)
        near = [*self._open, *self._spans[max(place - _FEW, 0) : place]]
        if ends.blanks is False and any(_holds_all(each, ends) for each in near):
            return True
        if place > _FEW and self._highest[place - _FEW - 1] >= ends.least:
            return None
        return None if any(_meet(each, ends) for each in near) else False

    def _texts_among(self, ends: Ends) -> bool:
        """Tell whether a text may lie between the ends of others, of which all begin alike."""
        least, greatest = str(ends.least), str(ends.greatest)
        pairs = zip(least, greatest, strict=False)
        begin = "".join(low for low, _ in takewhile(lambda pair: pair[0] == pair[1], pairs))
        if not begin.isascii() or begin != begin.strip() or least[:1] < _VISIBLE:
            return True  # outer blanks are taken away
        first = bisect_left(self._texts, begin.lower())
        near = self._texts[first : bisect_right(self._texts, begin.lower() + _ASCII)]
        return len(near) > _MANY or any(_may_be(each, least, greatest) for each in near)


def _is_plain(text: str) -> bool:
    """Tell whether the letters of a text have but two cases, and no quotes that may be none."""
    return text.isascii() and text.isprintable() and text[:1] not in ("", "'")


def _pieces(test: object, *, dates: bool) -> Sequence[Piece]:
    """Return what a test asks for as the column takes it; nothing where that is not known."""
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


def _may_be(piece: str, least: str, greatest: str) -> bool:
    """Tell whether a text between the ends may equal a folded one.

    Texts in between begin with the letters that both ends begin with, and go on with one from
    that of the one end to that of the other. Of letters of ASCII the case is all that folding
    changes; of others nothing is said.
    """
    for place, (low, high) in enumerate(zip(least, greatest, strict=False)):
        if max(low, high) > _ASCII:
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
