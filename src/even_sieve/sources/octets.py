"""The bytes of a text, held or in a file, and the lines that end in them."""

from collections.abc import Iterator
from pathlib import Path
from typing import Protocol

import numpy as np

from even_sieve.core.table.arrays import spans
from even_sieve.core.table.lanes import Array

_BLOCK = 1 << 20


def lines_in(content: bytes) -> int:
    """Return how many line ends there are: line feeds, and returns that none follows.

    >>> lines_in(b"a\\nb\\r\\nc\\rd")
    3
    """
    count = content.count(b"\n")
    return count + content.count(b"\r") - content.count(b"\r\n") if b"\r" in content else count


def after_last_line(content: bytes) -> int:
    """Return where the last line ends that is whole, 0 if there is none.

    A return at the very end may be half of a line end.

    >>> after_last_line(b"a\\nb"), after_last_line(b"a\\rb\\r"), after_last_line(b"ab")
    (2, 2, 0)
    """
    return content.rfind(b"\n") + 1 or content.rfind(b"\r", 0, len(content) - 1) + 1


class Octets(Protocol):
    """Bytes, or a file, of which stretches can be looked at."""

    def __len__(self) -> int: ...

    def __getitem__(self, rows: slice) -> bytes: ...


class FileOctets:
    """The bytes of a file from a place on, read where they are looked at."""

    def __init__(self, path: Path, start: int = 0) -> None:
        self._path, self._start = path, start

    def __len__(self) -> int:
        return self._path.stat().st_size - self._start

    def __getitem__(self, rows: slice) -> bytes:
        with self._path.open("rb") as stream:
            stream.seek(self._start + (rows.start or 0))
            return stream.read(-1 if rows.stop is None else rows.stop - (rows.start or 0))


def whole_lines(content: Octets, end: int, size: int) -> Iterator[tuple[int, bytes]]:
    """Yield where stretches of whole lines begin, up to an end, and their bytes.

    They have `size` bytes at the most, but for a line that is longer.

    >>> list(whole_lines(b"call\\n1\\n22", 9, 7))
    [(0, b'call\\n1\\n'), (7, b'22')]
    """
    start = 0
    while start < end:
        taken, some = size, content[start : min(start + size, end)]
        while not (cut := after_last_line(some)) and start + len(some) < end:
            taken *= 2
            some = content[start : min(start + taken, end)]
        if start + len(some) < end:
            some = some[:cut]
        yield start, some
        start += len(some)


def places_of(content: bytes, letter: str) -> Array:
    """Return the places of a letter of ASCII, int64, ascending.

    >>> places_of(b"a;b;c", ";").tolist()
    [1, 3]
    """
    octets, wanted = np.frombuffer(content, dtype=np.uint8), ord(letter)
    found = [
        rows.start + np.flatnonzero(octets[rows] == wanted) for rows in spans(len(octets), _BLOCK)
    ]
    return np.concatenate(found) if found else np.empty(0, dtype=np.int64)
