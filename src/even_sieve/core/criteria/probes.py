"""Probes: conditions bound to the arrays of one table.

Evaluating one is a pure function from a block of rows to a boolean array. A probe is
made once and evaluated block by block; probes that criteria share are evaluated once a
block.
"""

import operator
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any, Protocol

import numpy as np

from even_sieve.core.table.lanes import Array

_BOOL = np.dtype(bool)


class Block:
    """The rows from `start` up to `stop`, and the masks already worked out for them.

    Masks and scratch space are taken from buffers that the next block uses again: memory
    that is fresh for every block costs more than the comparisons.
    """

    def __init__(self, start: int, stop: int) -> None:
        self.start, self.stop = start, stop
        self._masks: dict[int, Array] = {}
        self._buffers: dict[np.dtype[Any], list[Array]] = {}
        self._used: dict[np.dtype[Any], int] = {}

    def __len__(self) -> int:
        return self.stop - self.start

    def move(self, start: int, stop: int) -> None:
        """Go on to other rows; every mask handed out before is void."""
        self.start, self.stop = start, stop
        self._masks.clear()
        self._used.clear()

    def mask(self, probe: "Probe") -> Array:
        """Return the probe's mask on this block, bool, shape (rows,). Not to be changed."""
        found = self._masks.get(id(probe))
        if found is None:
            found = self._masks[id(probe)] = probe.evaluate(self)
        return found

    def spare(self, kind: np.dtype[Any] = _BOOL) -> Array:
        """Return an array to write on, shape (rows,), that is void once the block moves on."""
        buffers = self._buffers.setdefault(kind, [])
        used = self._used.get(kind, 0)
        if used == len(buffers) or len(buffers[used]) < len(self):
            buffers[used:] = [np.empty(len(self), dtype=kind)]
        self._used[kind] = used + 1
        return buffers[used][: len(self)]


def blocks(start: int, stop: int, size: int) -> Iterator[Block]:
    """Yield one block that moves over the rows from `start` up to `stop`, `size` at a time."""
    block = Block(start, start)
    for first in range(start, stop, size):
        block.move(first, min(first + size, stop))
        yield block


class Probe(Protocol):
    """What can be asked of a block of rows."""

    def evaluate(self, block: Block) -> Array:
        """Return which rows of the block it holds for, bool, shape (rows,)."""


@dataclass(frozen=True, eq=False)
class Constant:
    """The same for every row."""

    holds: bool

    def evaluate(self, block: Block) -> Array:
        """Return all True or all False."""
        mask = block.spare()
        mask[:] = self.holds
        return mask


@dataclass(frozen=True, eq=False)
class Between:
    """Stored values from `low` to `high`, both included; None is an open end.

    The ends are of the array's own type, so that NumPy converts nothing.
    """

    values: Array
    low: np.generic | None
    high: np.generic | None

    def evaluate(self, block: Block) -> Array:
        """Return which stored values lie between the ends."""
        here = self.values[block.start : block.stop]
        mask = block.spare()
        if self.high is None:
            np.greater_equal(here, np.asarray(self.low), out=mask)
        elif self.low is None:
            np.less_equal(here, self.high, out=mask)
        elif self.low == self.high:
            np.equal(here, self.low, out=mask)
        elif here.dtype.kind in "iu":
            self._within_integers(here, block, mask)
        else:
            np.less_equal(here, self.high, out=mask)
            mask &= np.greater_equal(here, self.low, out=block.spare())
        return mask

    def _within_integers(self, here: Array, block: Block, mask: Array) -> None:
        """Compare once instead of twice: below `low` the unsigned difference wraps round."""
        unsigned = np.dtype(f"u{here.dtype.itemsize}")
        first = np.asarray(self.low).view(unsigned)
        above = np.subtract(here.view(unsigned), first, out=block.spare(unsigned))
        np.less_equal(above, np.asarray(self.high).view(unsigned) - first, out=mask)


@dataclass(frozen=True, eq=False)
class Listed:
    """Codes whose entry in `table` (bool, shape (codes,)) is True."""

    codes: Array
    table: Array

    def evaluate(self, block: Block) -> Array:
        """Return the table's entry for each code."""
        return self.table.take(self.codes[block.start : block.stop], out=block.spare(), mode="clip")


@dataclass(frozen=True, eq=False)
class Among:
    """Stored values that are among `members` (sorted, of the array's own type)."""

    values: Array
    members: Array

    def evaluate(self, block: Block) -> Array:
        """Return which stored values are members."""
        here = self.values[block.start : block.stop]
        place = np.searchsorted(self.members, here)
        np.minimum(place, len(self.members) - 1, out=place)
        found: Array = np.equal(self.members[place], here)
        return found


@dataclass(frozen=True, eq=False)
class Side:
    """One side of a comparison of two columns: its stored values brought to a common scale."""

    values: Array
    convert: Callable[[Array], Array]

    def block(self, block: Block) -> Array:
        """Return the converted values of the block."""
        return self.convert(self.values[block.start : block.stop])


_COMPARISONS: dict[str, Callable[[Array, Array, Array], Array]] = {
    "=": lambda cell, first, last: (cell >= first) & (cell <= last),
    "<": lambda cell, first, last: operator.lt(cell, first),
    "<=": lambda cell, first, last: operator.le(cell, last),
    ">": lambda cell, first, last: operator.gt(cell, last),
    ">=": lambda cell, first, last: operator.ge(cell, first),
}


@dataclass(frozen=True, eq=False)
class Pairwise:
    """The cell of one column against that of another in the same row.

    The other cell stands for everything from itself to `width` above: a day without a
    time is a whole day wide, all else is 0 wide.
    """

    comparison: str
    left: Side
    right: Side
    width: int = 0

    def evaluate(self, block: Block) -> Array:
        """Return for which rows the comparison holds."""
        first = self.right.block(block)
        last = first + self.width if self.width else first
        return _COMPARISONS[self.comparison](self.left.block(block), first, last)


@dataclass(frozen=True, eq=False)
class AllOf:
    """All probes hold."""

    probes: tuple[Probe, ...]

    def evaluate(self, block: Block) -> Array:
        """Return where all hold; what is left to ask is not asked once nothing holds."""
        mask = block.mask(self.probes[0])
        for probe in self.probes[1:]:
            if not mask.any():
                break
            mask = np.logical_and(mask, block.mask(probe), out=block.spare())
        return mask


@dataclass(frozen=True, eq=False)
class AnyOf:
    """At least one probe holds."""

    probes: tuple[Probe, ...]

    def evaluate(self, block: Block) -> Array:
        """Return where any holds."""
        mask = block.mask(self.probes[0])
        for probe in self.probes[1:]:
            mask = np.logical_or(mask, block.mask(probe), out=block.spare())
        return mask


@dataclass(frozen=True, eq=False)
class Opposite:
    """Exactly the rows for which the probe does not hold."""

    probe: Probe

    def evaluate(self, block: Block) -> Array:
        """Return where the probe does not hold."""
        return np.logical_not(block.mask(self.probe), out=block.spare())


def all_probes(probes: tuple[Probe, ...]) -> Probe:
    """Return one probe that asks all of them; without any, one that always holds."""
    return probes[0] if len(probes) == 1 else AllOf(probes) if probes else Constant(True)


def any_probe(probes: tuple[Probe, ...]) -> Probe:
    """Return one probe that asks any of them; without any, one that never holds."""
    return probes[0] if len(probes) == 1 else AnyOf(probes) if probes else Constant(False)
