"""Arrow arrays to NumPy and back by their buffers.

pyarrow's own conversions import pandas, which a read has no use for.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from even_sieve.core.table.arrays import spans
from even_sieve.core.table.lanes import Array
from even_sieve.sources.side_by_side import side_by_side


def stored(array: Any, kind: Any) -> Array:
    """Return what an Arrow array without nulls stores, as a NumPy array of this type."""
    values = np.frombuffer(array.buffers()[1], dtype=kind)
    return values[array.offset : array.offset + len(array)]


def mask_of(array: Any) -> Array:
    """Return an Arrow array of booleans without nulls as a NumPy array, bool."""
    bits = np.frombuffer(array.buffers()[1], dtype=np.uint8)
    bits = np.unpackbits(bits, bitorder="little", count=array.offset + len(array))
    return bits[array.offset :].view(np.bool_)


_NOT_ASCII, _LOOKED_AT, _SEEN = 0x80, 1 << 20, 1 << 12
#: The bytes of so many strings are counted at once.
_COUNTED, _TRIMMED = 1 << 14, 1 << 16
#: The letters of so many strings are made small at once.
_LOWERED = 1 << 20
#: So many strings are tried before all of them are.
_FIRST_CAST = 1 << 8


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

    def strings(self) -> Any:
        """Return the strings as an Arrow array; nothing is copied."""
        kind = pa.large_string() if self.offsets.dtype == np.int64 else pa.string()
        buffers = [None, pa.py_buffer(self.offsets), pa.py_buffer(self.data)]
        return pa.Array.from_buffers(kind, len(self.offsets) - 1, buffers)

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

    def marks(self, table: Array) -> Array:
        """Return what a table (uint8, a mark a bit) has for the bytes of each string, shape (n,).

        None of the strings is empty.

        >>> table = np.zeros(256, dtype=np.uint8)
        >>> table[list(b"-x")] = 1, 2
        >>> Bytes.of(strings_of(["12", "-5", "x-", "x"])).marks(table).tolist()
        [0, 1, 3, 2]
        """
        found = np.empty(len(self.offsets) - 1, dtype=np.uint8)
        for rows in spans(len(found), _COUNTED):
            begin, end = self.offsets[rows.start], self.offsets[rows.stop]
            own = self.offsets[rows] - begin
            found[rows] = np.bitwise_or.reduceat(table[self.data[begin:end]], own)
        return found

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


def bytes_in(octets: Array, most: int) -> bytes:
    """Return the bytes that are there, each once; some of them, where these are more than `most`.

    >>> bytes(sorted(bytes_in(np.frombuffer(b"2031-12", dtype=np.uint8), 8)))
    b'-0123'
    """
    found = b""
    for rows in spans(len(octets), _LOOKED_AT):
        left = octets[rows].tobytes().translate(None, found)
        while left and len(found) <= most:
            found += bytes(set(left[:_SEEN]))
            left = left.translate(None, found)
    return found


def fitting(strings: Any, pattern: str) -> Array:
    """Tell in which strings of an Arrow array a pattern (of RE2) is found, bool, shape (n,).

    >>> fitting(strings_of(["Pier 3", "Mole"]), "[0-9]").tolist()
    [True, False]
    """
    masks = side_by_side(
        lambda rows: mask_of(pc.match_substring_regex(strings[rows], pattern)), len(strings)
    )
    return masks[0] if len(masks) == 1 else np.concatenate(masks)


def made_of(strings: Any, letters: str) -> Array:
    """Tell which strings have no other letters than these of ASCII, bool, shape (n,).

    >>> made_of(strings_of(["12.5", "3e", ""]), "0123456789.").tolist()
    [True, False, True]
    """
    found = np.empty(len(strings), dtype=bool)
    for rows in spans(len(strings), _TRIMMED):  # what is left of long texts is not held
        found[rows] = Bytes.of(pc.ascii_ltrim(strings[rows], characters=letters)).lengths == 0
    return found


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


def lowered(strings: Any) -> Any:
    """Return strings of letters of ASCII alone in small ones, made where they stay.

    >>> lowered(strings_of(["Pier 3", "MOLE"])).to_pylist()
    ['pier 3', 'mole']
    """
    if len(strings) <= _LOWERED:
        return pc.ascii_lower(strings)
    text = Bytes.of(strings)
    ends = text.offsets - text.offsets[0] if text.offsets[0] else text.offsets
    letters = np.empty(ends[-1], dtype=np.uint8)

    def lower(rows: slice) -> None:
        for some in spans(rows.stop, _LOWERED, rows.start):
            made = Bytes.of(pc.ascii_lower(strings[some]))
            letters[ends[some.start] : ends[some.stop]] = made.used

    side_by_side(lower, len(strings))
    return Bytes(letters, ends).strings()


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


def cast_if_all(strings: Any, kind: Any) -> Any:
    """Return strings as an Arrow array of numbers or times; None where one of them is none.

    Looks at some first: where many are none, Arrow takes long to say so.

    >>> import pyarrow as pa
    >>> cast_if_all(strings_of(["12", "7"]), pa.int64()).to_pylist()
    [12, 7]
    >>> cast_if_all(strings_of(["12", "1.2.3"]), pa.float64())
    """
    try:
        if len(strings) > _FIRST_CAST:
            pc.cast(spread_over(strings, _FIRST_CAST), kind)
        return pc.cast(strings, kind)
    except pa.ArrowInvalid:
        return None


def coded_together(parts: Sequence[Any]) -> tuple[list[str], Array]:
    """Return the different strings of dictionary arrays, and each row's place among them, int32.

    >>> coded_together([strings_of(each).dictionary_encode() for each in (["a", "b"], ["b"])])
    (['a', 'b'], array([0, 1, 1], dtype=int32))
    """
    places: dict[str, int] = {}
    codes: list[Array] = []
    for each in parts:
        numbers = [places.setdefault(a, len(places)) for a in each.dictionary.to_pylist()]
        own = stored(each.indices, np.int32)
        codes.append(np.array(numbers, dtype=np.int32)[own] if codes else own)
    return list(places), codes[0] if len(codes) == 1 else np.concatenate(codes)


def take(array: Any, rows: Array) -> Any:
    """Return the rows of an Arrow array at these positions, which ascend."""
    return array if len(rows) == len(array) else take_any(array, rows)


def spread_over(array: Any, count: int) -> Any:
    """Return at most so many rows of an Arrow array, the same distance apart."""
    step = max(len(array) // count, 1)
    return array if step == 1 else take_any(array, np.arange(count) * step)


def take_any(array: Any, rows: Array) -> Any:
    """Return the rows of an Arrow array at these positions, in any order."""
    narrow = rows.dtype == np.int32
    positions = np.ascontiguousarray(rows, dtype=np.int32 if narrow else np.int64)
    kind, buffer = pa.int32() if narrow else pa.int64(), pa.py_buffer(positions)
    return array.take(pa.Array.from_buffers(kind, len(positions), [None, buffer]))
