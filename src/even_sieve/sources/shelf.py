"""What of a table does not go into the memory that is granted stands on disk.

An array on disk is a file without a name, mapped into memory: NumPy works on it as on any other,
the system brings in what is looked at, and it is gone with the last who holds it.
"""

import errno
import mmap
import os
import re
import tempfile
from collections.abc import Iterable
from threading import Lock
from typing import Any
from weakref import WeakSet

import numpy as np
from numpy.typing import NDArray

from even_sieve.core.errors import CallError, MemoryShort
from even_sieve.core.table.arrays import keep_in

#: An array may take so much of the memory that is granted; beyond that it stands on disk.
_SHARE = 32
#: What is kept of a file as it stands takes at most so small a part of that.
_TIMES_KEPT = 8
#: With less the work cannot be done.
LEAST = 64 << 20
#: What is taken to be free where the system does not tell.
_UNKNOWN = 4 << 30
_MEMINFO = "/proc/meminfo"
_SIZE = re.compile(r"\s*(\d{1,6}(?:\.\d{1,3})?)\s*(KiB|MiB|GiB|TiB)\s*", re.ASCII)
_UNITS = {"KiB": 10, "MiB": 20, "GiB": 30, "TiB": 40}


class Shelf:
    """Keeps arrays in memory, and on disk those that would take too much of it."""

    def __init__(self, granted: int) -> None:
        self.granted = granted
        self._maps: WeakSet[mmap.mmap] = WeakSet()
        self._lock = Lock()

    def zeros(self, length: int, dtype: np.dtype[Any]) -> NDArray[Any]:
        """Return zeros, shape (length,). Raises `MemoryShort` where the disk has no room."""
        size = length * dtype.itemsize
        if size * _SHARE <= self.granted:
            return np.zeros(length, dtype=dtype)
        found = _mapped(size)
        with self._lock:
            self._maps.add(found)
        return np.frombuffer(found, dtype=dtype)

    @property
    def on_disk(self) -> int:
        """How many bytes stand on disk."""
        with self._lock:
            return sum(map(len, self._maps))

    def let_go(self) -> None:
        """Give back the memory in which arrays on disk were looked at; they stay as they are."""
        with self._lock:
            maps = list(self._maps)
        for each in maps:
            each.madvise(mmap.MADV_DONTNEED)


def _mapped(size: int) -> mmap.mmap:
    """Return a file without a name, mapped; its room on disk is taken at once."""
    try:
        with tempfile.TemporaryFile() as file:
            # Room that is lacking later would end the process.
            os.posix_fallocate(file.fileno(), 0, size)
            return mmap.mmap(file.fileno(), size)
    except OSError as error:
        if error.errno not in (errno.ENOSPC, errno.EDQUOT, errno.EFBIG, errno.ENOMEM):
            raise
        fact = f"there is no room on disk for {size:,} bytes of a table longer than memory"
        raise MemoryShort(fact, "Make room, or name another folder in TMPDIR") from error


def grant(words: str | None = None) -> int:
    """Have tables take so much memory at the most: `2GiB`; half of what is free if nothing is said.

    Returns the number of bytes. Raises `CallError` for other words, `MemoryShort` for too few.

    >>> grant("2GiB")
    2147483648
    """
    size = max(_free() // 2, LEAST) if words is None else bytes_of(words)
    if size < LEAST:
        fact = f"memory: {str(words).strip()} is too little to work in"
        raise MemoryShort(fact, f"Grant at least {LEAST >> 20}MiB")
    _Granted.shelf = Shelf(size)
    keep_in(_Granted.shelf)
    return size


class _Granted:
    """What was granted last."""

    shelf: Shelf | None = None


def granted() -> int:
    """Return how many bytes of memory tables may take."""
    return grant() if _Granted.shelf is None else _Granted.shelf.granted


def go_in(sizes: Iterable[int]) -> bool:
    """Tell whether what so many bytes of files hold can be kept as it is, beside what is made."""
    return sum(sizes) * _TIMES_KEPT <= granted()


def on_disk() -> int:
    """Return how many bytes of tables stand on disk."""
    return 0 if _Granted.shelf is None else _Granted.shelf.on_disk


def bytes_of(words: str) -> int:
    """Return a size in words as bytes. Raises `CallError`."""
    found = _SIZE.fullmatch(words)
    if found is None:
        raise CallError(f"memory: '{words}' is no size\nWrite for example: 2GiB, 500MiB")
    return int(float(found[1]) * (1 << _UNITS[found[2]]))


def _free() -> int:
    """Return how many bytes of memory are free, as far as the system tells."""
    try:
        with open(_MEMINFO, encoding="ascii") as facts:
            free = next(line for line in facts if line.startswith("MemAvailable:"))
        return int(free.split()[1]) << 10
    except (OSError, ValueError, StopIteration):
        return _UNKNOWN
