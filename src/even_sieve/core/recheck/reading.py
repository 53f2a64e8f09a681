"""Values in criteria read as a source writes them, by code of the recheck's own.

It knows the decimal mark, the order of dates, and whether separators and signs are read; how a
number is put together it works out by itself, character by character.
"""

import unicodedata
from datetime import datetime, timedelta
from decimal import Context, Decimal

_MARKS = "'’ \u00a0\u202f.,"


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
    day, _, clock = text.replace("T", " ").partition(" ")
    mark = next((char for char in "./-" if char in day), None)
    parts = day.split(mark) if mark else []
    named = dict(zip(order.split("-"), parts, strict=False))
    if len(parts) != 3 or not all(p.isdigit() for p in parts) or len(named["year"]) != 4:
        return None
    try:
        first = datetime(int(named["year"]), int(named["month"]), int(named["day"]))
        hours = [int(part) for part in clock.split(":")] if clock.strip() else []
        if any(part >= most for part, most in zip(hours, (24, 60, 60), strict=False)):
            return None
        units = zip(("hours", "minutes", "seconds"), hours, strict=False)
        return first + timedelta(**dict(units))
    except ValueError:
        return None
