"""The plan: a query bound to a table, with all that its measures share."""

from collections.abc import Iterable
from dataclasses import replace
from typing import cast

from even_sieve.core.criteria import (
    EVERYTHING,
    Binder,
    Criteria,
    Prepared,
    RangeCriteria,
    Where,
    all_of,
    conditions,
    mask_of,
    prepare,
    read_where,
    without_columns,
)
from even_sieve.core.criteria.implication import implies
from even_sieve.core.errors import CallError, MeasureError, UnknownColumn
from even_sieve.core.measures import MEASURES, Measure, MeasureRequest, parse_measures
from even_sieve.core.notices import Code, Notice, counted, each_once
from even_sieve.core.query import Query
from even_sieve.core.table import Column, Mark, Table
from even_sieve.core.table.header_again import header_rows, told_header_again
from even_sieve.core.table.lanes import Array
from even_sieve.core.table.look_alikes import told_look_alikes
from even_sieve.core.tally.double_counting import double_counting, totals_of
from even_sieve.core.tally.gathering import MeasureJob
from even_sieve.core.tally.selection import Selection, skipped_marks
from even_sieve.core.tally.usual import spell_out

#: So many notices on conditions are told one by one, those beyond them are counted.
_MOST_TOLD = 50


class Plan:
    """A query on a table: criteria bound once, and what is known of each part.

    `table` is the one that the query makes ready, `query` what is asked of that one, `asked`
    the whole query, of the table as it was.
    """

    def __init__(
        self,
        asked: Query,
        table: Table,
        where: RangeCriteria,
        binder: Binder | None = None,
    ) -> None:
        self.asked, self.table, self.where = asked, table, where
        self.query = query = asked.of_made_table()
        self.binder = binder or Binder(table)
        self.shared = prepare(where.criteria, query.settings)
        self.columns: dict[str, Column] = {}
        self.measured: set[str] = set()
        self._selections: dict[tuple[Criteria, Mark], Selection] = {}
        self._own: dict[MeasureRequest, Prepared] = {}
        self.own_notices: dict[MeasureRequest, tuple[Notice, ...]] = {}

    @classmethod
    def of(cls, query: Query, table: Table) -> "Plan":
        """Return the plan of a query on a table, which is made ready as the query says."""
        made = query.made_table(table)
        plan = cls(query, made, query.criteria(made))
        plan.refuse_unread(plan.shared.criteria)
        return plan

    def narrowed(self, more: Where) -> "Plan":
        """Return the plan for those of the rows for which more criteria hold."""
        criteria = read_where(more, self.table.names).criteria
        where = replace(self.where, criteria=all_of((self.where.criteria, criteria)))
        return Plan(self.asked.narrowed_by(more), self.table, where, self.binder)

    def refuse_unread(self, criteria: Criteria) -> None:
        """Raise `CallError` for criteria that rows which were not read may meet."""
        unread = self.table.unread
        if unread is None:
            return
        fact = f"{counted(unread.rows, 'row')} of {self.table.source} were not read, since "
        fact += f"'{unread.words}' cannot hold for them"
        if self.table.marks is not None:
            raise CallError(f"{fact}: they cannot be marked\nRead the file without prune")
        if not implies(criteria, cast(Criteria, unread.criteria)):
            hint = "Ask with these criteria, or read the file without prune"
            raise CallError(f"{fact}, and may count here\n{hint}")

    @property
    def skipped(self) -> Mark:
        """The marks whose rows are left out."""
        return skipped_marks(self.query.keep)

    def requests(self, measures: Iterable[str | MeasureRequest]) -> list[MeasureRequest]:
        """Return the measures as they are written out, `all of` spelt out."""
        asked = list(measures) or ["rows"]
        try:
            return spell_out(self.table, parse_measures(asked, self.table.names))
        except MeasureError:
            parse_measures(asked, self.table.numbers_first)  # its examples are of numbers
            raise

    def job(self, request: MeasureRequest) -> MeasureJob:
        """Return the measure over its selection."""
        measure = self._measure(request)
        own = self.own(request)
        for name in request.regardless:
            self.disregards(request, name)
        criteria = all_of((self.shared_for(request), own.criteria))
        selection = self._selection(criteria, skipped_marks(measure.request.keep))
        if request.kind != "share":
            return MeasureJob(measure, selection)
        whole = self._selection(self.shared_for(request), selection.skipped)
        return MeasureJob(measure, selection, MeasureJob(self._measure(request), whole))

    def _measure(self, request: MeasureRequest) -> Measure:
        column = self._column_of(request, request.column)
        weight = self._column_of(request, request.weight)
        return MEASURES[request.kind](self._with_keep(request), column, weight)

    def _selection(self, criteria: Criteria, skipped: Mark) -> Selection:
        key = criteria, skipped
        if key not in self._selections:
            self.refuse_unread(criteria)
            self._selections[key] = Selection(self.binder.probe(criteria), skipped)
        return self._selections[key]

    def shared_for(self, request: MeasureRequest) -> Criteria:
        """Return the shared criteria without what the measure is to disregard."""
        return self.without(request, self.shared.criteria)

    def without(self, request: MeasureRequest, criteria: Criteria) -> Criteria:
        """Return criteria without what the measure is to disregard."""
        if not request.regardless:
            return criteria
        left = without_columns(criteria, lambda name: self.disregards(request, name))
        return EVERYTHING if left is None else left

    def disregards(self, request: MeasureRequest, name: str) -> bool:
        """Tell whether the context of a column counts for nothing to the measure.

        Raises `UnknownColumn` for a name that is no column.
        """
        if [each.lower() for each in request.regardless] == ["everything"]:
            return True
        columns = {id(self._known(request, each)) for each in request.regardless}
        return name in self.table and id(self.table.column(name)) in columns

    def _known(self, request: MeasureRequest, name: str) -> Column:
        try:
            return self.table.column(name)
        except UnknownColumn as error:
            raise error.at(f"measure '{request.words}', regardless of") from None

    def own(self, request: MeasureRequest) -> Prepared:
        """Return the measure's own criteria, prepared."""
        if request not in self._own:
            where = EVERYTHING if request.where is None else request.where
            self._own[request] = prepare(where, self.query.settings)
        return self._own[request]

    def _with_keep(self, request: MeasureRequest) -> MeasureRequest:
        return replace(request, keep=request.keep | self.query.keep)

    def _column_of(self, request: MeasureRequest, name: str | None) -> Column | None:
        if name is None:
            return None
        try:
            column = self.table.column(name)
        except UnknownColumn as error:
            raise error.at(f"measure '{request.words}'") from None
        self.columns[column.name] = column
        self.measured.add(column.name)
        return column

    def condition_notices(self, prepared: Prepared) -> tuple[Notice, ...]:
        """Return the notices of every condition of the criteria, and of their preparation."""
        self.binder.probe(prepared.criteria)
        found = list(prepared.notices)
        more: dict[Code, int] = {}
        for condition in conditions(prepared.criteria):
            if len(found) < _MOST_TOLD:
                found.extend(self.binder.notices(condition))
            else:
                for code in self.binder.codes(condition):
                    more[code] = more.get(code, 0) + 1
            column = self.table.column(condition.column)
            self.columns[column.name] = column
        for code, count in more.items():
            text = f"the same goes for {counted(count, 'more condition')} ({code})"
            found.append(Notice(code, text, {"conditions": count}))
        return each_once(found)

    def shared_notices(self) -> tuple[Notice, ...]:
        """Return what concerns every figure: the criteria they share, the columns in play."""
        notices = self.condition_notices(self.shared)
        reading = [
            each
            for column in self.columns.values()
            for each in (*column.notices, *told_look_alikes(column.name, column.look_alikes))
        ]
        header = header_rows(self.table, self.columns.values(), self._matching)
        again = told_header_again(self.table, header)
        told = (*self._double_counting(), *self.where.notices, *self.table.own_notices, *again)
        return each_once((*told, *reading, *notices))

    def _double_counting(self) -> tuple[Notice, ...]:
        """Return notices on totals that figures would count, and that nobody marked."""
        totals = totals_of(self.table) if self.measured else None
        if totals is None or not (totals.suspects or totals.misfits):
            return ()
        return double_counting(self.table, totals, self.measured, self._matching())

    def _matching(self) -> Array:
        return mask_of(self.table, self.shared.criteria, self.binder)
