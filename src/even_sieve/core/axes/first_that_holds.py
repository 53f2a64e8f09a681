"""Which of several criteria holds first for each row, wherever the rows stand."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any

from even_sieve.core.criteria import Binder, Criteria, Probe, blocks
from even_sieve.core.criteria.nodes import conditions
from even_sieve.core.criteria.probes import parts_of, tables_of
from even_sieve.core.notices import Notice, each_once
from even_sieve.core.table import Table
from even_sieve.core.table.arrays import full
from even_sieve.core.table.far_arrays import FarArray, worked_out
from even_sieve.core.table.lanes import Array, narrowest

_BLOCK = 1 << 16


@dataclass(frozen=True, eq=False)
class FirstThatHolds:
    """For each row the position of the first prepared test that holds, or their number.

    `notices` tell what is to be known of the tests.
    """

    probes: Sequence[Probe]
    notices: tuple[Notice, ...] = ()

    @classmethod
    def of(cls, table: Table, tests: Sequence[Criteria]) -> "FirstThatHolds":
        """Return what finds them in a table. Raises `UnknownColumn`."""
        binder = Binder(table)
        probes = [binder.probe(test) for test in tests]
        every = dict.fromkeys(each for test in tests for each in conditions(test))
        return cls(probes, each_once([note for each in every for note in binder.notices(each)]))

    @property
    def tables(self) -> list[Array]:
        """The arrays that values are looked up in: they are of no row."""
        return tables_of(self.probes)

    def codes(self, length: int) -> Array:
        """Return the positions of all rows of the table, of far rows where these are."""
        far: list[Any] = [each for each in _arrays_of(self.probes) if isinstance(each, FarArray)]
        if not far:
            return self(length)
        return worked_out(self._of_all, narrowest(len(self.probes) + 1), *far)

    def _of_all(self, *arrays: Array) -> Array:
        return self(len(arrays[0]))

    def __call__(self, length: int) -> Array:
        """Return the positions of the rows that are there, whole numbers, shape (length,)."""
        shared = parts_of(self.probes)[1]
        codes = full(length, len(self.probes), narrowest(len(self.probes) + 1))
        for block in blocks(0, length, _BLOCK, shared):
            own = codes[block.start : block.stop]
            for position in reversed(range(len(self.probes))):
                own[block.mask(self.probes[position])] = position
        return codes


def _arrays_of(probes: Sequence[Probe]) -> Iterator[object]:
    """Yield what probes, and the sides of comparisons, are made of."""
    for probe in parts_of(probes)[0].values():
        for part in vars(probe).values():
            yield from (part, getattr(part, "values", None))
