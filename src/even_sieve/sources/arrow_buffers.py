"""Arrow arrays to NumPy and back by their buffers.

pyarrow's own conversions import pandas, which a read has no use for.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property, lru_cache
from typing import Any, overload

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from even_sieve.core.table.arrays import spans
from even_sieve.core.table.lanes import Array
from even_sieve.sources.side_by_side import side_by_side

#: Each byte, but for that of a digit that of 0.
_WITH_ZEROS = np.arange(256, dtype=np.uint8)
_WITH_ZEROS[ord("0") : ord("9") + 1] = ord("0")


def stored(array: Any, kind: Any) -> Array:
    """Return what an Arrow array without nulls stores, as a NumPy array of this type."""
    values = np.frombuffer(array.buffers()[1], dtype=kind)
    return values[array.offset : array.offset + len(array)]


def mask_of(array: Any) -> Array:
    """Return an Arrow array of booleans without nulls as a NumPy array, bool."""
    bits = np.frombuffer(array.buffers()[1], dtype=np.uint8)
    bits = np.unpackbits(bits, bitorder="little", count=array.offset + len(array))
    return bits[array.offset :].view(np.bool_)


_NOT_ASCII, _LOOKED_AT = 0x80, 1 << 20
#: So many strings are made at once.
_TAKEN = 1 << 20


class Strings(Sequence[str]):
    """An Arrow array of strings as a sequence: made into Python strings when all are asked for.

    Looking a few up, as a binary search does, leaves the others where they are.
    """

    def __init__(self, array: Any) -> None:
        self._array = array

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

    def search(self, pattern: str) -> Array:
        """Return the places of the strings in which a pattern (of RE2) is found, ascending."""
        return np.flatnonzero(fitting(self._array, pattern))

    def shapes(self, places: Array) -> tuple[list[str], Array]:
        """Return the strings at these places, 0 for each digit, once each, and which each has."""
        some = take_any(self._array, places)
        text = Bytes.of(some)
        offsets = pa.py_buffer(text.offsets - text.offsets[0])
        zeros = pa.py_buffer(_WITH_ZEROS[text.used])
        coded = pa.Array.from_buffers(
            some.type, len(some), [None, offsets, zeros]
        ).dictionary_encode()
        return coded.dictionary.to_pylist(), stored(coded.indices, np.int32)

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


@dataclass(frozen=True)
class Bytes:
    """The UTF-8 bytes of an Arrow array of strings: `data` uint8, `offsets` of shape (n + 1,)."""

    data: Array
    offsets: Array

    @classmethod
    def of(cls, strings: Any) -> "Bytes":
        """Return the bytes of an array without nulls; nothing is copied."""
        wide = pa.types.is_large_string(strings.type)
        offsets: Array = np.frombuffer(strings.buffers()[1], dtype=np.int64 if wide else np.int32)
        offsets = offsets[strings.offset : strings.offset + len(strings) + 1]
        buffer = strings.buffers()[2]
        return cls(np.frombuffer(buffer or b"", dtype=np.uint8), offsets)

    @property
    def lengths(self) -> Array:
        """How many bytes each string has, shape (n,)."""
        lengths: Array = np.diff(self.offsets)
        return lengths

    @property
    def used(self) -> Array:
        """The bytes of all the strings, one after the other."""
        return self.data[self.offsets[0] : self.offsets[-1]]

    def uses(self, letters: bytes) -> bool:
        """Tell whether one of these bytes is among them."""
        stretches = (self.used[rows].tobytes() for rows in spans(len(self.used), _LOOKED_AT))
        return any(letter in stretch for stretch in stretches for letter in letters)

    def is_plain(self) -> bool:
        """Tell whether they are all digits, points and signs, of plain numbers and ISO days."""
        used = self.used
        if not len(used) or used.min() < ord("+") or used.max() > ord("9"):
            return not len(used)
        return not self.uses(b",/")

    def at(self, positions: Array) -> Array:
        """Return the bytes at these positions in `data`; any byte past the end."""
        found: Array = self.data[np.minimum(positions, len(self.data) - 1)]
        return found

    def ends(self) -> tuple[Array, Array]:
        """Return the first and the last byte of each string, shape (n,); 0 for an empty one."""
        starts, stops = self.offsets[:-1], self.offsets[1:]
        first, last = (np.zeros(len(starts), dtype=np.uint8) for _ in range(2))
        filled = stops > starts
        if filled.all():
            return self.data[starts], self.data[stops - 1]
        first[filled], last[filled] = self.data[starts[filled]], self.data[stops[filled] - 1]
        return first, last


def fitting(strings: Any, pattern: str) -> Array:
    """Tell in which strings of an Arrow array a pattern (of RE2) is found, bool, shape (n,).

    >>> fitting(strings_of(["Pier 3", "Mole"]), "[0-9]").tolist()
    [True, False]
    """
    masks = side_by_side(
        lambda rows: mask_of(pc.match_substring_regex(strings[rows], pattern)), len(strings)
    )
    return masks[0] if len(masks) == 1 else np.concatenate(masks)


def is_ascii(strings: Any) -> bool:
    """Tell whether all letters of an Arrow array of strings are those of ASCII."""
    used = Bytes.of(strings).used
    return not len(used) or bool(used.max() < _NOT_ASCII)


def strings_of(texts: Sequence[str]) -> Any:
    """Return texts as an Arrow array; `pa.array` would import pandas, which takes a second.

    >>> strings_of(["Outer", "", "Höhe"]).to_pylist()
    ['Outer', '', 'Höhe']
    """
    encoded = [text.encode() for text in texts]
    ends = np.zeros(len(encoded) + 1, dtype=np.int64)
    np.cumsum(list(map(len, encoded)), out=ends[1:])
    wide = ends[-1] > np.iinfo(np.int32).max
    kind, offsets = (pa.large_string(), ends) if wide else (pa.string(), ends.astype(np.int32))
    buffers = [None, pa.py_buffer(offsets), pa.py_buffer(b"".join(encoded))]
    return pa.Array.from_buffers(kind, len(encoded), buffers)


def array_of(values: Any, kind: Any, missing: Array | None = None) -> Any:
    """Return an Arrow array of the bits of values, null where they are missing (bool, or None).

    >>> array_of(np.array([3, 1]), pa.int64(), np.array([True, False])).to_pylist()
    [None, 1]
    """
    there = None if missing is None else pa.py_buffer(np.packbits(~missing, bitorder="little"))
    if pa.types.is_string(kind) or pa.types.is_large_string(kind):
        held = strings_of(values)
        kind, buffers, length = held.type, held.buffers()[1:], len(held)
    else:
        is_flag = pa.types.is_boolean(kind)
        bits = np.packbits(values, bitorder="little") if is_flag else np.ascontiguousarray(values)
        buffers, length = [pa.py_buffer(bits)], len(values)
    return pa.Array.from_buffers(kind, length, [there, *buffers])


@lru_cache(maxsize=64, typed=True)
def scalar_of(value: str | bool | int | float, kind: Any = None) -> Any:
    """Return an Arrow scalar, of that type if one is given.

    `pa.scalar`, and functions of Arrow that are given plain values, would import pandas.

    >>> scalar_of("-").as_py(), scalar_of(0, pa.int32()).as_py(), scalar_of(False).as_py()
    ('-', 0, False)
    """
    if isinstance(value, str):
        made = strings_of([value])[0]
    else:
        one = np.array([value])
        made = array_of(one, pa.from_numpy_dtype(one.dtype))[0]
    return made if kind is None or kind == made.type else made.cast(kind)


def is_utf8(content: bytes) -> bool:
    """Tell whether bytes are UTF-8, without a copy of them."""
    ends = pa.py_buffer(np.array([0, len(content)], dtype=np.int64))
    whole = pa.Array.from_buffers(pa.large_string(), 1, [None, ends, pa.py_buffer(content)])
    try:
        whole.validate(full=True)
    except pa.ArrowInvalid:
        return False
    return True


def take(array: Any, rows: Array) -> Any:
    """Return the rows of an Arrow array at these positions, which ascend."""
    return array if len(rows) == len(array) else take_any(array, rows)


def spread_over(array: Any, count: int) -> Any:
    """Return at most so many rows of an Arrow array, the same distance apart."""
    step = max(len(array) // count, 1)
    return array if step == 1 else take_any(array, np.arange(count) * step)


def take_any(array: Any, rows: Array) -> Any:
    """Return the rows of an Arrow array at these positions, in any order."""
    positions = np.ascontiguousarray(rows, dtype=np.int64)
    buffer = pa.py_buffer(positions)
    return array.take(pa.Array.from_buffers(pa.int64(), len(positions), [None, buffer]))
