"""Breakdowns: tallies by the groups of one or several axes, which add up."""

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np

from even_sieve.core.axes import Axis, as_derived, axis_of, is_period, refuse_no_dates
from even_sieve.core.cells import Cell, fold
from even_sieve.core.errors import CallError
from even_sieve.core.lazy import many_of
from even_sieve.core.measures import Bucket, MeasureRequest
from even_sieve.core.notices import Code, Notice, each_once
from even_sieve.core.query import Query
from even_sieve.core.table import Table
from even_sieve.core.table.arrays import places_of, spans, zeros
from even_sieve.core.table.lanes import Array
from even_sieve.core.tally.adding_up import check_total
from even_sieve.core.tally.answers import Breakdown, Tallies, Tally
from even_sieve.core.tally.composite_figures import Combiner, Composites
from even_sieve.core.tally.cutting import cut, without_rest
from even_sieve.core.tally.doubts import refuse_doubts
from even_sieve.core.tally.evaluate import (
    accounts_of,
    is_not_one,
    may_be_of_few,
    tallies_of,
    tally,
    with_context,
)
from even_sieve.core.tally.gathering import Grouping
from even_sieve.core.tally.keyed_lines import (
    ALL_VALUES,
    LazyLines,
    Line,
    Told,
    chained,
    picked,
)
from even_sieve.core.tally.layout import Layout, ordered, sorts_by_composite, sorts_by_label
from even_sieve.core.tally.levels import Found, Level, level_of
from even_sieve.core.tally.passes import run_pass
from even_sieve.core.tally.plan import Plan
from even_sieve.core.tally.ranges import ByRanges
from even_sieve.core.tally.review import review


def break_down(
    query: Query,
    table: Table,
    measures: Iterable[str | MeasureRequest],
    layout: Layout,
) -> Breakdown:
    """Return a line of tallies for each group of the axes among the rows in play, and a total.

    A row is in play if the shared criteria hold and no mark leaves it out. Lines, and
    subtotals, add up to the total, which is worked out separately and compared:
    `AccountError` if they do not. Raises `CallError` for a layout that cannot be.
    """
    plan = _planned(query, table, layout)
    axes = [axis_of(plan.table, text) for text in layout.by]
    if layout.across is not None:
        axes.append(axis_of(plan.table, layout.across))
    plan.columns |= {axis.column: plan.table.column(axis.column) for axis in axes}
    composites = Composites.of(plan.requests(measures))
    late = sorts_by_composite(layout, composites)
    builder = BreakdownBuilder(
        plan, replace(layout, sort=None) if late else layout, composites.base, axes
    )
    found = builder.result()
    folded = layout.top is not None and len(found.lines) > layout.top
    if layout.top is not None and folded:
        # Periods stay in their order unless another one is asked for.
        as_they_are = layout.sort is None and is_period(axes[0].name)
        axis = cut(axes[0], found.lines, layout.top, in_axis_order=as_they_are)
        in_order = as_they_are or sorts_by_label(builder.layout, composites.base)
        kept_layout = replace(builder.layout, sort="label") if in_order else builder.layout
        builder = replace(builder, axes=[axis], layout=kept_layout)
        found = builder.result()
    if late:
        order = ordered(layout, composites.wanted, Combiner(found, composites).result())
        found = replace(found, lines=picked(found.lines, order))
    answer = found if composites.is_plain else Combiner(found, composites).result()
    of_lines = _notices_of_lines(axes, composites, folded)
    answer = replace(answer, notices=each_once((*answer.notices, *of_lines)))
    if query.strict:
        refuse_doubts(query, answer.notices, answer.tallies)
    return answer


def _planned(query: Query, table: Table, layout: Layout) -> Plan:
    """Return the plan; parts of dates that are axes are derived columns of its table."""
    plan = Plan.of(query, table)
    texts = (*layout.by, *([] if layout.across is None else [layout.across]))
    wanted: dict[str, None] = {}
    for text in texts:
        found = None if text.strip() in plan.table else as_derived(text)
        if found is not None and found[0] in plan.table:
            refuse_no_dates(text, plan.table.column(found[0]))
            wanted[found[1]] = None
    return Plan.of(query.with_derived(wanted), table) if wanted else plan


def _notices_of_lines(
    axes: Sequence[Axis], composites: Composites, folded: bool
) -> Iterator[Notice]:
    """Yield what is to be known where lines of periods hold more, or less, than one would think."""
    periods = {fold(axis.column) for axis in axes if is_period(axis.name)}
    for request in composites.base:
        left = set(map(fold, request.regardless))
        if periods & left or (periods and "everything" in left):
            text = (
                f"'{request.name}' disregards the period of each line too: every line counts "
                "the rows of all periods"
            )
            yield Notice(Code.BEYOND_THE_LINE, text)
    for request in composites.wanted if folded and is_period(axes[0].name) else ():
        if request.kind.endswith("change"):
            text = f"'{request.name}' has no figure where the period before is among the others"
            yield Notice(Code.BEFORE_IS_AMONG_OTHERS, text)


def tally_or_break_down(
    query: Query, table: Table, measures: Iterable[str | MeasureRequest], layout: Layout | None
) -> Tallies | Breakdown:
    """Return the tallies of the measures or, with a layout, their breakdown."""
    if layout is None:
        return tally(query, table, measures)
    return break_down(query, table, measures, layout)


@dataclass(frozen=True, eq=False)
class BreakdownBuilder:
    """One breakdown on its way."""

    plan: Plan
    layout: Layout
    requests: Sequence[MeasureRequest]
    axes: list[Axis]

    def result(self) -> Breakdown:
        """Return the breakdown, checked."""
        plan, layout = self.plan, self.layout
        if layout.top is not None and len(self.axes) > 1:
            raise CallError("the first lines can be chosen along one axis alone\nLeave out --top")
        shown = self._choices()
        found = self._gathered(shown)
        whole = tallies_of(plan, self.requests, found.jobs[:-1], found.whole[:-1], 0)
        total = tuple(
            replace(each, value=None, found_at=()) if is_not_one(each) else each for each in whole
        )
        made = [self._lines(found, places) for places in shown]
        matching = found.whole[-1].bucket(0, Bucket.USED)
        notices = (*plan.shared_notices(), *review(plan, plan.shared.criteria, matching))
        names = [axis.name for axis in self.axes]
        every = Breakdown(
            tuple(names[: len(layout.by)]),
            made[0],
            with_context(plan, self.requests, total),
            each_once(notices),
            None if layout.across is None else names[-1],
            chained(made[1:], len(self.axes)) if made[1:] else (),
        )
        sorts = layout.sort is not None or layout.top is not None
        in_order = every.lines
        if sorts:
            in_order = picked(in_order, ordered(layout, self.requests, every))
        lines, rest = without_rest(in_order, self.axes)
        return replace(every, lines=lines, rest=rest)

    def _gathered(self, shown: Sequence[tuple[int, ...]]) -> Found:
        """Return what one pass brings for every level, checked against the whole."""
        plan, context = self.plan, MeasureRequest("rows", name="rows in play")
        jobs = [plan.job(request) for request in (*self.requests, context)]
        needed = dict.fromkeys(
            (*shown, *(self.kept(request, each) for each in shown for request in self.requests))
        )
        needed.pop((), None)
        levels = [level_of(self.axes, places) for places in needed]
        groupings = [Grouping(len(level.members), level.codes) for level in levels]
        result = run_pass(plan.table, jobs, groupings, plan.query.threads, plan.binder.shared)
        for gathered in result.grouped:
            check_total(self.requests, gathered, result.whole)
        pairs = zip(levels, result.grouped, strict=True)
        return Found(jobs, {level.places: (level, g) for level, g in pairs}, result.whole)

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
        return tuple(place for place, name in pairs if not self.plan.disregards(request, name))

    def _lines(self, found: Found, places: tuple[int, ...]) -> LazyLines:
        """Return the lines of a level, each made when it is asked for.

        Those of groups with a row in play are there; of a list of labels that stands alone,
        all but a rest without rows.
        """
        level, gathered = found.levels[places]
        in_play = zeros(len(level.members), np.int64)
        plain = [not request.regardless for request in self.requests]
        for each in (*(g for g, own in zip(gathered, plain, strict=False) if own), gathered[-1]):
            for groups in spans(len(in_play)):
                in_play[groups] += each.counts.buckets[groups].sum(axis=1)
        if len(self.axes) == 1 and self.axes[0].listed:
            in_play[:-1] += 1
        shown = places_of(in_play)
        return LazyLines(
            len(shown),
            lambda i: self.line(found, places, int(shown[i])),
            lambda lines: self._keys(level, shown[lines]),
            lambda position, lines: self._values(found, places, position, shown[lines]),
            shown,
            lambda position, lines: self._told(found, places, position, shown[lines]),
        )

    def _told(
        self, found: Found, places: tuple[int, ...], position: int, numbers: Array
    ) -> Told | None:
        """Return what lines say of a measure, where they say the same but for accounts and rows."""
        job, gathered = found.jobs[position], found.levels[places][1][position]
        if self.kept(self.requests[position], places) != places:
            return None
        if isinstance(gathered, ByRanges) and not job.measure.says_alike:
            return None
        table, rows = self.plan.table, job.measure.rows_of(gathered, numbers)
        if rows is None:
            return None
        accounts = accounts_of(table, job, gathered, numbers)
        few = may_be_of_few(job.measure, accounts[:, -1], accounts[:, -2]).tolist()
        pairs = zip(rows, few, strict=True)
        found_at = [None if more else own and tuple(map(table.number, own)) for own, more in pairs]
        return Told(accounts, found_at)

    def _keys(self, level: Level, numbers: Array) -> list[Sequence[object]]:
        """Return the keys of many lines, a column for each axis."""
        columns: list[Sequence[object]] = [(ALL_VALUES,) * len(numbers) for _ in self.axes]
        for place, own in zip(level.places, level.members_of(numbers), strict=True):
            columns[place] = many_of(self.axes[place].keys, own)
        return columns

    def _values(
        self, found: Found, places: tuple[int, ...], position: int, numbers: Array
    ) -> list[Cell]:
        """Return the values of a measure on the lines of these numbers."""
        kept, measure = self.kept(self.requests[position], places), found.jobs[position].measure
        if kept == places:
            gathered = found.levels[places][1][position]
            if isinstance(gathered, ByRanges):
                return gathered.values_of(measure, numbers)
            return measure.values(gathered, numbers)
        members = found.levels[places][0].members
        ats = [
            found.at(kept, dict(zip(places, members[number], strict=True)), position)
            for number in numbers.tolist()
        ]
        return [measure.finish(*gathered.within(place)).value for gathered, place in ats]

    def line(self, found: Found, places: tuple[int, ...], number: int) -> Line:
        """Return a line of the level that groups by these axes."""
        members = found.levels[places][0].members[number]
        groups = {
            place: self.axes[place].groups[member]
            for place, member in zip(places, members, strict=True)
        }
        tallies: list[Tally] = []
        every, gathered_here = tuple(groups.values()), found.levels[places][1]
        for position, request in enumerate(self.requests):
            kept, own, place = self.kept(request, places), every, number
            gathered = gathered_here[position]
            if kept != places:
                own = tuple(groups[each] for each in kept)
                which = dict(zip(places, members, strict=True))
                gathered, place = found.at(kept, which, position)
            job = found.jobs[position : position + 1]
            tallies += tallies_of(self.plan, [request], job, [gathered], place, own)
        key: list[object] = [ALL_VALUES] * len(self.axes)
        for place, group in groups.items():
            key[place] = group.key
        return Line(tuple(key), Tallies(tuple(tallies), query=self.plan.asked))
