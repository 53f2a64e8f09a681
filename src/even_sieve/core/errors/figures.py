"""Figures that are not given out."""

from collections.abc import Sequence

from even_sieve.core.errors.base import SieveError


class NotOneValue(SieveError):
    """No value or several, where `only` asked for one. Carries `measure` and `rows`.

    >>> import even_sieve
    >>> try:
    ...     even_sieve.table_from({"dues": [120, 80]}).tally("only of dues")
    ... except even_sieve.NotOneValue as error:
    ...     print(error.rows)
    (1, 2)
    """

    def __init__(self, measure: str, fact: str, rows: Sequence[int] = ()) -> None:
        self.measure, self.rows = measure, tuple(rows)
        shown = ", ".join(map(str, self.rows[:12])) + (", …" if len(self.rows) > 12 else "")
        hint = f"Rows: {shown}\nNarrow the criteria, or ask for first, last or mode" if rows else ""
        super().__init__(f"measure '{measure}': {fact}", hint)


class DoubtError(SieveError):
    """A notice of doubt where none is accepted. Carries the `notices` as texts.

    >>> import even_sieve
    >>> try:
    ...     even_sieve.table_from({"dues": [120, "130"]}).tally("sum of dues", strict=True)
    ... except even_sieve.DoubtError as error:
    ...     print(len(error.notices))
    1
    """

    def __init__(self, notices: Sequence[str]) -> None:
        self.notices = tuple(notices)
        count = "1 notice" if len(self.notices) == 1 else f"{len(self.notices)} notices"
        super().__init__("\n".join([f"strict: {count} of doubt, and no figure is given", *notices]))


class RecheckError(SieveError):
    """A figure that its recheck does not confirm. Carries `measure` and, if one parts, `row`.

    >>> import even_sieve
    >>> print(even_sieve.RecheckError("sum of dues", "120 and 121", row=3))
    measure 'sum of dues', row 3: 120 and 121
    This is a bug in Even Sieve: please report it.
    """

    def __init__(self, measure: str, fact: str, row: int | None = None) -> None:
        self.measure, self.row = measure, row
        where = f"measure '{measure}'" + ("" if row is None else f", row {row}")
        super().__init__(f"{where}: {fact}\nThis is a bug in Even Sieve: please report it.")


class AccountError(SieveError):
    """Figures that do not add up. Never the user's mistake: a bug in Even Sieve.

    >>> import even_sieve
    >>> issubclass(even_sieve.AccountError, even_sieve.CallError)
    False
    """

    def __init__(self, fact: str) -> None:
        super().__init__(f"{fact}\nThis is a bug in Even Sieve: please report it with the call.")
