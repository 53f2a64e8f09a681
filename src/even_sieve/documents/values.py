"""Single values as text, for people and for programs."""

import re
from collections.abc import Sequence
from datetime import date
from decimal import Decimal
from fractions import Fraction

from even_sieve.core.cells import Cell, format_date
from even_sieve.core.table.origins import origin_of

DASH = "–"
_MOST_DECIMALS = 6
_EXACT = 10**15


def show_value(value: Cell, decimals: int = 0) -> str:
    """Return a value for a person: digits in groups, a dash for none, six decimals at the most.

    A number that is not whole is shown with at least so many `decimals`.

    >>> [show_value(each) for each in (12345.5, 1 / 3, None, True)], show_value(12345.5, 2)
    (['12,345.5', '0.333333', '–', 'yes'], '12,345.50')
    """
    if type(value) is str:  # as most are
        return value
    if value is None:
        return DASH
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, float):
        return _show_float(value, decimals)
    if isinstance(value, int | Decimal):
        return f"{value:,}"
    return plain_text(value)


def _show_float(value: float, decimals: int) -> str:
    if value and not 1e-4 <= abs(value) < _EXACT:
        return repr(value)
    whole, _, after = with_decimals(value, _MOST_DECIMALS).partition(".")
    return f"{whole}.{after.rstrip('0'):0<{decimals}}".rstrip(".")


def with_decimals(number: float | Decimal, places: int) -> str:
    """Return a number with so many decimals, digits in groups.

    A double counts as the decimal that it shows: what its bits hold beyond it is not seen.

    >>> with_decimals(39597223331.51, 6), with_decimals(0.125, 2)
    ('39,597,223,331.510000', '0.12')
    """
    if isinstance(number, float) and abs(number) * 10.0**places >= _EXACT:
        number = Decimal(repr(number))
    return f"{number:,.{places}f}"


_UNSEEN = re.compile(
    "[\\x00-\\x08\\x0b-\\x1f\\x7f-\\x9f\\u061c\\u200b-\\u200f\\u2028-\\u202e\\u2060-\\u2069\\ufeff\\ud800-\\udfff]"
)


def visible(text: str) -> str:
    """Return a text in which what a terminal would obey, or hide, is spelt out.

    >>> print(visible("\\x1b[31mred"))
    \\x1b[31mred
    """
    return _UNSEEN.sub(lambda found: found[0].encode("unicode_escape").decode(), text)


def plain_amount(amount: Fraction) -> int | float:
    """Return an exact amount as a whole number, or rounded once to a double."""
    return int(amount) if amount.denominator == 1 else amount.numerator / amount.denominator


def plain_text(value: Cell) -> str:
    """Return a value as a text file has it: nothing for none, ISO dates, all digits.

    >>> [plain_text(each) for each in (12345.0, 0.1, None, False)]
    ['12345', '0.1', '', 'no']
    """
    if value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, float):
        return str(int(value)) if value.is_integer() and abs(value) < _EXACT else repr(value)
    if isinstance(value, date):
        return format_date(value)
    return str(value)


def plain_json(value: Cell) -> object:
    """Return a value as JSON has it: the shortest number, ISO dates; None for an error."""
    if isinstance(value, float) and value.is_integer() and abs(value) < _EXACT:
        return int(value)
    if value is None or isinstance(value, bool | int | float | str):
        return value
    if isinstance(value, Decimal):
        return int(value) if value == value.to_integral_value() else value
    return plain_text(value)


def plain_row(number: int) -> object:
    """Return the number of a row as JSON has it: with its source where there are several."""
    origin = origin_of(number)
    return number if origin is None else {"row": int(number), "origin": origin}


def row_words(numbers: Sequence[int]) -> str:
    """Return the numbers of rows as one cell of a table has them."""
    return ("; " if any(map(origin_of, numbers)) else " ").join(map(str, numbers))


def spans(numbers: Sequence[int], most: int = 60) -> str:
    """Return row numbers as spans: those that follow one another stand together.

    >>> spans([2, 3, 4, 7, 9, 10])
    'rows 2–4, 7, 9, 10'
    """
    runs: list[list[int]] = []
    for number in numbers:
        if runs and _follows(runs[-1][1], number):
            runs[-1][1] = number
        else:
            runs.append([number, number])
    words = [_span(int(first), last) for first, last in runs]
    left = sum(b - a + 1 for a, b in runs[most:])
    more = f" and {left:,} more" if left else ""
    return f"row{'' if len(numbers) == 1 else 's'} {', '.join(words[:most])}{more}"


def _follows(before: int, number: int) -> bool:
    return number == before + 1 and origin_of(before) == origin_of(number)


def _span(first: int, last: int) -> str:
    if first == last:
        return f"{last}"
    return f"{first}{', ' if int(last) == first + 1 else '–'}{last}"
