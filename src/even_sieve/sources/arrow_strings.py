"""Arrow arrays of strings as sequences of Python's own."""

from collections.abc import Iterator, Sequence
from functools import cached_property, lru_cache, partial
from typing import Any, overload

import numpy as np
import pyarrow.compute as pc

from even_sieve.core.cells.likeness import Likeness
from even_sieve.core.table.lanes import Array
from even_sieve.core.table.texts_of_rows import Texts
from even_sieve.sources.arrow_buffers import (
    Bytes,
    coded_together,
    fitting,
    mask_of,
    strings_of,
    take,
    take_any,
)
from even_sieve.sources.folding import all_folded
from even_sieve.sources.letters_apart import LettersApart
from even_sieve.sources.letters_held import Case, LettersHeld
from even_sieve.sources.likenesses import may_be_like
from even_sieve.sources.side_by_side import by_stretches, side_by_side
from even_sieve.sources.strings_among import among, small_among

#: Digits are ten bytes from 0 on.
_ZERO, _TEN = np.uint8(ord("0")), np.uint8(10)
#: So many strings are made at once.
_TAKEN = 1 << 20


def _with_zeros(strings: Any) -> Any:
    """Return strings, an Arrow array, with 0 for each digit."""
    text = Bytes.of(strings)
    used = text.used
    above = used - _ZERO  # below 0 it wraps round
    above *= above < _TEN
    return Bytes(used - above, text.offsets - text.offsets[0]).strings()


@lru_cache(maxsize=64)
def _for_ascii(pattern: str) -> str:
    """Return what a pattern finds among letters of ASCII: classes of all letters take long to make.

    >>> _for_ascii(r"^\\p{Nd}[\\p{Z}x]$")
    '^\\\\d[\\\\x20x]$'
    """
    return pattern.replace(r"\p{Nd}", r"\d").replace(r"\p{Z}", r"\x20")


def _folded_at(strings: Any, places: Array) -> tuple[Array, Any] | tuple[()]:
    """Return the places and the strings there as they are compared.

    Nothing where these are many, or Arrow does not know how.
    """
    folded = all_folded(take(strings, places)) if 2 * len(places) <= len(strings) else None
    return () if folded is None else (places, folded)


class Strings(Texts):
    """An Arrow array of strings as a sequence: made into Python strings when all are asked for.

    Looking a few up, as a binary search does, leaves the others where they are. `letters` are what
    is known of those of all.
    """

    def __init__(self, array: Any, letters: LettersHeld | None = None) -> None:
        self._array = array
        self.letters = LettersHeld(array) if letters is None else letters
        self._beyond: tuple[Array, Any] | tuple[()] | None = None

    @property
    def array(self) -> Any:
        """The array itself."""
        return self._array

    @cached_property
    def _all(self) -> tuple[str, ...]:
        return tuple(self._array.to_pylist())

    @cached_property
    def _letters(self) -> tuple[memoryview, memoryview]:
        """The bytes of all, and where each begins, for a few to be looked up fast."""
        text = Bytes.of(self._array)
        return text.data.data, text.offsets.data

    def __reduce__(self) -> tuple[type["Strings"], tuple[Any]]:
        """Travel as the array alone."""
        return Strings, (self._array,)

    def __len__(self) -> int:
        return len(self._array)

    def __iter__(self) -> Iterator[str]:
        return iter(self._all)

    def begins(self) -> Array:
        """Return which strings are others than those before them, bool, shape (n,)."""
        found = np.ones(len(self), dtype=bool)
        if len(self) > 1:
            found[1:] = mask_of(pc.not_equal(self._array[1:], self._array[:-1]))
        return found

    def places_equal(self, texts: Sequence[str]) -> list[tuple[int, int]] | None:
        """Return, of strings in order, from and up to where those equal to each text stand.

        None where that cannot be told at once: of a text that no file can hold, by an older Arrow.
        """
        try:
            wanted = strings_of(texts).cast(self._array.type)
            low, high = (
                pc.search_sorted(self._array, wanted, side=side).to_pylist()
                for side in ("left", "right")
            )
        except (UnicodeEncodeError, AttributeError):
            return None
        return list(zip(low, high, strict=True))

    def equal_to(self, wanted: Sequence[str]) -> tuple[Array, set[str]] | None:
        """Return which of the strings are among others, and which of these there are.

        None where that cannot be told at once: of a text that no file can hold.

        >>> found, there = Strings(strings_of(["mole", "pier"])).equal_to(["quay", "pier"])
        >>> found.tolist(), there
        ([False, True], {'pier'})
        """
        try:
            return among(self._array, wanted)
        except UnicodeEncodeError:
            return None

    def equal_to_folded(self, wanted: Sequence[str]) -> tuple[Array, set[str]] | None:
        """Return the same of the strings as they are compared; None where these are needed.

        Of strings beyond ASCII those that are so are compared by themselves.

        >>> found = Strings(strings_of(["Höhe", "Mole"] * 2)).equal_to_folded(["höhe"])
        >>> found is None or found[0].tolist() == [True, False, True, False]
        True
        """
        if self._beyond is not None and not self._beyond:
            return None
        try:
            told = small_among(self._array, wanted, self.letters.case)
        except UnicodeEncodeError:
            return None
        if told is None or self.letters.are_ascii:
            return told
        found, there = told
        if self._beyond is None:
            self._beyond = _folded_at(self._array, np.flatnonzero(found == Case.BEYOND))
        if not self._beyond:
            return None
        places, folded = self._beyond
        found[places], others = among(folded, wanted)
        return found.view(np.bool_), there | others

    def may_be_like(self, what: Likeness) -> Array:
        """Return the places of all strings that look like something, and maybe of others."""
        return may_be_like(self._array, what)

    def hold(self, part: bytes) -> bool:
        """Tell whether a part may be among the bytes of the strings."""
        return self.letters.hold(part)

    def beginning(self, text: str) -> Array | None:
        """Return the places of the strings that begin with a text, ascending.

        None for a text that no file can hold.

        >>> Strings(strings_of(["Mole", "mole", "mole 1"])).beginning("mol").tolist()
        [1, 2]
        """
        try:
            starts = by_stretches(partial(pc.starts_with, pattern=text), self._array)
        except UnicodeEncodeError:
            return None
        return np.flatnonzero(mask_of(starts))

    def search(self, pattern: str, among: slice | Array | None = None) -> Array:
        """Return the places of the strings in which a pattern (of RE2) is found, ascending.

        `among` are places that ascend, where not all are looked at.

        >>> Strings(strings_of(["mole", "pier 1", "pier 2"])).search("[0-9]", slice(2, 3))
        array([2])
        """
        found: Array
        if among is None:
            if self.letters.are_ascii:
                pattern = _for_ascii(pattern)
            found = np.flatnonzero(fitting(self._array, pattern))
        elif isinstance(among, slice):
            found = among.start + np.flatnonzero(fitting(self._array[among], pattern))
        else:
            found = among[fitting(take(self._array, among), pattern)]
        return found

    def shapes(self, places: Array) -> tuple[list[str], Array]:
        """Return the strings at these places, 0 for each digit, once each, and which each has."""
        some = self._array if len(places) == len(self._array) else take(self._array, places)
        return coded_together(
            side_by_side(lambda rows: _with_zeros(some[rows]).dictionary_encode(), len(some))
        )

    def with_letters_apart(self) -> LettersApart:
        """Return the strings of which a letter stands for several when folded."""
        return self._letters_apart

    @cached_property
    def _letters_apart(self) -> LettersApart:
        return LettersApart.of(self._array)

    def many(self, places: Array) -> list[str]:
        """Return the strings at these places."""
        found: list[str] = []
        for start in range(0, len(places), _TAKEN):
            found += take_any(self._array, places[start : start + _TAKEN]).to_pylist()
        return found

    @overload
    def __getitem__(self, key: int) -> str: ...

    @overload
    def __getitem__(self, key: slice) -> Sequence[str]: ...

    def __getitem__(self, key: int | slice) -> str | Sequence[str]:
        if "_all" in self.__dict__:
            return self._all[key]
        if isinstance(key, slice):
            return Strings(self._array[key])
        letters, ends = self._letters
        if key < 0:
            key = range(len(self))[key]
        return str(letters[ends[key] : ends[key + 1]], "utf-8")
