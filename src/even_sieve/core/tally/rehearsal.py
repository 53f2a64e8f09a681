"""A question asked of the names of columns alone: what is wrong with its words is told early."""

from collections.abc import Callable, Sequence
from functools import partial
from typing import TypeVar

from even_sieve.core.errors import UnknownColumn
from even_sieve.core.measures import parse_measures
from even_sieve.core.query import Query
from even_sieve.core.table import Table

_Made = TypeVar("_Made")


def rehearse(
    query: Query,
    table: Table,
    measures: Sequence[str] = (),
    ask: Callable[[Query, Table], object] = lambda query, table: None,
) -> None:
    """Raise what is wrong with the words of a question; `table` has columns without cells.

    Raises `CriteriaError`, `MeasureError` and `UnknownColumn`, as asking does. What may hang on
    the cells is not told: it is when these are there.

    >>> from even_sieve.core.errors import MeasureError
    >>> from even_sieve.core.table import table_from_columns
    >>> try:
    ...     rehearse(Query(), table_from_columns({"zone": []}), ["rows of zone"])
    ... except MeasureError as error:
    ...     print(error)
    measure 'rows of zone': 'rows' takes no column
    Write filled of … to count cells
    """
    made = _tried(query.made_table, table)
    if made is None:
        return
    query.criteria(made)
    words = " ".join(measures).casefold()
    named = sorted(made.names, key=lambda name: name.casefold() not in words)  # for examples
    parse_measures(measures, tuple(named))
    _tried(partial(ask, query.of_made_table()), made)


def _tried(do: Callable[[Table], _Made], table: Table) -> _Made | None:
    try:
        return do(table)
    except UnknownColumn:
        raise
    except Exception:  # whatever it is, of cells that are not there
        return None
