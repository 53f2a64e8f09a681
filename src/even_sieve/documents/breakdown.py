"""A breakdown laid out: lines with subtotals under them, or side by side; the total last."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any

from even_sieve.core.cells import Cell
from even_sieve.core.notices import Code
from even_sieve.core.progress import steps
from even_sieve.core.tally import ALL_VALUES, Breakdown, Line, Tally
from even_sieve.documents.document import (
    Accounts,
    Document,
    Grid,
    Notes,
    Part,
    Records,
    free_name,
)
from even_sieve.documents.figures import (
    SUBTOTAL,
    TOTAL,
    accounts,
    plain_as_of,
    plain_notices,
    plain_tally,
    remarks,
    show_key,
)
from even_sieve.documents.roundings import roundings
from even_sieve.documents.shown import show_figure
from even_sieve.documents.values import plain_json, plain_text

if TYPE_CHECKING:
    from matplotlib.figure import Figure

_FEW_LINES = 3


class BreakdownDocument(Document):
    """A row a line, the values of its measures beside its key.

    Subtotals stand under the lines that they repeat; with `across` its values stand side by
    side, the totals of the rows after them.
    """

    answer: Breakdown

    def parts(self) -> Sequence[Part]:
        """Return the lines, the account of the total, and what is to be known of them."""
        total = accounts(self.answer.total)
        return self.grid(), Accounts(total, "of the total"), Notes(tuple(self._notes()))

    def grid(self) -> Grid:
        """Return the lines as headed rows."""
        return _lines_grid(self.answer) if self.answer.across is None else _cross_grid(self.answer)

    def _notes(self) -> list[str]:
        result = self.answer
        found = [*(each.text for each in result.notices), *remarks(result.total)]
        empty: dict[str, str] = {}
        for line in steps(result.lines, "working out the lines"):
            for tally in line.tallies:
                for notice in tally.notices:
                    if notice.code is Code.NOTHING_USED:
                        key = ", ".join(map(show_key, line.key))
                        empty.setdefault(key, f"{key}: {notice.text}")
        found += roundings(result)
        if len(empty) <= _FEW_LINES:
            found.extend(empty.values())
        else:
            shown = "; ".join(list(empty)[:_FEW_LINES])
            zeros = f"on {len(empty)} lines a 0 stands for nothing found or added"
            found.append(f"{zeros}: {shown}; …")
        return list(dict.fromkeys(found))

    def plain(self) -> dict[str, object]:
        """Return the lines, the rest, the subtotals and the total."""
        result = self.answer
        subtotals = [_plain_subtotal(result, each) for each in result.subtotals]
        return {
            "by": list(result.by),
            "across": result.across,
            "lines": list(map(_plain_line, result.lines)),
            "rest": None if result.rest is None else _plain_line(result.rest),
            **({"subtotals": subtotals} if subtotals else {}),
            "total": {"measures": list(map(plain_tally, result.total))},
            **plain_as_of(result.total),
            "notices": plain_notices(result.notices),
        }

    def records(self) -> Records:
        """Return a row a line, each group's subtotals below it, and the total."""
        result, every = self.answer, list(_every_line(self.answer))
        columns = _key_columns(result.axes, [line.key for line in every])
        for i, tally in enumerate(result.total):
            columns[free_name(tally.name, columns)] = [line.tallies[i].value for line in every]
        return Records(columns, _marks([line.key for line in every]), len(result.axes), spelt=True)

    def sheet(self) -> Records:
        """Return a breakdown as it is laid out: the values of `across` side by side."""
        result = self.answer
        if result.across is None:
            return self.records()
        every = list(_every_line(result))
        sides: list[Any] = list(dict.fromkeys(line.key[-1] for line in every))
        sides = [*(each for each in sides if each is not ALL_VALUES), ALL_VALUES]
        keys = list(dict.fromkeys(line.key[:-1] for line in every))
        known = {line.key: line.tallies for line in every}
        columns = _key_columns(result.by, keys)
        for side in sides:
            label = TOTAL if side is ALL_VALUES else "blank" if side is None else plain_text(side)
            for i, tally in enumerate(result.total):
                name = label if len(result.total) == 1 else f"{label}: {tally.name}"
                found = [known.get((*key, side)) for key in keys]
                cells = [None if each is None else each[i].value for each in found]
                columns[free_name(name, columns)] = cells
        return Records(columns, _marks(keys), len(result.by))

    def frame(self) -> Any:
        """Return a row a line, its values as the index, and a column a measure, without totals.

        Left out, they cannot be counted twice: they are `breakdown.total` and `subtotals`.
        """
        import pandas as pd

        result = self.answer
        keys = [line.key for line in result.lines]
        index = (
            pd.Index([key[0] for key in keys], name=result.axes[0])
            if len(result.axes) == 1
            else pd.MultiIndex.from_tuples(keys, names=result.axes)
        )
        values = {
            tally.name: [line.tallies[i].value for line in result.lines]
            for i, tally in enumerate(result.total)
        }
        return pd.DataFrame(values, index=index)

    def chart(self, measure: str | None = None) -> "Figure":
        """Return one measure as bars, or as a line over periods."""
        from even_sieve.documents.chart import draw_breakdown

        return draw_breakdown(self.answer, measure)


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
        return Grid(tuple(header), tuple(self.texts), numeric, 1, strong, sources, crops=True)


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


def _every_line(result: Breakdown) -> Iterator[Line]:
    """Yield the lines with the rest, each group's subtotals below it, and the total."""
    size = len(result.axes)
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


def _key_columns(names: Sequence[str], keys: list[tuple[Any, ...]]) -> dict[str, Sequence[Cell]]:
    """Return the columns of the keys: `total` where all values are in a line, and blanks after."""
    firsts = [next((i for i, part in enumerate(key) if part is ALL_VALUES), -1) for key in keys]
    return {
        name: [
            TOTAL if i == first else None if key[i] is ALL_VALUES else key[i]
            for key, first in zip(keys, firsts, strict=True)
        ]
        for i, name in enumerate(names)
    }


def _marks(keys: list[tuple[Any, ...]]) -> list[str | None]:
    """Return the mark of each line: rows of all values are a total, of some a subtotal."""
    alls = [sum(part is ALL_VALUES for part in key) for key in keys]
    return [
        TOTAL if count == len(key) else SUBTOTAL if count else None
        for count, key in zip(alls, keys, strict=True)
    ]


def _plain_line(line: Line) -> dict[str, object]:
    key = [plain_json(value) for value in line.key]
    return {"key": key, "measures": list(map(plain_tally, line.tallies))}


def _plain_subtotal(result: Breakdown, line: Line) -> dict[str, object]:
    """Return a subtotal; `of` names the axes whose values are in its key."""
    pairs = zip(result.axes, line.key, strict=True)
    fixed = [(name, key) for name, key in pairs if key is not ALL_VALUES]
    return {
        "of": [name for name, _ in fixed],
        "key": [plain_json(value) for _, value in fixed],
        "measures": list(map(plain_tally, line.tallies)),
    }
