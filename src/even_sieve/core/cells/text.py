"""Text: when two are equal, which ones are numbers, and what is a currency in them."""

import re
import unicodedata
from decimal import Decimal

_NUMBER = re.compile(r"[+-]?(?:(?:0|[1-9]\d*)(?:\.\d*)?|\.\d+)(?:[eE][+-]?\d{1,4})?\Z", re.ASCII)
_LONGEST_INTEGER = 18
_IN_LETTERS = (
    "EUR USD GBP CHF SEK NOK DKK ISK PLN CZK HUF RON BGN TRY CAD AUD NZD JPY CNY INR BRL ZAR RUB"
    " UAH RSD KRW MXN SGD HKD THB MYR IDR PHP VND ILS SAR AED EGP MAD CLP COP PEN ARS"
    " Kr kr zł Kč Ft Fr Rs RM лв руб дин грн 円 元 원 R$ US$ CA$ C$ AU$ A$ NZ$ HK$ S$"
)
#: How currencies are written in letters, a point behind them or not.
CURRENCIES = tuple(_IN_LETTERS.split())
CURRENCY = rf"(?:{'|'.join(map(re.escape, CURRENCIES))})\.?"
_CURRENCY_BEFORE = re.compile(rf"(?:^|(?<=\())({CURRENCY})\s*(?=[-+\d]|\(\d)")
_CURRENCY_AFTER = re.compile(rf"(?<=[\d)])\s*({CURRENCY})(?=\)?$)")


def fold(text: str) -> str:
    """Return what two texts have in common when they are equal: NFC and case folding.

    >>> fold("Straße") == fold("STRASSE")
    True
    """
    if text.isascii():
        return text.lower()
    folded = unicodedata.normalize("NFC", text).casefold()
    return unicodedata.normalize("NFC", folded)


def spellings(name: str) -> tuple[str, ...]:
    """Return a name as it is, and with its letters composed and decomposed where that differs.

    >>> [len(each) for each in spellings("Geb\u00fchr")], spellings("dues")
    ([6, 7], ('dues',))
    """
    composed, parted = unicodedata.normalize("NFC", name), unicodedata.normalize("NFD", name)
    return tuple(dict.fromkeys((name, composed, parted)))


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


def currency_of(text: str) -> tuple[str, str]:
    """Return a text without the currency that stands before or after its digits, and that.

    >>> currency_of("1,250.00 EUR"), currency_of("kr. 12"), currency_of("NOR 5")
    (('1,250.00', 'EUR'), ('12', 'kr.'), ('NOR 5', ''))
    """
    for pattern in (_CURRENCY_BEFORE, _CURRENCY_AFTER):
        found = pattern.search(text)
        if found is not None:
            return text[: found.start()] + text[found.end() :], found[1]
    return text, ""
