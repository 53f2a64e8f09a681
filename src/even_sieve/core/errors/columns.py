"""Columns that are not there, stand twice, or hold what a measure cannot use."""

import re
from collections.abc import Sequence

from even_sieve.core.errors.base import SieveError
from even_sieve.core.errors.wording import closest, listed

#: Signs of reckoning between two words.
_WORKED_OUT = re.compile(r"\S\s*[/*+]\s*\S|\S\s+[-\u2212]\s+\S")


class UnknownColumn(SieveError):
    """No column of that name. Carries `column`, `candidates` (the close ones) and `place`.

    >>> import even_sieve
    >>> try:
    ...     even_sieve.table_from({"dues": [120]}).tally("sum of due")
    ... except even_sieve.UnknownColumn as error:
    ...     print(error.column, error.candidates)
    due ('dues',)
    """

    def __init__(self, column: str, columns: Sequence[str], place: str = "", why: str = "") -> None:
        self.column, self.columns, self.place, self.why = column, tuple(columns), place, why
        self.candidates = closest(column, columns)
        if why:
            hint = why
        elif self.candidates:
            hint = f"Did you mean {listed(self.candidates)}?"
        elif _WORKED_OUT.search(column):
            hint = "Of measures write: ratio of … to …, difference of … and …; or derive a column"
        else:
            shown = ", ".join(self.columns[:12]) + (", …" if len(self.columns) > 12 else "")
            hint = f"The columns are: {shown}"
        super().__init__(f"{place}{': ' if place else ''}no column '{column}'\n{hint}")

    def at(self, place: str) -> "UnknownColumn":
        """Return the same error with the place that asked for the column."""
        return UnknownColumn(self.column, self.columns, place, self.why)


class DuplicateColumn(SieveError):
    """Two columns whose names differ in case or outer white space at most.

    Carries `column` and `positions` (1 for the first column).

    >>> import even_sieve
    >>> try:
    ...     even_sieve.table_from({"dues": [120], "Dues ": [80]})
    ... except even_sieve.DuplicateColumn as error:
    ...     print(error.column, error.positions)
    Dues (1, 2)
    """

    def __init__(self, column: str, positions: Sequence[int], source: str = "") -> None:
        self.column, self.positions = column, tuple(positions)
        where = f"{source}: " if source else ""
        numbers = " and ".join(str(position) for position in positions)
        super().__init__(
            f"{where}two columns are called '{column}' (columns {numbers})\n"
            "Rename one of them: a name must mean one column."
        )


class LengthMismatch(SieveError):
    """Columns of different lengths. Carries `lengths`, a mapping of two names to lengths.

    >>> import even_sieve
    >>> try:
    ...     even_sieve.table_from({"zone": ["A"], "dues": [120, 80]})
    ... except even_sieve.LengthMismatch as error:
    ...     print(error.lengths)
    {'zone': 1, 'dues': 2}
    """

    def __init__(self, first: str, first_length: int, second: str, second_length: int) -> None:
        self.lengths = {first: first_length, second: second_length}
        super().__init__(
            f"column '{first}' has {first_length} rows and column '{second}' has {second_length}\n"
            "All columns of a table have the same number of rows."
        )


class UnsuitableColumn(SieveError):
    """A measure that makes no sense on what the column holds. Carries `measure`.

    >>> import datetime, even_sieve
    >>> try:
    ...     even_sieve.table_from({"day": [datetime.date(2031, 5, 1)]}).tally("sum of day")
    ... except even_sieve.UnsuitableColumn as error:
    ...     print(error.measure)
    sum of day
    """

    def __init__(self, measure: str, fact: str, hint: str = "") -> None:
        self.measure = measure
        super().__init__(f"measure '{measure}': {fact}", hint)
