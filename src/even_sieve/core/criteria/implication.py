"""When one condition holds, does another? A yes is certain; a no may be ignorance."""

from decimal import Decimal

from even_sieve.core.cells import fold
from even_sieve.core.criteria.nodes import And, Condition, Criteria
from even_sieve.core.criteria.operands import Interval, Piece
from even_sieve.core.criteria.operands.wildcards import matcher


def _within(narrow: Interval, wide: Interval) -> bool:
    """Tell whether all of an interval lies in the other."""
    return (
        narrow.kind is wide.kind
        and _above(narrow.low, narrow.low_in, wide.low, wide.low_in)
        and _above(
            None if narrow.high is None else -narrow.high,
            narrow.high_in,
            None if wide.high is None else -wide.high,
            wide.high_in,
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
    if fold(first.column) != fold(second.column):
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
    large, small = wide.test.pieces(), narrow.test.pieces()
    return bool(small) and all(any(_holds(one, each) for one in large) for each in small)


def _apart(first: Condition, second: Condition) -> bool:
    """Tell whether two lists of plain texts, or of plain numbers, have nothing in common."""
    one, two = first.test.pieces(), second.test.pieces()
    if not one or not two:
        return False
    plain = all(isinstance(each, str) for each in (*one, *two))
    single = all(isinstance(each, Interval) and each.low == each.high for each in (*one, *two))
    return (plain or single) and not set(one) & set(two)


def _holds(wide: Piece, narrow: Piece) -> bool:
    if wide == narrow:
        return True
    if isinstance(wide, Interval) and isinstance(narrow, Interval):
        return _within(narrow, wide)
    return isinstance(wide, tuple) and isinstance(narrow, str) and matcher(wide)(narrow)
