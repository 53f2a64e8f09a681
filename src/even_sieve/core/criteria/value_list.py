"""The values of one condition, gathered a lane at a time and asked together."""

from collections.abc import Sequence
from typing import TYPE_CHECKING

import numpy as np

from even_sieve.core.cells import Kind
from even_sieve.core.criteria.asked_texts import AskedTexts
from even_sieve.core.criteria.blocks import Probe
from even_sieve.core.criteria.operands import Point
from even_sieve.core.criteria.probes import (
    Among,
    Between,
    Constant,
    any_probe,
    kind_probe,
    of_kind,
)
from even_sieve.core.criteria.stored_range import Ordered, Span, probe_of
from even_sieve.core.table.distinct import once_each
from even_sieve.core.table.lanes import TextLane, YesNoLane

if TYPE_CHECKING:
    from even_sieve.core.criteria.asked_column import AskedColumn
    from even_sieve.core.criteria.operands.pattern import Pattern

_FEW = 8


class ValueList:
    """The values of an alternative list, gathered a lane at a time.

    Each value adds itself: to the spans, to the texts that are asked for, to the yes/no, or to
    the probes of `others`.
    """

    def __init__(self, asked: "AskedColumn") -> None:
        self.asked, self.column, self.remarks = asked, asked.column, asked.remarks
        self.spans: dict[Kind, list[Span]] = {}
        text = self.column.lanes.get(Kind.TEXT)
        self.text = text if isinstance(text, TextLane) else None
        self.yes_no: set[bool] = set()
        self.others: list[Probe] = []
        self._texts = None if self.text is None else AskedTexts(self.text)

    def look_up(self, folded: Sequence[str]) -> None:
        """Look up many texts at once that will be asked for."""
        if self._texts is not None and folded:
            self._texts.look_up(folded)

    def ask_text(self, folded: str) -> bool:
        """Ask for the texts equal to one; tell whether there are any."""
        return self._texts is not None and self._texts.ask(folded)

    def ask_pattern(self, pattern: "Pattern") -> bool:
        """Ask for the texts that match a pattern; tell whether there are any."""
        return self._texts is not None and self._texts.ask_pattern(pattern)

    def add_span(self, kind: Kind, low: Point | None, high: Point | None) -> None:
        """Ask for the cells from one number or period to another; None is an open end."""
        lane = self.column.lanes.get(kind)
        if not isinstance(lane, Ordered):
            self.remarks.wrong_kind(kind, low if low is not None else high)
            return
        self.remarks.text_beside(kind)
        first = None if low is None else low.first(lane)
        last = None if high is None else high.last(lane)
        self.spans.setdefault(kind, []).append(Span(first, last))

    def probes(self) -> tuple[Probe, ...]:
        """Return one probe a lane, and those of other columns."""
        found: list[Probe] = []
        for kind, spans in self.spans.items():
            lane = self.column.lanes[kind]
            if isinstance(lane, Ordered):
                found.append(of_kind(self.column, kind, _span_probe(lane, spans)))
        if self._texts is not None:
            found += [of_kind(self.column, Kind.TEXT, probe) for probe in self._texts.probes()]
        if self.yes_no:
            found.append(self._yes_no_probe())
        return (*found, *self.others)

    def _yes_no_probe(self) -> Probe:
        lane = self.column.lanes.get(Kind.YES_NO)
        if not isinstance(lane, YesNoLane):
            return Constant(False)
        if len(self.yes_no) == 2:
            return kind_probe(self.column, Kind.YES_NO)
        wanted = np.bool_(next(iter(self.yes_no)))
        return of_kind(self.column, Kind.YES_NO, Between(lane.values, wanted, wanted))


def _span_probe(lane: Ordered, spans: list[Span]) -> Probe:
    """Return the probe for any of the spans; many single values are looked up at once."""
    if len(spans) > _FEW and all(span.low == span.high for span in spans):
        probes = [probe_of(lane, span) for span in spans]
        members = [probe.low for probe in probes if isinstance(probe, Between)]
        if not members:
            return Constant(False)
        return Among(lane.values, once_each(np.array(members, dtype=lane.values.dtype)))
    return any_probe(tuple(probe_of(lane, span) for span in spans))
