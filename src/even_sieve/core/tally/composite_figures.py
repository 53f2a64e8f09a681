"""Figures worked out from other figures: ratios, differences, changes, running totals.

They are worked out from the exact figures where these are known, else from the figures as
they are shown, and rounded once.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from typing import Any

from even_sieve.core.axes import is_period, period_before
from even_sieve.core.cells import Cell
from even_sieve.core.errors import CallError
from even_sieve.core.measures import MeasureRequest
from even_sieve.core.measures.composites import leaves
from even_sieve.core.measures.rounding import to_double
from even_sieve.core.table.lanes import Array
from even_sieve.core.tally.answers import Breakdown, Tallies, Tally
from even_sieve.core.tally.composite_arithmetic import combine, exact_of
from even_sieve.core.tally.keyed_lines import (
    ALL_VALUES,
    LazyLines,
    Line,
    Told,
    identified,
    key_columns_of,
    picked,
    told_of,
    values_of,
)

#: The kinds of measure of which the figures of lines can be added.
ADDING = ("rows", "numbers", "filled", "blanks", "errors", "sum")
_RUNNING = (*ADDING, "share")
_OF_LINES = ("change", "relative change", "running total")
#: Why figures that go along lines have no value where no line is: what goes without saying.
NO_PERIOD_BEFORE_ALL = "there is no period before all of them"
NO_LINE_TO_ADD_UP_TO = "a total is no line to add up to"
OF_NO_LINE = (NO_PERIOD_BEFORE_ALL, NO_LINE_TO_ADD_UP_TO)
_Find = Callable[[MeasureRequest], Tally]


@dataclass(frozen=True)
class Composites:
    """The measures that are wanted, and those of rows that they are worked out from."""

    wanted: tuple[MeasureRequest, ...]
    base: tuple[MeasureRequest, ...]

    @classmethod
    def of(cls, requests: Sequence[MeasureRequest]) -> "Composites":
        """Return the composites; a measure that several need is worked out once."""
        return cls(tuple(requests), tuple(dict.fromkeys(leaves(requests))))

    @property
    def is_plain(self) -> bool:
        """Whether all that is wanted is measures of rows."""
        return self.wanted == self.base

    def combine(self, found: Tallies) -> Tallies:
        """Return the tallies that are wanted, from those of the base.

        Raises `CallError` for a change or a running total, which want a breakdown.
        """
        own = self.finder(found)

        def find(request: MeasureRequest) -> Tally:
            if request.kind in _OF_LINES:
                raise CallError(
                    f"'{request.name}' goes along the lines of a breakdown\n"
                    "Write for example: by 'arrived by month'"
                )
            return _of_two(request, find) if request.parts else own(request)

        return replace(found, items=tuple(map(find, self.wanted)))

    def finder(self, found: Tallies) -> _Find:
        """Return what looks up the tally of a measure of rows."""
        return dict(zip(self.base, found, strict=True)).__getitem__


class Combiner:
    """Works out the figures of a breakdown's lines from those of its measures of rows."""

    def __init__(self, found: Breakdown, composites: Composites) -> None:
        self._found, self._composites = found, composites
        self._axes = [*found.by, *([] if found.across is None else [found.across])]
        periods = [place for place, name in enumerate(self._axes) if is_period(name)]
        self._period = periods[-1] if periods else None
        self._along = len(found.by) - 1 if self._period is None else self._period
        self._running: dict[MeasureRequest, dict[tuple[Any, ...], Fraction | None]] = {}

    def result(self) -> Breakdown:
        """Return the breakdown with the figures that are wanted in the place of its own.

        Raises `CallError` for a change without periods, or a running total of what does not
        add up.
        """
        for request in self._composites.wanted:
            self._refuse(request)
        found = self._found
        whole = (ALL_VALUES,) * len(self._axes)
        return replace(
            found,
            lines=self._lines(),
            total=replace(found.total, items=self.line(Line(whole, found.total)).tallies.items),
            subtotals=tuple(map(self.line, found.subtotals)),
            rest=None if found.rest is None else self.line(found.rest),
        )

    def _lines(self) -> LazyLines:
        found = self._found.lines

        def values(position: int, places: Array) -> list[Cell]:
            request = self._composites.wanted[position]
            if request.parts:
                return [lines[place].tallies[position].value for place in places.tolist()]
            return values_of(picked(found, places), self._composites.base.index(request))

        def told(position: int, places: Array) -> Told | None:
            request = self._composites.wanted[position]
            if request.parts:
                return None
            at = self._composites.base.index(request)
            return told_of(picked(found, places), at)

        lines = LazyLines(
            len(found),
            lambda i: self.line(found[i]),
            lambda places: key_columns_of(picked(found, places), len(self._axes)),
            values,
            told=told,
        )
        return lines

    def line(self, line: Line) -> Line:
        """Return a line with the figures that are wanted."""
        items = tuple(self._find(each, line.key, line.tallies) for each in self._composites.wanted)
        return Line(line.key, replace(line.tallies, items=items))

    def _refuse(self, request: MeasureRequest) -> None:
        for part in request.parts:
            self._refuse(part)
        if request.kind.endswith("change") and self._period is None:
            raise CallError(
                f"'{request.name}' needs a breakdown by periods\n"
                "Write for example: by 'arrived by month'"
            )
        if request.kind == "running total" and request.parts[0].kind not in _RUNNING:
            words = request.parts[0].words
            raise CallError(f"'{request.name}': figures of '{words}' do not add up along lines")

    def _find(self, request: MeasureRequest, key: tuple[Any, ...], found: Tallies) -> Tally:
        if not request.parts:
            return self._composites.finder(found)(request)
        if request.kind == "running total":
            return self._running_total(request, key, found)
        if request.kind.endswith("change"):
            return self._change(request, key, found)
        return _of_two(request, lambda part: self._find(part, key, found))

    def _change(self, request: MeasureRequest, key: tuple[Any, ...], found: Tallies) -> Tally:
        (part,) = request.parts
        now = self._find(part, key, found)
        if self._period is None or key[self._period] is ALL_VALUES:
            return _figure(request, (now,), NO_PERIOD_BEFORE_ALL)
        label = period_before(self._axes[self._period], key[self._period])
        if label is None:
            return _figure(request, (now,), "this is no period")
        before_key = tuple(
            label if place == self._period else value for place, value in enumerate(key)
        )
        before = self._found.get(before_key)
        if before is None:
            return _figure(request, (now,), f"no line for {label}, the period before")
        return _worked_out(request, (now, self._find(part, before_key, before)))

    def _running_total(
        self, request: MeasureRequest, key: tuple[Any, ...], found: Tallies
    ) -> Tally:
        (part,) = request.parts
        own = self._find(part, key, found)
        if key[self._along] is ALL_VALUES:
            return _figure(request, (own,), NO_LINE_TO_ADD_UP_TO)
        if part not in self._running:
            self._running[part] = self._added_up(part)
        exact = self._running[part].get(identified(key))
        reason = f"a line before has no value of '{part.name}'" if exact is None else None
        return _figure(request, (own,), reason, exact)

    def _added_up(self, part: MeasureRequest) -> dict[tuple[Any, ...], Fraction | None]:
        """Return the running total of every line, among the lines that share all but one axis."""
        sums: dict[tuple[Any, ...], Fraction | None] = {}
        added: dict[tuple[Any, ...], Fraction | None] = {}
        for line in (*self._found.with_rest, *self._found.subtotals):
            if line.key[self._along] is ALL_VALUES:
                continue
            group = (*line.key[: self._along], *line.key[self._along + 1 :])
            before = sums.get(identified(group), Fraction(0))
            amount = exact_of(self._find(part, line.key, line.tallies))
            together = None if before is None or amount is None else before + amount
            sums[identified(group)] = added[identified(line.key)] = together
        return added


def _of_two(request: MeasureRequest, find: _Find) -> Tally:
    return _worked_out(request, tuple(map(find, request.parts)))


def _worked_out(request: MeasureRequest, parts: tuple[Tally, ...]) -> Tally:
    """Return the tally that a combination makes of two others."""
    value, reason = combine(request.kind, parts)
    return _figure(request, parts, reason, value)


def _figure(
    request: MeasureRequest,
    parts: tuple[Tally, ...],
    reason: str | None,
    exact: Fraction | None = None,
) -> Tally:
    """Return a tally; its account is that of its first part."""
    value: Cell = None
    if exact is not None:
        whole = all(isinstance(part.value, int) for part in parts) and request.kind != "ratio"
        value = int(exact) if whole and exact.denominator == 1 else to_double(exact)
        reason = None if value is not None else "the figure is beyond the largest double"
    decimals = max(each.decimals for each in parts)
    decimals = 0 if request.kind in ("ratio", "relative change") else decimals
    alike = request.kind != "ratio" and len({each.shown_as for each in parts}) == 1
    return Tally(
        request, value, parts[0].account, reason=reason, exact=exact, decimals=decimals,
        parts=parts, shown_as=parts[0].shown_as if alike else "",
    )  # fmt: skip
