"""Results as tables, to be written as any table is."""

import numpy as np

from even_sieve.core.cells import Cell
from even_sieve.core.table import Mark, Table, column_from_cells
from even_sieve.core.tally import ALL_VALUES, BUCKETS, Breakdown, Bridge, Tallies
from even_sieve.views.values import plain_amount


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
    rest = () if result.rest is None else (result.rest,)
    lines = [*result.lines, *rest]
    names = [*result.by, *([] if result.across is None else [result.across])]
    every = [line.tallies for line in (*lines, *result.subtotals)] + [result.total]
    keys = [line.key for line in (*lines, *result.subtotals)] + [(None,) * len(names)]
    cells: dict[str, list[Cell]] = {
        name: [None if key[i] is ALL_VALUES else key[i] for key in keys]
        for i, name in enumerate(names)
    }
    for i, tally in enumerate(result.total):
        name = tally.name
        while name.casefold() in map(str.casefold, cells):
            name += "'"
        cells[name] = [tallies[i].value for tallies in every]
    table = _table(cells, len(every))
    return table.marked(Mark.SUBTOTAL, np.arange(len(every)) >= len(lines))


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


def _table(cells: dict[str, list[Cell]], length: int) -> Table:
    columns = tuple(column_from_cells(name, values) for name, values in cells.items())
    return Table(columns, length)
