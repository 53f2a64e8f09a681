"""Text: when two are equal, and which ones are numbers."""

import re
import unicodedata
from collections.abc import Iterable
from decimal import Decimal

_NUMBER = re.compile(r"[+-]?(?:(?:0|[1-9]\d*)(?:\.\d*)?|\.\d+)(?:[eE][+-]?\d{1,4})?\Z", re.ASCII)
_LONGEST_INTEGER = 18
_DIGITS = frozenset("0123456789")
_CURRENCY = (
    r"(?:EUR|USD|GBP|CHF|SEK|NOK|DKK|ISK|PLN|CZK|HUF|RON|BGN|TRY|CAD|AUD|NZD|JPY|CNY|INR|BRL|ZAR"
    r"|[Kk]r|zł|Kč|Ft|Fr|Rs|R[$])\.?"
)
_UNIT = rf"(?:[^\w\s.,()+-]{{0,3}}|{_CURRENCY})"
_NUMBER_LIKE = re.compile(
    rf"[(]?[+-]?\s*{_UNIT}\s*[+-]?\d[\d\s.,'’]*-?\s*(?:%|{_UNIT})[)]?(?:[eE][+-]?\d+)?\Z"
)
_DATE_SHAPE = (
    r"(?:\d{1,2}[./-]\d{1,2}[./-]\d{2,4}|\d{4}[./-]\d{1,2}[./-]\d{1,2}"
    r"|\d{1,2}\.? [^\W\d]{3,9}\.? \d{4})(?:[T ,]+\d{1,2}:\d{2}(?::\d{2})?)?"
)
_DATE_LIKE = re.compile(rf"{_DATE_SHAPE}\Z")
_LINE_LIKE_DATE = re.compile(rf"^{_DATE_SHAPE}$", re.MULTILINE)


def fold(text: str) -> str:
    """Return what two texts have in common when they are equal: NFC and case folding.

    >>> fold("Straße") == fold("STRASSE")
    True
    """
    if text.isascii():
        return text.lower()
    folded = unicodedata.normalize("NFC", text).casefold()
    return unicodedata.normalize("NFC", folded)


def read_number(token: str) -> Decimal | None:
    """Return the number that the token writes out, exactly, or None.

    Digits with at most one `.`, a sign, and an exponent are accepted. Needless leading
    zeros (`007`) and whole numbers of more than 18 digits are not numbers but codes:
    read as numbers they would come back changed.

    >>> read_number("-12.50"), read_number("007"), read_number("1,200")
    (Decimal('-12.50'), None, None)
    """
    if not _NUMBER.match(token):
        return None
    if token.isdigit() and len(token) > _LONGEST_INTEGER:
        return None
    return Decimal(token)


def looks_like_number(text: str) -> bool:
    """Tell whether a person would take this text cell for a number.

    >>> [looks_like_number(each) for each in ("007", "1,200.50", "kr 12", "12%", "7-", "B-12")]
    [True, True, True, True, True, False]
    """
    return _NUMBER_LIKE.match(text) is not None and not looks_like_date(text)


def any_looks_like_date(texts: Iterable[str]) -> bool:
    """Tell in one search of them all whether one of the texts may look like a date.

    >>> any_looks_like_date(["B-12", "03/04/2031"]), any_looks_like_date(["B-12", "12"])
    (True, False)
    """
    return _LINE_LIKE_DATE.search("\n".join(texts)) is not None


def looks_like_date(text: str) -> bool:
    """Tell whether a person would take this text cell for a date.

    >>> [looks_like_date(each) for each in ("03/04/2031", "3. March 2031", "2031-02-30", "12")]
    [True, True, True, False]
    """
    return text[:1] in _DIGITS and _DATE_LIKE.match(text) is not None
