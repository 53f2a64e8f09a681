"""A figure over rows that look like totals of others, and that nobody marked: it is told.

The search goes through small tables alone: larger ones are looked through by `check`.
"""

from collections.abc import Iterator, Set
from weakref import WeakKeyDictionary

from even_sieve.core.notices import Code, Notice, counted
from even_sieve.core.table import Table, misfit_words
from even_sieve.core.table.lanes import Array
from even_sieve.core.table.origins import listed_rows
from even_sieve.core.table.repeats import unmarked_totals
from even_sieve.core.table.totals import Totals

_MOST_CELLS, _MOST_COLUMNS = 200_000, 1_000
_SHOWN = 5
_known: "WeakKeyDictionary[Table, Totals]" = WeakKeyDictionary()


def totals_of(table: Table) -> Totals | None:
    """Return the rows of a table that look like totals, sought once.

    A source in which rows are marked as subtotals already is left alone. None where the table is
    too large to look at.
    """
    columns = len(table.columns)
    if columns > _MOST_COLUMNS or table.length * columns > _MOST_CELLS:
        return None
    if table not in _known:
        _known[table] = unmarked_totals(table)
    return _known[table]


def double_counting(
    table: Table, totals: Totals, measured: Set[str], matching: Array
) -> tuple[Notice, ...]:
    """Return notices on totals among the matching rows, in the columns that are measured."""
    found = list(_counted_twice(table, totals, measured, matching))
    for misfit in totals.misfits:
        if misfit.column in measured and matching[misfit.row]:
            row = {"row": table.number(misfit.row)}
            found.append(Notice(Code.TOTAL_OFF, misfit_words(table, misfit), row))
    return tuple(found)


def _counted_twice(
    table: Table, totals: Totals, measured: Set[str], matching: Array
) -> Iterator[Notice]:
    sure = [each for each in totals.suspects if each.sure and matching[each.row]]
    for column in dict.fromkeys(name for suspect in sure for name in suspect.columns):
        if column not in measured:
            continue
        rows = [table.number(each.row) for each in sure if column in each.columns]
        shown = listed_rows(rows, _SHOWN)
        looks = "looks like a total" if len(rows) == 1 else "look like totals"
        text = (
            f"{counted(len(rows), 'row')} {looks} of rows above in column '{column}' and may be "
            f"counted twice: {'row' if len(rows) == 1 else 'rows'} {shown}; to leave them out: "
            "--subtotal found"
        )
        yield Notice(Code.DOUBLE_COUNTING, text, {"rows": len(rows)})
