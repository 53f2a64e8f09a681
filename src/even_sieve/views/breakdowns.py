"""Breakdowns as headed rows of texts: lines with subtotals under them, or side by side."""

from even_sieve.core.cells import Cell
from even_sieve.core.notices import Code
from even_sieve.core.tally import ALL_VALUES, Breakdown
from even_sieve.views.grid import TOTAL, Grid, remarks, show_figure, show_key

_FEW_LINES = 3


def breakdown_grid(result: Breakdown) -> Grid:
    """Return a row a line, the values of its measures beside its key, and the total last.

    Subtotals stand under the lines that they repeat; with `across` its values stand side by
    side, the totals of the rows after them.
    """
    return _lines_grid(result) if result.across is None else _cross_grid(result)


def _lines_grid(result: Breakdown) -> Grid:
    header = (*result.by, *(tally.name for tally in result.total))
    rows: list[tuple[str, ...]] = []
    strong: list[int] = []
    lines, depth = result.lines, len(result.by)
    for position, line in enumerate(lines):
        rows.append((*map(show_key, line.key), *map(show_figure, line.tallies)))
        after = lines[position + 1].key if position + 1 < len(lines) else None
        for level in range(depth - 1, 0, -1):
            if after is not None and after[:level] == line.key[:level]:
                break
            strong.append(len(rows))
            rows.append(_subtotal(result, line.key[:level], depth))
    if result.rest is not None:
        rows.append((*map(show_key, result.rest.key), *map(show_figure, result.rest.tallies)))
    filler = ("",) * (depth - 1)
    rows.append((TOTAL, *filler, *map(show_figure, result.total)))
    numeric = (*(False for _ in result.by), *(True for _ in result.total))
    return Grid(header, tuple(rows), numeric, 1, frozenset(strong))


def _subtotal(result: Breakdown, prefix: tuple[Cell, ...], depth: int) -> tuple[str, ...]:
    left = depth - len(prefix)
    tallies = result[(*prefix, *(ALL_VALUES for _ in range(left)))]
    label = (*map(show_key, prefix), TOTAL, *("" for _ in range(left - 1)))
    return (*label, *map(show_figure, tallies))


def _cross_grid(result: Breakdown) -> Grid:
    depth, measures = len(result.by), [tally.name for tally in result.total]
    every = (ALL_VALUES,) * depth
    across = [line.key[-1] for line in result.subtotals if line.key[:-1] == every]
    columns = [*across, ALL_VALUES]
    labels = [TOTAL if key is ALL_VALUES else show_key(key) for key in columns]
    several = len(measures) > 1
    header = [f"{label}: {name}" if several else label for label in labels for name in measures]

    def row(prefix: tuple[Cell, ...], label: tuple[str, ...]) -> tuple[str, ...]:
        key = (*prefix, *(ALL_VALUES for _ in range(depth - len(prefix))))
        found = [
            result.total if key == every and column is ALL_VALUES else result.get((*key, column))
            for column in columns
        ]
        blank = ("",) * len(measures)
        cells = [blank if each is None else tuple(map(show_figure, each)) for each in found]
        return (*label, *(cell for each in cells for cell in each))

    keys = list(dict.fromkeys(line.key[:-1] for line in result.lines))
    rows, strong = [], []
    for position, key in enumerate(keys):
        rows.append(row(key, tuple(map(show_key, key))))
        after = keys[position + 1] if position + 1 < len(keys) else None
        for level in range(depth - 1, 0, -1):
            if after is not None and after[:level] == key[:level]:
                break
            strong.append(len(rows))
            filler = ("",) * (depth - level - 1)
            rows.append(row(key[:level], (*map(show_key, key[:level]), TOTAL, *filler)))
    rows.append(row((), (TOTAL, *("",) * (depth - 1))))
    numeric = (*(False for _ in result.by), *(True for _ in header))
    return Grid((*result.by, *header), tuple(rows), numeric, 1, frozenset(strong))


def breakdown_remarks(result: Breakdown) -> list[str]:
    """Return the remarks on a breakdown: its total's and its own."""
    found = [*(each.text for each in result.notices), *remarks(result.total)]
    empty: dict[str, str] = {}
    for line in result.lines:
        key = ", ".join(map(show_key, line.key))
        for tally in line.tallies:
            for notice in tally.notices:
                if notice.code is Code.NOTHING_USED:
                    empty.setdefault(key, f"{key}: {notice.text}")
    if len(empty) <= _FEW_LINES:
        found.extend(empty.values())
    else:
        shown = "; ".join(list(empty)[:_FEW_LINES])
        found.append(f"on {len(empty)} lines a 0 stands for nothing found or added: {shown}; …")
    return list(dict.fromkeys(found))
