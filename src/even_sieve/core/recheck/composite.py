"""Figures worked out from two others, once more: plain fractions, and calendar days."""

from datetime import date, datetime, time
from decimal import Decimal
from fractions import Fraction

_SECONDS, _MICROS = 86_400, 86_400_000_000


def join_again(kind: str, first: object, second: object) -> Fraction | None:
    """Return what a combination makes of two figures, exactly; None where there is none.

    >>> join_again("ratio", 1, 0.5), join_again("change", date(2031, 3, 1), date(2031, 2, 1))
    (Fraction(2, 1), Fraction(28, 1))
    """
    if isinstance(first, date) and isinstance(second, date):
        return _days(first, second) if kind in ("difference", "change") else None
    one, two = _number(first), _number(second)
    if one is None or two is None:
        return None
    if kind in ("difference", "change"):
        return one - two
    if two == 0:
        return None
    return one / two - (kind == "relative change")


def _number(figure: object) -> Fraction | None:
    if isinstance(figure, bool) or not isinstance(figure, int | float | Decimal | Fraction):
        return None
    return Fraction(repr(figure)) if isinstance(figure, float) else Fraction(figure)


def _days(first: date, second: date) -> Fraction:
    gap = _moment(first) - _moment(second)
    return gap.days + Fraction(gap.seconds, _SECONDS) + Fraction(gap.microseconds, _MICROS)


def _moment(value: date) -> datetime:
    return value if isinstance(value, datetime) else datetime.combine(value, time())
