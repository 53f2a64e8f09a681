"""The rows of a breakdown under their headings: subtotals below their lines, or side by side."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field

from even_sieve.core.cells import Cell
from even_sieve.core.lazy import LazySequence
from even_sieve.core.tally import ALL_VALUES, Breakdown, Line, Tally, keys_of, values_of
from even_sieve.documents.document import Grid
from even_sieve.documents.figures import TOTAL, show_key
from even_sieve.documents.shown import show_figure, show_figures


@dataclass
class _Rows:
    """Rows as they are laid out: texts, the tallies behind them, and which repeat others.

    Of one of `lines` its place alone is kept: it is made only if somebody wants its tallies.
    """

    lines: Sequence[Line] = ()
    texts: list[tuple[str, ...]] = field(default_factory=list)
    sources: list[Sequence[Tally | None] | int] = field(default_factory=list)
    strong: list[int] = field(default_factory=list)

    def add(self, label: Sequence[str], tallies: Sequence[Tally | None], *, strong: bool) -> None:
        """Add a row: its label, and a figure for each tally, nothing where there is none."""
        if strong:
            self.strong.append(len(self.texts))
        figures = ("" if each is None else show_figure(each) for each in tallies)
        self.texts.append((*label, *figures))
        self.sources.append(tallies)

    def add_line(self, label: Sequence[str], figures: Sequence[str], place: int) -> None:
        """Add the row of one of the lines."""
        self.texts.append((*label, *figures))
        self.sources.append(place)

    def grid(self, header: Sequence[str], labels: int) -> Grid:
        """Return the rows under a header; the last one is the total."""
        numeric = tuple(position >= labels for position in range(len(header)))
        strong, made, lines = frozenset(self.strong), self.sources, self.lines

        def source(place: int) -> tuple[Tally | None, ...]:
            own = made[place]
            tallies = lines[own].tallies if isinstance(own, int) else own
            return (*(None for _ in range(labels)), *tallies)

        sources = LazySequence(len(made), source)
        return Grid(tuple(header), tuple(self.texts), numeric, 1, strong, sources, crops=True)


def grid_of(result: Breakdown) -> Grid:
    """Return a breakdown as headed rows."""
    return _lines_grid(result) if result.across is None else _cross_grid(result)


def _lines_grid(result: Breakdown) -> Grid:
    rows, depth = _Rows(result.lines), len(result.by)
    keys = keys_of(result.lines)
    shown = [
        show_figures(total, values_of(result.lines, i)) for i, total in enumerate(result.total)
    ]
    figures = list(zip(*shown, strict=True)) or [()] * len(keys)
    for place, ended in enumerate(_ended(keys, depth)):
        rows.add_line(list(map(show_key, keys[place])), figures[place], place)
        for level in ended:
            prefix = keys[place][:level]
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
    across = [key[-1] for key in keys_of(result.subtotals) if key[:-1] == every]
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
