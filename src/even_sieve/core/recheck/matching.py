"""Whether criteria hold for a row, one condition and one cell at a time."""

import re
import unicodedata
from collections.abc import Mapping
from decimal import Decimal
from fractions import Fraction

from even_sieve.core.cells import CellError
from even_sieve.core.criteria.conditions import Compared, Holding, Holds, OneOf
from even_sieve.core.criteria.nodes import And, Condition, Criteria, Or
from even_sieve.core.criteria.operands import (
    Number,
    Operand,
    OtherColumn,
    Pattern,
    Period,
    Text,
    Wild,
    Window,
    YesNo,
)
from even_sieve.core.recheck.plain_cells import Plain, PlainColumn, When, plain, same
from even_sieve.core.recheck.reading import day_as_written, has_clock, number_as_written

_DAY = 86_400_000_000
_ISO_DATE = re.compile(r"\d{4}-\d{2}-\d{2}([T ].*)?\Z", re.DOTALL)
_HELD = {
    Holding.NUMBER: Fraction, Holding.DATE: When, Holding.TEXT: str, Holding.YES_NO: bool,
    Holding.ERROR: CellError, Holding.BLANK: type(None),
}  # fmt: skip

Columns = Mapping[str, PlainColumn]


def holds(criteria: Criteria, columns: Columns, row: int) -> bool:
    """Tell whether the criteria hold for a row, counted from 0."""
    if isinstance(criteria, And):
        return all(holds(part, columns, row) for part in criteria.parts)
    if isinstance(criteria, Or):
        return any(holds(part, columns, row) for part in criteria.parts)
    if isinstance(criteria, Condition):
        return _condition(criteria, columns, row) != criteria.negated
    return not holds(criteria.part, columns, row)


def _condition(condition: Condition, columns: Columns, row: int) -> bool:
    column, test = columns[condition.column], condition.test
    value = column.values[row]
    if isinstance(test, Holds):
        if test.what is Holding.FILLED:
            return value is not None
        return type(value) is _HELD[test.what]
    if isinstance(test, OneOf):
        return any(_equals(column, row, each, columns) for each in test.values)
    if not isinstance(test, Compared):
        raise TypeError("these criteria were not prepared")
    return _ordered(column, row, test.order.value, test.value, columns)


def _equals(column: PlainColumn, row: int, operand: Operand, columns: Columns) -> bool:
    value, operand = column.values[row], as_taken(operand, column)
    if isinstance(operand, Window):
        return _within(column, row, operand)
    if isinstance(operand, Pattern):
        return isinstance(value, str) and _like(value, operand)
    if isinstance(operand, Text):
        return isinstance(value, str) and same(value) == same(operand.text)
    if isinstance(operand, YesNo):
        return value is operand.value
    return _ordered(column, row, "=", operand, columns)


def as_taken(operand: Operand, column: PlainColumn) -> Operand:
    """Return the value as the column takes it: see "Matching" in docs/semantics.md.

    It is the same for every row, and found once.
    """
    known = column.taken.get(id(operand))
    if known is None:
        known = column.taken[id(operand)] = (operand, _taken(operand, column))
    return known[1]


def _taken(operand: Operand, column: PlainColumn) -> Operand:
    held = column.holds
    operand = _as_written(operand, column)
    if isinstance(operand, YesNo) and bool not in held:
        return Text(operand.text)
    if isinstance(operand, Period) and When not in held and str in held:
        return operand if _ISO_DATE.match(operand.text) else Text(operand.text)
    if isinstance(operand, Number) and When in held and Fraction not in held:
        return _year(operand) or operand
    return operand


def _as_written(operand: Operand, column: PlainColumn) -> Operand:
    """Return a value without quotes as the source of the column writes numbers and dates."""
    if isinstance(operand, Text) and operand.bare and operand.text[:1] == "'" == operand.text[-1:]:
        inner = operand.text[1:-1]
        if inner and "'" not in inner and same(operand.text) not in column.texts:
            return Text(inner)
    if not isinstance(operand, Number | Text) or (isinstance(operand, Text) and not operand.bare):
        return operand
    if Fraction in column.holds and column.written:
        number = number_as_written(operand.text, column.decimal)
        if number is not None:
            return Number(number, operand.text)
    if isinstance(operand, Text) and When in column.holds and Fraction not in column.holds:
        year = _year(Number(Decimal(0), operand.text))
        if year is not None:
            return year
    if isinstance(operand, Text) and When in column.holds and column.date_order:
        day = day_as_written(operand.text, column.date_order)
        if day is not None:
            start = plain(day)
            wide = 1 if has_clock(operand.text) else _DAY
            return Period(start.at, start.at + wide, operand.text)  # type: ignore[union-attr]
    return operand


def _year(number: Number) -> Period | None:
    if not re.fullmatch(r"\d{4}", number.text) or not int(number.text):
        return None
    year = int(number.text)
    first, after = (_days(each) * _DAY for each in (year, year + 1))
    return Period(first, after, number.text)


def _days(year: int) -> int:
    """Return the days from 1970 to the start of a year (Gregorian)."""
    before = year - 1
    return before * 365 + before // 4 - before // 100 + before // 400 - 719_162


def _within(column: PlainColumn, row: int, window: Window) -> bool:
    ends = [
        as_taken(end, column) if isinstance(end, Number | Text) else end
        for end in (window.low, window.high)
    ]
    kinds = {type(end) for end in ends if end is not None}
    if len(kinds) != 1:
        return False
    low, high = ends
    wanted = Fraction if Number in kinds else When
    return (
        type(column.values[row]) is wanted
        and (low is None or _ordered(column, row, ">=", low, {}))
        and (high is None or _ordered(column, row, "<=", high, {}))
    )


def _ordered(
    column: PlainColumn, row: int, comparison: str, operand: Operand, columns: Columns
) -> bool:
    """Tell whether a cell stands in an order to a value of its own kind."""
    value, operand = column.values[row], as_taken(operand, column)
    if isinstance(operand, OtherColumn):
        return _pair(column, columns[operand.name], row, comparison)
    if isinstance(operand, Number) and isinstance(value, Fraction):
        if column.doubles:
            near = float(operand.value)
            return _stands(comparison, value.numerator / value.denominator, near, near)
        exact = column.taken.get(id(operand.value))
        if exact is None:
            exact = column.taken[id(operand.value)] = (operand.value, Fraction(operand.value))
        return _stands(comparison, value, exact[1], exact[1])
    if isinstance(operand, Period) and isinstance(value, When):
        return _stands(comparison, value.at, operand.start, operand.end - 1)
    if isinstance(operand, Text) and isinstance(value, str):
        other = same(operand.text)
        return _stands(comparison, same(value), other, other)
    return False


def _pair(column: PlainColumn, other: PlainColumn, row: int, comparison: str) -> bool:
    value, second = column.values[row], other.values[row]
    if type(value) is not type(second) or value is None or isinstance(value, CellError):
        return False
    if isinstance(value, When) and isinstance(second, When):
        wide = other.whole_days and not column.whole_days
        return _stands(comparison, value.at, second.at, second.at + (_DAY - 1 if wide else 0))
    if isinstance(value, str) and isinstance(second, str):
        return _stands(comparison, same(value), same(second), same(second))
    if isinstance(value, Fraction) and (column.doubles or other.doubles):
        near = [each.numerator / each.denominator for each in (value, second)]  # type: ignore[union-attr]
        return _stands(comparison, near[0], near[1], near[1])
    return _stands(comparison, value, second, second)


def _stands(comparison: str, value: Plain | float, first: object, last: object) -> bool:
    """Compare with what reaches from `first` to `last`, both of the value's type."""
    match comparison:
        case "=":
            return bool(first <= value <= last)  # type: ignore[operator]
        case "<":
            return bool(value < first)  # type: ignore[operator]
        case "<=":
            return bool(value <= last)  # type: ignore[operator]
        case ">":
            return bool(value > last)  # type: ignore[operator]
    return bool(value >= first)  # type: ignore[operator]


def _ends_of(letters: list[str], start: int, piece: str) -> list[int]:
    """Return where a piece can end that begins at a letter."""
    ends = range(start, min(start + len(piece), len(letters)) + 1)
    return [end for end in ends if "".join(letters[start:end]) == piece]


def _like(text: str, pattern: Pattern) -> bool:
    """Tell whether the pattern fits the whole text, trying every place for each star."""
    places = {0}
    letters = [same(char) for char in unicodedata.normalize("NFC", text)]
    for part in pattern.parts:
        if part is Wild.ANY_RUN:
            places = set(range(min(places), len(letters) + 1)) if places else places
        elif part is Wild.ONE:
            places = {place + 1 for place in places if place < len(letters)}
        else:
            places = {end for p in places for end in _ends_of(letters, p, same(str(part)))}
    return len(letters) in places
