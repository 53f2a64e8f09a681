"""Numbers that some digits of each string make, all strings at once."""

from collections.abc import Sequence
from typing import Any, NamedTuple

import numpy as np

from even_sieve.core.table.arrays import spans
from even_sieve.core.table.lanes import Array
from even_sieve.sources.arrow_buffers import Bytes
from even_sieve.sources.side_by_side import side_by_side

_NOWHERE, _DIGIT_0 = -1, np.uint8(ord("0"))
_TOGETHER = 1 << 16
#: So many digits in a row are read as one number of as many bytes.
_WIDTHS = (2, 4, 8)


def numbers_of_digits(text: Bytes, codes: Array, places: Sequence[Sequence[int]]) -> Array:
    """Return the number that some digits of each string make, int64, shape (n,).

    `codes` are the shapes of the strings, shape (n,); `places` are, for each shape, where the
    digits stand, as many for all; -1 stands for a 0.

    >>> from even_sieve.sources.arrow_buffers import strings_of
    >>> text = Bytes.of(strings_of(["5.4.2031", "12.10.2031"]))
    >>> numbers_of_digits(text, np.array([0, 1]), [[-1, 0], [0, 1]]).tolist()
    [5, 12]
    """
    found = np.zeros(len(codes), dtype=np.int64)
    digits = np.array(places).T
    digits = digits[np.cumsum((digits != _NOWHERE).any(axis=1)) > 0] if len(found) else digits[:0]
    if not len(digits):
        return found
    runs = _Runs.of(digits) if len(text.data) >= _WIDTHS[-1] else None

    def put(rows: slice) -> None:
        for some in spans(rows.stop, _TOGETHER, rows.start):
            starts, own = text.offsets[some], codes[some]
            if runs is not None:
                found[some] = runs.read(text.data, starts, own)
            else:
                _put_digits(found[some], text, starts, digits, own)

    side_by_side(put, len(found))
    return found


def _put_digits(made: Array, text: Bytes, starts: Array, digits: Array, codes: Array) -> None:
    """Put in the numbers digit by digit."""
    for each in digits:
        own = each[codes] if len(each) > 1 else each
        made *= 10
        made += np.where(own == _NOWHERE, 0, text.at(starts + own) - _DIGIT_0)


class _Runs(NamedTuple):
    """Digits that stand side by side in each shape: from where, how many, and zeros behind."""

    width: int
    first: Array
    many: Array
    tens: Array

    @classmethod
    def of(cls, digits: Array) -> "_Runs | None":
        """Return the runs of digits, shape (digits, shapes); None where some stand apart."""
        there = digits != _NOWHERE
        count = there.sum(axis=0)
        width = next((each for each in _WIDTHS if count.max(initial=0) <= each), 0)
        begin, shapes = there.argmax(axis=0), np.arange(digits.shape[1])
        first = np.where(count > 0, digits[begin, shapes], 0)
        at = np.arange(len(digits))[:, None] - begin
        alike = np.where((at >= 0) & (at < count), first + at, _NOWHERE)
        if not width or not np.array_equal(alike, digits):
            return None
        behind = np.where(count > 0, len(digits) - begin - count, 0)
        return cls(width, first, count, 10**behind)

    def read(self, data: Array, starts: Array, codes: Array) -> Array:
        """Return the numbers of strings that begin at these places and have these shapes."""
        kind, width = np.dtype(f"<u{self.width}"), self.width
        begins, last = starts + _each(self.first, codes), len(data) - width
        whole = np.ndarray((last + 1,), dtype=kind, buffer=data, strides=(1,))
        if starts[-1] + self.first.max() <= last:
            read = whole[begins]
        else:  # the last strings end where the bytes do
            read = whole[np.minimum(begins, last)]
            read >>= (8 * np.maximum(begins - last, 0)).astype(kind)
        if (self.many < width).any():
            read <<= _each((8 * np.minimum(width - self.many, width - 1)).astype(kind), codes)
        made = _of_ascii(read)
        factor = np.where(self.many > 0, self.tens, 0)
        if (factor != 1).any():
            made *= _each(factor, codes)
        return made


def _each(known: Array, codes: Array) -> Any:
    """Return what is known of shapes for each of some codes; one for all where they are alike."""
    return known[0] if (known == known[0]).all() else known[codes]


def _of_ascii(read: Array) -> Array:
    """Return the numbers that bytes of digits make, the first one lowest; a byte 0 is a 0.

    Neighbours are brought together: ten times the one, and the other, then hundred times.

    >>> _of_ascii(np.frombuffer(b"12345678", dtype="<u8")).tolist()
    [12345678]
    """
    kind, bits = read.dtype.type, 8 * read.itemsize
    whole = 2**bits - 1
    made = read & kind(0x0F0F0F0F0F0F0F0F & whole)
    for size, ten in ((8, 10), (16, 100), (32, 10_000)):
        if size < bits:
            made *= kind((ten << size) + 1 & whole)
            made >>= kind(size)
            kept = sum((2**size - 1) << at for at in range(0, bits, 2 * size))
            made &= kind(kept & whole)
    found: Array = made.astype(np.int64)
    return found
