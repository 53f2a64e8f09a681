"""Numbers and dates as people write them, read where a whole column agrees.

Numbers with a thousands separator, a currency sign, a percent sign or in accounting
brackets; numbers with a decimal comma; dates in an order that a person names.
"""

import re
import unicodedata
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Context, Decimal
from enum import StrEnum

from even_sieve.core.cells.cell import Cell
from even_sieve.core.cells.counted_days import DAY_ZERO
from even_sieve.core.cells.date_parts import SPACES, DateParts
from even_sieve.core.cells.text import read_number

#: Rounds nothing that a person writes, whatever the decimal context of the caller.
_EXACT = Context(prec=10_000)
_DATE = re.compile(r"(\d{1,4})([./-])(\d{1,2})\2(\d{1,4})(?!\d)", re.ASCII)
_YEAR, _DAY = 4, 2
_SIGNS = ("+", "-")


class DateOrder(StrEnum):
    """The order in which a date names its day, month and year."""

    DAY_FIRST = "day-month-year"
    MONTH_FIRST = "month-day-year"
    YEAR_FIRST = "year-month-day"


@dataclass(frozen=True)
class Conventions:
    """How a column's source writes numbers and dates: what values in criteria are read by.

    `decimal` is the decimal mark, `date_order` that of dates that are not ISO, and `written`
    says that thousands separators, currency and percent signs were read as such. `day_zero` is
    the day from which dates are counted where they stand as numbers, None where files differ.
    """

    decimal: str = "."
    date_order: DateOrder | None = None
    written: bool = False
    day_zero: date | None = DAY_ZERO

    def number(self, text: str) -> Decimal | None:
        """Return the number that a text is by these conventions, or None.

        >>> str(Conventions(",", None, True).number("1.000")), Conventions().number("1,000")
        ('1000', None)
        """
        return read_written_number(text, self.decimal) if self.written else None

    def day(self, text: str) -> date | None:
        """Return the date that a text is by these conventions, or None."""
        return None if self.date_order is None else read_ordered_date(text, self.date_order)


PLAIN = Conventions()


def read_written_number(text: str, decimal: str = ".") -> Decimal | None:
    """Return the number that a person wrote, or None.

    >>> [str(read_written_number(each)) for each in ("1,200.50", "€ 12", "12.5%", "$(7)", "1,20")]
    ['1200.50', '12', '0.125', '-7', 'None']
    >>> str(read_written_number("1.200,50", ","))
    '1200.50'
    """
    body, percent = _without_percent(text.strip())
    bare = _without_currency(body)
    negative = bare.startswith("(") and bare.endswith(")")
    if negative:  # percent and currency stand inside, or before and behind
        within = bare[1:-1].strip()
        if not percent:
            within, percent = _without_percent(within)
        bare = _without_currency(within) if bare == body else within
        if bare.startswith(_SIGNS):  # `(-5)`: nobody knows which
            return None
    plain = _plain_digits(bare, decimal)
    number = None if plain is None else read_number(plain)
    if number is None:
        return None
    number = number.copy_negate() if negative else number
    return _EXACT.divide(number, 100) if percent else number


def _without_percent(text: str) -> tuple[str, bool]:
    """Return the text without a percent sign behind, and whether it has one."""
    return text.removesuffix("%").rstrip(), text.endswith("%")


def _without_currency(body: str) -> str:
    """Return the text without a currency sign before or after the digits.

    Three letters are left: `NOR 5` may well be a berth.
    """
    sign = body[:1] if body[:1] in "+-" else ""
    body = body[len(sign) :].strip()
    if body and unicodedata.category(body[0]) == "Sc":
        body = body[1:].strip()
    elif body and unicodedata.category(body[-1]) == "Sc":
        body = body[:-1].strip()
    return sign + body


def _plain_digits(body: str, decimal: str) -> str | None:
    """Return the digits with a point and without separators; None if the groups are off."""
    whole, point, decimals = body.partition(decimal)
    separators = "'’" + SPACES + ("," if decimal == "." else ".")
    used = {char for char in whole if char in separators}
    if len(used) > 1:
        return None
    if used:
        sign = whole[:1] if whole[:1] in "+-" else ""
        groups = whole[len(sign) :].split(used.pop())
        if not 1 <= len(groups[0]) <= 3 or any(len(group) != 3 for group in groups[1:]):
            return None
        if not all(map(str.isdigit, groups)):  # as with an exponent: `1,2e5`
            return None
        whole = sign + "".join(groups)
    return f"{whole}.{decimals}" if point else whole


def read_ordered_date(text: str, order: DateOrder) -> date | None:
    """Return the date whose parts stand in this order, or None; the year has four digits.

    A time may follow, of twelve hours too.

    >>> read_ordered_date("03/04/2031", DateOrder.DAY_FIRST)
    datetime.date(2031, 4, 3)
    >>> str(read_ordered_date("3/4/2031 2:30 PM", DateOrder.MONTH_FIRST))
    '2031-03-04 14:30:00'
    """
    parts = parts_in_order(text, order)
    return None if parts is None else parts.read(text)


def parts_in_order(text: str, order: DateOrder, in_utc: bool = False) -> DateParts | None:
    """Return where the parts of such a date stand in a text, to which all digits are alike.

    A time may end in `UTC` where that is so.
    """
    found = _DATE.match(text)
    if found is None:
        return None
    spans = [found.span(1), found.span(3), found.span(4)]
    places = {DateOrder.DAY_FIRST: (2, 1, 0), DateOrder.MONTH_FIRST: (2, 0, 1)}
    year, month, day = (spans[place] for place in places.get(order, (0, 1, 2)))
    if year[1] - year[0] != _YEAR or max(day[1] - day[0], month[1] - month[0]) > _DAY:
        return None
    return DateParts(year, month, day).with_clock(text, found.end(), in_utc)


def where_all_agree(
    cells: Sequence[Cell], read: Callable[[str], Cell], kinds: type | tuple[type, ...]
) -> list[Cell] | None:
    """Return the cells with every text read; None unless all texts are read by `read`.

    Cells of other kinds than these, blanks and errors aside, speak against it too.
    """
    if not any(isinstance(cell, str) for cell in cells):
        return None
    out: list[Cell] = []
    for cell in cells:
        if isinstance(cell, str):
            value = read(cell)
            if value is None:
                return None
            out.append(value)
        elif isinstance(cell, kinds) and not isinstance(cell, bool):
            out.append(cell)
        elif isinstance(cell, bool | int | float | Decimal | date):
            return None
        else:
            out.append(cell)
    return out
