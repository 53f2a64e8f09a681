"""The rows of a table that match, or all of them with a verdict on each."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from even_sieve.core.answer import Answer
from even_sieve.core.cells import Cell
from even_sieve.core.cells.quoting import split_direction, unquoted
from even_sieve.core.criteria import EVERYTHING
from even_sieve.core.notices import Notice, counted
from even_sieve.core.query import Query
from even_sieve.core.table import Table
from even_sieve.core.table.arrays import BLOCK, spans
from even_sieve.core.table.lanes import Array
from even_sieve.core.table.sorting import sort_keys
from even_sieve.core.tally.counting import find_rows
from even_sieve.core.tally.doubts import refuse_doubts
from even_sieve.core.tally.plan import Plan
from even_sieve.core.tally.verdicts import verdicts


@dataclass(frozen=True)
class Choice:
    """Which columns to show (none: all), in which order of rows, and how many at the most.

    `sort` names columns, each with `desc` after it for the other way.

    >>> Choice(columns=("zone", "dues"), sort=("dues desc",), limit=10).limit
    10
    """

    columns: tuple[str, ...] = ()
    sort: tuple[str, ...] = ()
    limit: int | None = None


@dataclass(frozen=True, repr=False)
class Listing(Answer):
    """Rows to show: the source's number of each, and its cells under the column names.

    `matching` and `rows_in_table` say how many there are; fewer may be listed. `verdicts`
    are there where all rows are shown: empty for one that matches, else why it is out.
    `decimals` are how many each column is written with, `shown` how its source shows numbers.

    >>> from even_sieve import Choice, table_from
    >>> calls = table_from({"zone": ["Outer", "Inner"], "dues": [120, 80]})
    >>> found = calls.listing(choice=Choice(("dues",), ("dues desc",)))
    >>> found.rows, found.numbers
    (((120,), (80,)), (1, 2))
    """

    names: tuple[str, ...]
    numbers: tuple[int, ...]
    rows: tuple[tuple[Cell, ...], ...]
    matching: int
    rows_in_table: int
    notices: tuple[Notice, ...] = ()
    verdicts: tuple[str, ...] | None = None
    decimals: tuple[int, ...] = ()
    shown: tuple[str, ...] = ()

    @property
    def counted(self) -> str:
        """How many rows match, in words."""
        more = ""
        if self.verdicts is None and len(self.rows) < self.matching:
            more = f", the first {len(self.rows):,} are shown"
        elif self.verdicts is not None and len(self.rows) < self.rows_in_table:
            more = f"; of all rows the first {len(self.rows):,} are shown"
        verb = "matches" if self.matching == 1 else "match"
        return f"{self.matching:,} of {counted(self.rows_in_table, 'row')} {verb}{more}"

    @property
    def shown_verdicts(self) -> tuple[str, ...]:
        """The verdict on each row as it is shown: `matches`, or why it is out."""
        return tuple(verdict or "matches" for verdict in self.verdicts or ())


def list_rows(
    query: Query, table: Table, choice: Choice | None = None, *, every_row: bool = False
) -> Listing:
    """Return the rows that match and that no mark leaves out, sorted and cut as chosen.

    With `every_row` all rows come, each with a verdict.
    """
    plan = Plan.of(query, table)
    refuse_doubts(query, plan.shared_notices())
    if every_row:
        plan.refuse_unread(EVERYTHING)
        reasons = verdicts(plan)
        return _listing(plan, choice, np.arange(plan.table.length), reasons)
    rows = find_rows(plan, plan.shared.criteria, plan.skipped)
    return _listing(plan, choice, rows, None)


def _listing(
    plan: Plan, choice: Choice | None, rows: Array, verdicts: Sequence[str] | None
) -> Listing:
    choice, table = choice or Choice(), plan.table
    given = {column.name for column in plan.asked.given}  # no columns of the source
    columns = [table.column(unquoted(name)) for name in choice.columns] or [
        column for column in table.columns if column.name not in given
    ]
    shown = _sorted(table, rows, choice.sort, choice.limit).tolist()
    return Listing(
        tuple(column.name for column in columns),
        tuple(table.number(row) for row in shown),
        tuple(zip(*(column.cells(shown) for column in columns), strict=True)),
        len(rows) if verdicts is None else sum(not each for each in verdicts),
        table.rows_in_all,
        plan.shared_notices(),
        None if verdicts is None else tuple(verdicts[row] for row in shown),
        tuple(column.decimals for column in columns),
        tuple(column.shown for column in columns),
    )


def _sorted(table: Table, positions: Array, sort: Sequence[str], limit: int | None) -> Array:
    """Return the positions in the order of the named columns, the first one foremost.

    Blanks and errors come last, whichever way a column is sorted; equal rows stay in the
    order of the source. With a limit only so many are held at a time.
    """
    if not sort:
        return positions[:limit]
    named = (split_direction(name, table.names) for name in reversed(sort))
    keys = [sort_keys(table.column(name), descending=way == "desc") for name, way in named]
    found = positions[:0]
    size = len(positions) if limit is None else max(BLOCK, limit)
    for rows in spans(len(positions), max(size, 1)):
        some = np.concatenate((found, positions[rows]))
        order = np.lexsort([key for own in keys for key in own(some)])
        found = some[order][:limit]
    return found
