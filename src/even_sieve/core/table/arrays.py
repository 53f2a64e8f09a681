"""Arrays as long as a table: in memory, or wherever a store that was named puts them."""

from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from functools import cache, partial
from typing import Any, Protocol

import numpy as np
from numpy.typing import DTypeLike, NDArray

from even_sieve.core.table.far_arrays import worked_out

#: Rows that are looked at together.
BLOCK = 1 << 18
#: So small a part of the memory granted is taken by what is gathered at once.
_PART = 4


class Store(Protocol):
    """Where long arrays are kept."""

    @property
    def granted(self) -> int | None:
        """How many bytes of memory may be taken; None where that is not bounded."""

    def zeros(self, length: int, dtype: np.dtype[Any]) -> NDArray[Any]:
        """Return zeros, shape (length,), to be written on."""

    def let_go(self) -> None:
        """Give back the memory in which arrays were looked at; they stay as they are."""


class InMemory:
    """Arrays as NumPy makes them."""

    granted: int | None = None

    def zeros(self, length: int, dtype: np.dtype[Any]) -> NDArray[Any]:
        """Return zeros, shape (length,)."""
        return np.zeros(length, dtype=dtype)

    def let_go(self) -> None:
        """Do nothing: memory is all there is."""


#: What the one who asked may take, where that is said.
_SAID: ContextVar[tuple[int | None] | None] = ContextVar("said", default=None)


class _Chosen:
    """The store of the process."""

    store: Store = InMemory()


def keep_in(store: Store) -> None:
    """Have long arrays kept in a store from now on."""
    _Chosen.store = store


def zeros(length: int, dtype: DTypeLike) -> NDArray[Any]:
    """Return zeros, shape (length,), to be written on. Raises `MemoryShort` without room."""
    return _Chosen.store.zeros(length, np.dtype(dtype))


def room() -> int | None:
    """Return how many bytes of memory may be taken; None where that is not bounded."""
    said = _SAID.get()
    return _Chosen.store.granted if said is None else said[0]


def room_for(each: int, least: int, most: int) -> int:
    """Return how many things of so many bytes each go into a part of the room, within two bounds.

    >>> with as_if_granted(1 << 30):
    ...     room_for(1 << 10, 1, 1 << 20), room_for(1, 1, 9), room_for(1 << 30, 7, 9)
    (262144, 9, 7)
    """
    granted = room()
    return max(most if granted is None else min(granted // _PART // each, most), least)


@contextmanager
def as_if_granted(granted: int | None) -> Iterator[None]:
    """Have so much room, whatever this process has: what several of them gather must fit.

    >>> with as_if_granted(1 << 30):
    ...     room() == 1 << 30
    True
    """
    token = _SAID.set((granted,))
    try:
        yield
    finally:
        _SAID.reset(token)


def full(length: int, value: Any, dtype: DTypeLike) -> NDArray[Any]:
    """Return an array of one value, shape (length,)."""
    found = zeros(length, dtype)
    if value:
        for rows in spans(length):
            found[rows] = value
    return found


def spans(length: int, size: int = BLOCK, start: int = 0) -> Iterator[slice]:
    """Yield the rows in stretches; what was looked at in one is let go before the next."""
    for first in range(start, length, size):
        yield slice(first, min(first + size, length))
        if length > size:
            _Chosen.store.let_go()


def widened(values: NDArray[Any], dtype: np.dtype[Any], end: int) -> NDArray[Any]:
    """Return the values as a wider type; those from `end` on are zeros still."""
    wide = zeros(len(values), dtype)
    for rows in spans(end):
        wide[rows] = values[rows]
    return wide


@cache
def keep_memory() -> None:
    """Give one large array back, so that the C library keeps what is freed between blocks.

    After that glibc serves arrays up to this size from memory that it holds on to; else it
    hands the pages of every block back to the system, and getting them again takes as long
    as the arithmetic. Nothing is written to the array, so it never takes up memory.
    """
    np.empty(31 << 20, dtype=np.uint8)


def let_go() -> None:
    """Give back the memory in which arrays were looked at."""
    _Chosen.store.let_go()


def pick(values: NDArray[Any], codes: NDArray[Any]) -> NDArray[Any]:
    """Return `values[codes]` a block at a time: NumPy widens all codes that it indexes by."""
    return worked_out(partial(_pick, values), values.dtype, codes)


def _pick(values: NDArray[Any], codes: NDArray[Any]) -> NDArray[Any]:
    out = zeros(len(codes), values.dtype)
    for rows in spans(len(codes)):
        np.take(values, codes[rows], out=out[rows], mode="clip")
    return out


def places_of(values: NDArray[Any]) -> NDArray[Any]:
    """Return where values are not zero, as whole numbers of 32 bits where these do."""
    count = sum(int(np.count_nonzero(values[rows])) for rows in spans(len(values)))
    found = zeros(count, np.int32 if len(values) < 1 << 31 else np.int64)
    end = 0
    for rows in spans(len(values)):
        own = np.flatnonzero(values[rows])
        found[end : end + len(own)] = own + rows.start
        end += len(own)
    return found


def picked(values: NDArray[Any], rows: NDArray[Any] | slice) -> NDArray[Any]:
    """Return `values[rows]`, of many rows in the store of the process."""
    if isinstance(rows, slice) or rows.dtype == np.bool_ or len(rows) <= BLOCK:
        return values[rows]
    return pick(values, rows)


def holds(values: NDArray[Any], value: Any) -> bool:
    """Tell whether a value is among others."""
    return any(bool((values[rows] == value).any()) for rows in spans(len(values)))


def ends_of(values: NDArray[Any]) -> tuple[Any, Any]:
    """Return the least and the largest value; 0 and 0 where there is none."""
    found = [(values[rows].min(), values[rows].max()) for rows in spans(len(values))]
    if not found:
        return 0, 0
    return min(low for low, _ in found).item(), max(high for _, high in found).item()
