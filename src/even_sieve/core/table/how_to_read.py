"""How texts that look like numbers, or dates, come to be such."""

import re
import shlex
from collections.abc import Sequence
from datetime import date
from itertools import islice

import numpy as np

from even_sieve.core.cells import Kind
from even_sieve.core.cells.likeness import Likeness
from even_sieve.core.cells.said import as_text, date_said, number_said
from even_sieve.core.cells.written import DateOrder
from even_sieve.core.table.columns import Column
from even_sieve.core.table.lane_cells import cells_of
from even_sieve.core.table.likes import texts_like

_YEAR_FIRST = re.compile(r"[0-9]{4}([./-])[0-9]{2}\1[0-9]{2}(?![0-9])")
#: So many texts are looked at to tell how all are read.
SHOWING = 50
#: Among so many rows such are looked for.
MOST_ROWS = 10_000


def options_to_read(column: Column) -> str:
    """Return the options by which texts that look like numbers are read as some; maybe none.

    >>> from even_sieve.core.table import column_from
    >>> [options_to_read(column_from("dues", [each, "-"])) for each in ("1.250,50", "€ 12", "0x1F")]
    ['--as-number dues --decimal ,', '--as-number dues', '']
    """
    some = [*islice(texts_like(column, Likeness.NUMBER), SHOWING)]
    if not some:
        return ""
    own = column.conventions.decimal
    other = "," if own == "." else "."
    said = f"--as-number {shlex.quote(column.name)}"
    if all(not isinstance(number_said(each, own), str) for each in some):
        return said
    others = all(not isinstance(number_said(each, other), str) for each in some)
    return f"{said} --decimal {other}" if others else ""


def how_to_read(columns: Sequence[Column]) -> str:
    """Return how texts of columns that look like numbers come to be some.

    >>> from even_sieve.core.table import column_from
    >>> how_to_read([column_from("dues", ["1.250,50"]), column_from("tons", [12])])
    'read it with --as-number dues --decimal ,'
    """
    like = [each for each in columns if any(texts_like(each, Likeness.NUMBER))]
    marks = {options_to_read(each) for each in like}
    known = marks.pop() if len(marks) == 1 else ""
    return f"read it with {known}" if known else "write it as a number in the source"


def option_for_dates(column: Column) -> str:
    """Return the option by which texts that look like dates are read as some; maybe none.

    >>> from even_sieve.core.table import column_from
    >>> some = ("5-May-2031", "05/06/2031", "5.6.31")
    >>> [option_for_dates(column_from("paid", [each])) for each in some]
    ['--as-date paid', '--as-date paid --date-order', '']
    """
    some = [*islice(texts_like(column, Likeness.DATE), SHOWING)]
    if not some:
        return ""
    if all(not isinstance(date_said(each), str) for each in some):
        return f"--as-date {shlex.quote(column.name)}"
    for order in DateOrder:
        if all(not isinstance(date_said(each, order), str) for each in some):
            return f"--as-date {shlex.quote(column.name)} --date-order"
    return ""


def days_counted(column: Column) -> str:
    """Return how numbers come to be dates that may be such, counted in days; maybe none.

    >>> from even_sieve.core.table import column_from
    >>> days_counted(column_from("paid", [47853])), days_counted(column_from("tons", [950]))
    ('if its numbers are dates, of which 47853 is 2031-01-05: --as-date paid', '')
    """
    lane = column.lanes.get(Kind.NUMBER)
    if lane is None:
        return ""
    rows = np.arange(min(column.length, MOST_ROWS))
    if column.states is not None:
        rows = rows[np.asarray(column.states[rows]) == Kind.NUMBER]
    some = cells_of(lane, rows[:SHOWING])
    days = [date_said(each, None, column.conventions.day_zero) for each in some]
    if not days or not all(isinstance(each, date) for each in days):
        return ""
    first = f"{as_text(some[0])} is {as_text(days[0])}"
    return f"if its numbers are dates, of which {first}: --as-date {shlex.quote(column.name)}"


def date_by_letters(column: Column) -> str:
    """Return a text that looks like a date and that letters put in no order of days; maybe none.

    >>> from even_sieve.core.table import column_from
    >>> [date_by_letters(column_from("paid", [each])) for each in ("5-May-2031", "2031-05-06")]
    ['5-May-2031', '']
    """
    some = texts_like(column, Likeness.DATE)
    return next((each for each in some if not _YEAR_FIRST.match(each)), "")
