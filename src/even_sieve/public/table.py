"""The table that Python programs work with."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING, Any, Self, Unpack

from even_sieve.core.cells import Cell
from even_sieve.core.criteria import Where
from even_sieve.core.measures import Keep
from even_sieve.core.notices import Notice, each_once
from even_sieve.core.query import Asked, LookUp, Query
from even_sieve.core.query.asked import derived_of
from even_sieve.core.table import Profile, Suspect, find_subtotals, profile
from even_sieve.core.table import Table as CoreTable
from even_sieve.core.tally import (
    Choice,
    Listing,
    list_rows,
    matching_rows,
)
from even_sieve.core.understood import text_of
from even_sieve.public.asking import Asking
from even_sieve.sinks.files import write_file
from even_sieve.sources.paths import path_of

if TYPE_CHECKING:
    import pandas as pd

_SHOWN = 20
_EVERY_MARK = frozenset({Keep.HIDDEN, Keep.FILTERED, Keep.SUBTOTALS})


class Table(Asking):
    """Named columns of equal length with marks on rows. Made by `read_table` and `table_from`.

    Tables do not change: `mark`, `sift`, `derive` and `look_up` return new ones. All that asks
    a table takes the same keywords: see `Asked`.

    >>> from even_sieve import table_from
    >>> calls = table_from({"zone": ["Outer", "Inner"], "dues": [120.5, 80]})
    >>> len(calls), calls.names, calls.row_numbers
    (2, ('zone', 'dues'), (1, 2))
    """

    def __init__(self, core_table: CoreTable) -> None:
        self.core = core_table

    def __len__(self) -> int:
        return self.core.length

    @property
    def names(self) -> tuple[str, ...]:
        """The column names, in order."""
        return self.core.names

    @property
    def notices(self) -> tuple[Notice, ...]:
        """What the reader met on the way."""
        return self.core.notices

    @property
    def row_numbers(self) -> tuple[int, ...]:
        """The source's number of each row."""
        return tuple(self.core.number(row) for row in range(len(self)))

    def column(self, name: str) -> list[Cell]:
        """Return the cells of a column. Raises `UnknownColumn`.

        >>> from even_sieve import table_from
        >>> table_from({"dues": [120.5, None, "waived"]}).column("dues")
        [120.5, None, 'waived']
        """
        name = text_of("a column's name", name)
        return list(self.core.column(name).cells())

    def find_subtotals(self) -> tuple[Suspect, ...]:
        """Return the rows whose numbers equal the sum of the rows above them.

        Nothing is marked: `mark(subtotal="found")` does that.

        >>> from even_sieve import table_from
        >>> calls = table_from({"vessel": ["Heron", "Eider", "Total"], "dues": [120, 80, 200]})
        >>> [(suspect.row, suspect.repeats) for suspect in calls.find_subtotals()]
        [(2, (0, 1))]
        """
        return find_subtotals(self.core)

    def profile(self) -> Profile:
        """Return what each column holds, and what to look at first.

        >>> from even_sieve import table_from
        >>> table_from({"dues": [120.5, None, "waived"]}).profile().columns[0].kinds
        {'numbers': 1, 'text': 1, 'blanks': 1}
        """
        return profile(self.core)

    def sift(self, where: Where = None, /, **asked: Unpack[Asked]) -> Self:
        """Return the table of the rows for which the criteria hold; numbers and marks stay.

        Marked rows are kept with their marks, so a tally of the sifted table is the tally
        of the whole table under the same criteria.

        >>> from even_sieve import table_from
        >>> table_from({"dues": [120.5, 80, 300]}).sift("dues > 100").row_numbers
        (1, 3)
        """
        return self.sifted(Query.of(**asked).narrowed_by(where))

    def sifted(self, query: Query, *, told: bool = False) -> Self:
        """Return the table of the rows for which a query's criteria hold, marks and all.

        With `told` what is to be known of the criteria is among its notices.
        """
        made = query.made_table(self.core)
        if not query.where:
            return type(self)(made)
        given = {column.name for column in query.given}
        rows, notices = matching_rows(replace(query.of_made_table(), keep=_EVERY_MARK), made)
        sifted = made.take(rows)
        if told:
            sifted = replace(sifted, own_notices=each_once((*sifted.own_notices, *notices)))
        columns = tuple(column for column in sifted.columns if column.name not in given)
        return type(self)(replace(sifted, columns=columns) if given else sifted)

    def mark(self, *, by: str | None = None, **asked: Unpack[Asked]) -> Self:
        """Return the table with rows marked, besides its marks.

        `hidden`, `filtered` and `subtotal` give rows by criteria, or by their numbers in the
        source. `subtotal="found"` marks the rows that `find_subtotals` suspects. `by` names a
        column whose texts say `hidden`, `filtered`, `subtotal` or `total`. Raises `MarkError`
        for a number that no row has.

        >>> from even_sieve import table_from
        >>> calls = table_from({"vessel": ["Heron", "Total"], "dues": [120, 120]})
        >>> calls.mark(subtotal="vessel = Total").tally("sum of dues")[0].value
        120
        >>> calls.mark(subtotal=[2]).tally("sum of dues")[0].value
        120
        """
        if by is not None:
            asked = Asked(**{**asked, "marked_by": text_of("by", by, "the name of a column")})
        given = asked
        return type(self)(Query.of(**given).made_table(self.core))

    def look_up(
        self,
        other: "Table | str | Path | pd.DataFrame",
        on: str | Sequence[str] | Mapping[str, str],
        *,
        bring: str | Sequence[str] | Mapping[str, str] = (),
    ) -> Self:
        """Return the table with columns of another one, brought along a key.

        The other is a table, the path of a file, or what `table_from` takes.
        `on` names the key columns: one, several, or own names with those of the other table.
        `bring` names the columns to bring, or maps them to new names; all but the keys if
        left out. A key that is not found gives error cells with the reason. Raises
        `LookUpError` for a key that stands twice in the other table, naming the rows, or a
        name that is taken; `UnknownColumn`.

        >>> from even_sieve import table_from
        >>> calls = table_from({"class": ["barge", "Ferry", "raft"], "tons": [100, 20, 3]})
        >>> tariff = table_from({"class": ["ferry", "barge"], "a ton": [0.045, 0.06]})
        >>> found = calls.look_up(tariff, on="class").column("a ton")
        >>> found[:2], found[2].reason
        ([0.06, 0.045], 'the other table has no row with class = raft')
        """
        query = Query(look_ups=(LookUp.of(_looked_up_in(other), on, bring),))
        return type(self)(query.made_table(self.core))

    def derive(
        self, *columns: str | Iterable[str] | Mapping[str, str], **asked: Unpack[Asked]
    ) -> Self:
        """Return the table with columns worked out from others: `per ton = dues / tonnage`.

        What stands after `=` is arithmetic, a template, a ladder of criteria, an axis, or a
        part of a date: see docs/derived-columns.md. Each column can take those before it. Raises
        `CallError` for words that cannot be read, `UnknownColumn`.

        >>> from even_sieve import table_from
        >>> calls = table_from({"dues": [120, 80], "tons": [1000, 0]})
        >>> found = calls.derive("a ton = dues / tons", "size = large if tons > 500, else small")
        >>> print(*found.column("a ton"), *found.column("size"))
        0.12 division by zero large small
        """
        derived = [text for each in columns for text in derived_of(each)]
        query = replace(Query.of(**asked), derived=tuple(derived))
        return type(self)(query.made_table(self.core))

    def write(self, path: str | Path, *, leave_formulas: bool = False) -> None:
        """Write the table to a file: .csv, .jsonl, .parquet, .arrow, .ods or .xlsx.

        Marks stand in a column `mark`: `read_table(path).mark(by="mark")` has them again,
        and gives the same tallies. The old file stays whole if writing fails. In CSV a
        text that a spreadsheet would run as a formula is made harmless unless it is left.
        """
        path = Path(path_of("what is written", path))
        write_file(self.core, path, leave_formulas=leave_formulas)

    def to_arrow(self) -> Any:
        """Return an Arrow table; blanks are nulls, and mixed columns are spelt out.

        >>> from even_sieve import table_from
        >>> table_from({"dues": [120, None]}).to_arrow().column("dues").null_count
        1
        """
        from even_sieve.sinks.arrow import to_arrow

        return to_arrow(self.core)

    def to_frame(self) -> "pd.DataFrame":
        """Return a pandas data frame of the cells, the source's row numbers as its index.

        Marked rows have their marks in a column `mark`.

        >>> from even_sieve import table_from
        >>> list(table_from({"dues": [120, 80]}).to_frame().index)
        [1, 2]
        """
        from even_sieve.sinks.frames import frame_of

        return frame_of(self.core)

    def __repr__(self) -> str:
        return str(self._first())

    def _repr_html_(self) -> str:
        return self._first()._repr_html_()

    def _first(self) -> Listing:
        """Return the first rows, marked ones among them, and what the reader met."""
        query = Query(keep=_EVERY_MARK)
        shown = list_rows(query, self.core, Choice(limit=_SHOWN))
        return replace(shown, notices=self.notices)


def _looked_up_in(other: Any) -> CoreTable:
    from even_sieve.public.reading import read_table, table_from

    if isinstance(other, Table):
        return other.core
    return (read_table(other) if isinstance(other, str | Path) else table_from(other)).core
