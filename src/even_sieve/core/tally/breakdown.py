"""Breakdowns: tallies by the groups of one or several axes, which add up."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from even_sieve.core.cells import Cell, CellError
from even_sieve.core.criteria import EVERYTHING, Criteria, any_of
from even_sieve.core.criteria.nodes import negated
from even_sieve.core.errors import AccountError, CallError, closest, listed
from even_sieve.core.lazy import LazySequence
from even_sieve.core.measures import Bucket, Gathered, MeasureRequest
from even_sieve.core.measures.arithmetic import total_of
from even_sieve.core.measures.totals import Totals
from even_sieve.core.notices import each_once
from even_sieve.core.table import Table
from even_sieve.core.tally.answers import ALL_VALUES, Breakdown, Line, Tallies, Tally
from even_sieve.core.tally.axes import Axis, Group, axis_of
from even_sieve.core.tally.call import Call, Options
from even_sieve.core.tally.composite_figures import Combiner, Plan
from even_sieve.core.tally.evaluate import is_not_one, tallies_of, with_context
from even_sieve.core.tally.levels import Found, level_of
from even_sieve.core.tally.passes import Grouping, run_pass
from even_sieve.core.tally.review import review
from even_sieve.core.tally.usual import spell_out

_LABEL = "label"


@dataclass(frozen=True)
class Layout:
    """How a breakdown is laid out.

    `by` and `across` are axes as they are written; `sort` is a measure by its name, or
    `label`, with `asc` or `desc` after it; `top` keeps so many lines and sums up the others.
    """

    by: tuple[str, ...]
    across: str | None = None
    sort: str | None = None
    top: int | None = None


def break_down(
    table: Table,
    requests: Sequence[MeasureRequest],
    by: str | Layout,
    where: Criteria = EVERYTHING,
    options: Options | None = None,
) -> Breakdown:
    """Return a line of tallies for each group of the axes among the rows in play, and a total.

    A row is in play if the shared criteria hold and no mark leaves it out. Lines, and
    subtotals, add up to the total, which is worked out separately and compared:
    `AccountError` if they do not. Raises `CallError` for a layout that cannot be.
    """
    layout = Layout((by,)) if isinstance(by, str) else by
    call = Call(table, where, options or Options())
    axes = [axis_of(table, text) for text in layout.by]
    if layout.across is not None:
        axes.append(axis_of(table, layout.across))
    plan = Plan.of(spell_out(table, requests))
    combined = _sorts_by_combined(layout, plan)
    work = _Work(call, replace(layout, sort=None) if combined else layout, plan.base, axes)
    found = work.result()
    if layout.top is not None and len(found.lines) > layout.top:
        work = replace(work, axes=[_cut(axes[0], found.lines, layout.top)])
        found = work.result()
    if combined:
        lines = _ordered(layout, plan.wanted, Combiner(found, plan).result())
        kept = {line.key: line for line in found.lines}
        found = replace(found, lines=tuple(kept[line.key] for line in lines))
    return found if plan.is_plain else Combiner(found, plan).result()


def _sorts_by_combined(layout: Layout, plan: Plan) -> bool:
    """Tell whether lines are sorted by a figure worked out from others.

    Raises `CallError` for what can be known only once the lines stand in their order.
    """
    if layout.sort is None:
        return False
    name, _ = _sort_words(layout, plan.wanted)
    request = next((each for each in plan.wanted if each.name == name), None)
    if request is None or not request.parts:
        return False
    if layout.top is not None or request.kind == "running total":
        what = "sorted by" if layout.top is None else "cut by"
        raise CallError(f"lines cannot be {what} '{name}'\nSort by a measure of the rows")
    return True


def _ordered(
    layout: Layout, requests: Sequence[MeasureRequest], found: Breakdown
) -> Sequence[Line]:
    """Return the lines in the order asked: groups of the outer axes by their subtotals."""
    name, descending = _sort_words(layout, requests)
    if name is None:
        return tuple(found.lines)[::-1] if descending else found.lines
    known = {line.key: line.tallies for line in (*found.lines, *found.subtotals)}
    count = len(layout.by)
    size = count + (layout.across is not None)

    def rank(line: Line) -> list[tuple[bool, object, int]]:
        ranks = []
        for depth in range(1, count + 1):
            prefix = (*line.key[:depth], *(ALL_VALUES for _ in range(size - depth)))
            value = known[prefix][name].value if prefix in known else None
            ranks.append(_sort_key(value, descending))
        return ranks

    order = sorted(range(len(found.lines)), key=lambda i: (rank(found.lines[i]), i))
    return tuple(found.lines[i] for i in order)


def _sort_words(layout: Layout, requests: Sequence[MeasureRequest]) -> tuple[str | None, bool]:
    """Return the measure to sort by (None for the label) and whether the largest is first."""
    text = layout.sort or f"{requests[0].name} desc"
    name, _, last = text.strip().rpartition(" ")
    if last.lower() in ("asc", "desc") and name:
        descending = last.lower() == "desc"
    else:
        name, descending = text.strip(), text.strip().lower() != _LABEL
    if name.lower() == _LABEL:
        return None, descending
    names = [request.name for request in requests]
    if name not in names:
        near = closest(name, names)
        hint = f"Did you mean {listed(near)}?" if near else f"Sort by label or {listed(names)}"
        raise CallError(f"there is no measure '{name}' to sort by\n{hint}")
    return name, descending


@dataclass(frozen=True, eq=False)
class _Work:
    """One breakdown on its way."""

    call: Call
    layout: Layout
    requests: Sequence[MeasureRequest]
    axes: list[Axis]

    def result(self) -> Breakdown:
        """Return the breakdown, checked."""
        call, layout = self.call, self.layout
        if layout.top is not None and len(self.axes) > 1:
            raise CallError("the first lines can be chosen along one axis alone\nLeave out --top")
        context = MeasureRequest("rows", name="rows in play")
        jobs = [call.job(request) for request in (*self.requests, context)]
        shown = self._choices()
        needed = dict.fromkeys(
            (*shown, *(self.kept(request, each) for each in shown for request in self.requests))
        )
        needed.pop((), None)
        levels = [level_of(self.axes, places) for places in needed]
        groupings = [Grouping(len(level.members), level.codes) for level in levels]
        result = run_pass(call.table, jobs, groupings, call.options.threads, call.binder.shared)
        whole = tallies_of(call, self.requests, jobs[:-1], result.whole[:-1], 0)
        total = tuple(
            replace(each, value=None, found_at=()) if is_not_one(each) else each for each in whole
        )
        for gathered in result.grouped:
            _check_total(self.requests, gathered, result.whole)
        found = Found(
            jobs,
            {level.places: (level, g) for level, g in zip(levels, result.grouped, strict=True)},
            result.whole,
        )
        made = [self._lines(found, places) for places in shown]
        matching = result.whole[-1].bucket(0, Bucket.USED)
        notices = (*call.shared_notices(), *review(call, call.shared.criteria, matching))
        names = [axis.name for axis in self.axes]
        every = Breakdown(
            tuple(names[: len(layout.by)]),
            made[0],
            with_context(call, self.requests, total),
            each_once(notices),
            None if layout.across is None else names[-1],
            tuple(line for lines in made[1:] for line in lines),
        )
        sorts = layout.sort is not None or layout.top is not None
        ordered = _ordered(layout, self.requests, every) if sorts else every.lines
        lines, rest = _without_rest(ordered, self.axes)
        return replace(every, lines=lines, rest=rest)

    def _choices(self) -> list[tuple[int, ...]]:
        """Return which axes each level groups by: all of them first, then the subtotals."""
        by = range(len(self.layout.by))
        prefixes = [tuple(by[:count]) for count in range(len(by), 0, -1)]
        if self.layout.across is None:
            return prefixes
        last = len(self.axes) - 1
        return [*((*each, last) for each in prefixes), *prefixes, (last,)]

    def kept(self, request: MeasureRequest, places: tuple[int, ...]) -> tuple[int, ...]:
        """Return those of the axes that the measure does not disregard."""
        if not request.regardless:
            return places
        names = [self.axes[place].column for place in places]
        pairs = zip(places, names, strict=True)
        return tuple(place for place, name in pairs if not self.call.disregards(request, name))

    def _lines(self, found: Found, places: tuple[int, ...]) -> Sequence[Line]:
        """Return the lines of a level, each made when it is asked for.

        Those of groups with a row in play are there; of a list of labels that stands alone,
        all but a rest without rows.
        """
        level, gathered = found.levels[places]
        in_play = np.zeros(len(level.members), dtype=np.int64)
        plain = [not request.regardless for request in self.requests]
        for each in (*(g for g, own in zip(gathered, plain, strict=False) if own), gathered[-1]):
            in_play += each.counts.buckets.sum(axis=1)
        if len(self.axes) == 1 and self.axes[0].listed:
            in_play[:-1] += 1
        shown = np.flatnonzero(in_play)
        return LazySequence(len(shown), lambda i: self.line(found, places, int(shown[i])))

    def line(self, found: Found, places: tuple[int, ...], number: int) -> Line:
        """Return a line of the level that groups by these axes."""
        members = found.levels[places][0].members[number]
        groups = {
            place: self.axes[place].groups[member]
            for place, member in zip(places, members, strict=True)
        }
        key: list[object] = [ALL_VALUES] * len(self.axes)
        for place, group in groups.items():
            key[place] = group.key
        tallies: list[Tally] = []
        for position, request in enumerate(self.requests):
            kept = self.kept(request, places)
            own = tuple(groups[place] for place in kept)
            gathered, place = found.at(kept, dict(zip(places, members, strict=True)), position)
            job = found.jobs[position : position + 1]
            tallies += tallies_of(self.call, [request], job, [gathered], place, own)
        return Line(tuple(key), Tallies(tuple(tallies)))


def _cut(axis: Axis, lines: Sequence[Line], top: int) -> Axis:
    """Return the axis of the first lines in order, and of all other groups as one."""
    if top < 1:
        raise CallError("at least one line is chosen\nWrite for example: --top 10")
    place = {group.key: number for number, group in enumerate(axis.groups)}
    chosen = [place[line.key[0]] for line in lines[:top]]
    number = np.full(len(axis.groups), top, dtype=np.int64)
    number[chosen] = np.arange(top)
    kept = [axis.groups[each] for each in chosen]
    others = len(lines) - top
    rest = Group(
        f"{others} others" if others > 1 else "1 other",
        lambda: negated(any_of(group.criteria for group in kept)),
    )
    return Axis(axis.name, axis.column, number[axis.codes], (*kept, rest), listed=True)


def _without_rest(
    lines: Sequence[Line], axes: Sequence[Axis]
) -> tuple[Sequence[Line], Line | None]:
    """Split the rest of a list of labels off the lines."""
    if len(axes) > 1 or not axes[0].listed:
        return lines, None
    key = (axes[0].groups[-1].key,)
    rest = next((line for line in lines if line.key == key), None)
    return tuple(line for line in lines if line is not rest), rest


def _check_total(
    requests: Sequence[MeasureRequest], grouped: Sequence[Gathered], whole: Sequence[Gathered]
) -> None:
    """Raise `AccountError` unless counts and exact sums of the groups add up to the total."""
    for request, parts, total in zip(requests, grouped, whole, strict=False):
        used = int(parts.counts.buckets[:, Bucket.USED].sum())
        if used != total.used(0):
            raise AccountError(f"'{request.name}': the lines use {used} rows of {total.used(0)}")
        for name, state in parts.states.items():
            if isinstance(state, Totals) and state.sums is not None:
                together, exact = state.sums.together(), total_of(total, name, 0)
                if together != exact:
                    raise AccountError(f"'{request.name}': the lines add up to {together}")


def _sort_key(value: Cell, descending: bool) -> tuple[bool, object, int]:
    """Return what numbers, dates and texts are sorted by; no value and errors come last."""
    if value is None or isinstance(value, CellError):
        return True, 0, 0
    if isinstance(value, int | float) and not isinstance(value, bool):
        return False, -value if descending else value, 0
    text = str(value)
    return False, [-ord(char) for char in text] if descending else text, 0
