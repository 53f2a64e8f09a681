"""The base of every error, and the errors of words that are off."""

from typing import Any

from even_sieve.core.errors.wording import clipped


class SieveError(Exception):
    """The base of every error raised on purpose. `exit_status` is the command line's.

    Its lines are never longer than a person reads: of a name of a million letters, the ends.

    >>> import even_sieve
    >>> try:
    ...     even_sieve.table_from({"dues": [120]}).tally("sum of due")
    ... except even_sieve.SieveError as error:
    ...     print(error, error.exit_status, sep="\\n")
    measure 'sum of due': no column 'due'
    Did you mean 'dues'?
    1
    """

    exit_status = 1

    def __init__(self, text: str = "", hint: str = "") -> None:
        text = f"{text}\n{hint}" if hint else text
        super().__init__("\n".join(map(clipped, text.split("\n"))))

    def __reduce__(self) -> tuple[Any, ...]:
        """Travel between processes whole, though each class is made from words of its own."""
        return _again, (type(self), self.args, self.__dict__)


def _again(kind: type["SieveError"], args: tuple[Any, ...], held: dict[str, Any]) -> "SieveError":
    error = kind.__new__(kind)
    error.args = args
    error.__dict__.update(held)
    return error


class CallError(SieveError):
    """The words of a call are off: nothing was worked out.

    >>> import even_sieve
    >>> try:
    ...     even_sieve.read_table("calls.csv", memory="some")
    ... except even_sieve.CallError as error:
    ...     print(error)
    memory: 'some' is no size
    Write for example: 2GiB, 500MiB
    """

    exit_status = 2


class NoSuchFigure(SieveError, KeyError):
    """There is no line, no tally of that name. It is a `KeyError` too.

    >>> import even_sieve
    >>> lines = even_sieve.table_from({"zone": ["A"]}).tally("count", by="zone")
    >>> try:
    ...     lines["B"]
    ... except KeyError as error:
    ...     print(type(error).__name__, error)
    NoSuchFigure no line 'B'
    """

    def __str__(self) -> str:
        return str(self.args[0])
