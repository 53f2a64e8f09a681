"""Tables from Python values: lists by their names, and records, mappings of names to cells."""

from collections.abc import Callable, Mapping, Sequence
from functools import partial
from itertools import chain
from typing import Any

import numpy as np

from even_sieve.core.errors import SourceError
from even_sieve.core.table import Column, Table, column_from
from even_sieve.core.table.lanes import Array
from even_sieve.sources.arrow_buffers import strings_of
from even_sieve.sources.text_columns import column_of_texts

#: So many texts are sorted and folded as those of a file are.
_MANY = 1 << 14


def table_of_columns(columns: Mapping[str, Any]) -> Table:
    """Return a table from a mapping of names to lists or NumPy arrays of one length.

    Rows are numbered from 1. Raises `LengthMismatch` naming two columns that differ,
    `DuplicateColumn` for names that differ in case or outer space alone.

    >>> table_of_columns({"zone": ["Outer", "Inner"], "dues": [120, 80]}).names
    ('zone', 'dues')
    """
    built = tuple(_column(str(name).strip(), values) for name, values in columns.items())
    return Table(built, built[0].length if built else 0, 1)


def table_of_records(
    records: Sequence[Mapping[str, object]],
    source: str,
    numbers: Array | int = 1,
    make: Callable[[str, list[object]], Column] | None = None,
    waits: Callable[[str], bool] = lambda _: False,
) -> Table:
    """Return the table of records; a name that a record does not have is a blank there.

    `make` gives the column of a name's values, if not what is usual; `waits` tells whether it is
    made when it is asked for. Raises `SourceError` where none of them has a name.
    """
    keys = dict.fromkeys(chain.from_iterable(records))  # names that are numbers, too
    if records and not keys:
        raise SourceError(source, "no record has a name", "A table has a column at least")

    def made(key: str) -> Column:
        return (make or _column)(str(key).strip(), [record.get(key) for record in records])

    def column(key: str) -> Column:
        name = str(key).strip()
        return Column.later(name, len(records), partial(made, key)) if waits(name) else made(key)

    return Table(tuple(map(column, keys)), len(records), numbers, None, source)


def _column(name: str, values: Any) -> Column:
    """Return the column of cells; where they are very many texts, by Arrow."""
    if isinstance(values, np.ndarray):
        if values.ndim != 1 or values.dtype.kind not in "OU":
            return column_from(name, values)
        values = values.tolist()
    cells = values if isinstance(values, list) else list(values)
    kinds = set(map(type, cells))
    if len(cells) >= _MANY and str in kinds and kinds <= {str, type(None)}:
        try:
            strings = strings_of([cell or "" for cell in cells])
        except UnicodeEncodeError:  # half of a letter is no UTF-8
            return column_from(name, cells)
        return column_of_texts(name, strings)
    return column_from(name, cells)
