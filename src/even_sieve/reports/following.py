"""The rows that a report follows from one run to the next, by a key that each has."""

from collections import Counter
from collections.abc import Sequence
from typing import Any

from even_sieve.core.errors import CallError
from even_sieve.core.notices import counted
from even_sieve.core.table import Mark, Table
from even_sieve.documents.values import plain_json, plain_text

#: Of more rows than these none is kept: the JSON of a report is no copy of its data.
MOST_FOLLOWED = 50_000


def followed(table: Table, key: Sequence[str], columns: Sequence[str]) -> dict[str, Any]:
    """Return the key of each row and its values in these columns, as JSON holds them.

    Subtotals are passed over; so are rows whose key is blank, which are counted. Raises
    `CallError` for a key that stands on several rows, `UnknownColumn`.
    """
    found = {"key": list(key), "columns": list(columns)}
    if table.length > MOST_FOLLOWED:
        return {**found, "rows": None, "beyond": table.length}
    keys = [table.column(name) for name in key]
    values = [table.column(name) for name in columns]
    subtotal = [False] * table.length
    if table.marks is not None:
        subtotal = ((table.marks & Mark.SUBTOTAL) != 0).tolist()
    rows: dict[str, list[object]] = {}
    names: Counter[str] = Counter()
    without = 0
    for row in range(table.length):
        if subtotal[row]:
            continue
        cells = [column.cell(row) for column in keys]
        if None in cells:
            without += 1
            continue
        name = " / ".join(map(plain_text, cells))
        names[name] += 1
        rows[name] = [plain_json(column.cell(row)) for column in values]
    twice = [name for name, count in names.items() if count > 1]
    if twice:
        others = f", and {counted(len(twice) - 1, 'key')} more on several" if twice[1:] else ""
        fact = f"the key '{twice[0]}' stands on {counted(names[twice[0]], 'row')}{others}"
        raise CallError(f"{fact}\nName more columns that tell rows apart")
    return {**found, "rows": rows, "without key": without}
