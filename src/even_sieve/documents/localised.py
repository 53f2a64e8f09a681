"""Numbers and dates as a locale writes them (CLDR, by Babel)."""

import re
from datetime import date, datetime
from typing import Any

from even_sieve.documents.looks import NAMED_DATES, Look, locale_of
from even_sieve.documents.values import show_value

#: From here on a number is written with an exponent.
_TOO_LONG = 1e18


def placed(number: Any, look: Look, locale: str, least: int, most: int) -> str:
    """Return a number as a locale writes it, without the marks of direction: it stands alone."""
    return _DIRECTION.sub("", _written(number, look, locale, least, most))


_DIRECTION = re.compile("[\u200e\u200f\u061c]")


def _written(number: Any, look: Look, locale: str, least: int, most: int) -> str:
    from babel.numbers import format_currency, format_decimal, format_percent

    known = locale_of(locale)
    if number and not 1e-12 <= abs(number) < _TOO_LONG:
        return str(number)
    places = f"0.{'0' * least}{'#' * (most - least)}" if most else "0"
    pattern = f"#,##{places}" if look.grouped else f"#{places}"
    if look.kind == "currency":
        own = str(known.currency_formats["standard"].pattern)
        pattern = re.sub(r"[#0][#0,.]*", pattern, own)
        return str(format_currency(
            number, look.code, pattern, locale=known, currency_digits=False,
            group_separator=look.grouped,
        ))  # fmt: skip
    if look.kind == "percent":
        own = str(known.percent_formats[None].pattern)
        pattern = re.sub(r"[#0][#0,.]*", pattern, own)
        return str(format_percent(
            number / 100, pattern, locale=known, group_separator=look.grouped,
            decimal_quantization=True,
        ))  # fmt: skip
    text = str(format_decimal(number, pattern, locale=known, group_separator=look.grouped))
    return f"{text} {look.unit}" if look.unit else text


def show_date(value: date, look: Look, locale: str | None) -> str:
    """Return a date as a look says, or as a locale writes it."""
    if look.kind != "date" and locale is None:
        return show_value(value)
    from babel.dates import format_date, format_datetime

    code = look.code if look.kind == "date" else "medium"
    known = locale_of(locale or "en")
    if isinstance(value, datetime) and (look.kind != "date" or code not in NAMED_DATES):
        return _DIRECTION.sub("", str(format_datetime(value, code, locale=known)))
    return _DIRECTION.sub("", str(format_date(value, code, locale=known)))
