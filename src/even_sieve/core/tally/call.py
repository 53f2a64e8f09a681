"""One call on one table: its options, its criteria made ready and bound, its columns."""

from dataclasses import dataclass, field, replace

from even_sieve.core.criteria import (
    EVERYTHING,
    Binder,
    Criteria,
    Prepared,
    Settings,
    all_of,
    conditions,
    prepare,
    without_columns,
)
from even_sieve.core.errors import UnknownColumn
from even_sieve.core.measures import (
    MEASURES,
    Keep,
    Measure,
    MeasureRequest,
)
from even_sieve.core.notices import Notice, each_once
from even_sieve.core.table import Column, Mark, Table
from even_sieve.core.tally.passes import MeasureJob
from even_sieve.core.tally.selection import Selection, skipped_marks


@dataclass(frozen=True)
class Options:
    """What all measures of a call share besides their criteria.

    `keep` adds to each measure's own; `threads` is how many share the pass.
    """

    settings: Settings = field(default_factory=Settings)
    keep: frozenset[Keep] = frozenset()
    threads: int = 1


class Call:
    """One call on one table: binds criteria once and keeps what is known of each part."""

    def __init__(self, table: Table, where: Criteria, options: Options) -> None:
        self.table, self.options = table, options
        self.binder = Binder(table)
        self.shared = prepare(where, options.settings)
        self.columns: dict[str, Column] = {}
        self._selections: dict[tuple[Criteria, Mark], Selection] = {}
        self._own: dict[MeasureRequest, Prepared] = {}
        self.own_notices: dict[MeasureRequest, tuple[Notice, ...]] = {}

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
            self._selections[key] = Selection(self.binder.probe(criteria), skipped)
        return self._selections[key]

    def shared_for(self, request: MeasureRequest) -> Criteria:
        """Return the shared criteria without what the measure is to disregard."""
        if not request.regardless:
            return self.shared.criteria
        left = without_columns(self.shared.criteria, lambda name: self.disregards(request, name))
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

    def prepared(self, criteria: Criteria) -> Criteria:
        """Return other criteria with the settings of the call put in."""
        return prepare(criteria, self.options.settings).criteria

    def own(self, request: MeasureRequest) -> Prepared:
        """Return the measure's own criteria, prepared."""
        if request not in self._own:
            where = EVERYTHING if request.where is None else request.where
            self._own[request] = prepare(where, self.options.settings)
        return self._own[request]

    def _with_keep(self, request: MeasureRequest) -> MeasureRequest:
        return replace(request, keep=request.keep | self.options.keep)

    def _column_of(self, request: MeasureRequest, name: str | None) -> Column | None:
        if name is None:
            return None
        try:
            column = self.table.column(name)
        except UnknownColumn as error:
            raise error.at(f"measure '{request.words}'") from None
        self.columns[column.name] = column
        return column

    def condition_notices(self, prepared: Prepared) -> tuple[Notice, ...]:
        """Return the notices of every condition of the criteria, and of their preparation."""
        self.binder.probe(prepared.criteria)
        found = list(prepared.notices)
        for condition in conditions(prepared.criteria):
            found.extend(self.binder.notices(condition))
            column = self.table.column(condition.column)
            self.columns[column.name] = column
        return each_once(found)

    def shared_notices(self) -> tuple[Notice, ...]:
        """Return what concerns every figure: the criteria they share, the columns in play."""
        notices = self.condition_notices(self.shared)
        reading = [each for column in self.columns.values() for each in column.notices]
        return each_once((*self.table.own_notices, *reading, *notices))
