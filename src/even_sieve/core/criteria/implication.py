"""When one condition holds, does another? A yes is certain; a no may be ignorance."""

from dataclasses import dataclass
from decimal import Decimal

from even_sieve.core.cells import fold
from even_sieve.core.criteria.nodes import And, Compared, Condition, Criteria, OneOf, Order
from even_sieve.core.criteria.operands import (
    Number,
    Operand,
    Pattern,
    Period,
    Text,
    Wild,
    Window,
)
from even_sieve.core.criteria.wildcards import matcher


@dataclass(frozen=True)
class _Interval:
    """Numbers, or moments, from `low` to `high`, the ends in or out; None is open."""

    kind: type
    low: Decimal | int | None
    high: Decimal | int | None
    low_in: bool = True
    high_in: bool = True

    def within(self, other: "_Interval") -> bool:
        """Tell whether all of this interval lies in the other."""
        return (
            self.kind is other.kind
            and _above(self.low, self.low_in, other.low, other.low_in)
            and _above(
                None if self.high is None else -self.high,
                self.high_in,
                None if other.high is None else -other.high,
                other.high_in,
            )
        )


def _above(
    low: Decimal | int | None, low_in: bool, other: Decimal | int | None, other_in: bool
) -> bool:
    if other is None:
        return True
    if low is None:
        return False
    return low > other or (low == other and (other_in or not low_in))


def implies(first: Criteria, second: Criteria) -> bool:
    """Tell whether `second` is sure to hold wherever `first` does.

    >>> from even_sieve.core.criteria.grammar import parse_criteria as read
    >>> implies(read("zone = Outer and dues > 9"), read("zone = O* | Inner"))
    True
    >>> implies(read("zone = O*"), read("zone = Outer"))
    False
    """
    if first == second:
        return True
    wanted = second.parts if isinstance(second, And) else (second,)
    given = first.parts if isinstance(first, And) else (first,)
    return all(any(_part_implies(a, b) for a in given) for b in wanted)


def _part_implies(first: Criteria, second: Criteria) -> bool:
    if first == second:
        return True
    if not (isinstance(first, Condition) and isinstance(second, Condition)):
        return False
    if first.column.casefold() != second.column.casefold():
        return False
    if not second.negated:
        return not first.negated and _covers(second, first)
    if first.negated:
        return _covers(first, second)
    return _apart(first, second)


def _covers(wide: Condition, narrow: Condition) -> bool:
    """Tell whether every value of `narrow` is one of `wide`, signs aside."""
    if wide.test == narrow.test:
        return True
    large, small = _pieces(wide), _pieces(narrow)
    return bool(small) and all(any(_holds(one, each) for one in large) for each in small)


def _apart(first: Condition, second: Condition) -> bool:
    """Tell whether two lists of plain texts, or of plain numbers, have nothing in common."""
    one, two = _pieces(first), _pieces(second)
    if not one or not two:
        return False
    plain = all(isinstance(each, str) for each in (*one, *two))
    single = all(isinstance(each, _Interval) and each.low == each.high for each in (*one, *two))
    return (plain or single) and not set(one) & set(two)


_Piece = str | tuple[str | Wild, ...] | _Interval


def _pieces(condition: Condition) -> list[_Piece]:
    """Return the values of a condition as texts, patterns, intervals; none if unknown."""
    test = condition.test
    if isinstance(test, Compared):
        interval = _half_line(test.order, test.value)
        return [] if interval is None else [interval]
    if not isinstance(test, OneOf):
        return []
    pieces = [_piece(value) for value in test.values]
    return [each for each in pieces if each is not None] if None not in pieces else []


def _piece(value: Operand) -> _Piece | None:
    if isinstance(value, Text):
        return fold(value.text)
    if isinstance(value, Pattern):
        parts = tuple(part for part in value.parts if isinstance(part, str | Wild))
        return parts if len(parts) == len(value.parts) else None
    if isinstance(value, Number):
        return _Interval(Number, value.value, value.value)
    if isinstance(value, Period):
        return _Interval(Period, value.start, value.end - 1)
    return _window(value) if isinstance(value, Window) else None


def _window(window: Window) -> _Interval | None:
    low, high = window.low, window.high
    if isinstance(low, Number | None) and isinstance(high, Number | None):
        return _Interval(Number, low.value if low else None, high.value if high else None)
    if isinstance(low, Period | None) and isinstance(high, Period | None):
        return _Interval(Period, low.start if low else None, high.end - 1 if high else None)
    return None


def _half_line(order: Order, value: Operand) -> _Interval | None:
    if isinstance(value, Number):
        first = last = value.value
    elif isinstance(value, Period):
        first, last = value.start, value.end - 1  # type: ignore[assignment]
    else:
        return None
    kind = type(value)
    return {
        Order.LESS: _Interval(kind, None, first, high_in=False),
        Order.AT_MOST: _Interval(kind, None, last),
        Order.MORE: _Interval(kind, last, None, low_in=False),
        Order.AT_LEAST: _Interval(kind, first, None),
    }[order]


def _holds(wide: _Piece, narrow: _Piece) -> bool:
    if wide == narrow:
        return True
    if isinstance(wide, _Interval) and isinstance(narrow, _Interval):
        return narrow.within(wide)
    return isinstance(wide, tuple) and isinstance(narrow, str) and matcher(wide)(narrow)
