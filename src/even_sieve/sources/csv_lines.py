"""The lines on which the rows of a CSV file stand, told by its bytes a stretch at a time."""

from collections.abc import Iterator

import numpy as np

from even_sieve.core.table.arrays import zeros
from even_sieve.core.table.lanes import Array
from even_sieve.sources.csv_records import records_of
from even_sieve.sources.dialect import Dialect
from even_sieve.sources.quotes import Octets, pair_up

_BLOCK, _TAIL = 1 << 23, 4096
_FEED, _RETURN = b"\n", b"\r"


def row_numbers(
    content: Octets,
    rows: int,
    dialect: Dialect,
    columns: int,
    left_out: int = 0,
    *,
    paired: bool = False,
) -> tuple[Array | int, int]:
    """Return the line of each row, and how many blank lines there are between them.

    Lines follow one another from 2 on, or from after those `left_out`; they come as an array
    where lines and rows differ. `paired` says that quotes are known to pair up.
    """
    tail = content[max(len(content) - _TAIL, 0) :]
    end = len(content) - len(tail) + len(tail.rstrip(_RETURN + _FEED))
    ends = _count(content, end, _FEED) or _count(content, end, _RETURN)
    if ends == rows or columns == 1:
        return 2 + left_out, 0
    told = _told_by_bytes(content, end, rows, dialect, paired=paired)
    if told is not None:
        numbers, blank = told
        numbers += left_out
        return numbers, blank
    starts, blank = [], 0
    for number, record in records_of(content[:end], dialect):
        if record:
            starts.append(number + left_out)
        else:
            blank += 1
    return np.array(starts[1:], dtype=np.int64), blank


def _count(content: Octets, end: int, sign: bytes) -> int:
    return sum(each.count(sign) for each in _stretches(content, end))


def _stretches(content: Octets, end: int) -> Iterator[bytes]:
    for start in range(0, end, _BLOCK):
        yield content[start : min(start + _BLOCK, end)]


def _told_by_bytes(
    content: Octets, end: int, rows: int, dialect: Dialect, *, paired: bool = False
) -> tuple[Array, int] | None:
    """Return the line of each record but the first, and how many blank ones there are.

    A line end between a quote that opens and one that closes is inside of a field. None where
    quotes stand as letters, lines end in another way too, or there are not so many rows.
    """
    if not paired and not pair_up(content, dialect):
        return None
    seen = _Records(zeros(rows + 1, np.int64))
    for stretch in _stretches(content, end):
        if not seen.add(stretch, ord(dialect.quote)):
            return None
    if not seen.end(end):
        return None
    return seen.numbers[1:], seen.blank


class _Records:
    """The records of a file while its bytes come; `numbers` are the lines on which they begin."""

    def __init__(self, numbers: Array) -> None:
        self.numbers, self.blank = numbers, 0
        self._count = self._lines = self._quotes = self._begin = self._done = 0
        self._first, self._last, self._bare = 1, b"", 0

    def add(self, stretch: bytes, quote: int) -> bool:
        """Take in the next bytes; False if there are more records than numbers."""
        octets = np.frombuffer(stretch, dtype=np.uint8)
        breaks, marks = np.flatnonzero(octets == _FEED[0]), np.flatnonzero(octets == quote)
        closing = (np.searchsorted(marks, breaks) + self._quotes) % 2 == 0
        ends = breaks[closing]
        if _RETURN in stretch:
            self._bare += stretch.count(_RETURN) - stretch.count(_RETURN + _FEED)
        self._bare -= self._last == _RETURN and stretch[:1] == _FEED
        if len(ends):
            after = self._lines + np.flatnonzero(closing) + 2
            before = np.where(ends > 0, octets[ends - 1], self._last[0] if self._last else 0)
            begins = np.concatenate(([self._begin], self._done + ends[:-1] + 1))
            firsts = np.concatenate(([self._first], after[:-1]))
            if not self._put(firsts, self._done + ends - begins, before):
                return False
            self._begin, self._first = self._done + int(ends[-1]) + 1, int(after[-1])
        self._lines += len(breaks)
        self._quotes += len(marks)
        self._done += len(stretch)
        self._last = stretch[-1:]
        return True

    def _put(self, firsts: Array, held: Array, before: Array) -> bool:
        """Put in the records that begin on these lines; blank ones hold nothing but a return."""
        blank = (held == 0) | ((held == 1) & (before == _RETURN[0]))
        kept = firsts[~blank]
        start, self._count = self._count, self._count + len(kept)
        self.blank += int(np.count_nonzero(blank))
        if self._count > len(self.numbers):
            return False
        self.numbers[start : self._count] = kept
        return True

    def end(self, end: int) -> bool:
        """Put in what is left; False if there are fewer, or lines end in another way too."""
        if self._bare or not self._put(
            np.array([self._first]), np.array([end - self._begin]), np.zeros(1)
        ):
            return False
        return self._count == len(self.numbers)
