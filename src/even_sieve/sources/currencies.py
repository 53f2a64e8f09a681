"""Currency signs in columns of amounts: two of them in one column are told."""

import unicodedata
from collections.abc import Collection, Iterable
from typing import Any

import pyarrow.compute as pc

from even_sieve.core.notices import Code, Notice


def currency_signs(tokens: Any) -> list[str]:
    """Return the currency signs that stand in tokens, as texts of signs alone."""
    first = tokens[0].as_py()
    sign = next((each for each in first if unicodedata.category(each) == "Sc"), "")
    others = tokens.filter(pc.invert(pc.match_substring(tokens, sign))) if sign else tokens
    if len(others) and pc.any(pc.match_substring_regex(others, r"\p{Sc}")).as_py():
        found: list[str] = pc.replace_substring_regex(others, r"[^\p{Sc}]", "").unique().to_pylist()
        return [sign, *found]
    return [sign]


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
