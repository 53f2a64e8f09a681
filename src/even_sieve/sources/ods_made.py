"""What the rows of an OpenDocument sheet hold, worked out from their tokens, each by itself."""

import re
from collections.abc import Callable
from datetime import date, datetime, timedelta
from decimal import Decimal, InvalidOperation
from sys import intern
from typing import Any, NamedTuple

from even_sieve.core.cells import Cell, CellError, error_from_token
from even_sieve.sources.limits import Limits
from even_sieve.sources.ods_cells import COVERED
from even_sieve.sources.ods_rows import Row
from even_sieve.sources.sheets import NO_RESULT, day_or_moment
from even_sieve.sources.shown_by_source import MERGED, PERCENT

_LONGEST_WHOLE = 10**15
#: A number of at most 15 digits, written plainly.
_SHORT = re.compile(r"-?(?=[0-9.]{1,16}\Z)[0-9]{1,15}(?:\.[0-9]{1,14})?\Z")
#: A length of time as the standard stores it (OpenDocument 1.3, 18.2: XML Schema 2, 3.2.6).
_LENGTH = re.compile(
    r"(-?)P(?:(\d{1,6})D)?(?:T(?:(\d{1,8})H)?(?:(\d{1,8})M)?(?:(\d{1,10}(?:\.\d+)?)S)?)?"
)


def _repeated(given: str, what: str) -> int:
    """Return how often a row or a cell is repeated. Raises `ValueError` for less than once."""
    times = int(given)
    if times < 1:
        raise ValueError(f"{what} are repeated {times} times")
    return times


PERCENTAGE = "percentage"


class Made(NamedTuple):
    """A row: how often it stands there, what is seen of it, its cells up to the last filled one.

    `cells` is None where there are more than may be. `formulas` are those of the columns from one
    up to another, `looks` how a column's number is shown, if in a way of its own.
    """

    times: int
    visibility: str
    cells: list[Cell] | None
    formulas: list[tuple[int, int, str]]
    looks: list[tuple[int, str]]


def made_of(row: Row, limits: Limits) -> Made:
    """Return what a row holds. Raises `ValueError` for what is no cell, or none that is read."""
    formulas: list[tuple[int, int, str]] = []
    looks: list[tuple[int, str]] = []
    cells = _cells(row, limits, formulas, looks)
    times = _repeated(row.repeated, "rows") if row.repeated and cells is not None else 1
    return Made(times, row.visibility, cells, formulas, looks)


def _cells(
    row: Row, limits: Limits, formulas: list[tuple[int, int, str]], looks: list[tuple[int, str]]
) -> list[Cell] | None:
    """Return a row's cells; put its formulas and looks into the lists."""
    cells: list[Cell] = []
    position = 0
    longest, most, put = limits.cell, limits.columns, cells.append
    if len(row.cells) > most:
        return None
    for tag, times, formula, kind, currency, value, error, text in row.cells:
        repeated = _repeated(times, "columns") if times else 1
        if tag == COVERED or not (kind or text or formula):
            if tag == COVERED:
                looks += _shown(position, repeated, most, MERGED)
            position += repeated
            continue
        plain = not (formula or error)
        if plain and kind == "float" and _SHORT.match(value):  # as most are
            cell: Cell = float(value) if "." in value else int(value)
        elif plain and kind == "string" and text and len(text) <= longest:
            cell = intern(stored_text(value, text)) or None
        else:
            cell = cell_by_itself(formula, kind, value, error, text, longest)
            look = PERCENT if kind == PERCENTAGE else currency
            if look:
                looks += _shown(position, repeated, most, look)
        if cell is not None:
            if position + repeated > most:
                return None
            if position > len(cells):
                cells.extend([None] * (position - len(cells)))
            if repeated == 1:
                put(cell)
            else:
                cells.extend([cell] * repeated)
            if formula:
                formulas.append((position + 1, position + repeated + 1, formula))
        position += repeated
    return cells


def _shown(position: int, repeated: int, most: int, look: str) -> list[tuple[int, str]]:
    """Return that cells behind a position, no more than may be, are shown so."""
    last = min(position + repeated, most)
    return [(column, look) for column in range(position + 1, last + 1)]


def cell_by_itself(
    formula: str, kind: str, value: str, error: str, text: str, longest: int
) -> Cell:
    """Return the cell that a token says. Raises `ValueError` for what is none."""
    read = _TYPED.get(kind)
    if not formula and read is not None and not error:
        return read(value)
    if len(text) > longest:
        raise ValueError(f"a cell has more than {longest:,} characters")
    text = text.strip()
    if error or (formula and error_from_token(text)):
        return error_from_token(text) or CellError(text or "error", "the formula gave an error")
    if read is not None:
        return read(value)
    if formula and not kind and not text:
        return NO_RESULT
    text = stored_text(value, text) if kind == "string" else text
    if kind == "time" and not text:
        text = time_of(value)
    return intern(text) if text else None  # a value that comes again takes no more memory


def stored_text(value: str, text: str) -> str:
    """Return the text of a cell from what is stored and what is shown, mostly the same.

    An attribute has no ends of lines: those are in what is shown.

    >>> stored_text("", " East "), stored_text("E", "Berth E"), stored_text("a b", "a\\nb")
    ('East', 'E', 'a\\nb')
    """
    value, text = value.strip(), text.strip()
    if not value or value == text or value.split() == text.split():
        return text
    return value


def number_of(text: str) -> Cell:
    """Return the number as the file writes it, exactly: a double shows up to 15 digits as such."""
    if _SHORT.match(text):
        return float(text) if "." in text else int(text)
    try:
        number = Decimal(text)
    except InvalidOperation:
        raise ValueError(f"'{text[:40]}' is no number") from None
    whole = number == number.to_integral_value() and abs(number) < _LONGEST_WHOLE
    return int(number) if whole else number


def _date(value: str) -> Cell:
    try:
        if "T" in value:
            return day_or_moment(datetime.fromisoformat(value))
        return date.fromisoformat(value)
    except ValueError:
        return CellError("#VALUE!", f"{value[:40]} is no date of the calendar")


def _yes_no(value: str) -> bool:
    return value.lower() == "true"


def time_of(value: str) -> str:
    """Return a length of time (ISO 8601) as it is said where nothing is shown of it.

    >>> time_of("PT14H30M00.5S"), time_of("-P1DT2H"), time_of("soon")
    ('14:30:00.500000', '-2 days, 22:00:00', 'soon')
    """
    found = _LENGTH.fullmatch(value)
    if found is None:
        return value
    sign, *parts = found.groups()
    days, hours, minutes, seconds = (float(part or 0) for part in parts)
    length = timedelta(days=days, hours=hours, minutes=minutes, seconds=seconds)
    if not sign and length < timedelta(days=1):
        return str((datetime.min + length).time())
    return str(-length if sign else length)


#: How a value of a type is read; of other types it is text.
_TYPED: dict[str, Callable[[Any], Cell]] = {
    "float": number_of,
    PERCENTAGE: number_of,
    "currency": number_of,
    "date": _date,
    "boolean": _yes_no,
}


def of_type(kind: str, value: str) -> Cell:
    """Return the cell of a type that is told by its value alone. Raises `ValueError`."""
    return _TYPED[kind](value)
