"""Probes: conditions bound to the arrays of one table.

Evaluating one is a pure function from a block of rows to a boolean array. A probe is
made once and evaluated block by block; probes that criteria share are evaluated once a
block.
"""

import operator
from collections.abc import Callable, Iterable
from dataclasses import dataclass

import numpy as np

from even_sieve.core.cells import Kind
from even_sieve.core.criteria.blocks import Block, Probe
from even_sieve.core.table import Column
from even_sieve.core.table.lanes import Array

_LOOK = 256


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
            above = np.greater_equal(here, self.low, out=block.spare())
            np.logical_and(mask, above, out=mask)
            block.give_back(above)
        return mask

    def _within_integers(self, here: Array, block: Block, mask: Array) -> None:
        """Compare once instead of twice: below `low` the unsigned difference wraps round."""
        unsigned = np.dtype(f"u{here.dtype.itemsize}")
        first = np.asarray(self.low).view(unsigned)
        above = np.subtract(here.view(unsigned), first, out=block.spare(unsigned))
        np.less_equal(above, np.asarray(self.high).view(unsigned) - first, out=mask)
        block.give_back(above)


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
        mask = block.own_mask(self.probes[0])
        for probe in self.probes[1:]:
            if is_empty(mask):
                break
            block.join(mask, np.logical_and, probe)
        return mask


@dataclass(frozen=True, eq=False)
class AnyOf:
    """At least one probe holds."""

    probes: tuple[Probe, ...]

    def evaluate(self, block: Block) -> Array:
        """Return where any holds."""
        mask = block.own_mask(self.probes[0])
        for probe in self.probes[1:]:
            block.join(mask, np.logical_or, probe)
        return mask


@dataclass(frozen=True, eq=False)
class Opposite:
    """Exactly the rows for which the probe does not hold."""

    probe: Probe

    def evaluate(self, block: Block) -> Array:
        """Return where the probe does not hold."""
        mask = block.own_mask(self.probe)
        return np.logical_not(mask, out=mask)


def parts_of(probes: Iterable[Probe]) -> tuple[dict[int, Probe], set[int]]:
    """Return these probes and all that they are made of, by id, and the ids of those met again."""
    found: dict[int, Probe] = {}
    again: set[int] = set()
    waiting = list(probes)
    while waiting:
        probe = waiting.pop()
        if id(probe) in found:
            again.add(id(probe))
            continue
        found[id(probe)] = probe
        if isinstance(probe, AllOf | AnyOf):
            waiting += probe.probes
        elif isinstance(probe, Opposite):
            waiting.append(probe.probe)
    return found, again


def tables_of(probes: Iterable[Probe]) -> list[Array]:
    """Return the arrays that probes look values up in: they are of no row."""
    every = parts_of(probes)[0].values()
    listed = [probe.table for probe in every if isinstance(probe, Listed)]
    return listed + [probe.members for probe in every if isinstance(probe, Among)]


def is_empty(mask: Array) -> bool:
    """Tell whether no row holds. A few rows are looked at first.

    They are too few for NumPy to hand the interpreter over to another thread, which costs
    more than the look.
    """
    return not mask[:: max(len(mask) // _LOOK, 1)].any() and not mask.any()


def all_probes(probes: tuple[Probe, ...]) -> Probe:
    """Return one probe that asks all of them; without any, one that always holds."""
    return probes[0] if len(probes) == 1 else AllOf(probes) if probes else Constant(True)


def any_probe(probes: tuple[Probe, ...]) -> Probe:
    """Return one probe that asks any of them; without any, one that never holds."""
    return probes[0] if len(probes) == 1 else AnyOf(probes) if probes else Constant(False)


def of_kind(column: Column, kind: Kind, probe: Probe) -> Probe:
    """Return the probe restricted to the rows whose cell is of the kind."""
    if column.states is None or (isinstance(probe, Constant) and not probe.holds):
        return probe
    return AllOf((probe, Between(column.states, np.uint8(kind), np.uint8(kind))))


def kind_probe(column: Column, kind: Kind) -> Probe:
    """Return the probe for the rows whose cell is of the kind."""
    if column.states is None:
        return Constant(kind in column.lanes)
    return Between(column.states, np.uint8(kind), np.uint8(kind))
