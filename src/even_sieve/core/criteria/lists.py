"""The values of one condition, gathered a lane at a time and asked together."""

import numpy as np

from even_sieve.core.cells import Kind, fold
from even_sieve.core.criteria.coercion import holding, of_kind
from even_sieve.core.criteria.nodes import (
    Holding,
    Order,
)
from even_sieve.core.criteria.notes import Remarks
from even_sieve.core.criteria.operands import (
    Number,
    Operand,
    Pattern,
    Period,
    Text,
    Wild,
    Window,
    YesNo,
)
from even_sieve.core.criteria.probes import (
    Among,
    Between,
    Constant,
    Listed,
    Probe,
    any_probe,
)
from even_sieve.core.criteria.stored_range import Ordered, Span, probe_of, span_of
from even_sieve.core.criteria.wildcards import matcher, matches_as_written, one_to_one
from even_sieve.core.table import Column
from even_sieve.core.table.lanes import (
    Array,
    DateLane,
    FixedLane,
    FloatLane,
    TextLane,
    YesNoLane,
)

_FEW = 8


class ValueList:
    """The values of an alternative list, gathered a lane at a time."""

    def __init__(self, column: Column, remarks: Remarks) -> None:
        self.column, self.remarks = column, remarks
        self.spans: dict[Kind, list[Span]] = {}
        text = column.lanes.get(Kind.TEXT)
        self.text = text if isinstance(text, TextLane) else None
        self.codes = np.zeros(len(self.text.spellings) if self.text else 0, dtype=bool)
        self.yes_no: set[bool] = set()

    def add(self, value: Operand) -> None:
        """Add one value as the column takes it; a remark is made where it can match nothing."""
        if isinstance(value, Number):
            self._add_span(Kind.NUMBER, value, value)
        elif isinstance(value, Period):
            self._add_span(Kind.DATE, value, value)
        elif isinstance(value, Window):
            self._add_window(value)
        elif isinstance(value, Pattern):
            self._add_pattern(value)
        elif isinstance(value, YesNo):
            self.yes_no.add(value.value)
        elif isinstance(value, Text):
            self._add_text(value)

    def _add_span(self, kind: Kind, low: Operand | None, high: Operand | None) -> None:
        lane = self.column.lanes.get(kind)
        known = low if low is not None else high
        if not isinstance(lane, FixedLane | FloatLane | DateLane):
            self.remarks.wrong_kind(kind, known)
            return
        self.remarks.text_beside(kind)
        first = span_of(lane, low).low if isinstance(low, Number | Period) else None
        last = span_of(lane, high).high if isinstance(high, Number | Period) else None
        self.spans.setdefault(kind, []).append(Span(first, last))

    def _add_window(self, window: Window) -> None:
        low, high = _known_end(window.low), _known_end(window.high)
        kinds = {type(end) for end in (low, high) if end is not None}
        if len(kinds) == 1:
            if _reversed(low, high):
                self.remarks.reversed_window(window)
            kind = Kind.NUMBER if Number in kinds else Kind.DATE
            self._add_span(kind, low, high)
        else:
            self.remarks.mixed_window(window)

    def _add_text(self, value: Text) -> None:
        if self.text is None:
            self.remarks.wrong_kind(Kind.TEXT, value)
            return
        low, high = self.text.range_of(fold(value.text))
        if low == high:
            self.remarks.not_held(value, self.text)
        self.codes[low:high] = True

    def _add_pattern(self, pattern: Pattern) -> None:
        if self.text is None:
            self.remarks.wildcard_without_text(pattern)
            return
        self.remarks.wildcard_beside(pattern)
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
                found.append(of_kind(self.column, kind, _span_probe(lane, spans)))
        if self.text is not None and self.codes.any():
            found.append(of_kind(self.column, Kind.TEXT, _table_probe(self.text, self.codes)))
        if self.yes_no:
            found.append(self._yes_no_probe())
        return tuple(found)

    def _yes_no_probe(self) -> Probe:
        lane = self.column.lanes.get(Kind.YES_NO)
        if not isinstance(lane, YesNoLane):
            return Constant(False)
        if len(self.yes_no) == 2:
            return holding(self.column, Holding.YES_NO)
        wanted = np.bool_(next(iter(self.yes_no)))
        return of_kind(self.column, Kind.YES_NO, Between(lane.values, wanted, wanted))


def _known_end(end: object) -> Number | Period | None:
    return end if isinstance(end, Number | Period) else None


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
            if Wild.ONE in parts:
                for code, spelling in enumerate(lane.spellings):
                    if not one_to_one(spelling):
                        found[code] = matches_as_written(parts, spelling)
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


def code_probe(lane: TextLane, low: int, high: int) -> Probe:
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
    return any_probe(tuple(code_probe(lane, low, high) for low, high in runs))


def text_span(lane: TextLane, order: Order, folded: str) -> tuple[int, int]:
    """Return the codes `low <= code < high` of the texts in this order to the folded one."""
    low, high = lane.range_of(folded)
    last = len(lane.spellings)
    return {
        Order.LESS: (0, low),
        Order.AT_MOST: (0, high),
        Order.MORE: (high, last),
        Order.AT_LEAST: (low, last),
    }[order]
