"""A trial of criteria: edits one after the other, undone and done again, and what each brings."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace
from typing import Any, Unpack

from even_sieve.core.criteria import EVERYTHING, ParameterValue, write_criteria
from even_sieve.core.query import Asked, Query
from even_sieve.core.session.completions import Completion, Completions
from even_sieve.core.session.draft import Draft, first_draft
from even_sieve.core.session.outcome import Outcome, usual_measures, work_out
from even_sieve.core.table import Table
from even_sieve.core.tally import (
    Choice,
    Funnel,
    Listing,
    Plan,
    Tallies,
    list_rows,
    make_funnel,
)
from even_sieve.core.tally.composite_figures import Composites
from even_sieve.core.tally.selection import skipped_marks
from even_sieve.core.understood import refused

#: So many edits can be undone.
_MOST_EDITS = 1_000


class Session:
    """Criteria tried on a table: what is typed, and the figures that move with it.

    `measures` are words of measures, the usual ones if there are none. `where` among the
    keywords of `Asked` becomes the draft where it fits into a criteria range; where it does
    not, it holds beside the draft.

    Edits come back at once; `outcome` works the figures out when it is asked for. Figures stay
    as they were where a cell cannot be read: `figures` are the last good ones.

    >>> from even_sieve.core.table import table_from_columns
    >>> calls = table_from_columns({"zone": ["Outer", "Inner", "Outer"], "dues": [5, 7, 9]})
    >>> trial = Session(calls, ["sum of dues"])
    >>> trial.type("zone", "Outer").outcome.tallies[0].value
    14
    >>> trial.type("zone", "> ").outcome.faults[0].place, trial.figures[0].value
    (0, 14)
    >>> trial.undo().where
    'zone = Outer'
    """

    def __init__(self, table: Table, measures: Iterable[str] = (), **asked: Unpack[Asked]) -> None:
        table = getattr(table, "core", table)
        if not isinstance(table, Table):
            raise refused("what is tried on", "a table", table)
        query = Query.of(**asked)
        self._begin(query.made_table(table), query.of_made_table(), measures)

    @classmethod
    def of_query(cls, query: Query, table: Table, measures: Iterable[str] = ()) -> "Session":
        """Return the trial of a query on a table that is made ready for it."""
        session = cls.__new__(cls)
        session._begin(table, query, measures)
        return session

    def _begin(self, table: Table, query: Query, measures: Iterable[str]) -> None:
        self.table, self.query = table, query
        self.measures: tuple[str, ...] = tuple(measures) or tuple(usual_measures(table))
        criteria = query.criteria(table).criteria
        try:
            draft = first_draft(table, criteria)
            self.query = replace(query, where=())
        except ValueError:
            draft = first_draft(table)
        self._done: list[Draft] = [draft]
        self._undone: list[Draft] = []
        self._good: Outcome | None = None
        self._of = table
        self._last: Outcome | None = None
        self.completions = self._completions_of(table)

    def _completions_of(self, table: Table) -> Completions:
        return Completions(table, self.query.parameters, skipped_marks(self.query.keep))

    @property
    def draft(self) -> Draft:
        """The criteria under edit."""
        return self._done[-1]

    @property
    def besides(self) -> str:
        """The criteria that hold beside the draft, as text; empty for none."""
        found = self.query.criteria(self.table).criteria if self.query.where else EVERYTHING
        return write_criteria(found)

    def begin(self, draft: Draft) -> "Session":
        """Begin anew with a draft: there is nothing to be taken back."""
        self._done, self._undone = [draft], []
        return self

    def change(self, draft: Draft) -> "Session":
        """Take another draft in the place of this one."""
        if draft != self.draft:
            self._done = [*self._done[-_MOST_EDITS:], draft]
            self._undone = []
        return self

    def type(self, column: str | int, text: str, row: int = 0) -> "Session":
        """Type into the cell of a column, by its name or its place, in an alternative, from 0.

        A column that the draft lacks is added. Raises `UnknownColumn`, `CallError`.
        """
        draft = self.draft
        if isinstance(column, str):
            name = self.table.column(column).name
            if name not in draft.columns:
                draft = draft.with_column(name)
            column = draft.columns.index(name)
        return self.change(draft.typed(row, column, text))

    def undo(self) -> "Session":
        """Take the last edit back, if there is one."""
        if len(self._done) > 1:
            self._undone.append(self._done.pop())
        return self

    def redo(self) -> "Session":
        """Make the edit again that was taken back last, if there is one."""
        if self._undone:
            self._done.append(self._undone.pop())
        return self

    def ask(self, *measures: str) -> "Session":
        """Ask for other measures from now on; the usual ones if none is named.

        Raises `MeasureError`, `UnknownColumn` for words that cannot be read.
        """
        wanted = measures or tuple(usual_measures(self.table))
        plan = Plan.of(self.query, self.table)
        for request in Composites.of(plan.requests(wanted)).base:
            plan.job(request)
        self.measures, self._last = tuple(wanted), None
        return self

    def renew(self, table: Table) -> "Session":
        """Go on with a table that was read again, and made ready; what was typed stays."""
        self.table = table
        self.completions = self._completions_of(table)
        self._last = None
        return self

    def work_out(
        self, draft: Draft | None = None, typing: tuple[int, int] | None = None
    ) -> Outcome:
        """Return what comes of a draft, this one if none is given; the session stays as it is.

        It may run on another thread; `take` the outcome when it is there. `typing` is the cell
        of which more may be typed, as in `core.session.work_out`.
        """
        return work_out(self.query, self.table, self.measures, draft or self.draft, typing)

    def take(self, outcome: Outcome) -> Outcome | None:
        """Take in what came of a draft; None where another draft has taken its place since."""
        if outcome.draft != self.draft:
            return None
        good = self._good
        said = self.table, outcome.criteria, outcome.asks
        again = good is not None and said[0] is self._of and said[1:] == (good.criteria, good.asks)
        if good is not None and again:
            self._last = replace(outcome, moves=good.moves)  # nothing was said anew
        else:
            self._last = outcome.since(good)
        if outcome.tallies is not None:
            self._good, self._of = self._last, self.table
        return self._last

    @property
    def outcome(self) -> Outcome:
        """What came of the draft as it is, worked out if it is not yet known."""
        if self._last is None or self._last.draft != self.draft or self._last.half:
            self.take(self.work_out())
        assert self._last is not None
        return self._last

    @property
    def figures(self) -> Tallies | None:
        """The last figures that could be worked out; None if there were none yet."""
        self.outcome  # noqa: B018
        return self.last_figures

    @property
    def last_figures(self) -> Tallies | None:
        """The figures of the last outcome that was taken in and has any; nothing is worked out."""
        return None if self._good is None else self._good.tallies

    @property
    def where(self) -> str:
        """The draft as criteria in one line; empty where no cell sets a condition."""
        return write_criteria(self.draft.read(self.table).criteria)

    def asked(self, draft: Draft | None = None) -> Query:
        """Return what a draft asks, with what is asked besides."""
        criteria = (draft or self.draft).read(self.table).criteria
        return self.query if criteria == EVERYTHING else self.query.narrowed_by(criteria)

    def funnel(self) -> Funnel:
        """Return what each condition of the draft leaves."""
        return make_funnel(self.asked(), self.table)

    def rows(self, limit: int = 200, *, every_row: bool = False) -> Listing:
        """Return the rows that match, or all with the verdict on each."""
        return list_rows(self.asked(), self.table, Choice(limit=limit), every_row=every_row)

    def complete(self, column: str | int, typed: str = "") -> list[Completion]:
        """Return what the cell of a column could say, given what is typed of it."""
        name = self.draft.columns[column] if isinstance(column, int) else column
        return self.completions.of(name, typed)

    def command_words(self, file: str, options: Sequence[str] = ()) -> list[str]:
        """Return the words of the command that gives the same figures."""
        criteria = [each for each in (self.besides, self.where) if each]
        where = [word for each in criteria for word in ("--where", each)]
        return ["even-sieve", "tally", file, *self.measures, *where, *options]

    def block(self, title: str = "") -> dict[str, Any]:
        """Return the block of a report file that holds the same figures."""
        found = {"kind": "figures", "title": title, "measures": list(self.measures)}
        criteria = [f"({each})" for each in (self.besides, self.where) if each]
        if criteria:
            found["where"] = criteria[0][1:-1] if len(criteria) == 1 else " and ".join(criteria)
        return found

    @property
    def parameters(self) -> Mapping[str, ParameterValue]:
        """The parameters that criteria can name."""
        return self.query.parameters
