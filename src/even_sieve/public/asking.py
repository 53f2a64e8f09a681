"""What can be asked of a table, and what backs an answer."""

from collections.abc import Iterable, Mapping, Sequence
from typing import Any, TypeAlias, Unpack, overload

from even_sieve.core.criteria import Criteria, Where
from even_sieve.core.errors import CallError
from even_sieve.core.measures import MeasureRequest
from even_sieve.core.query import Asked, Query
from even_sieve.core.table import Table as CoreTable
from even_sieve.core.tally import (
    Breakdown,
    Bridge,
    Choice,
    Defence,
    Explanations,
    Funnel,
    Heading,
    Layout,
    LineRows,
    LineSet,
    Listing,
    Rechecks,
    Tallies,
    Tally,
    Together,
    break_down,
    explain,
    list_rows,
    make_bridge,
    make_funnel,
    make_lines,
    recheck,
    tally,
)
from even_sieve.core.understood import refused, text_of, texts_of, whole_of

#: One measure, several, or several under names of one's own.
Measures: TypeAlias = "str | MeasureRequest | Iterable[str | MeasureRequest] | Mapping[str, str]"


def measures_of(given: Iterable[Measures]) -> list[str | MeasureRequest]:
    """Return measures that were given one by one, in lists, or under names of their own."""
    found: list[str | MeasureRequest] = []
    for each in given:
        if isinstance(each, Mapping):
            found += [f"{text_of('the name of a measure', n)} = {each[n]}" for n in each]
        elif isinstance(each, Iterable) and not isinstance(each, str | MeasureRequest):
            found += each
        else:
            found.append(each)
    return found


def entries_of(given: Any) -> list[Heading | LineRows | Together]:
    """Return the entries of lines: as they are, or from labels with criteria."""
    if isinstance(given, Mapping):
        given = given.items()
    accepted = "Heading, LineRows, Together, or labels with their criteria"
    if isinstance(given, str) or not isinstance(given, Iterable):
        raise refused("entries", accepted, given)
    found: list[Heading | LineRows | Together] = []
    for each in given:
        if isinstance(each, tuple) and len(each) == 2 and isinstance(each[0], str):
            found.append(LineRows(*each))
        elif isinstance(each, Heading | LineRows | Together):
            found.append(each)
        else:
            raise refused("an entry of lines", accepted, each)
    return found


class Asking:
    """Asks a table. All methods take the same keywords: see `Asked`."""

    core: CoreTable

    def _by_example(self) -> str:
        return f"Write for example: by={self.core.names[0]!r}" if self.core.names else ""

    @overload
    def tally(self, *measures: Measures, by: None = None, **asked: Unpack[Asked]) -> Tallies: ...

    @overload
    def tally(
        self,
        *measures: Measures,
        by: str | Sequence[str],
        across: str | None = None,
        sort: str | None = None,
        top: int | None = None,
        **asked: Unpack[Asked],
    ) -> Breakdown: ...

    def tally(
        self,
        *measures: Measures,
        by: str | Sequence[str] | None = None,
        across: str | None = None,
        sort: str | None = None,
        top: int | None = None,
        **asked: Unpack[Asked],
    ) -> Tallies | Breakdown:
        """Return the measures over the rows that match, each figure with its account.

        `measures` are written as `sum of dues where status = late keep hidden`, each by itself
        or in lists; a mapping gives them names. With
        `by` there is a line for each group of an axis, or of several, and a total: a column,
        `arrived by month` (year, quarter, month, week, day), `dues in bands 0, 100`, or
        `vessel as Heron | B*` for given labels. `across` sets one more axis side by side;
        `sort` is a measure's name or `label`, with `asc` or `desc`; `top` keeps so many lines
        and sums up the others. The other keywords are those of `Asked`.

        Raises `CallError` for words that cannot be read, `UnknownColumn` for a column that
        is not there, `UnsuitableColumn` for a measure that a column cannot give.

        >>> from even_sieve import table_from
        >>> calls = table_from({"zone": ["Outer", "Inner", "Outer"], "dues": [0.1, 5, 0.2]})
        >>> calls.tally("sum of dues", where="zone = Outer")[0].value
        0.3
        """
        query, asked_for = Query.of(**asked), measures_of(measures)
        if by is None:
            if across is not None or sort is not None or top is not None:
                raise CallError(f"across, sort and top go with by\n{self._by_example()}")
            return tally(query, self.core, asked_for)
        axes = texts_of("by", by, "an axis as text, or several of them")
        if not axes:
            raise CallError(f"by needs at least one axis\n{self._by_example()}")
        layout = Layout(
            axes,
            None if across is None else text_of("across", across, "one axis as text"),
            None if sort is None else text_of("sort", sort, "a measure's name, or label, as text"),
            None if top is None else whole_of("top", top, 1),
        )
        return break_down(query, self.core, asked_for, layout)

    def lines(
        self,
        *measures: Measures,
        entries: Iterable[Heading | LineRows | Together] | Mapping[str, str | Criteria],
        **asked: Unpack[Asked],
    ) -> LineSet:
        """Return labelled lines, each with criteria of its own, and sums of others.

        `entries` are headings, lines of rows, and lines of others (`Together`, with a minus
        before what is taken off); or labels with their criteria. Lines that share rows, and rows
        in no line, are told.

        >>> from even_sieve import Heading, LineRows, Together, table_from
        >>> calls = table_from({"zone": ["Outer", "Inner"], "dues": [120.5, 80]})
        >>> found = calls.lines("sum of dues", entries=[
        ...     LineRows("outer", "zone = Outer"), LineRows("inner", "zone = Inner"),
        ...     Together("both", ("outer", "inner"))])
        >>> float(found["both"].amounts[0])
        200.5
        """
        query = Query.of(**asked)
        return make_lines(query, self.core, measures_of(measures), entries_of(entries))

    def bridge(self, measure: str | MeasureRequest, **asked: Unpack[Asked]) -> Bridge:
        """Return the walk from the bare column total to the figure, one step a reason.

        Less subtotals, hidden rows, filtered rows, then each condition in turn; it adds up
        exactly or raises `AccountError`. Raises `CallError` for a measure whose parts do not
        add up.

        >>> from even_sieve import table_from
        >>> calls = table_from({"vessel": ["Heron", "Eider", "Total"], "dues": [120, 80, 200]})
        >>> steps = calls.mark(subtotal=[3]).bridge("sum of dues", where="vessel = Heron").steps
        >>> [(step.label, step.rows, int(step.amount)) for step in steps[1:]]
        [('subtotal rows', -1, -200), ('not: vessel = Heron', -1, -80), ('sum of dues', 1, 120)]
        """
        if not isinstance(measure, str | MeasureRequest):
            raise refused("the measure of a bridge", "a text such as 'sum of dues'", measure)
        return make_bridge(Query.of(**asked), self.core, measure)

    def funnel(self, where: Where = None, /, **asked: Unpack[Asked]) -> Funnel:
        """Return how the criteria come to the rows that match.

        For each condition: how many rows it holds for by itself, and how many are left
        after it in turn; for each alternative: how many rows it brings, alone and beyond
        the others.

        >>> from even_sieve import table_from
        >>> calls = table_from({"zone": ["Outer", "Inner", "Outer"], "dues": [120, 5, 7]})
        >>> steps = calls.funnel("zone = Outer and dues > 100").alternatives[0].steps
        >>> [(step.condition, step.alone, step.left) for step in steps]
        [('zone = Outer', 2, 2), ('dues > 100', 1, 1)]
        """
        return make_funnel(Query.of(**asked).narrowed_by(where), self.core)

    def listing(
        self,
        where: Where = None,
        /,
        *,
        choice: Choice | None = None,
        every_row: bool = False,
        **asked: Unpack[Asked],
    ) -> Listing:
        """Return the rows that match and that no mark leaves out, to be shown.

        Each comes with its number in the source; the choice says which columns, in which
        order, and how many. With `every_row` all rows come, each with a verdict.

        >>> from even_sieve import table_from
        >>> calls = table_from({"zone": ["Outer", "Inner"], "dues": [120, 80]})
        >>> calls.listing("zone = Inner").rows, calls.listing("zone = Inner").numbers
        ((('Inner', 80),), (2,))
        """
        query = Query.of(**asked).narrowed_by(where)
        return list_rows(query, self.core, choice, every_row=every_row)

    def explain(self, answer: Tally | Tallies | Breakdown | LineSet | Bridge) -> Explanations:
        """Return what backs an answer of this table: what it is, and where each row went.

        >>> from even_sieve import table_from
        >>> calls = table_from({"zone": ["Outer", "Inner"], "dues": [120, 80]})
        >>> print(calls.explain(calls.tally("sum of dues", where="zone = Outer"))[0])
        sum of dues:
          the exact sum of the numbers, rounded once, in column 'dues'
          rows that match: zone is Outer
          of 2 rows:
            1 does not match (row 2)
            1 used (row 1)
        """
        return explain(Query(), self.core, answer)

    def recheck(self, answer: Tally | Tallies | Breakdown | LineSet | Bridge) -> Rechecks:
        """Work an answer of this table out again, row by row, by separate code, and compare.

        Raises `RecheckError` naming the first row that stands in another bucket, or both
        figures if they differ.

        >>> from even_sieve import table_from
        >>> calls = table_from({"dues": [120.5, 80]})
        >>> print(calls.recheck(calls.tally("sum of dues"))[0])
        sum of dues: agrees: 200.5, row by row 200.5; all 2 rows in the same buckets
        """
        return recheck(Query(), self.core, answer)

    def rows(self, figure: Tally, bucket: str = "used") -> tuple[int, ...]:
        """Return the source's numbers of the rows in a bucket of a figure's account.

        Raises `CallError` for a word that is no bucket, or a figure worked out from others.

        >>> from even_sieve import table_from
        >>> calls = table_from({"dues": [120.5, "waived", 80]})
        >>> calls.rows(calls.tally("sum of dues")[0], "not a number")
        (2,)
        """
        if not isinstance(figure, Tally):
            raise refused("the figure", "one tally, such as found[0]", figure)
        return Defence(Query(), self.core).rows(figure, text_of("bucket", bucket))
