"""Criteria bound to a table: probes to evaluate, and notices on what cannot match."""

from dataclasses import dataclass, field, replace
from functools import partial

import numpy as np

from even_sieve.core.criteria.asked_column import AskedColumn
from even_sieve.core.criteria.blocks import Probe, blocks
from even_sieve.core.criteria.nodes import And, Condition, Criteria, Or
from even_sieve.core.criteria.notes import LONGEST_WORDS, Remark, Remarks
from even_sieve.core.criteria.probes import Opposite, all_probes, any_probe
from even_sieve.core.criteria.writing import write_condition
from even_sieve.core.errors import UnknownColumn
from even_sieve.core.notices import Code, Notice
from even_sieve.core.table import Column, Table
from even_sieve.core.table.lanes import Array

_BLOCK = 1 << 16


@dataclass
class Binder:
    """Binds prepared criteria to one table; equal conditions become one and the same probe.

    `shared` holds the ids of the probes that stand in more than one place.
    """

    table: Table
    remarks: Remarks = field(default_factory=Remarks)
    shared: set[int] = field(default_factory=set)
    _probes: dict[Criteria, Probe] = field(default_factory=dict)
    _noted: dict[Condition, tuple[Remark, ...]] = field(default_factory=dict)

    def probe(self, criteria: Criteria) -> Probe:
        """Return the probe of the criteria. Raises `UnknownColumn` with its place."""
        found = self._probes.get(criteria)
        if found is None:
            found = self._probes[criteria] = self._bind(criteria)
        else:
            self.shared.add(id(found))
        return found

    def notices(self, condition: Condition) -> tuple[Notice, ...]:
        """Return what is to be known of a condition that was bound."""
        remarks = self._noted.get(condition, ())
        begun = replace(condition, test=condition.test.beginning(LONGEST_WORDS))
        words = write_condition(begun) if remarks else ""
        return tuple(remark.notice(condition, words) for remark in remarks)

    def codes(self, condition: Condition) -> set[Code]:
        """Return the codes of the notices on a condition that was bound."""
        return {remark.code for remark in self._noted.get(condition, ())}

    def _bind(self, criteria: Criteria) -> Probe:
        if isinstance(criteria, Condition):
            return self._condition(criteria)
        if isinstance(criteria, And):
            return all_probes(tuple(map(self.probe, criteria.parts)))
        if isinstance(criteria, Or):
            return any_probe(tuple(map(self.probe, criteria.parts)))
        return Opposite(self.probe(criteria.part))

    def _condition(self, condition: Condition) -> Probe:
        if condition.negated:
            bare = Condition(condition.column, condition.test, False, condition.position)
            probe: Probe = Opposite(self.probe(bare))
            self._noted[condition] = self._noted.get(bare, ())
            return probe
        column = self._column(condition.column, condition)
        self.remarks.begin(column)
        named = partial(self._column, condition=condition)
        asked = AskedColumn(column, self.remarks, partial(_place, condition), named)
        probe = condition.test.bind(asked)
        self._noted[condition] = self.remarks.end()
        return probe

    def _column(self, name: str, condition: Condition) -> Column:
        try:
            return self.table.column(name)
        except UnknownColumn as error:
            raise error.at(_place(condition)) from None


def _place(condition: Condition) -> str:
    at = f", position {condition.position}" if condition.position else ""
    return f"criteria '{write_condition(condition)}'{at}"


def mask_of(table: Table, criteria: Criteria, binder: Binder | None = None) -> Array:
    """Return for which rows of the table prepared criteria hold, bool, shape (rows,)."""
    binder = binder or Binder(table)
    probe = binder.probe(criteria)
    found = np.zeros(table.length, dtype=bool)
    for block in blocks(0, table.length, _BLOCK, binder.shared):
        found[block.start : block.stop] = block.mask(probe)
    return found
