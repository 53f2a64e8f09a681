"""The arithmetic of figures worked out from two others, exact until it is rounded."""

from collections.abc import Sequence
from datetime import date, datetime
from decimal import Decimal
from fractions import Fraction
from typing import Protocol

from even_sieve.core.cells import Cell, CellError
from even_sieve.core.cells.dates import DAY, days_of, micros_of
from even_sieve.core.table.shortest import exact_decimal


class Part(Protocol):
    """A figure that goes into another one: a tally."""

    @property
    def name(self) -> str:
        """What the figure is called."""

    @property
    def value(self) -> Cell:
        """The figure as it is shown."""

    @property
    def exact(self) -> Fraction | None:
        """The figure before it was rounded, where that is known."""

    @property
    def reason(self) -> str | None:
        """Why there is no value."""


def combine(kind: str, parts: Sequence[Part]) -> tuple[Fraction | None, str | None]:
    """Return what a combination makes of two figures, exactly, or None with the reason.

    A figure that is too large to be shown still has its exact value.
    """
    first, second = parts
    for each in parts:
        lacking = each.value is None and each.exact is None
        if lacking or isinstance(each.value, CellError):
            return None, f"'{each.name}' has no value" + (f": {each.reason}" if each.reason else "")
    days = _days_between(first.value, second.value)
    if days is not None and kind in ("difference", "change"):
        return days, None
    one, two = exact_of(first), exact_of(second)
    if one is None or two is None:
        which = first if one is None else second
        return None, f"'{which.name}' is no number"
    if kind in ("difference", "change"):
        return one - two, None
    if not two:
        return None, f"'{second.name}' is 0"
    return (one / two if kind == "ratio" else (one - two) / two), None


def exact_of(part: Part) -> Fraction | None:
    """Return the exact figure, or the one that is shown; None for what is no number."""
    return as_shown(part.value) if part.exact is None else part.exact


def as_shown(value: Cell) -> Fraction | None:
    """Return a number as the decimal that it shows; None for what is no number."""
    if isinstance(value, bool) or not isinstance(value, int | float | Decimal):
        return None
    return exact_decimal(value) if isinstance(value, float) else Fraction(value)


def _days_between(first: Cell, second: Cell) -> Fraction | None:
    if not isinstance(first, date) or not isinstance(second, date):
        return None
    return Fraction(_micros(first) - _micros(second), DAY)


def _micros(value: date) -> int:
    return micros_of(value) if isinstance(value, datetime) else days_of(value) * DAY
