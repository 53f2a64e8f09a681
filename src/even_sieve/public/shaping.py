"""Tables made from a table: sifted, marked, with columns looked up and derived."""

import os
from collections.abc import Iterable, Mapping, Sequence
from datetime import date
from typing import Self

from even_sieve.core import tally as core
from even_sieve.core.criteria import ParameterValue, Settings
from even_sieve.core.derive import derive
from even_sieve.core.errors import CallError
from even_sieve.core.measures import parse_keep
from even_sieve.core.table import Mark
from even_sieve.core.table import Table as CoreTable
from even_sieve.core.table.lookup import look_up
from even_sieve.core.table.marking import marked_by
from even_sieve.public.criteria import Where, read_where
from even_sieve.public.marking import EVERY_MARK, chosen_rows


class Shaping:
    """What a table can be made into. Tables do not change: each of these is a new one."""

    def __init__(self, core_table: CoreTable) -> None:
        self.core = core_table

    @property
    def names(self) -> tuple[str, ...]:
        """The column names, in order."""
        return self.core.names

    def sift(
        self,
        where: Where,
        *,
        parameters: Mapping[str, ParameterValue] | None = None,
        as_of: date | None = None,
        fiscal_start: int = 1,
    ) -> Self:
        """Return the table of the rows for which the criteria hold; numbers and marks stay.

        Marked rows are kept with their marks, so a tally of the sifted table is the tally
        of the whole table under the same criteria.
        """
        options = self._options(EVERY_MARK, parameters, as_of, fiscal_start, None)
        criteria = read_where(where, self.names).criteria
        rows, _ = core.matching_rows(self.core, criteria, options)
        return type(self)(self.core.take(rows))

    def mark(
        self,
        *,
        hidden: Where | Iterable[int] = None,
        filtered: Where | Iterable[int] = None,
        subtotal: Where | Iterable[int] = None,
        by: str | None = None,
        parameters: Mapping[str, ParameterValue] | None = None,
    ) -> Self:
        """Return the table with rows marked, besides its marks.

        Rows are given by criteria, or by their numbers in the source. `subtotal="found"`
        marks the rows that `find_subtotals` suspects. `by` names a column whose texts say
        `hidden`, `filtered`, `subtotal` or `total`. Raises `SieveError` for a number that
        no row has.

        >>> from even_sieve import table_from
        >>> calls = table_from({"vessel": ["Heron", "Total"], "dues": [120, 120]})
        >>> calls.mark(subtotal="vessel = Total").tally("sum of dues")[0].value
        120
        >>> calls.mark(subtotal=[2]).tally("sum of dues")[0].value
        120
        """
        marked, options = self.core, self._options(EVERY_MARK, parameters, None, 1, None)
        for mark, where in (
            (Mark.HIDDEN, hidden),
            (Mark.FILTERED, filtered),
            (Mark.SUBTOTAL, subtotal),
        ):
            if where is not None:
                chosen = chosen_rows(self.core, where, options, found=mark is Mark.SUBTOTAL)
                marked = marked.marked(mark, chosen)
        return type(self)(marked if by is None else marked_by(marked, by))

    def look_up(
        self,
        other: "Shaping",
        on: str | Sequence[str] | Mapping[str, str],
        *,
        bring: str | Sequence[str] | Mapping[str, str] = (),
    ) -> Self:
        """Return the table with columns of another one, brought along a key.

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
        keys = dict(on) if isinstance(on, Mapping) else {name: name for name in _listed(on)}
        wanted = (
            dict(bring) if isinstance(bring, Mapping) else {name: name for name in _listed(bring)}
        )
        if not keys:
            raise CallError("look up needs a key column\nWrite for example: on class")
        return type(self)(look_up(self.core, other.core, keys, wanted))

    def derive(
        self,
        *columns: str,
        parameters: Mapping[str, ParameterValue] | None = None,
        as_of: date | None = None,
        fiscal_start: int = 1,
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
        found = self.core
        settings = Settings(parameters or {}, as_of or date.today(), fiscal_start)
        for text in columns:
            found = derive(found, text, settings)
        return type(self)(found)

    def _options(
        self,
        keep: str | Iterable[str],
        parameters: Mapping[str, ParameterValue] | None,
        as_of: date | None,
        fiscal_start: int,
        threads: int | None,
    ) -> core.Options:
        words = keep.replace(",", " ").split() if isinstance(keep, str) else list(keep)
        settings = Settings(parameters or {}, as_of or date.today(), fiscal_start)
        return core.Options(settings, parse_keep(words), threads or os.cpu_count() or 1)


def _listed(names: str | Sequence[str]) -> tuple[str, ...]:
    return (names,) if isinstance(names, str) else tuple(names)
