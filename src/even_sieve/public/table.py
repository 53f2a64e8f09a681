"""The table that Python programs work with."""

from collections.abc import Iterable, Mapping, Sequence
from datetime import date
from pathlib import Path
from typing import TYPE_CHECKING, Any, overload

from even_sieve.core import tally as core
from even_sieve.core.cells import Cell
from even_sieve.core.criteria import ParameterValue
from even_sieve.core.errors import CallError
from even_sieve.core.measures import MeasureRequest, parse_measures
from even_sieve.core.notices import Notice, each_once
from even_sieve.core.table import (
    Profile,
    Suspect,
    find_subtotals,
    profile,
)
from even_sieve.core.tally import Heading, LineSet, Together, Wanted, make_lines
from even_sieve.public.criteria import Where, read_where
from even_sieve.public.results import Breakdown, Bridge, Funnel, Tallies
from even_sieve.public.shaping import Shaping
from even_sieve.sinks.files import write_file
from even_sieve.views.listing import Choice, Listing, list_rows

if TYPE_CHECKING:
    import pandas as pd

_SHOWN = 20


class Table(Shaping):
    """Named columns of equal length with marks on rows. Made by `read_table` and `table_from`.

    Tables do not change: `mark` and `sift` return new ones.
    """

    def __len__(self) -> int:
        return self.core.length

    @property
    def notices(self) -> tuple[Notice, ...]:
        """What the reader met on the way."""
        return self.core.notices

    @property
    def row_numbers(self) -> tuple[int, ...]:
        """The source's number of each row."""
        return tuple(self.core.number(row) for row in range(len(self)))

    def column(self, name: str) -> list[Cell]:
        """Return the cells of a column. Raises `UnknownColumn`."""
        return list(self.core.column(name).cells())

    @overload
    def tally(
        self,
        *measures: str | MeasureRequest,
        where: Where = None,
        by: None = None,
        keep: str | Iterable[str] = (),
        parameters: Mapping[str, ParameterValue] | None = None,
        as_of: date | None = None,
        fiscal_start: int = 1,
        threads: int | None = None,
    ) -> Tallies: ...

    @overload
    def tally(
        self,
        *measures: str | MeasureRequest,
        where: Where = None,
        by: str | Sequence[str],
        across: str | None = None,
        sort: str | None = None,
        top: int | None = None,
        keep: str | Iterable[str] = (),
        parameters: Mapping[str, ParameterValue] | None = None,
        as_of: date | None = None,
        fiscal_start: int = 1,
        threads: int | None = None,
    ) -> Breakdown: ...

    def tally(
        self,
        *measures: str | MeasureRequest,
        where: Where = None,
        by: str | Sequence[str] | None = None,
        across: str | None = None,
        sort: str | None = None,
        top: int | None = None,
        keep: str | Iterable[str] = (),
        parameters: Mapping[str, ParameterValue] | None = None,
        as_of: date | None = None,
        fiscal_start: int = 1,
        threads: int | None = None,
    ) -> Tallies | Breakdown:
        """Return the measures over the rows that match, each figure with its account.

        `measures` are written as `sum of dues where status = late keep hidden`. `where` is
        criteria (text, nodes, a criteria range, or several, of which all must hold). With
        `by` there is a line for each group of an axis, or of several, and a total: a column,
        `arrived by month` (year, quarter, month, week, day), `dues in bands 0, 100`, or
        `vessel as Heron | B*` for given labels. `across` sets one more axis side by side;
        `sort` is a measure's name or `label`, with `asc` or `desc`; `top` keeps so many lines
        and sums up the others. `keep` takes back
        in what is left out: hidden, filtered, subtotals, blanks, errors. `parameters` are
        the values for `{name}` in criteria, `as_of` the date for windows such as
        `last 30 days` (today if left out), `fiscal_start` the first month of the fiscal
        year. The figures are the same, to the last bit, on any number of `threads`.

        Raises `CallError` for words that cannot be read, `UnknownColumn` for a column that
        is not there, `UnsuitableColumn` for a measure that a column cannot give.

        >>> from even_sieve import table_from
        >>> calls = table_from({"zone": ["Outer", "Inner", "Outer"], "dues": [0.1, 5, 0.2]})
        >>> calls.tally("sum of dues", where="zone = Outer")[0].value
        0.3
        """
        asked = measures or ("rows",)
        requests = parse_measures(asked, self.names)
        options = self._options(keep, parameters, as_of, fiscal_start, threads)
        read = read_where(where, self.names)
        if by is None:
            if across is not None or sort is not None or top is not None:
                raise CallError("across, sort and top go with by\nWrite for example: by zone")
            found = core.tally(self.core, requests, read.criteria, options)
            return Tallies.of(found.with_notices(read.notices))
        axes = (by,) if isinstance(by, str) else tuple(by)
        if not axes:
            raise CallError("by needs at least one axis\nWrite for example: by zone")
        layout = core.Layout(axes, across, sort, top)
        lines = core.break_down(self.core, requests, layout, read.criteria, options)
        return Breakdown.of(lines.with_notices(read.notices))

    def lines(
        self,
        *measures: str | MeasureRequest,
        wanted: Iterable[Heading | Wanted | Together],
        where: Where = None,
        keep: str | Iterable[str] = (),
        parameters: Mapping[str, ParameterValue] | None = None,
        as_of: date | None = None,
        fiscal_start: int = 1,
    ) -> LineSet:
        """Return labelled lines, each with criteria of its own, and sums of others.

        `wanted` are headings, lines of rows, and lines of others (`Together`, with a minus
        before what is taken off). Lines that share rows, and rows in no line, are told. The
        keywords are those of `tally`.
        """
        requests = parse_measures(measures, self.names)
        options = self._options(keep, parameters, as_of, fiscal_start, None)
        criteria = read_where(where, self.names).criteria
        return make_lines(self.core, requests, list(wanted), criteria, options)

    def bridge(
        self,
        measure: str | MeasureRequest,
        *,
        where: Where = None,
        keep: str | Iterable[str] = (),
        parameters: Mapping[str, ParameterValue] | None = None,
        as_of: date | None = None,
        fiscal_start: int = 1,
    ) -> Bridge:
        """Return the walk from the bare column total to the figure, one step a reason.

        Less subtotals, hidden rows, filtered rows, then each condition in turn; it adds up
        exactly or raises `AccountError`. The keywords are those of `tally`. Raises
        `CallError` for a measure whose parts do not add up.

        >>> from even_sieve import table_from
        >>> calls = table_from({"vessel": ["Heron", "Eider", "Total"], "dues": [120, 80, 200]})
        >>> steps = calls.mark(subtotal=[3]).bridge("sum of dues", where="vessel = Heron").steps
        >>> [(step.label, step.rows, int(step.amount)) for step in steps[1:]]
        [('subtotal rows', -1, -200), ('not: vessel = Heron', -1, -80), ('sum of dues', 1, 120)]
        """
        (asked,) = parse_measures([measure], self.names)
        options = self._options(keep, parameters, as_of, fiscal_start, None)
        read = read_where(where, self.names)
        return Bridge.of(core.make_bridge(self.core, asked, read.criteria, options))

    def find_subtotals(self) -> tuple[Suspect, ...]:
        """Return the rows whose numbers equal the sum of the rows above them.

        Nothing is marked: `mark(subtotal="found")` does that.
        """
        return find_subtotals(self.core)

    def profile(self) -> Profile:
        """Return what each column holds, and what to look at first."""
        return profile(self.core)

    def write(self, path: str | Path, *, leave_formulas: bool = False) -> None:
        """Write the table to a file: .csv, .jsonl, .parquet, .arrow, .ods or .xlsx.

        Marks stand in a column `mark`: `read_table(path).mark(by="mark")` has them again,
        and gives the same tallies. The old file stays whole if writing fails. In CSV a
        text that a spreadsheet would run as a formula is made harmless unless it is left.
        """
        write_file(self.core, path, leave_formulas=leave_formulas)

    def to_arrow(self) -> Any:
        """Return an Arrow table; blanks are nulls, and mixed columns are spelt out."""
        from even_sieve.sinks.arrow import to_arrow

        return to_arrow(self.core)

    def to_frame(self) -> "pd.DataFrame":
        """Return a pandas data frame of the cells, the source's row numbers as its index."""
        import pandas as pd

        cells = {name: self.column(name) for name in self.names}
        index = pd.Index(self.row_numbers, name="row")
        return pd.DataFrame({name: pd.Series(c, index=index) for name, c in cells.items()})

    def __repr__(self) -> str:
        from even_sieve.views import terminal

        return terminal.show_rows(self._listing())

    def _repr_html_(self) -> str:
        from even_sieve.views import html

        return html.show_rows(self._listing())

    def listing(
        self,
        where: Where = None,
        *,
        keep: str | Iterable[str] = (),
        parameters: Mapping[str, ParameterValue] | None = None,
        as_of: date | None = None,
        fiscal_start: int = 1,
        choice: Choice | None = None,
        every_row: bool = False,
    ) -> Listing:
        """Return the rows that match and that no mark leaves out, to be shown.

        Each comes with its number in the source; the choice says which columns, in which
        order, and how many. With `every_row` all rows come, each with a verdict.
        """
        options = self._options(keep, parameters, as_of, fiscal_start, None)
        read = read_where(where, self.names)
        if every_row:
            call = core.Call(self.core, read.criteria, options)
            reasons = core.verdicts(call)
            told = each_once((*read.notices, *call.shared_notices()))
            every = range(len(self))
            return list_rows(self.core, every, choice=choice, notices=told, verdicts=reasons)
        rows, notices = core.matching_rows(self.core, read.criteria, options)
        told = each_once((*read.notices, *notices))
        return list_rows(self.core, rows.tolist(), choice=choice, notices=told)

    def funnel(
        self,
        where: Where,
        *,
        keep: str | Iterable[str] = (),
        parameters: Mapping[str, ParameterValue] | None = None,
        as_of: date | None = None,
        fiscal_start: int = 1,
    ) -> Funnel:
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
        options = self._options(keep, parameters, as_of, fiscal_start, None)
        criteria = read_where(where, self.names).criteria
        return Funnel.of(core.make_funnel(self.core, criteria, options))

    def _listing(self) -> Listing:
        choice = Choice(limit=_SHOWN)
        return list_rows(self.core, range(len(self)), choice=choice, notices=self.notices)
