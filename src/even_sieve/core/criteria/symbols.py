"""The signs and words that stand between a column and a value."""

import re

from even_sieve.core.criteria.scanner import Scanner

_MEANING = {"<>": "!=", "≠": "!=", "≤": "<=", "≥": ">="}
_MISWRITTEN = {"==": "=", "=>": ">=", "=<": "<="}
SYMBOLS = ("<=", ">=", "<>", "!=", "==", "=>", "=<", "=", "<", ">", "≠", "≤", "≥")
WORDS = ("in", "is")

#: A comparison in the middle of a text.
INSIDE = re.compile(r"(?<!\\)(?:[<>!]?=|[<>≠≤≥])")


def symbol_here(scanner: Scanner) -> bool:
    """Tell whether a comparison stands here."""
    return scanner.text.startswith(SYMBOLS, scanner.at)


def operator_here(scanner: Scanner) -> bool:
    """Tell whether a comparison, `in` or `is` stands here."""
    return symbol_here(scanner) or scanner.word_here() in WORDS


def test_here(scanner: Scanner) -> bool:
    """Tell whether a whole test stands here: an operator, or `not`."""
    return operator_here(scanner) or scanner.word_here() == "not"


def take_symbol(scanner: Scanner) -> str:
    """Move past the comparison that stands here, and return it; none means equal."""
    for symbol in SYMBOLS:
        if scanner.here(symbol):
            if symbol in _MISWRITTEN:
                right = _MISWRITTEN[symbol]
                raise scanner.error(f"'{symbol}' is not a comparison", f"Write {right}")
            scanner.take(symbol)
            return _MEANING.get(symbol, symbol)
    return "in" if scanner.take_word("in") else "="
