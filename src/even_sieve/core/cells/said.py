"""Cells read as numbers, dates or texts because somebody says that they are."""

import re
import unicodedata
from datetime import date
from decimal import Decimal

from even_sieve.core.cells.cell import Cell, CellError
from even_sieve.core.cells.dates import (
    DAY,
    date_from_days,
    datetime_from_micros,
    format_date,
    read_date,
)
from even_sieve.core.cells.named_dates import read_named_date, with_clock
from even_sieve.core.cells.text import currency_of
from even_sieve.core.cells.written import DateOrder, read_ordered_date, read_written_number

#: A date in eight digits, as a number.
_FIRST, _LAST = 1000_01_01, 9999_12_31
_MOST_WHOLE = 2**63
_UTC = re.compile(r"(?<=[0-9]) ?(?:UTC|GMT)\Z")
#: A dash for decimals that are none, which is no minus: `5.-`, `5,--`.
_NO_CENTS = {
    mark: re.compile(rf"(?<=[0-9])[{mark}] ?(?:-{{1,2}}|\u2014)(?![0-9-])") for mark in ".,"
}
#: Digits in groups of two but for the last three, as India writes them.
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
    """
    if not isinstance(cell, str):
        return cell
    text = _NO_CENTS[decimal].sub("", _plainly(cell.strip(), decimal))
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
    return "".join(marks.get(each) or str(unicodedata.decimal(each, each)) for each in text)


def _sign_first(text: str) -> str:
    """Return a text whose minus stands behind, as some programs write it, with it before."""
    behind = text.endswith("-") and not text.startswith(("-", "+", "("))
    return f"-{text[:-1].rstrip()}" if behind else text


def date_said(cell: Cell, order: DateOrder | None = None) -> Cell:
    """Return the date that a text or eight digits are, in this order; any other cell as it is.

    >>> date_said("20310105"), date_said("5-Jan-2031"), date_said("soon")
    (datetime.date(2031, 1, 5), datetime.date(2031, 1, 5), 'soon')
    """
    if cell is None or isinstance(cell, bool | date | CellError):
        return cell
    if isinstance(cell, int | float | Decimal):
        text = str(int(cell)) if cell == int(cell) and _FIRST <= cell <= _LAST else ""
    else:
        text = _UTC.sub("", cell.strip())
    if len(text) == len("20310105") and text.isdecimal():
        text = f"{text[:4]}-{text[4:6]}-{text[6:]}"
    moment = read_date(text)
    if moment is not None:
        if moment.has_time:
            return datetime_from_micros(moment.micros)
        return date_from_days(moment.micros // DAY)
    found = (None if order is None else read_ordered_date(text, order)) or read_named_date(text)
    found = found or _with_half(text, order)
    return cell if found is None else found


def _with_half(text: str, order: DateOrder | None) -> date | None:
    """Return a date that is followed by a time of twelve hours, or by `UTC`; None for another."""
    head = re.split("[T ,]", text, maxsplit=1)[0]
    moment = read_date(head)
    day = None if moment is None else date_from_days(moment.micros // DAY)
    day = day or (None if order is None else read_ordered_date(head, order))
    if day is None or (moment is not None and moment.has_time):
        return None
    return with_clock((day.year, day.month, day.day), text[len(head) :])


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
