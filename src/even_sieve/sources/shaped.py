"""Many strings, few shapes: what is alike but for its digits and letters is matched once."""

from collections.abc import Callable, Sequence
from typing import Any

import numpy as np
import pyarrow.compute as pc

from even_sieve.core.table.lanes import Array
from even_sieve.sources.arrow_buffers import (
    Bytes,
    coded_together,
    fitting,
    made_of,
    stored,
    strings_of,
    take,
    take_any,
)
from even_sieve.sources.digit_runs import numbers_of_digits
from even_sieve.sources.side_by_side import side_by_side

#: Digits are 1 in a shape, but for a zero before all others; letters are a, but for those of
#: exponents and times.
_DIGIT, _ZERO = b"10"
_OWN_LETTERS = b"eEhtTzZ"
_AS_SHAPE = bytes(
    ord("1")
    if chr(each).isdigit()
    else ord("a")
    if chr(each).isalpha() and each not in _OWN_LETTERS
    else each
    for each in range(128)
) + bytes(range(128, 256))
#: The same, letters as they are.
_AS_DIGITS = bytes(ord("1") if chr(each).isdigit() else each for each in range(128)) + bytes(
    range(128, 256)
)
#: So many bytes, signs and the like, may stand before the first digit of a number.
_BEFORE = 8
_SAMPLE, _LOOKED_AT, _MOST_OF_THEM, _MOST = 64, 4096, 1024, 1 << 14


class Shaped:
    """An Arrow array of strings without nulls, and the shapes of its strings.

    >>> from even_sieve.sources.arrow_buffers import strings_of
    >>> tokens = Shaped(strings_of(["12.5", "7 kr", "03.9", "14.2"]))
    >>> tokens.shapes, tokens.fit(r"^[1-9].*[.]").tolist()
    (['11.1', '1 aa', '01.1'], [True, False, False, True])
    """

    def __init__(self, strings: Any, coded: tuple[list[str], Array] | None = None) -> None:
        self.strings = strings
        self._kept, self._told = coded, coded is not None

    @classmethod
    def but_for_digits(cls, strings: Any) -> "Shaped":
        """Return the strings with shapes that keep all letters, however many these are.

        >>> from even_sieve.sources.arrow_buffers import strings_of
        >>> Shaped.but_for_digits(strings_of(["12.5 kr", "10.0 kr", "Quay 07"])).shapes
        ['11.1 kr', 'Quay 01']
        """
        coded = _shapes_of(strings, _AS_DIGITS).dictionary_encode()
        return cls(strings, (coded.dictionary.to_pylist(), stored(coded.indices, np.int32)))

    @property
    def _coded(self) -> tuple[list[str], Array] | None:
        # No `cached_property`: it has one lock for all, and many threads ask for shapes.
        if not self._told:
            self._kept, self._told = self._code(), True
        return self._kept

    def _code(self) -> tuple[list[str], Array] | None:
        if len(self.strings) > _LOOKED_AT:
            some = _shapes_of(self.strings[:_LOOKED_AT])
            if len(some.unique()) > _MOST_OF_THEM:
                return None
        coded = side_by_side(
            lambda rows: _shapes_of(self.strings[rows]).dictionary_encode(), len(self.strings)
        )
        if max(len(each.dictionary) for each in coded) > _MOST:
            return None
        shapes, codes = coded_together(coded)
        return None if len(shapes) > _MOST else (shapes, codes)

    @property
    def shapes(self) -> list[str] | None:
        """The shapes in the order first met; None where there are too many."""
        return None if self._coded is None else self._coded[0]

    @property
    def codes(self) -> Array:
        """The position of each string's shape, shape (n,)."""
        assert self._coded is not None
        return self._coded[1]

    def fit(self, pattern: str) -> Array:
        """Tell which strings a pattern (of RE2) fits, bool, shape (n,).

        The pattern tells no digits apart, but for a zero before all others, and no letters but
        those of exponents and times.
        """
        if self.shapes is None:
            return fitting(self.strings, pattern)
        return self.of_shapes(lambda shapes: fitting(shapes, pattern))

    def matching(self, rows: Array, pattern: str, letters: str = "") -> Array:
        """Return those of the rows whose string a pattern fits.

        `letters` are all that such a string is made of, where these tell most others apart.
        """
        if not len(rows):
            return rows
        worth_telling = self._told or len(rows) >= len(self.strings) // 2
        if worth_telling and self.shapes is not None:
            told = self.fit(pattern)[rows]
        else:
            some = take(self.strings, rows)
            if letters:
                made = np.flatnonzero(made_of(some, letters))
                rows, some = rows[made], take(some, made)
            told = Shaped(some).fit(pattern)
        found: Array = rows[told]
        return found

    def all_fit(self, pattern: str) -> bool:
        """Tell whether a pattern fits all strings; looks at some of them first."""
        some = pc.match_substring_regex(self.strings[:_SAMPLE], pattern)
        return bool(pc.all(some).as_py()) and bool(self.fit(pattern).all())

    def of_shapes(self, tell: Callable[[Any], Array]) -> Array:
        """Return for each string what is told of its shape."""
        found: Array = tell(strings_of(self.shapes or ()))[self.codes]
        return found

    def take(self, rows: Array) -> "Shaped":
        """Return the strings at these places, which ascend."""
        if len(rows) == len(self.strings):
            return self
        strings = take(self.strings, rows)
        if not self._told or self.shapes is None or not len(rows):
            return Shaped(strings)
        codes = self.codes[rows]
        met = np.full(len(self.shapes), len(rows))
        met[codes[::-1]] = np.arange(len(rows))[::-1]
        order = np.argsort(met, kind="stable")[: np.count_nonzero(met < len(rows))]
        places = np.zeros(len(self.shapes), dtype=np.int32)
        places[order] = np.arange(len(order))
        return Shaped(strings, ([self.shapes[each] for each in order], places[codes]))

    def part(self, rows: slice) -> "Shaped":
        """Return a stretch of the strings, with the shapes of all."""
        return Shaped(self.strings[rows], (self.shapes or [], self.codes[rows]))

    def at(self, rows: Array) -> "Shaped":
        """Return the strings at these places, in any order, with the shapes of all."""
        return Shaped(take_any(self.strings, rows), (self.shapes or [], self.codes[rows]))

    def numbers(self, places: Sequence[Sequence[int]]) -> Array:
        """Return the number that some digits of each string make, int64, shape (n,).

        `places` are, for each shape, where they stand, as many for all; -1 stands for a 0.
        """
        return numbers_of_digits(Bytes.of(self.strings), self.codes, places)

    def bytes_at(self, places: Sequence[int]) -> Array:
        """Return one byte of each string, uint8, shape (n,): 0 where it has none there.

        `places` tell for each shape where it stands, -1 that it is nowhere.
        """
        text = Bytes.of(self.strings)
        data = np.append(text.used, np.uint8(0))
        own = np.array(places)[self.codes]
        at = text.offsets[:-1] - text.offsets[0] + own
        none = (own == -1) | (at >= text.offsets[1:] - text.offsets[0])
        found: Array = data[np.where(none, len(data) - 1, at)]
        return found

    def without(self, needless: bytes, other: bytes = b"", instead: bytes = b"") -> Any:
        """Return the strings without some bytes, and others put in place of one another."""
        table, text = bytes.maketrans(other, instead), Bytes.of(self.strings)
        data = np.frombuffer(text.used.tobytes().translate(table, needless), dtype=np.uint8)
        left = [len(each.encode().translate(table, needless)) for each in self.shapes or ()]
        offsets = np.zeros(len(self.strings) + 1, dtype=text.offsets.dtype)
        np.cumsum(np.array(left, dtype=text.offsets.dtype)[self.codes], out=offsets[1:])
        return Bytes(data, offsets).strings()


def _shapes_of(strings: Any, signs: bytes = _AS_SHAPE) -> Any:
    """Return the shape of each string, an Arrow array of its type."""
    text = Bytes.of(strings)
    used = text.used
    offsets = text.offsets - text.offsets[0]
    made = np.frombuffer(bytearray(used).translate(signs), dtype=np.uint8)
    at = offsets[:-1].copy()
    left = np.flatnonzero(at < offsets[1:])
    for _ in range(_BEFORE):
        left = left[made[at[left]] != _DIGIT]
        at[left] += 1
        left = left[at[left] < offsets[left + 1]]
    if len(left):
        digits = np.append(np.flatnonzero(made == _DIGIT), len(made))
        at[left] = digits[np.searchsorted(digits, at[left])]
        left = left[at[left] < offsets[left + 1]]
    at = at[at < offsets[1:]]
    made[at[used[at] == _ZERO]] = _ZERO
    return Bytes(made, offsets).strings()
