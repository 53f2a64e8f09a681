"""Breakdowns as headed rows of texts: lines with subtotals under them, or side by side."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field

from even_sieve.core.cells import Cell
from even_sieve.core.notices import Code
from even_sieve.core.tally import ALL_VALUES, Breakdown, Tally
from even_sieve.views.grid import TOTAL, Grid, remarks, show_figure, show_key

_FEW_LINES = 3


def breakdown_grid(result: Breakdown) -> Grid:
    """Return a row a line, the values of its measures beside its key, and the total last.

    Subtotals stand under the lines that they repeat; with `across` its values stand side by
    side, the totals of the rows after them.
    """
    return _lines_grid(result) if result.across is None else _cross_grid(result)


@dataclass
class _Rows:
    """Rows as they are laid out: texts, the tallies behind them, and which repeat others."""

    texts: list[tuple[str, ...]] = field(default_factory=list)
    sources: list[tuple[Tally | None, ...]] = field(default_factory=list)
    strong: list[int] = field(default_factory=list)

    def add(self, label: Sequence[str], tallies: Sequence[Tally | None], *, strong: bool) -> None:
        """Add a row: its label, and a figure for each tally, nothing where there is none."""
        if strong:
            self.strong.append(len(self.texts))
        figures = ("" if each is None else show_figure(each) for each in tallies)
        self.texts.append((*label, *figures))
        self.sources.append((*(None for _ in label), *tallies))

    def grid(self, header: Sequence[str], labels: int) -> Grid:
        """Return the rows under a header; the last one is the total."""
        numeric = tuple(position >= labels for position in range(len(header)))
        strong, sources = frozenset(self.strong), tuple(self.sources)
        return Grid(tuple(header), tuple(self.texts), numeric, 1, strong, sources)


def _lines_grid(result: Breakdown) -> Grid:
    rows, depth = _Rows(), len(result.by)
    keys = [line.key for line in result.lines]
    for line, ended in zip(result.lines, _ended(keys, depth), strict=True):
        rows.add(list(map(show_key, line.key)), tuple(line.tallies), strong=False)
        for level in ended:
            prefix = line.key[:level]
            key = (*prefix, *(ALL_VALUES for _ in range(depth - level)))
            rows.add(_total_label(prefix, depth), tuple(result[key]), strong=True)
    if result.rest is not None:
        rows.add(list(map(show_key, result.rest.key)), tuple(result.rest.tallies), strong=False)
    rows.add(_total_label((), depth), tuple(result.total), strong=False)
    return rows.grid((*result.by, *(tally.name for tally in result.total)), depth)


def _ended(keys: Sequence[tuple[Cell, ...]], depth: int) -> Iterator[list[int]]:
    """Yield for each key the levels of outer groups that end with it, the innermost first."""
    for position, key in enumerate(keys):
        after = keys[position + 1] if position + 1 < len(keys) else None
        levels = range(depth - 1, 0, -1)
        yield [level for level in levels if after is None or after[:level] != key[:level]]


def _total_label(prefix: Sequence[Cell], depth: int) -> list[str]:
    filler = [""] * (depth - len(prefix) - 1)
    return [*map(show_key, prefix), TOTAL, *filler]


def _cross_grid(result: Breakdown) -> Grid:
    rows, depth, measures = _Rows(), len(result.by), [tally.name for tally in result.total]
    every = (ALL_VALUES,) * depth
    across = [line.key[-1] for line in result.subtotals if line.key[:-1] == every]
    columns = [*across, ALL_VALUES]

    def tallies(prefix: tuple[Cell, ...]) -> list[Tally | None]:
        key = (*prefix, *(ALL_VALUES for _ in range(depth - len(prefix))))
        found: list[Tally | None] = []
        for column in columns:
            whole = key == every and column is ALL_VALUES
            some = result.total if whole else result.get((*key, column))
            found += [None] * len(measures) if some is None else list(some)
        return found

    keys = list(dict.fromkeys(line.key[:-1] for line in result.lines))
    for key, ended in zip(keys, _ended(keys, depth), strict=True):
        rows.add(list(map(show_key, key)), tallies(key), strong=False)
        for level in ended:
            rows.add(_total_label(key[:level], depth), tallies(key[:level]), strong=True)
    rows.add(_total_label((), depth), tallies(()), strong=False)
    labels = [TOTAL if key is ALL_VALUES else show_key(key) for key in columns]
    several = len(measures) > 1
    header = [f"{label}: {name}" if several else label for label in labels for name in measures]
    return rows.grid((*result.by, *header), depth)


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
