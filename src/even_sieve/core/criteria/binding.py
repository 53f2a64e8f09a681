"""Criteria bound to a table: probes to evaluate, and notices on what cannot match."""

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, field
from functools import partial

import numpy as np

from even_sieve.core.cells import Kind, fold
from even_sieve.core.cells.dates import DAY
from even_sieve.core.criteria.nodes import (
    And,
    Compared,
    Condition,
    Criteria,
    Holding,
    Holds,
    OneOf,
    Or,
    Order,
)
from even_sieve.core.criteria.notes import Remark, Remarks
from even_sieve.core.criteria.operands import (
    Number,
    Operand,
    OtherColumn,
    Pattern,
    Period,
    Text,
    Wild,
    Window,
    YesNo,
)
from even_sieve.core.criteria.periods import read_year
from even_sieve.core.criteria.probes import (
    AllOf,
    Among,
    Between,
    Constant,
    Listed,
    Opposite,
    Pairwise,
    Probe,
    Side,
    all_probes,
    any_probe,
)
from even_sieve.core.criteria.spans import Ordered, Span, ordered_span, probe_of, span_of
from even_sieve.core.criteria.wildcards import matcher
from even_sieve.core.criteria.writing import write_condition
from even_sieve.core.errors import UnknownColumn
from even_sieve.core.notices import Notice
from even_sieve.core.table import Column, Table
from even_sieve.core.table.lanes import (
    Array,
    DateLane,
    FixedLane,
    FloatLane,
    Lane,
    TextLane,
    YesNoLane,
)

_FEW = 8
_KIND_OF = {
    Holding.BLANK: Kind.BLANK,
    Holding.FILLED: Kind.BLANK,
    Holding.ERROR: Kind.ERROR,
    Holding.NUMBER: Kind.NUMBER,
    Holding.TEXT: Kind.TEXT,
    Holding.DATE: Kind.DATE,
    Holding.YES_NO: Kind.YES_NO,
}


@dataclass
class Binder:
    """Binds prepared criteria to one table; equal conditions become one and the same probe."""

    table: Table
    remarks: Remarks = field(default_factory=Remarks)
    _probes: dict[Criteria, Probe] = field(default_factory=dict)
    _noted: dict[Condition, tuple[Remark, ...]] = field(default_factory=dict)

    def probe(self, criteria: Criteria) -> Probe:
        """Return the probe of the criteria. Raises `UnknownColumn` with its place."""
        found = self._probes.get(criteria)
        if found is None:
            found = self._probes[criteria] = self._bind(criteria)
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
            return _holding(column, test.what)
        if isinstance(test, OneOf):
            return self._one_of(column, condition, test.values)
        if isinstance(test.value, OtherColumn):
            other = self._column(test.value.name, condition)
            return self._pairwise(column, other, test.order.value)
        return self._compared(column, test)

    def _one_of(self, column: Column, condition: Condition, values: Iterable[Operand]) -> Probe:
        """Return the probe that asks for any of the values, grouped by the lane they need."""
        chosen = _Chosen(column, self.remarks)
        probes: list[Probe] = []
        for value in values:
            if isinstance(value, OtherColumn):
                other = self._column(value.name, condition)
                probes.append(self._pairwise(column, other, "="))
            else:
                chosen.add(value)
        return any_probe((*chosen.probes(), *probes))

    def _compared(self, column: Column, test: Compared) -> Probe:
        value, order = _suited(test.value, column), test.order
        if isinstance(value, Number | Period):
            kind = Kind.NUMBER if isinstance(value, Number) else Kind.DATE
            lane = column.lanes.get(kind)
            if isinstance(lane, FixedLane | FloatLane | DateLane):
                return _of_kind(column, kind, probe_of(lane, ordered_span(lane, order, value)))
            self.remarks.wrong_kind(kind, value)
            return Constant(False)
        if isinstance(value, Text):
            lane = column.lanes.get(Kind.TEXT)
            if isinstance(lane, TextLane):
                span = _text_span(lane, order, fold(value.text))
                return _of_kind(column, Kind.TEXT, _code_probe(lane, *span))
        self.remarks.wrong_kind(Kind.TEXT, value)
        return Constant(False)

    def _pairwise(self, column: Column, other: Column, comparison: str) -> Probe:
        """Return the probe that compares two columns, for each kind that both hold."""
        probes: list[Probe] = []
        for kind in (Kind.NUMBER, Kind.DATE, Kind.TEXT, Kind.YES_NO):
            left, right = column.lanes.get(kind), other.lanes.get(kind)
            if left is not None and right is not None:
                pair = _PAIRS[kind](comparison, left, right)
                probes.append(_of_kind(other, kind, _of_kind(column, kind, pair)))
        if not probes:
            self.remarks.no_common_kind(other)
        return any_probe(tuple(probes))


def _of_kind(column: Column, kind: Kind, probe: Probe) -> Probe:
    """Return the probe restricted to the rows whose cell is of the kind."""
    if column.states is None or (isinstance(probe, Constant) and not probe.holds):
        return probe
    return AllOf((probe, Between(column.states, np.uint8(kind), np.uint8(kind))))


def _holding(column: Column, what: Holding) -> Probe:
    kind = _KIND_OF[what]
    if column.states is None:
        probe: Probe = Constant(kind in column.lanes)
    else:
        probe = Between(column.states, np.uint8(kind), np.uint8(kind))
    return Opposite(probe) if what is Holding.FILLED else probe


def _suited(value: Operand, column: Column) -> Operand:
    """Return the value as this column takes it.

    A bare period is text to a column without dates, a bare yes is text to one without
    yes/no, and a bare year is the year to one that holds dates and no numbers.
    """
    holds = column.counts
    if isinstance(value, YesNo) and Kind.YES_NO not in holds:
        return Text(value.text)
    if isinstance(value, Period) and Kind.DATE not in holds and Kind.TEXT in holds:
        return Text(value.text)
    if isinstance(value, Number) and Kind.DATE in holds and Kind.NUMBER not in holds:
        return read_year(value.text) or value
    return value


class _Chosen:
    """The values of an alternative list, gathered a lane at a time."""

    def __init__(self, column: Column, remarks: Remarks) -> None:
        self.column, self.remarks = column, remarks
        self.spans: dict[Kind, list[Span]] = {}
        text = column.lanes.get(Kind.TEXT)
        self.text = text if isinstance(text, TextLane) else None
        self.codes = np.zeros(len(self.text.spellings) if self.text else 0, dtype=bool)
        self.yes_no: set[bool] = set()

    def add(self, value: Operand) -> None:
        """Add one value; a remark is made where it can match nothing."""
        value = _suited(value, self.column)
        if isinstance(value, Number):
            self.add_span(Kind.NUMBER, value, value)
        elif isinstance(value, Period):
            self.add_span(Kind.DATE, value, value)
        elif isinstance(value, Window):
            self.add_window(value)
        elif isinstance(value, Pattern):
            self.add_pattern(value)
        elif isinstance(value, YesNo):
            self.yes_no.add(value.value)
        elif isinstance(value, Text):
            self.add_text(value)

    def add_span(self, kind: Kind, low: Operand | None, high: Operand | None) -> None:
        lane = self.column.lanes.get(kind)
        known = low if low is not None else high
        if not isinstance(lane, FixedLane | FloatLane | DateLane):
            self.remarks.wrong_kind(kind, known)
            return
        first = span_of(lane, low).low if isinstance(low, Number | Period) else None
        last = span_of(lane, high).high if isinstance(high, Number | Period) else None
        self.spans.setdefault(kind, []).append(Span(first, last))

    def add_window(self, window: Window) -> None:
        low, high = _suited_end(window.low, self.column), _suited_end(window.high, self.column)
        kinds = {type(end) for end in (low, high) if end is not None}
        if len(kinds) == 1:
            if _reversed(low, high):
                self.remarks.reversed_window(window)
            kind = Kind.NUMBER if Number in kinds else Kind.DATE
            self.add_span(kind, low, high)
        else:
            self.remarks.mixed_window(window)

    def add_text(self, value: Text) -> None:
        if self.text is None:
            self.remarks.wrong_kind(Kind.TEXT, value)
            return
        low, high = self.text.range_of(fold(value.text))
        if low == high:
            self.remarks.not_held(value, self.text)
        self.codes[low:high] = True

    def add_pattern(self, pattern: Pattern) -> None:
        if self.text is None:
            self.remarks.wildcard_without_text(pattern)
            return
        found = pattern_codes(self.text, pattern)
        if not found.any():
            self.remarks.pattern_not_held(pattern)
        self.codes |= found

    def probes(self) -> tuple[Probe, ...]:
        """Return one probe a lane."""
        found: list[Probe] = []
        for kind, spans in self.spans.items():
            lane = self.column.lanes[kind]
            if isinstance(lane, FixedLane | FloatLane | DateLane):
                found.append(_of_kind(self.column, kind, _span_probe(lane, spans)))
        if self.text is not None and self.codes.any():
            found.append(_of_kind(self.column, Kind.TEXT, _table_probe(self.text, self.codes)))
        if self.yes_no:
            found.append(self.yes_no_probe())
        return tuple(found)

    def yes_no_probe(self) -> Probe:
        lane = self.column.lanes.get(Kind.YES_NO)
        if not isinstance(lane, YesNoLane):
            return Constant(False)
        if len(self.yes_no) == 2:
            return _holding(self.column, Holding.YES_NO)
        wanted = np.bool_(next(iter(self.yes_no)))
        return _of_kind(self.column, Kind.YES_NO, Between(lane.values, wanted, wanted))


def _suited_end(end: object, column: Column) -> Number | Period | None:
    suited = _suited(end, column) if isinstance(end, Number) else end
    return suited if isinstance(suited, Number | Period) else None


def _reversed(low: Number | Period | None, high: Number | Period | None) -> bool:
    if isinstance(low, Number) and isinstance(high, Number):
        return low.value > high.value
    return isinstance(low, Period) and isinstance(high, Period) and low.start >= high.end


def pattern_codes(lane: TextLane, pattern: Pattern) -> Array:
    """Return which codes match the pattern, bool, shape (spellings,): one test a value."""
    parts = [part for part in pattern.parts if isinstance(part, str | Wild)]
    found = np.zeros(len(lane.spellings), dtype=bool)
    match parts:
        case [str() as beginning, Wild.ANY_RUN]:
            low, high = lane.range_beginning(fold(beginning))
            found[low:high] = True
        case _:
            matches = matcher(parts)
            starts = lane.group_starts
            values = np.fromiter(
                (matches(lane.folded[start]) for start in starts), dtype=bool, count=len(starts)
            )
            found = values[lane.groups] if len(starts) else found
    return found


def _span_probe(lane: Ordered, spans: list[Span]) -> Probe:
    """Return the probe for any of the spans; many single values are looked up at once."""
    if len(spans) > _FEW and all(span.low == span.high for span in spans):
        probes = [probe_of(lane, span) for span in spans]
        members = [probe.low for probe in probes if isinstance(probe, Between)]
        if not members:
            return Constant(False)
        return Among(lane.values, np.unique(np.array(members, dtype=lane.values.dtype)))
    return any_probe(tuple(probe_of(lane, span) for span in spans))


def _code_probe(lane: TextLane, low: int, high: int) -> Probe:
    """Return the probe for the codes `low <= code < high`."""
    if low >= high:
        return Constant(False)
    kind = lane.codes.dtype.type
    first = None if low == 0 else kind(low)
    last = None if high == len(lane.spellings) else kind(high - 1)
    if first is None and last is None:
        return Constant(True)
    return Between(lane.codes, first, last)


def _table_probe(lane: TextLane, wanted: Array) -> Probe:
    """Return the probe for the codes that are True in `wanted`: a few ranges, or a look-up."""
    edges = np.flatnonzero(np.diff(np.concatenate(([False], wanted, [False])).astype(np.int8)))
    runs = list(zip(edges[::2].tolist(), edges[1::2].tolist(), strict=True))
    if len(runs) > _FEW // 2:
        return Listed(lane.codes, wanted)
    return any_probe(tuple(_code_probe(lane, low, high) for low, high in runs))


def _text_span(lane: TextLane, order: Order, folded: str) -> tuple[int, int]:
    low, high = lane.range_of(folded)
    last = len(lane.spellings)
    return {
        Order.LESS: (0, low),
        Order.AT_MOST: (0, high),
        Order.MORE: (high, last),
        Order.AT_LEAST: (low, last),
    }[order]


def _same(values: Array) -> Array:
    return values


def _number_pair(comparison: str, left: Lane, right: Lane) -> Probe:
    if isinstance(left, FixedLane) and isinstance(right, FixedLane):
        scale = max(left.scale, right.scale)
        grown = [lane.bound * 10 ** (scale - lane.scale) for lane in (left, right)]
        if max(grown) < 2**63:
            return Pairwise(comparison, _scaled(left, scale), _scaled(right, scale))
    return Pairwise(comparison, _as_floats(left), _as_floats(right))


def _scaled(lane: FixedLane, scale: int) -> Side:
    return Side(lane.values, partial(np.multiply, np.int64(10 ** (scale - lane.scale))))


def _as_floats(lane: Lane) -> Side:
    if isinstance(lane, FixedLane):
        divisor = float(10**lane.scale)
        return Side(lane.values, lambda values: values / divisor)
    return Side(lane.values, _same)


def _date_pair(comparison: str, left: Lane, right: Lane) -> Probe:
    if not (isinstance(left, DateLane) and isinstance(right, DateLane)):
        raise TypeError("two date lanes are needed")
    if not left.has_time and not right.has_time:
        return Pairwise(comparison, Side(left.values, _same), Side(right.values, _same))
    width = 0 if right.has_time else DAY - 1
    return Pairwise(comparison, _as_micros(left), _as_micros(right), width)


def _as_micros(lane: DateLane) -> Side:
    return Side(lane.values, _same if lane.has_time else _days_to_micros)


def _days_to_micros(days: Array) -> Array:
    return days.astype(np.int64) * DAY


def _text_pair(comparison: str, left: Lane, right: Lane) -> Probe:
    if not (isinstance(left, TextLane) and isinstance(right, TextLane)):
        raise TypeError("two text lanes are needed")
    order = {word: i for i, word in enumerate(sorted({*left.folded, *right.folded}))}
    first, second = _rank(left.folded, order), _rank(right.folded, order)
    return Pairwise(comparison, Side(left.codes, first), Side(right.codes, second))


def _rank(folded: Sequence[str], order: dict[str, int]) -> Callable[[Array], Array]:
    ranks = np.array([order[word] for word in folded], dtype=np.int32)
    return lambda codes: ranks[codes]


def _yes_no_pair(comparison: str, left: Lane, right: Lane) -> Probe:
    return Pairwise(comparison, Side(left.values, _same), Side(right.values, _same))


_PAIRS: dict[Kind, Callable[[str, Lane, Lane], Probe]] = {
    Kind.NUMBER: _number_pair,
    Kind.DATE: _date_pair,
    Kind.TEXT: _text_pair,
    Kind.YES_NO: _yes_no_pair,
}
