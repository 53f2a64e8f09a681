"""Criteria bound to a table: probes to evaluate, and notices on what cannot match."""

from collections.abc import Iterable
from dataclasses import dataclass, field

import numpy as np

from even_sieve.core.cells import Kind, fold
from even_sieve.core.criteria.coercion import holding, nearest_reading, of_kind, suited
from even_sieve.core.criteria.column_comparison import PAIRS
from even_sieve.core.criteria.lists import ValueList, code_probe, text_span
from even_sieve.core.criteria.nodes import (
    And,
    Compared,
    Condition,
    Criteria,
    Holds,
    OneOf,
    Or,
)
from even_sieve.core.criteria.notes import Remark, Remarks
from even_sieve.core.criteria.operands import (
    Number,
    Operand,
    OtherColumn,
    Period,
    Text,
    Window,
    WindowEnd,
)
from even_sieve.core.criteria.probes import (
    Constant,
    Opposite,
    Probe,
    all_probes,
    any_probe,
    blocks,
)
from even_sieve.core.criteria.stored_range import ordered_span, probe_of
from even_sieve.core.criteria.writing import write_condition
from even_sieve.core.errors import CallError, UnknownColumn
from even_sieve.core.notices import Notice
from even_sieve.core.table import Column, Table
from even_sieve.core.table.lanes import (
    Array,
    DateLane,
    FixedLane,
    FloatLane,
    TextLane,
)

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
        return tuple(remark.notice(condition) for remark in self._noted.get(condition, ()))

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
        probe = self._test(column, condition)
        self._noted[condition] = self.remarks.end()
        return probe

    def _column(self, name: str, condition: Condition) -> Column:
        try:
            return self.table.column(name)
        except UnknownColumn as error:
            at = f", position {condition.position}" if condition.position else ""
            raise error.at(f"criteria '{write_condition(condition)}'{at}") from None

    def _test(self, column: Column, condition: Condition) -> Probe:
        test = condition.test
        if isinstance(test, Holds):
            return holding(column, test.what)
        if isinstance(test, OneOf):
            return self._one_of(column, condition, test.values)
        if not isinstance(test, Compared):
            raise TypeError(f"'{write_condition(condition)}' was not prepared")
        if isinstance(test.value, OtherColumn):
            other = self._column(test.value.name, condition)
            return self._pairwise(column, other, test.order.value)
        return self._compared(column, condition, test)

    def _one_of(self, column: Column, condition: Condition, values: Iterable[Operand]) -> Probe:
        """Return the probe that asks for any of the values, grouped by the lane they need."""
        chosen = ValueList(column, self.remarks)
        probes: list[Probe] = []
        for value in values:
            if isinstance(value, OtherColumn):
                other = self._column(value.name, condition)
                probes.append(self._pairwise(column, other, "="))
            elif isinstance(value, Window):
                ends = [self._end(end, column, condition) for end in (value.low, value.high)]
                chosen.add(Window(*ends))
            else:
                chosen.add(self._suited(value, column, condition))
        return any_probe((*chosen.probes(), *probes))

    def _compared(self, column: Column, condition: Condition, test: Compared) -> Probe:
        value, order = self._suited(test.value, column, condition), test.order
        if isinstance(value, Text) and value.bare:
            self._refuse_unordered(column, condition, value)
        if isinstance(value, Number | Period):
            kind = Kind.NUMBER if isinstance(value, Number) else Kind.DATE
            lane = column.lanes.get(kind)
            if isinstance(lane, FixedLane | FloatLane | DateLane):
                self.remarks.text_beside(kind)
                return of_kind(column, kind, probe_of(lane, ordered_span(lane, order, value)))
            self.remarks.wrong_kind(kind, value)
            return Constant(False)
        if isinstance(value, Text):
            lane = column.lanes.get(Kind.TEXT)
            if isinstance(lane, TextLane):
                if value.bare:
                    self.remarks.as_text(value)
                span = text_span(lane, order, fold(value.text))
                return of_kind(column, Kind.TEXT, code_probe(lane, *span))
        self.remarks.wrong_kind(Kind.TEXT, value)
        return Constant(False)

    def _end(self, end: WindowEnd, column: Column, condition: Condition) -> WindowEnd:
        """Return an end of a window as the column takes it."""
        if not isinstance(end, Number | Text):
            return end
        value = self._suited(end, column, condition)
        if isinstance(value, Text):
            self._refuse_unordered(column, condition, value, certainly=True)
        return end if isinstance(value, Text) else value  # type: ignore[return-value]

    def _suited(self, value: Operand, column: Column, condition: Condition) -> Operand:
        """Return the value as the column takes it; a remark is made where it could mean two."""
        found = suited(value, column)
        if isinstance(value, Number) and isinstance(found, Number) and value != found:
            self.remarks.read_two_ways(value, found)
        return found

    def _refuse_unordered(
        self, column: Column, condition: Condition, value: Text, *, certainly: bool = False
    ) -> None:
        """Raise `CallError` for an order to a text where a column holds numbers or dates."""
        counts = column.counts
        ordered = counts.get(Kind.NUMBER, 0) + counts.get(Kind.DATE, 0)
        if certainly or (ordered and ordered >= counts.get(Kind.TEXT, 0)):
            at = f", position {condition.position}" if condition.position else ""
            raise CallError(
                f"criteria '{write_condition(condition)}'{at}: '{value.text}' is no number and no "
                f"date, and column '{column.name}' holds {column.words}\n"
                f"{nearest_reading(value, column)}"
            )

    def _pairwise(self, column: Column, other: Column, comparison: str) -> Probe:
        """Return the probe that compares two columns, for each kind that both hold."""
        probes: list[Probe] = []
        for kind in (Kind.NUMBER, Kind.DATE, Kind.TEXT, Kind.YES_NO):
            left, right = column.lanes.get(kind), other.lanes.get(kind)
            if left is not None and right is not None:
                pair = PAIRS[kind](comparison, left, right)
                probes.append(of_kind(other, kind, of_kind(column, kind, pair)))
        if not probes:
            self.remarks.no_common_kind(other)
        return any_probe(tuple(probes))


def mask_of(table: Table, criteria: Criteria, binder: Binder | None = None) -> Array:
    """Return for which rows of the table prepared criteria hold, bool, shape (rows,)."""
    binder = binder or Binder(table)
    probe = binder.probe(criteria)
    found = np.zeros(table.length, dtype=bool)
    for block in blocks(0, table.length, _BLOCK, binder.shared):
        found[block.start : block.stop] = block.mask(probe)
    return found
