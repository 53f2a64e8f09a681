"""Currency signs in columns of amounts: two of them in one column are told."""

import unicodedata
from collections.abc import Collection, Iterable
from typing import Any

import pyarrow.compute as pc

from even_sieve.core.notices import Code, Notice


def currency_signs(tokens: Any) -> list[str]:
    """Return the currency signs of tokens in the order first met; "" for a first one without.

    >>> import pyarrow as pa
    >>> currency_signs(pa.array(["$5", "5 €", "$6", "£7"])), currency_signs(pa.array(["5", "7 €"]))
    (['$', '€', '£'], ['', '€'])
    """
    found = [sign_in(tokens[0].as_py())]
    rest = tokens
    while True:
        if found[-1]:
            rest = rest.filter(pc.invert(pc.match_substring(rest, found[-1])))
        rest = rest.filter(pc.match_substring_regex(rest, r"\p{Sc}"))
        if not len(rest):
            return found
        sign = sign_in(rest[0].as_py())
        if not sign:  # younger than the tables of Python
            return found
        found.append(sign)


def sign_in(text: str) -> str:
    """Return the first currency sign of a text; empty without one."""
    return next((each for each in text if unicodedata.category(each) == "Sc"), "")


def mixed_currencies(name: str, tokens: Iterable[str]) -> tuple[Notice, ...]:
    """Return a notice if amounts with different currency signs stand in one column.

    >>> mixed_currencies("dues", ["$5", "5 €"])[0].text
    "column 'dues' holds amounts with different currency signs, $ and €: they count as alike"
    """
    odd = (each for each in tokens if not each.isascii() or "$" in each)
    signs = dict.fromkeys(
        letter for each in odd for letter in each if unicodedata.category(letter) == "Sc"
    )
    return told_as_mixed(name, signs)


def told_as_mixed(name: str, signs: Collection[str]) -> tuple[Notice, ...]:
    """Return a notice if the signs, or codes, of a column's currencies are several."""
    if len(signs) < 2:
        return ()
    text = (
        f"column '{name}' holds amounts with different currency signs, "
        f"{' and '.join(signs)}: they count as alike"
    )
    return (Notice(Code.MIXED_CURRENCIES, text),)
