"""The lines on which the rows of a CSV file stand, told by its bytes a stretch at a time."""

from collections.abc import Iterator
from functools import partial
from typing import NamedTuple

import numpy as np

from even_sieve.core.table.arrays import zeros
from even_sieve.core.table.lanes import Array
from even_sieve.sources.csv_records import records_of
from even_sieve.sources.dialect import Dialect
from even_sieve.sources.octets import Octets, whole_lines
from even_sieve.sources.quotes import Marks, pair_up
from even_sieve.sources.side_by_side import ahead_of

_BLOCK, _TAIL = 1 << 23, 4096
_FEED, _RETURN = b"\n\r"


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
    tail, alone = content[max(len(content) - _TAIL, 0) :], columns == 1
    kept = tail.rstrip(b"\r\n")
    if alone:  # a blank line is a blank cell
        kept = tail.removesuffix(b"\n").removesuffix(b"\r")
    end = len(content) - len(tail) + len(kept)
    if sum(map(_count_ends, _stretches(content, end))) == rows:
        return 2 + left_out, 0
    told = _told_by_bytes(content, end, rows, dialect, paired=paired, alone=alone)
    if told is not None:
        numbers, blank = told
        numbers += left_out
        return numbers, blank
    if alone:
        return 2 + left_out, 0
    starts, blank = [], 0
    for number, record in records_of(content[:end], dialect):
        if record:
            starts.append(number + left_out)
        else:
            blank += 1
    return np.array(starts[1:], dtype=np.int64), blank


def line_ends(octets: Array) -> Array:
    """Return at which bytes lines end, bool: at a line feed, or a return that none follows.

    >>> np.flatnonzero(line_ends(np.frombuffer(b"a\\nb\\r\\nc\\rd", dtype=np.uint8))).tolist()
    [1, 4, 6]
    """
    found: Array = octets == _FEED
    returns = octets == _RETURN
    if returns.any():
        returns[:-1] &= ~found[1:]
        found |= returns
    return found


def _count_ends(some: bytes) -> int:
    """Return how many lines end; many are counted faster so than by `lines_in`."""
    octets = np.frombuffer(some, dtype=np.uint8)
    if b"\r" in some:
        return int(np.count_nonzero(line_ends(octets)))
    return int(np.count_nonzero(octets == _FEED))


def _stretches(content: Octets, end: int) -> Iterator[bytes]:
    """Yield the bytes up to an end; a return and a line feed stay together."""
    start = 0
    while start < end:
        some = content[start : min(start + _BLOCK, end)]
        if some[-1] == _RETURN and content[start + len(some) : start + len(some) + 1] == b"\n":
            some += b"\n" if start + len(some) < end else b""
        yield some
        start += len(some)


def _told_by_bytes(
    content: Octets, end: int, rows: int, dialect: Dialect, *, paired: bool, alone: bool
) -> tuple[Array, int] | None:
    """Return the line of each record but the first, and how many blank ones there are.

    A line end between a quote that opens and one that closes is inside of a field. In a column
    that is `alone` a blank line is a record. None where there are not so many rows.
    """
    if len(dialect.quote.encode()) != 1:
        return None
    seen = _Records(zeros(rows + 1, np.int64), alone)
    if paired or pair_up(content, dialect):
        look = partial(_Seen.of_paired, quote=ord(dialect.quote))
        stretches = ahead_of(look, _stretches(content, end))
    else:
        stretches = _with_letters(content, end, dialect)
    if not all(map(seen.add, stretches)):
        return None
    if not seen.end(end):
        return None
    return seen.numbers[1:], seen.blank


def _with_letters(content: Octets, end: int, dialect: Dialect) -> Iterator["_Seen"]:
    """Yield what is seen in a file in which quotes stand as letters too."""
    inside = False
    for _, some in whole_lines(content, end, _BLOCK):
        octets = np.frombuffer(some, dtype=np.uint8)
        marks = Marks.of(octets, dialect, inside)
        inside = marks.inside
        yield _Seen.of(octets, marks.places)


class _Seen(NamedTuple):
    """Some bytes: where lines end, how many quotes open or close before each, and in all."""

    octets: Array
    breaks: Array
    before: Array
    quotes: int

    @classmethod
    def of_paired(cls, some: bytes, quote: int) -> "_Seen":
        """Return what is seen where all quotes open, close, or stand twice."""
        octets = np.frombuffer(some, dtype=np.uint8)
        return cls.of(octets, np.flatnonzero(octets == quote))

    @classmethod
    def of(cls, octets: Array, marks: Array) -> "_Seen":
        """Return what is seen with these quotes."""
        breaks = np.flatnonzero(line_ends(octets))
        return cls(octets, breaks, np.searchsorted(marks, breaks), len(marks))


class _Records:
    """The records of a file while its bytes come; `numbers` are the lines on which they begin.

    Blank ones are passed over, but in a column that is `alone`.
    """

    def __init__(self, numbers: Array, alone: bool) -> None:
        self.numbers, self.blank, self._alone = numbers, 0, alone
        self._count = self._lines = self._quotes = self._begin = self._done = 0
        self._first, self._last = 1, 0

    def add(self, seen: _Seen) -> bool:
        """Take in the next bytes; False if there are more records than numbers."""
        octets, breaks = seen.octets, seen.breaks
        closing = (seen.before + self._quotes) % 2 == 0
        ends = breaks[closing]
        if len(ends):
            after = self._lines + np.flatnonzero(closing) + 2
            before = np.where(ends > 0, octets[ends - 1], self._last)
            begins = np.concatenate(([self._begin], self._done + ends[:-1] + 1))
            firsts = np.concatenate(([self._first], after[:-1]))
            if not self._put(firsts, self._done + ends - begins, before):
                return False
            self._begin, self._first = self._done + int(ends[-1]) + 1, int(after[-1])
        self._lines += len(breaks)
        self._quotes += seen.quotes
        self._done += len(octets)
        self._last = int(octets[-1])
        return True

    def _put(self, firsts: Array, held: Array, before: Array) -> bool:
        """Put in the records that begin on these lines; blank ones hold nothing but a return."""
        blank = ((held == 0) | ((held == 1) & (before == _RETURN))) & (not self._alone)
        kept = firsts[~blank]
        start, self._count = self._count, self._count + len(kept)
        self.blank += int(np.count_nonzero(blank))
        if self._count > len(self.numbers):
            return False
        self.numbers[start : self._count] = kept
        return True

    def end(self, end: int) -> bool:
        """Put in what is left; False if there are fewer."""
        last = np.array([self._first]), np.array([end - self._begin]), np.zeros(1)
        return self._put(*last) and self._count == len(self.numbers)
