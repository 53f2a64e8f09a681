"""Blocks of cells, as people write them: B2:F30, B:F, 2:30, Calls!B2:F30."""

import re
from dataclasses import dataclass

from even_sieve.core.errors import SourceError

_CORNER = r"\$?([A-Za-z]{1,3})\$?(\d{1,7})"
_SHEET = r"(?:(?P<sheet>.+?)[!.])?"
_AREA = re.compile(rf"{_SHEET}{_CORNER}(?::{_CORNER})?\Z")
#: Whole columns, and whole rows.
_COLUMNS = re.compile(rf"{_SHEET}\$?([A-Za-z]{{1,3}}):\$?([A-Za-z]{{1,3}})\Z")
_ROWS = re.compile(rf"{_SHEET}\$?(\d{{1,7}}):\$?(\d{{1,7}})\Z")


@dataclass(frozen=True)
class Area:
    """A block of cells, rows and columns counted from 1, both ends included."""

    sheet: str
    top: int
    left: int
    bottom: int
    right: int


def corners_of(wanted: str) -> tuple[str, int, int, int, int] | None:
    """Return the sheet, the first row and column and the last ones of a block, from 1.

    0 stands for the last that there is. None for words that are no block.

    >>> corners_of("Calls!$B$2:F30"), corners_of("B:F"), corners_of("2:30"), corners_of("dues")
    (('Calls', 2, 2, 30, 6), ('', 1, 2, 0, 6), ('', 2, 1, 30, 0), None)
    """
    wanted = wanted.strip()
    if block := _AREA.match(wanted):
        first, second = (block[2], block[3]), (block[4] or block[2], block[5] or block[3])
        columns = sorted((column_number(first[0]), column_number(second[0])))
        rows = sorted((int(first[1]), int(second[1])))
    elif block := _COLUMNS.match(wanted):
        columns, rows = sorted((column_number(block[2]), column_number(block[3]))), [1, 0]
    elif block := _ROWS.match(wanted):
        columns, rows = [1, 0], sorted((int(block[2]), int(block[3])))
    else:
        return None
    sheet = (block["sheet"] or "").strip("'$").replace("''", "'")
    return (sheet, rows[0], columns[0], rows[1], columns[1]) if rows[0] else None


def block_of(wanted: str, source: str) -> tuple[int, int, int | None, int | None]:
    """Return a block such as B2:F30 as its first row and column, from 0, and the ends excluded.

    None stands for the end of whole columns (`B:F`) or rows (`2:30`). Raises `SourceError` for
    words that are no block.
    """
    corners = corners_of(wanted)
    if corners is None or corners[0]:
        raise SourceError(source, f"'{wanted}' is no block", "Write for example: B2:F30")
    _, top, left, bottom, right = corners
    return top - 1, left - 1, bottom or None, right or None


def column_number(letters: str) -> int:
    """Return the number of a column from its letters.

    >>> column_number("A"), column_number("AB")
    (1, 28)
    """
    number = 0
    for letter in letters.upper():
        number = 26 * number + ord(letter) - ord("A") + 1
    return number


def column_letters(number: int) -> str:
    """Return the letters of a column from its number.

    >>> column_letters(1), column_letters(28), column_letters(16_384)
    ('A', 'AB', 'XFD')
    """
    letters = ""
    while number:
        number, letter = divmod(number - 1, 26)
        letters = chr(ord("A") + letter) + letters
    return letters


def block_words(area: Area) -> str:
    """Return a block as people write it, without its sheet.

    >>> block_words(Area("Calls", 2, 2, 30, 6))
    'B2:F30'
    """
    first, last = column_letters(area.left), column_letters(area.right)
    return f"{first}{area.top}:{last}{area.bottom}"
