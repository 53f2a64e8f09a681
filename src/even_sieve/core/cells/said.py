"""Cells read as numbers, dates or texts because somebody says that they are."""

import re
import unicodedata
from collections.abc import Iterable
from datetime import date
from decimal import Decimal

from even_sieve.core.cells.cell import Cell, CellError
from even_sieve.core.cells.counted_days import DAY_ZERO, counted_date
from even_sieve.core.cells.date_parts import DateParts
from even_sieve.core.cells.dates import (
    DAY,
    date_from_days,
    datetime_from_micros,
    format_date,
    read_date,
)
from even_sieve.core.cells.named_dates import named_parts
from even_sieve.core.cells.text import currency_of
from even_sieve.core.cells.written import DateOrder, parts_in_order, read_written_number

#: A date in eight digits, as a number.
_FIRST, _LAST = 1000_01_01, 9999_12_31
_MOST_WHOLE = 2**63
_UTC = re.compile(r"(?<=[0-9]) ?(?:UTC|GMT)\Z")
_ISO_DAY = re.compile(r"([0-9]{4})-([0-9]{2})-([0-9]{2})")
#: A dash for decimals that are none, which is no minus: `5.-`, `5,--`.
_NO_CENTS = {
    mark: re.compile(rf"(?<=[0-9])[{mark}] ?(?:-{{1,2}}|\u2014)(?![0-9-])") for mark in ".,"
}
#: Digits in groups of two but for the last three, as India writes them.
_PERCENT_FIRST = re.compile(r"([-+]?)%\s?([^%]+)\Z")
#: Narrow and wide spaces: all of them stand between thousands as the narrow one does.
_SPACES = re.compile("[\u2000-\u200a\u205f\u3000]")
_LAKHS = re.compile(r"[-+]?[0-9]{1,2}(?:,[0-9]{2})+,[0-9]{3}(?:\.[0-9]+)?\Z")


def number_said(cell: Cell, decimal: str = ".") -> Cell:
    """Return the number that a text is, with this decimal mark; any other cell as it is.

    Of what is said to be a number the minus may stand behind, and digits be of any script.

    >>> number_said("0042"), number_said("€ 1,250.00"), number_said("12 EUR"), number_said("waived")
    (42, Decimal('1250.00'), 12, 'waived')
    >>> number_said("980.00-"), number_said("−7"), number_said("1,00,000"), number_said("٤٢")
    (Decimal('-980.00'), -7, 100000, 42)
    >>> number_said("12.–"), number_said("kr 1.250,-", ",")
    (12, 1250)

    Signs that nobody sees go, and so do those by which a program is told that this is text.

    >>> number_said("\u200e5\u200b"), number_said("'5"), number_said('="7"'), number_said("%5")
    (5, 5, 7, Decimal('0.05'))
    """
    if not isinstance(cell, str):
        return cell
    text = _NO_CENTS[decimal].sub("", _bare(_plainly(cell.strip(), decimal)))
    text, _ = currency_of(_sign_first(text))
    text = _sign_first(text)
    if decimal == "." and _LAKHS.match(text):
        text = text.replace(",", "")
    if text.isascii() and text.isdigit():
        number: Decimal | None = Decimal(text)  # a code with zeros before it, too
    else:
        number = read_written_number(text, decimal)
    if number is None:
        return cell
    exponent = number.as_tuple().exponent  # of 1250.00 the places are kept
    is_whole = isinstance(exponent, int) and exponent >= 0 and abs(number) < _MOST_WHOLE
    return int(number) if is_whole else number


def _plainly(text: str, decimal: str) -> str:
    """Return a text with the digits, minuses and marks of any script as those of ASCII."""
    if text.isascii():
        return text
    marks = {"\u2212": "-", "\u2013": "-", "\uff0d": "-", "\u066b": decimal, "\u066c": "'"}
    seen = [each for each in text if unicodedata.category(each) != "Cf"]
    found = "".join(marks.get(each) or str(unicodedata.decimal(each, each)) for each in seen)
    return _SPACES.sub("\u202f", found).strip()


def _bare(text: str) -> str:
    """Return a text without the signs that say it is one, and its percent sign behind."""
    if text[:1] == "'" or text[:1] == "=":
        inner = text.lstrip("'=")
        text = inner[1:-1] if len(inner) > 1 and inner[0] == inner[-1] == '"' else inner
    if found := _PERCENT_FIRST.match(text):
        return f"{found[1]}{found[2]}%"
    return text


def _sign_first(text: str) -> str:
    """Return a text whose minus stands behind, as some programs write it, with it before."""
    behind = text.endswith("-") and not text.startswith(("-", "+", "("))
    return f"-{text[:-1].rstrip()}" if behind else text


def date_said(cell: Cell, order: DateOrder | None = None, day_zero: date | None = DAY_ZERO) -> Cell:
    """Return the date that a text or eight digits are, in this order; any other cell as it is.

    A number of five digits is one of days since day 0.

    >>> date_said("20310105"), date_said("5-Jan-2031"), date_said("soon"), date_said(47853)
    (datetime.date(2031, 1, 5), datetime.date(2031, 1, 5), 'soon', datetime.date(2031, 1, 5))
    """
    if cell is None or isinstance(cell, bool | date | CellError):
        return cell
    if isinstance(cell, int | float | Decimal):
        counted = counted_date(cell, day_zero)
        if counted is not None:
            return counted
        text = str(int(cell)) if _FIRST <= cell <= _LAST and cell == int(cell) else ""
    else:
        text = without_utc(cell.strip())
    moment = read_date(text)
    if moment is not None:
        if moment.has_time:
            return datetime_from_micros(moment.micros)
        return date_from_days(moment.micros // DAY)
    tried = (each.read(text) for each in ways_to_part(text, order))
    return next((found for found in tried if found is not None), cell)


def told_of_counted(cells: Iterable[Cell], day_zero: date | None) -> str:
    """Return how the first of some numbers is read that counts days; nothing if none does.

    >>> told_of_counted(["soon", 12, 47853], DAY_ZERO)
    'numbers as days since 1899-12-30: 47853 is 2031-01-05'
    """
    for cell in cells:
        if isinstance(cell, int | float | Decimal) and not isinstance(cell, bool):
            found = counted_date(cell, day_zero)
            if found is not None:
                return f"numbers as days since {day_zero}: {as_text(cell)} is {as_text(found)}"
    return ""


def without_utc(text: str) -> str:
    """Return a text without the `UTC` that it may end in, behind a digit.

    >>> without_utc("2031-01-05 14:30 UTC")
    '2031-01-05 14:30'
    """
    return _UTC.sub("", text)


def ways_to_part(text: str, order: DateOrder | None) -> list[DateParts]:
    """Return where the parts of a date stand in a text that is no ISO date, as it may be read.

    The first way that makes a date holds; all digits are alike to it.
    """
    if len(text) == len("20310105") and text.isdecimal():
        return [DateParts((0, 4), (4, 6), (6, 8))]
    ways = [
        None if order is None else parts_in_order(text, order, in_utc=True),
        named_parts(text),
        _iso_with_half(text),
    ]
    return [each for each in ways if each is not None]


def _iso_with_half(text: str) -> DateParts | None:
    """Return the parts of an ISO day that is followed by a time of twelve hours, or by `UTC`."""
    found = _ISO_DAY.match(text)
    if found is None:
        return None
    year, month, day = (found.span(part) for part in range(1, 4))
    return DateParts(year, month, day).with_clock(text, found.end(), in_utc=True)


def as_text(cell: Cell) -> str:
    """Return a cell as a text: dates as ISO 8601 has them, blanks and errors as nothing."""
    if cell is None or isinstance(cell, CellError):
        return ""
    if isinstance(cell, bool):
        return "yes" if cell else "no"
    if isinstance(cell, date):
        return format_date(cell)
    if isinstance(cell, float) and cell.is_integer() and abs(cell) < 10**15:
        return str(int(cell))
    return str(cell)
