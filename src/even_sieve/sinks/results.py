"""Results as tables, to be written as any table is."""

from collections.abc import Iterator
from typing import Any

import numpy as np

from even_sieve.core.cells import Cell
from even_sieve.core.table import Mark, Table, column_from_cells
from even_sieve.core.tally import (
    ALL_VALUES,
    BUCKETS,
    Added,
    Breakdown,
    Bridge,
    Counted,
    Line,
    LineSet,
    Tallies,
)
from even_sieve.views.listing import Listing
from even_sieve.views.values import plain_amount, plain_text

_MARKED = {"subtotal": Mark.SUBTOTAL, "hidden": Mark.HIDDEN, "filtered": Mark.FILTERED}


def tallies_table(result: Tallies) -> Table:
    """Return a row a measure: its name, its value, its account, the rows that gave it, why."""
    cells: dict[str, list[Cell]] = {
        "measure": [tally.name for tally in result],
        "value": [tally.value for tally in result],
        "rows": [tally.account.rows for tally in result],
        **{name: [getattr(tally.account, name) for tally in result] for name in BUCKETS},
        "found at": [" ".join(map(str, tally.found_at)) or None for tally in result],
        "reason": [tally.reason for tally in result],
    }
    return _table(cells, len(result))


def breakdown_table(result: Breakdown) -> Table:
    """Return a row a line, subtotals and the total; these are marked as subtotals."""
    every = list(_every_line(result))
    names = [*result.by, *([] if result.across is None else [result.across])]
    cells = _keys(names, [line.key for line in every])
    for i, tally in enumerate(result.total):
        cells[_free(tally.name, cells)] = [line.tallies[i].value for line in every]
    return _with_repeats(_table(cells, len(every)), [line.key for line in every])


def grid_table(result: Breakdown) -> Table:
    """Return a breakdown as it is laid out: the values of `across` side by side, and a total.

    Without `across` it is `breakdown_table`. Rows of subtotals are marked as such.
    """
    if result.across is None:
        return breakdown_table(result)
    every = list(_every_line(result))
    sides: list[Any] = list(dict.fromkeys(line.key[-1] for line in every))
    sides = [*(each for each in sides if each is not ALL_VALUES), ALL_VALUES]
    keys = list(dict.fromkeys(line.key[:-1] for line in every))
    cells = _keys(list(result.by), keys)
    known = {line.key: line.tallies for line in every}
    for side in sides:
        label = "total" if side is ALL_VALUES else "blank" if side is None else plain_text(side)
        for i, tally in enumerate(result.total):
            name = label if len(result.total) == 1 else f"{label}: {tally.name}"
            found = [known.get((*key, side)) for key in keys]
            cells[_free(name, cells)] = [None if each is None else each[i].value for each in found]
    return _with_repeats(_table(cells, len(keys)), keys)


def _with_repeats(table: Table, keys: list[tuple[Any, ...]]) -> Table:
    """Return the table with the rows that repeat others marked as subtotals."""
    repeats = [any(part is ALL_VALUES for part in key) for key in keys]
    return table.marked(Mark.SUBTOTAL, np.array(repeats, dtype=bool))


def _every_line(result: Breakdown) -> Iterator[Line]:
    """Yield the lines with the rest, each group's subtotals below it, and the total."""
    size = len(result.by) + (result.across is not None)
    waiting: dict[tuple[Any, ...], list[Line]] = {}
    for line in result.subtotals:
        given = next((i for i, part in enumerate(line.key) if part is ALL_VALUES), size)
        waiting.setdefault(line.key[:given], []).append(line)
    lines = result.with_rest
    for position, line in enumerate(lines):
        yield line
        after = lines[position + 1].key if position + 1 < len(lines) else ()
        for depth in range(size - 1, 0, -1):
            if after[:depth] != line.key[:depth]:
                yield from waiting.pop(line.key[:depth], ())
    for left in waiting.values():
        yield from left
    yield Line((ALL_VALUES,) * size, result.total)


def _keys(names: list[str], keys: list[tuple[Any, ...]]) -> dict[str, list[Cell]]:
    """Return the columns of the keys; blank where all values are in a line."""
    return {
        name: [None if key[i] is ALL_VALUES else key[i] for key in keys]
        for i, name in enumerate(names)
    }


def _free(name: str, cells: dict[str, list[Cell]]) -> str:
    """Return a name that no column has, with a stroke after it if need be."""
    while name.casefold() in map(str.casefold, cells):
        name += "'"
    return name


def bridge_table(result: Bridge) -> Table:
    """Return a row a step; the figure is marked as a subtotal of the steps before it."""
    cells: dict[str, list[Cell]] = {
        "reason": [step.reason for step in result],
        "step": [step.label for step in result],
        "rows": [step.rows for step in result],
        "amount": [plain_amount(step.amount) for step in result],
        "rows left": [step.rows_left for step in result],
        "amount left": [plain_amount(step.amount_left) for step in result],
    }
    table = _table(cells, len(result))
    return table.marked(Mark.SUBTOTAL, np.arange(len(result)) == len(result) - 1)


def lines_table(result: LineSet) -> Table:
    """Return a row a line; those that add others are marked as subtotals."""
    cells: dict[str, list[Cell]] = {"line": [entry.label for entry in result]}
    for i, request in enumerate(result.measures):
        cells[_free(request.name, cells)] = [
            entry.tallies[i].value
            if isinstance(entry, Counted)
            else plain_amount(amount)
            if isinstance(entry, Added) and (amount := entry.amounts[i]) is not None
            else None
            for entry in result
        ]
    table = _table(cells, len(result))
    return table.marked(Mark.SUBTOTAL, np.array([isinstance(each, Added) for each in result]))


def listing_table(result: Listing) -> Table:
    """Return the rows with their numbers; with verdicts, those that a mark leaves out have it."""
    cells: dict[str, list[Cell]] = {"row": list(result.numbers)}
    for i, name in enumerate(result.names):
        cells[_free(name, cells)] = [row[i] for row in result.rows]
    if result.verdicts is None:
        return _table(cells, len(result.rows))
    cells[_free("verdict", cells)] = list(result.shown_verdicts)
    table = _table(cells, len(result.rows))
    for word, mark in _MARKED.items():
        here = np.array([verdict == word for verdict in result.verdicts], dtype=bool)
        if here.any():
            table = table.marked(mark, here)
    return table


def _table(cells: dict[str, list[Cell]], length: int) -> Table:
    columns = tuple(column_from_cells(name, values) for name, values in cells.items())
    return Table(columns, length)
