"""Strings as numbers of 64 bits that have their order: eight bytes each, or more of few kinds."""

from dataclasses import dataclass, replace

import numpy as np

from even_sieve.core.table.arrays import spans
from even_sieve.core.table.lanes import Array
from even_sieve.sources.arrow_buffers import Bytes, bytes_in

_EIGHT, _BITS = 8, 64
#: So few kinds of bytes go into four bits each, beside the end of a string.
_MOST_KINDS = 15
_SAMPLE, _BLOCK, _TOGETHER = 1 << 12, 1 << 20, 1 << 17
#: Strings of which so many are alike in eight bytes, beside each other one, have more in a number.
_ALIKE = 0.25
#: What is kept of eight bytes of which so many are the string's own.
_OWN = np.array([2**64 - 2 ** (64 - 8 * own) for own in range(_EIGHT + 1)], dtype=np.uint64)


@dataclass(frozen=True)
class Words:
    """Strings as numbers; `offsets` of shape (n + 1,) say where each begins.

    A number holds `step` bytes of a string, each by its `ranks` among those that are there (1 and
    more, shape (256,)) in so many `bits`; None for bytes as they are.
    """

    data: Array
    offsets: Array
    bits: int = 8
    ranks: Array | None = None

    @classmethod
    def of(cls, text: Bytes, begin: int) -> "Words":
        """Return the strings, none of which holds a byte 0, from that many bytes on.

        >>> from even_sieve.sources.arrow_buffers import strings_of
        >>> days = [f"2031-{at // 28 + 1:02}-{at % 28 + 1:02}" for at in range(300)]
        >>> Words.of(Bytes.of(strings_of(days)), 0).step
        16
        """
        words = cls(text.data, text.offsets)
        some = words.sample(begin)
        pairs = np.count_nonzero(some[1:] == some[:-1]) / (len(some) ** 2 / 2 + 1)
        used = text.used
        if pairs * (len(text.offsets) - 1) < _ALIKE or not len(used):
            return words
        if len(np.unique(used[:: 1 + len(used) // _BLOCK * _MOST_KINDS])) > _MOST_KINDS:
            return words
        kinds = bytes_in(used, _MOST_KINDS)
        if len(kinds) > _MOST_KINDS:
            return words
        there = np.isin(np.arange(256), list(kinds))
        ranks = np.where(there, np.cumsum(there), 0).astype(np.uint8)
        return cls(text.data, text.offsets, len(kinds).bit_length(), ranks)

    @property
    def step(self) -> int:
        """How many bytes a number holds."""
        return _BITS // self.bits

    def sample(self, begin: int) -> Array:
        """Return the numbers of some strings, spread over all, in order."""
        length = len(self.offsets) - 1
        rows = np.arange(0, length, max(length // _SAMPLE, 1))
        return np.sort(self.at(rows, begin))

    def lengths_of(self, rows: Array) -> Array:
        """Return how many bytes each of these strings has."""
        found: Array = self.offsets[rows + 1] - self.offsets[rows]
        return found

    def at(self, rows: Array, depth: int | Array) -> Array:
        """Return the bytes of each string after so many, as a number; zeros where it has none.

        `depth` is one for all, or one for each.
        """
        if len(self.data) < _EIGHT:
            data = np.concatenate((self.data, np.zeros(_EIGHT, dtype=np.uint8)))
            return replace(self, data=data).at(rows, depth)
        made = np.empty(len(rows), dtype=np.uint64)
        for some in spans(len(rows), _TOGETHER):
            own = rows[some]
            begins = self.offsets[own].astype(np.int64)
            lengths = self.offsets[own + 1] - begins
            after = depth if isinstance(depth, int) else depth[some]
            made[some] = self._of(begins + after, lengths - after)
        return made

    def _of(self, begins: Array, lengths: Array) -> Array:
        if self.ranks is None:
            return self._eight(begins, lengths)
        made = np.zeros(len(begins), dtype=np.uint64)
        for done in range(0, self.step, _EIGHT):
            own = min(_EIGHT, self.step - done)
            eight = self._eight(begins + done, lengths - done).view(np.uint8)
            squeezed = _squeezed(np.take(self.ranks, eight).view(np.uint64), self.bits)
            made <<= np.uint64(own * self.bits)
            made |= squeezed >> np.uint64((_EIGHT - own) * self.bits)
        return made

    def _eight(self, begins: Array, lengths: Array) -> Array:
        """Return the eight bytes from these places on, zeros after so many."""
        last = len(self.data) - _EIGHT
        eights = np.ndarray((last + 1,), dtype="<u8", buffer=self.data, strides=(1,))
        found: Array = eights[np.minimum(begins, last)].byteswap()
        ends = np.flatnonzero((begins > last) & (lengths > 0))  # few: these strings are the last
        found[ends] <<= (8 * (begins[ends] - last)).astype(np.uint64)
        found &= _OWN[np.clip(lengths, 0, _EIGHT)]
        return found


def _squeezed(eights: Array, bits: int) -> Array:
    """Return numbers of eight bytes, of which each uses so many bits, as numbers of these alone.

    >>> hex(_squeezed(np.array([0x0102030405060708], dtype=np.uint64), 4)[0])
    '0x12345678'
    """
    for width in (8, 16, 32):
        own = bits * width // 8
        kept = np.uint64(sum(2**own - 1 << at for at in range(0, _BITS, 2 * width)))
        upper = (eights >> np.uint64(width)) & kept
        eights = (eights & kept) | (upper << np.uint64(own))
    return eights
