"""Values in criteria read as a source writes them, by code of the recheck's own.

It knows the decimal mark, the order of dates, and whether separators and signs are read; how a
number is put together it works out by itself, character by character.
"""

import unicodedata
from datetime import datetime, timedelta
from decimal import Context, Decimal

_MARKS = "'’ \u00a0\u202f.,"
_DIGITS = frozenset("0123456789")
#: What may stand before the letters of a half of the day, and whether these are of the second.
_BEFORE_HALF = (" ", "\u00a0", "\u202f")
_HALVES = {
    f"{half}{dot}m{end}": half == "p" for half in "ap" for dot in ("", ".") for end in ("", ".")
}


def number_as_written(text: str, decimal: str) -> Decimal | None:
    """Return the number that a person wrote, or None.

    >>> str(number_as_written("(1.234,5)", ",")), number_as_written("1,2", ".")
    ('-1234.5', None)
    """
    body, minus, parts = text.strip(), False, 1
    if body[:1] == "(" and body[-1:] == ")":
        body, minus = body[1:-1].strip(), True
    if body[-1:] == "%":
        body, parts = body[:-1].strip(), 100
    sign, body = _signed(body)
    if body and unicodedata.category(body[0]) == "Sc":
        body = body[1:].strip()
    elif body and unicodedata.category(body[-1]) == "Sc":
        body = body[:-1].strip()
    if not sign:
        sign, body = _signed(body, spaced=False)
    whole, _, after = body.partition(decimal)
    digits = _without_marks(whole, decimal)
    if digits is None or (after and not (after.isascii() and after.isdigit())):
        return None
    if (len(digits) > 1 and digits[0] == "0") or not digits + after:
        return None
    found = Decimal(f"{sign or '+'}{digits or 0}.{after or 0}")
    found = found.copy_negate() if minus else found
    return found if parts == 1 else Context(prec=10_000).divide(found, parts)


def _signed(body: str, *, spaced: bool = True) -> tuple[str, str]:
    """Return a sign, if one stands first, and what follows it."""
    if body[:1] not in ("-", "+"):
        return "", body
    return body[0], body[1:].strip() if spaced else body[1:]


def _without_marks(whole: str, decimal: str) -> str | None:
    """Return the digits before the decimal mark; None if marks do not part them in threes."""
    marks = {char for char in whole if not char.isdigit()}
    if not marks:
        return whole if whole.isascii() else None
    if len(marks) > 1 or not marks <= set(_MARKS) - {decimal}:
        return None
    first, *groups = whole.split(marks.pop())
    if not 1 <= len(first) <= 3 or any(len(group) != 3 for group in groups):
        return None
    return first + "".join(groups)


def day_as_written(text: str, order: str) -> datetime | None:
    """Return the first moment of a date whose parts stand in an order such as `day-month-year`.

    >>> day_as_written("05.01.2031", "day-month-year")
    datetime.datetime(2031, 1, 5, 0, 0)
    """
    day, clock = _parted(text)
    mark = next((char for char in "./-" if char in day), None)
    parts = day.split(mark) if mark else []
    named = dict(zip(order.split("-"), parts, strict=False))
    if len(parts) != 3 or not all(p.isascii() and p.isdigit() for p in parts):
        return None
    if len(named["year"]) != 4 or max(len(named["month"]), len(named["day"])) > 2:
        return None
    after = _since_midnight(clock) if clock else timedelta()
    try:
        first = datetime(int(named["year"]), int(named["month"]), int(named["day"]))
    except ValueError:
        return None
    return None if after is None else first + after


def has_clock(text: str) -> bool:
    """Tell whether a time follows the day in such a date."""
    return bool(_parted(text)[1])


def _parted(text: str) -> tuple[str, str]:
    length = next((at for at, char in enumerate(text) if char in "T ,"), len(text))
    return text[:length], text[length:]


def _since_midnight(clock: str) -> timedelta | None:
    """Return how long after midnight a time is, as it follows a day; None for what is no time.

    >>> _since_midnight(" 2:30 PM"), _since_midnight(", 14h05"), _since_midnight(" 14:5")
    (datetime.timedelta(seconds=52200), datetime.timedelta(seconds=50700), None)
    """
    body = clock.lstrip("T ,")
    last = max((at for at, char in enumerate(body) if char in _DIGITS), default=-1)
    body, letters = body[: last + 1], body[last + 1 :]
    half = letters[1:] if letters[:1] in _BEFORE_HALF else letters
    afternoon = _HALVES.get(half.lower())
    groups = "".join(char if char in _DIGITS else " " for char in body).split(" ")
    marks = "".join(char for char in body if char not in _DIGITS)
    forms = zip(marks, (":h.", ":.", ".,"), strict=False)
    if not 1 <= len(marks) <= 3 or not all(mark in form for mark, form in forms):
        return None
    widths = zip(map(len, groups), ((1, 2), (2, 2), (2, 2), (1, 6)), strict=False)
    if not all(least <= width <= most for width, (least, most) in widths):
        return None
    if letters and (afternoon is None or not 1 <= int(groups[0]) <= 12):
        return None
    numbers = [*map(int, groups[:3]), 0]
    if letters:
        numbers[0] = numbers[0] % 12 + 12 * bool(afternoon)
    if any(number >= most for number, most in zip(numbers, (24, 60, 60), strict=False)):
        return None
    micros = int(groups[3].ljust(6, "0")) if len(groups) > 3 else 0
    return timedelta(hours=numbers[0], minutes=numbers[1], seconds=numbers[2], microseconds=micros)
