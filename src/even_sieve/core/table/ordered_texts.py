"""Texts in order: where those stand that are equal, or begin alike."""

from bisect import bisect_left, bisect_right
from collections.abc import Sequence
from operator import ne

import numpy as np
from numpy.typing import NDArray

#: So many are equal at the most, but for a few of them.
_EQUAL = 4


def places_equal(texts: Sequence[str], text: str) -> tuple[int, int]:
    """Return the places `low <= place < high` of the texts equal to one.

    >>> places_equal(["mole", "pier", "pier", "quay"], "pier")
    (1, 3)
    """
    low = bisect_left(texts, text)
    near = min(low + _EQUAL, len(texts))
    if near < len(texts) and texts[near] == text:
        return low, bisect_right(texts, text, near)
    return low, bisect_right(texts, text, low, near)


def places_equal_to_each(texts: Sequence[str], wanted: Sequence[str]) -> list[tuple[int, int]]:
    """Return `places_equal` of several texts.

    >>> places_equal_to_each(["mole", "pier", "pier"], ["quay", "pier"])
    [(3, 3), (1, 3)]
    """
    # Among some many can be found at once.
    found = texts.places_equal(wanted) if hasattr(texts, "places_equal") else None
    return [places_equal(texts, each) for each in wanted] if found is None else found


def places_beginning(texts: Sequence[str], text: str) -> tuple[int, int]:
    """Return the places `low <= place < high` of the texts that begin with one.

    >>> places_beginning(["mole", "pier", "pier 2", "quay"], "pi")
    (1, 3)
    """
    low, size = bisect_left(texts, text), len(text)
    return low, bisect_right(texts, text, lo=low, key=lambda word: word[:size])


def begins(texts: Sequence[str]) -> NDArray[np.bool_]:
    """Return which texts are others than those before them, bool, shape (texts,)."""
    if hasattr(texts, "begins"):  # texts that can all be compared at once
        return np.asarray(texts.begins())
    every, found = tuple(texts), np.ones(len(texts), dtype=bool)
    found[1:] = np.fromiter(map(ne, every[1:], every), dtype=bool, count=len(every[1:]))
    return found
