"""Words of a call that cannot be read, or name what is not there."""

from collections.abc import Sequence

from even_sieve.core.errors.base import CallError
from even_sieve.core.errors.wording import around, listed


class CriteriaError(CallError):
    """Criteria that cannot be read. Carries `text`, `position` (1 for the first) and `hint`.

    >>> import even_sieve
    >>> try:
    ...     even_sieve.table_from({"dues": [120]}).tally("count", where="dues > > 3")
    ... except even_sieve.CriteriaError as error:
    ...     print(error.position, error.fact)
    8 two comparisons in a row
    """

    def __init__(
        self, text: str, position: int, fact: str, hint: str = "", *, place: str = "criteria"
    ) -> None:
        self.text, self.position, self.fact, self.hint = text, position, fact, hint
        where = f"{place} '{around(text, position)}', position {position}: {fact}"
        super().__init__(where, hint)


class MeasureError(CallError):
    """A measure that cannot be read. Carries `text` and `suggestions`.

    >>> import even_sieve
    >>> try:
    ...     even_sieve.table_from({"dues": [120]}).tally("summ of dues")
    ... except even_sieve.MeasureError as error:
    ...     print(error.suggestions)
    ('sum',)
    """

    def __init__(self, text: str, fact: str, hint: str = "", suggestions: Sequence[str] = ()):
        self.text, self.suggestions = text, tuple(suggestions)
        if suggestions:
            hint = f"Did you mean {listed(self.suggestions)}?"
        super().__init__(f"measure '{text}': {fact}", hint)


class ParameterError(CallError):
    """A parameter without a value, or with one that cannot be used. Carries `name`.

    >>> import even_sieve
    >>> try:
    ...     even_sieve.table_from({"dues": [120]}).tally("count", where="dues > {least}")
    ... except even_sieve.ParameterError as error:
    ...     print(error.name)
    least
    """

    def __init__(self, name: str, fact: str, hint: str = "") -> None:
        self.name = name
        super().__init__(f"parameter '{name}': {fact}", hint)


class SourceNotFound(CallError):
    """The named source is not there, or is a folder. Carries `source`.

    >>> import even_sieve
    >>> try:
    ...     even_sieve.read_table("calls-of-no-year.csv")
    ... except even_sieve.SourceNotFound as error:
    ...     print(error.source)
    calls-of-no-year.csv
    """

    def __init__(self, source: str, fact: str, hint: str = "") -> None:
        self.source = source
        super().__init__(f"{source}: {fact}", hint)


class NotInstalled(CallError):
    """What needs a package that is not installed. Carries `extra`, which brings it.

    >>> import even_sieve
    >>> str(even_sieve.NotInstalled("databases", "sql")).splitlines()[1]
    'Install it with: pip install "even-sieve[sql]"'
    """

    def __init__(self, what: str, extra: str) -> None:
        self.extra = extra
        super().__init__(
            f"{what} need a package that is not installed\n"
            f'Install it with: pip install "even-sieve[{extra}]"'
        )
