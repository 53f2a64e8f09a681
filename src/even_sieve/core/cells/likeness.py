"""Texts that a person would take for numbers or dates, one by one and many at once."""

import re
from bisect import bisect_right
from collections.abc import Callable, Sequence
from enum import IntEnum
from itertools import accumulate
from typing import Any, Protocol, TypeAlias, runtime_checkable

import numpy as np
from numpy.typing import NDArray

from even_sieve.core.cells.named_dates import CLOCK, NAMED, NAMES
from even_sieve.core.cells.text import CURRENCY

#: So many texts, or a few more, are looked at, to see whether all have few shapes.
_SHOWN, _FEW_SHAPES = 128, 64
#: Places of texts, ascending.
Places: TypeAlias = Sequence[int] | NDArray[np.intp]
_DIGITS = frozenset("0123456789")
_UNIT = rf"(?:[^\w\s.,()+-]{{0,3}}|{CURRENCY})"
_SPACE = r"[^\S\n]"
#: `_` stands for white space.
_NUMBER_SHAPE = (
    rf"[(]?[+-]?_*{_UNIT}_*[(]?[+-]?\d(?:[\d.,'’]|_)*(?:-|[.,]--)?_*(?:[)]_*)?(?:%|{_UNIT})[)]?"
    r"(?:[eE][+-]?\d+)?"
)
_NUMBER_LIKE = re.compile(_NUMBER_SHAPE.replace("_", r"\s") + r"\Z")
_DATE_SHAPE = (
    r"(?:\d{1,2}[./-]\d{1,2}[./-]\d{2,4}|\d{4}[./-]\d{1,2}[./-]\d{1,2}"
    rf"|\d{{1,2}}\.? [^\W\d]{{3,9}}\.? \d{{4}}|{NAMED}){CLOCK}"
)
_DATE_LIKE = re.compile(rf"{_DATE_SHAPE}\Z")
#: The same for many texts, a line each.
_LINE_LIKE_NUMBER = re.compile(rf"^{_NUMBER_SHAPE.replace('_', _SPACE)}$", re.MULTILINE)
_LINE_LIKE_DATE = re.compile(rf"^{_DATE_SHAPE}$", re.MULTILINE)
#: The same for texts that know how to search all of themselves, by RE2: exact for ASCII, and
#: wider for others. Its classes are of ASCII alone.
_WIDE = [(r"\d", r"\p{Nd}"), (r"[^\W\p{Nd}]", r"(?:[A-Za-z_]|[^\x00-\x7f])"),
         (r"[^\w\s.", r"[^\w\s\x0b\x1c-\x1f."), ("_*", r"[\s\x0b\x1c-\x1f\x85\p{Z}]*"),
         ("|_)", r"|[\s\x0b\x1c-\x1f\x85\p{Z}])")]  # fmt: skip


def _widely(shape: str) -> str:
    for own, wide in _WIDE:
        shape = shape.replace(own, wide)
    return rf"^(?:{shape})$"


_WIDE_NUMBER, _WIDE_DATE = _widely(_NUMBER_SHAPE), _widely(_DATE_SHAPE)


def looks_like_number(text: str) -> bool:
    """Tell whether a person would take this text cell for a number.

    >>> [looks_like_number(each) for each in ("007", "1,200.50", "kr 12", "12%", "7-", "B-12")]
    [True, True, True, True, True, False]
    """
    return _NUMBER_LIKE.match(text) is not None and not looks_like_date(text)


def looks_like_date(text: str) -> bool:
    """Tell whether a person would take this text cell for a date.

    >>> [looks_like_date(each) for each in ("03/04/2031", "3. March 2031", "2031-02-30", "12")]
    [True, True, True, False]
    """
    if text[:1] not in _DIGITS and text[:3].lower() not in NAMES:
        return False
    return _DATE_LIKE.match(text) is not None


def texts_found(pattern: re.Pattern[str], texts: Sequence[str]) -> list[int]:
    """Return the places of the texts in which a pattern is found, in one search of them all.

    >>> texts_found(re.compile("^B", re.MULTILINE), ["B-12", "A-3", "B-7"])
    [0, 2]
    """
    return _found_in("\n".join(texts), pattern, texts)


def _found_in(joined: str, pattern: re.Pattern[str], texts: Sequence[str]) -> list[int]:
    places = [found.start() for found in pattern.finditer(joined)]
    if not places:
        return []
    ends = list(accumulate(len(text) + 1 for text in texts))
    return sorted({bisect_right(ends, place) for place in places})


def all_like_numbers(texts: Sequence[str]) -> Places:
    """Return the places of the texts that a person would take for numbers."""
    if isinstance(texts, Searching):
        return searched(texts, Likeness.NUMBER, _WIDE_NUMBER, looks_like_number)
    return _checked(_LINE_LIKE_NUMBER, looks_like_number, texts)


def all_like_dates(texts: Sequence[str]) -> Places:
    """Return the places of the texts that a person would take for dates.

    >>> all_like_dates(["B-12", "03/04/2031"])
    [1]
    """
    if isinstance(texts, Searching):
        return searched(texts, Likeness.DATE, _WIDE_DATE, looks_like_date)
    return _checked(_LINE_LIKE_DATE, looks_like_date, texts)


class Likeness(IntEnum):
    """What a person would take a text for."""

    NUMBER = 1
    DATE = 2
    TIME = 3


@runtime_checkable
class Searching(Protocol):
    """Texts that know how to look at all of them at once."""

    def __len__(self) -> int:
        """Return how many texts there are."""

    def may_be_like(self, what: Likeness) -> Any:
        """Return the places of all that are like it, ascending, and maybe of others."""

    def search(self, pattern: str, among: Any = None) -> Any:
        """Return the places of the texts in which a pattern (of RE2) is found, ascending.

        `among` are places that ascend, where not all are looked at.
        """

    def shapes(self, places: Any) -> tuple[list[str], Any]:
        """Return the texts at these places with 0 for each digit, once each, and which each has."""


def searched(texts: Searching, what: Likeness, wide: str, test: Callable[[str], bool]) -> Places:
    """Return the places of the texts that pass the test of a likeness, to which digits are alike.

    `wide` finds them all, and maybe others. Where some of those that may pass have few shapes it
    is not asked.
    """
    places = texts.may_be_like(what)
    if not len(places):
        return []
    few = len(texts.shapes(places[:: 1 + len(places) // _SHOWN])[0]) <= _FEW_SHAPES
    if not few:
        places = texts.search(wide, None if len(places) == len(texts) else places)
    shapes, codes = texts.shapes(places)
    passing = np.array([test(each) for each in shapes], dtype=bool)
    found: NDArray[np.intp] = places[passing[codes]]
    return found


def _checked(
    pattern: re.Pattern[str], test: Callable[[str], bool], texts: Sequence[str]
) -> list[int]:
    joined = "\n".join(texts)
    if joined.count("\n") != max(len(texts) - 1, 0):  # then lines are not texts
        return [at for at, text in enumerate(texts) if test(text)]
    return [at for at in _found_in(joined, pattern, texts) if test(texts[at])]
