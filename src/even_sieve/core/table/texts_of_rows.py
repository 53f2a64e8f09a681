"""The texts of rows, one by one, before they are put in order."""

from abc import abstractmethod
from collections.abc import Callable, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from even_sieve.core.cells import Kind

#: So many questions are answered before putting all in order is the shorter way.
_MOST_ASKED = 8


class Texts(Sequence[str]):
    """Texts in any order that know how to look at all of them at once."""

    @abstractmethod
    def hold(self, part: bytes) -> bool:
        """Tell whether a part may be among the bytes of the texts."""

    @abstractmethod
    def search(self, pattern: str, among: Any = None) -> NDArray[Any]:
        """Return the places of the texts in which a pattern (of RE2) is found, ascending."""

    @abstractmethod
    def equal_to(self, wanted: Sequence[str]) -> tuple[NDArray[Any], set[str]] | None:
        """Return which texts are among others, and which of these there are; None: untold."""


class TextsOfRows:
    """Texts, one for each row that holds one: as they are spelt, and as they are compared.

    `fold` returns these, or None where they cannot be told at once; `states` says which of the
    rows hold texts, None where all do.
    """

    def __init__(
        self,
        spellings: Texts,
        fold: Callable[[], Texts | None],
        states: NDArray[np.uint8] | None = None,
    ) -> None:
        self.spellings, self._fold, self._states = spellings, fold, states
        self._left = _MOST_ASKED

    def folded(self) -> Texts | None:
        """Return the texts as they are compared; None where a few questions were asked before."""
        self._left -= 1
        return self._fold() if self._left >= 0 else None

    def rows(self, found: NDArray[Any]) -> NDArray[np.bool_]:
        """Return which rows hold the texts that are found, bool, shape (rows,)."""
        if self._states is None:
            return found
        rows = np.zeros(len(self._states), dtype=bool)
        rows[self._states == Kind.TEXT] = found
        return rows
