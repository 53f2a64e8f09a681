"""The texts of rows, one by one, before they are put in order."""

from abc import abstractmethod
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from threading import Lock
from typing import Any, TypeAlias

import numpy as np
from numpy.typing import NDArray

from even_sieve.core.cells import Kind, Places, fold

#: So many questions are answered before putting all in order is the shorter way.
_MOST_ASKED = 8
#: And what stands around so many texts.
_MOST_SOUGHT = 3
#: So many texts are put in order by themselves.
_MANY = 1 << 12
#: Which of some texts are of a sort, as their places.
Test: TypeAlias = Callable[[Sequence[str]], Places]


class Texts(Sequence[str]):
    """Texts in any order that know how to look at all of them at once."""

    @abstractmethod
    def hold(self, part: bytes) -> bool:
        """Tell whether a part may be among the bytes of the texts."""

    @abstractmethod
    def search(self, pattern: str, among: Any = None) -> NDArray[Any]:
        """Return the places of the texts in which a pattern (of RE2) is found, ascending."""

    @abstractmethod
    def beginning(self, text: str) -> NDArray[Any] | None:
        """Return the places of the texts that begin with one, ascending; None: untold."""

    @abstractmethod
    def many(self, places: NDArray[Any]) -> list[str]:
        """Return the texts at these places."""

    @abstractmethod
    def equal_to(self, wanted: Sequence[str]) -> tuple[NDArray[Any], set[str]] | None:
        """Return which texts are among others, and which of these there are; None: untold."""

    @abstractmethod
    def equal_to_folded(self, wanted: Sequence[str]) -> tuple[NDArray[Any], set[str]] | None:
        """Return the same of the texts as they are compared; None where these are needed."""


@dataclass(frozen=True)
class Stretch:
    """Texts in order, and these as they are compared."""

    spellings: Sequence[str]
    folded: Sequence[str]


@dataclass(frozen=True, eq=False)
class EndInOrder:
    """Places in order, one a row, of the texts that come first or last among all: from 0 on.

    `beyond` is the place of all others together; of rows that hold no text it says nothing.
    """

    places: NDArray[Any]
    beyond: int


class TextsOfRows:
    """Texts, one for each row that holds one: as they are spelt, and as they are compared.

    `fold` returns these, or None where they cannot be told at once. `order_end` puts those in
    order that come first, or last, as far as a measure of them needs; `order_around` so many as
    are asked for on each side of a text, where there are. `states` says which of the rows hold
    texts, None where all do. At least so many `differ`.
    """

    def __init__(
        self,
        spellings: Texts,
        fold: Callable[[], Texts | None],
        order_end: Callable[[Texts, bool], EndInOrder],
        order_around: Callable[[Texts, str, int], Stretch | None],
        states: NDArray[np.uint8] | None = None,
        differ: int = 0,
    ) -> None:
        self.spellings, self._fold, self._states = spellings, fold, states
        self._order_end, self._order_around = order_end, order_around
        self.differ = differ
        self._left, self._sought = _MOST_ASKED, 0
        self._ends: dict[bool, EndInOrder | None] = {}
        self._places: dict[Test, NDArray[np.intp]] = {}
        self._like: dict[Test, NDArray[np.bool_] | None] = {}
        self._counted: NDArray[np.intp] | None = None
        self._one_at_a_time = Lock()

    def __reduce__(self) -> tuple[type[None], tuple[()]]:
        """Stay here: where a lane travels to its texts are in order."""
        return type(None), ()

    def folded(self) -> Texts | None:
        """Return the texts as they are compared; None where a few questions were asked before."""
        self._left -= 1
        return self._fold() if self._left >= 0 else None

    def equal_to(self, wanted: Sequence[str]) -> tuple[NDArray[Any], set[str]] | None:
        """Return which texts, as compared, are among others, and which of these there are."""
        found = self.spellings.equal_to_folded(wanted)
        texts = self.folded() if found is None else None
        return found if texts is None else texts.equal_to(wanted)

    def end_in_order(self, last: bool) -> EndInOrder | None:
        """Return the texts that come first, or last, in order; None as for `folded`."""
        with self._one_at_a_time:  # threads ask for it together
            if last not in self._ends:
                folded = self.folded()
                self._ends[last] = None if folded is None else self._order_end(folded, last)
            return self._ends[last]

    def around(self, text: str, count: int) -> Stretch | None:
        """Return the different texts around one, as compared; None where a few were asked for."""
        self._sought += 1
        folded = self.folded() if self._sought <= _MOST_SOUGHT else None
        return None if folded is None else self._order_around(folded, text, count)

    def spelt_as(self, wanted: Sequence[str]) -> dict[str, str] | None:
        """Return how those of some texts, as compared, are spelt that there are, as first met."""
        told = self.equal_to(wanted)
        if told is None:
            return None
        spelt = dict.fromkeys(self.spellings.many(np.flatnonzero(told[0])))
        return {fold(each): each for each in reversed(spelt)}

    def rows_like(self, test: Test) -> NDArray[np.bool_] | None:
        """Return which rows hold texts that pass a test, bool, shape (rows,); None if none do."""
        places = self.places_like(test)
        with self._one_at_a_time:
            if test not in self._like:
                found = np.zeros(len(self.spellings), dtype=bool)
                found[places] = True
                self._like[test] = self.rows(found) if len(places) else None
            return self._like[test]

    def texts_like(self, test: Test) -> list[str] | None:
        """Return the different texts that pass a test, in order; None where they are many."""
        places = self.places_like(test)
        if len(places) > _MANY:
            return None
        return sorted(dict.fromkeys(self.spellings.many(places)), key=fold)

    def places_like(self, test: Test) -> NDArray[np.intp]:
        """Return the places of the texts that pass a test, ascending."""
        with self._one_at_a_time:
            if test not in self._places:
                self._places[test] = np.asarray(test(self.spellings), dtype=np.intp)
            return self._places[test]

    def cell(self, row: int) -> str:
        """Return the text of a row that holds one."""
        if self._states is None:
            return self.spellings[row]
        if self._counted is None:  # asked for many rows, none is counted up to again
            self._counted = np.cumsum(self._states == Kind.TEXT)
        return self.spellings[int(self._counted[row]) - 1]

    def rows(self, found: NDArray[Any]) -> NDArray[np.bool_]:
        """Return which rows hold the texts that are found, bool, shape (rows,)."""
        if self._states is None:
            return found
        rows = np.zeros(len(self._states), dtype=bool)
        rows[self._states == Kind.TEXT] = found
        return rows
