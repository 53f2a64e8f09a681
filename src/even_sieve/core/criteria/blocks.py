"""Blocks of rows, and what can be asked of one; masks that are shared are worked out once."""

from collections.abc import Iterator, Set
from typing import Any, Protocol

import numpy as np

from even_sieve.core.table.lanes import Array

_BOOL = np.dtype(bool)


class Probe(Protocol):
    """What can be asked of a block of rows."""

    def evaluate(self, block: "Block") -> Array:
        """Return which rows of the block it holds for, bool, shape (rows,)."""


class Block:
    """The rows from `start` up to `stop`, and the masks already worked out for them.

    The masks of `shared` probes (by id) are worked out once and kept; others are given
    back by whoever asked for them. All arrays come from buffers that are used again:
    memory that is fresh for every block costs more than the comparisons.
    """

    def __init__(self, start: int, stop: int, shared: Set[int] = frozenset()) -> None:
        self.start, self.stop, self._shared = start, stop, shared
        self._masks: dict[int, Array] = {}
        self._free: dict[np.dtype[Any], list[Array]] = {}

    def __len__(self) -> int:
        return self.stop - self.start

    def move(self, start: int, stop: int) -> None:
        """Go on to other rows; every mask handed out before is void."""
        self.start, self.stop = start, stop
        for mask in self._masks.values():
            self.give_back(mask)
        self._masks.clear()

    def mask(self, probe: "Probe") -> Array:
        """Return the probe's mask on this block, bool, shape (rows,). Not to be changed."""
        found = self._masks.get(id(probe))
        if found is None:
            found = probe.evaluate(self)
            if id(probe) in self._shared:
                self._masks[id(probe)] = found
        return found

    def own_mask(self, probe: "Probe") -> Array:
        """Return the probe's mask as an array that may be changed."""
        mask = self.mask(probe)
        if id(probe) not in self._shared:
            return mask
        copy = self.spare()
        copy[:] = mask
        return copy

    def join(self, mask: Array, joint: np.ufunc, probe: "Probe") -> None:
        """Join the probe's mask into `mask` by logical and, or logical or."""
        other = self.mask(probe)
        joint(mask, other, out=mask)
        if id(probe) not in self._shared:
            self.give_back(other)

    def spare(self, kind: np.dtype[Any] = _BOOL) -> Array:
        """Return an array to write on, shape (rows,)."""
        free = self._free.setdefault(kind, [])
        if free and len(free[-1]) >= len(self):
            return free.pop()[: len(self)]
        return np.empty(len(self), dtype=kind)

    def give_back(self, array: Array) -> None:
        """Take an array from `spare` back, to be handed out again."""
        whole = array if array.base is None else array.base
        if isinstance(whole, np.ndarray):
            self._free.setdefault(whole.dtype, []).append(whole)


def blocks(start: int, stop: int, size: int, shared: Set[int] = frozenset()) -> Iterator[Block]:
    """Yield one block that moves over the rows from `start` up to `stop`, `size` at a time."""
    block = Block(start, start, shared)
    for first in range(start, stop, size):
        block.move(first, min(first + size, stop))
        yield block
