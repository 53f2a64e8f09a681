"""Texts that seem to be meant as something else: no value, a window, alternatives, a period."""

import re

from even_sieve.core.cells import fold
from even_sieve.core.cells.named_dates import read_named_month
from even_sieve.core.criteria.operands.period_names import periods_meant

#: Words, or quotes around nothing, for a cell without a value.
NO_VALUE = frozenset({"", "blank", "empty", "null", "none", "nan", "na", "missing", "nothing"})
_SPAN = re.compile(r"(.+?)(?:\s+(?:to|until|till|-)\s+|\s*[–—]\s*|\.{3})(.+)")
_NUMBERS = re.compile(r"(\d+(?:\.\d+)?)-(\d+(?:\.\d+)?)", re.ASCII)
_LIST = re.compile(r"\s*[,;]\s*")
_PERIOD_LIKE = re.compile(
    r"\d{4}-?[A-Za-z]?\d|[qw]\d\d?\Z|(?:last|next|this|previous|fy) ?\d", re.ASCII
)


def seems_no_value(text: str) -> bool:
    """Tell whether a text seems to stand for a cell without a value.

    >>> [seems_no_value(each) for each in ("null", "'", "Outer")]
    [True, True, False]
    """
    return fold(text.strip("'\" ")) in NO_VALUE


def seeming_ends(text: str) -> tuple[str, ...]:
    """Return the ends of the window that a text seems to be; none if it seems to be none.

    >>> seeming_ends("100 to 200"), seeming_ends("Outer")
    (('100', '200'), ())
    """
    found = _NUMBERS.fullmatch(text) or _SPAN.fullmatch(text)
    return () if found is None else (found[1], found[2])


def seeming_list(text: str) -> list[str]:
    """Return the alternatives that a text seems to be; itself alone if it seems to be none.

    >>> seeming_list("Inner, Outer")
    ['Inner', 'Outer']
    """
    return _LIST.split(text)


def period_meant(text: str) -> str:
    """Return how the period is written that a text may mean; empty if it looks like none."""
    near = periods_meant(text)
    month = "" if near or not text.isalpha() else read_named_month(f"{text} 2031")
    if month:
        return f"{month}, with its year"
    if near or not _PERIOD_LIKE.match(text.lower()):
        return near[0] if near else ""
    return "2031-Q1, 2031-03 or 2031-W07"


def seems_otherwise(text: str) -> bool:
    """Tell whether a text may be meant as any of these: without quotes it could be refused."""
    seeming = seeming_ends(text) or len(seeming_list(text)) > 1 or period_meant(text)
    return seems_no_value(text) or bool(seeming)
