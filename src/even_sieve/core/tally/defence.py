"""What stands beside an answer: its explanations, its recheck, the rows of its buckets.

Each takes the query, the table and the answer: an answer by itself holds neither.
"""

from collections.abc import Iterator

from even_sieve.core.cells import CellError
from even_sieve.core.criteria import all_of
from even_sieve.core.errors import CallError, RecheckError, listed
from even_sieve.core.progress import steps
from even_sieve.core.query import Query
from even_sieve.core.recheck import Question, RowByRow, read_given_again
from even_sieve.core.table import Table
from even_sieve.core.tally.agreement import (
    Recheck,
    Rechecks,
    compare,
    compare_composite,
)
from even_sieve.core.tally.answers import Breakdown, Tallies, Tally
from even_sieve.core.tally.bridge import Bridge
from even_sieve.core.tally.buckets import RowBuckets
from even_sieve.core.tally.explain import (
    Explanation,
    Explanations,
    explain_composite,
    explain_figure,
)
from even_sieve.core.tally.keyed_lines import stretches_of
from even_sieve.core.tally.lines import Counted, LineSet
from even_sieve.core.tally.plan import Plan
from even_sieve.core.understood import refused

Defended = Tally | Tallies | Breakdown | LineSet | Bridge


class Defence:
    """Works out what backs the figures of one table; what they share is worked out once.

    The table is made ready as the query of each figure says or, where that says nothing, as
    the given query does.
    """

    def __init__(self, query: Query, table: Table) -> None:
        self.query, self.table = query, table
        self._made: list[_Made] = []

    def rows(self, tally: Tally, bucket: str = "used") -> tuple[int, ...]:
        """Return the source's numbers of the rows in a bucket of the figure's account.

        Raises `CallError` for a word that is no bucket, or for a figure worked out from
        others, which have the rows.
        """
        if tally.parts:
            names = listed([part.name for part in tally.parts])
            raise CallError(f"'{tally.name}' is worked out from other figures\nAsk {names}")
        _, buckets = self._planned(tally)
        return tuple(buckets.rows_in(tally.request, tally.place, bucket))

    def explain(self, tally: Tally) -> Explanation:
        """Return what the figure is, of which rows, and where every other row went."""
        if tally.parts:
            parts = tuple(map(self.explain, tally.parts))
            return explain_composite(tally, parts)
        plan, buckets = self._planned(tally)
        return explain_figure(plan, tally, buckets.of(tally.request, tally.place))

    def recheck(self, tally: Tally) -> Recheck:
        """Return the figure worked out again, row by row, by slow and separate code.

        Raises `RecheckError` naming the first row that stands in another bucket, or both
        figures if they differ. Of a figure worked out from others these are worked out again,
        and it from them; `CallError` for a running total, whose lines can be rechecked.
        """
        if len(tally.parts) == 1:
            part = tally.parts[0].name
            raise CallError(f"'{tally.name}' adds up lines\nRecheck '{part}' in each")
        if tally.parts:
            return compare_composite(tally, [self.recheck(part) for part in tally.parts])
        plan, buckets = self._planned(tally)
        again = self._made_for(tally).again.work_out(_question(plan, tally))
        fast = buckets.everywhere(tally.request)
        place = buckets.in_place(tally.place) if tally.place else None
        return compare(tally, again, fast, place, plan.table)

    def _planned(self, tally: Tally) -> tuple[Plan, RowBuckets]:
        """Return the plan of the query that the figure answers."""
        made, asked = self._made_for(tally), tally.query.of_made_table()
        for query, plan, buckets in made.plans:
            if query == asked:
                return plan, buckets
        plan = Plan.of(asked, made.table)
        made.plans.append((asked, plan, RowBuckets(plan)))
        return made.plans[-1][1:]

    def _made_for(self, tally: Tally) -> "_Made":
        """Return the table that the figure is one of."""
        query = tally.query if tally.query.making else tally.query.made_as(self.query)
        for made in self._made:
            if list(map(id, made.making)) == list(map(id, query.making)):
                return made
        self._made.append(_Made(query.making, query.made_table(self.table)))
        return self._made[-1]


class _Made:
    """A table made ready, the plans of the queries on it, and its second way."""

    def __init__(self, making: tuple[object, ...], table: Table) -> None:
        self.making, self.table = making, table
        self.plans: list[tuple[Query, Plan, RowBuckets]] = []
        self.again = RowByRow(table)


def _question(plan: Plan, tally: Tally) -> Question:
    """Return what is to be worked out: the words of the criteria are read once more for it."""
    request, query = tally.request, plan.query
    try:
        shared = read_given_again(query.where, plan.table.names, query.settings)
        own = read_given_again(
            [request.where_words or request.where], plan.table.names, query.settings
        )
    except (ValueError, LookupError) as error:
        fact = f"its criteria could not be read a second time: {error}"
        raise RecheckError(tally.full_name, fact) from error
    return Question(
        plan.job(request).measure.request,
        plan.without(request, shared),
        own,
        all_of(group.criteria for group in tally.place),
        tuple(group.error for group in tally.place if group.error is not None),
    )


def explain(query: Query, table: Table, answer: Defended) -> Explanations:
    """Return the explanation of every figure; of a breakdown those of its total.

    >>> import even_sieve
    >>> calls = even_sieve.table_from({"zone": ["Outer", "Inner"], "dues": [120, 80]})
    >>> made = even_sieve.Query.of(where="zone = Outer")
    >>> found = calls.tally("sum of dues", where="zone = Outer")
    >>> len(even_sieve.explain(made, calls.core, found))
    1
    """
    defence = Defence(query, table)
    figures = answer.total if isinstance(answer, Breakdown) else list(figures_of(answer))
    return Explanations(tuple((each, defence.explain(each)) for each in figures))


def recheck(query: Query, table: Table, answer: Defended) -> Rechecks:
    """Return every figure worked out again, each once; the table is gone through once.

    Passed over is an `only` that a total has no value for. Raises `RecheckError`.

    >>> import even_sieve
    >>> calls = even_sieve.table_from({"zone": ["Outer", "Inner"], "dues": [120, 80]})
    >>> made = even_sieve.Query.of(where="zone = Outer")
    >>> found = calls.tally("sum of dues", where="zone = Outer")
    >>> even_sieve.recheck(made, calls.core, found)[0].again
    120
    """
    defence = Defence(query, table)
    every = {id(each): each for tally in figures_of(answer) for each in _of_rows(tally)}
    checked = [e for e in every.values() if e.request.kind != "only" or e.value is not None]
    return Rechecks(tuple(map(defence.recheck, steps(checked, "rechecking"))))


def figures_of(answer: Defended) -> Iterator[Tally]:
    """Yield every figure of an answer."""
    if isinstance(answer, Tally):
        yield answer
    elif isinstance(answer, Breakdown):
        yield from answer.tallies
    elif isinstance(answer, LineSet):
        for entry in answer:
            yield from entry.tallies if isinstance(entry, Counted) else ()
    elif isinstance(answer, Bridge | Tallies):
        yield from [answer.tally] if isinstance(answer, Bridge) else answer
    else:
        raise refused("an answer", "what `tally`, `lines` or `bridge` gave", answer)


def has_error(answer: Defended) -> bool:
    """Tell whether a figure of an answer is an error that was kept."""
    if not isinstance(answer, Breakdown):
        return any(isinstance(each.value, CellError) for each in figures_of(answer))
    kept = [tally for line in (answer.rest,) if line is not None for tally in line.tallies]
    values = [tally.value for tally in (*kept, *answer.total)]
    for lines in (answer.lines, answer.subtotals):  # as columns: the lines are not made for it
        for place in range(len(answer.total)):
            for some in stretches_of(lines, place):
                if any(issubclass(each, CellError) for each in set(map(type, some))):
                    return True
    return any(isinstance(each, CellError) for each in values)


def _of_rows(tally: Tally) -> Iterator[Tally]:
    """Yield the figure, or the one of a line's rows that it goes on from: a running total."""
    if len(tally.parts) == 1:
        yield from _of_rows(tally.parts[0])
    else:
        yield tally
