"""A breakdown laid out: lines with subtotals under them, or side by side; the total last."""

from collections import Counter
from collections.abc import Mapping, Sequence
from itertools import cycle
from typing import TYPE_CHECKING, Any

from even_sieve.core.axes import is_period
from even_sieve.core.cells import Cell
from even_sieve.core.notices import Code, texts_of
from even_sieve.core.progress import steps
from even_sieve.core.tally import ALL_VALUES, Breakdown, Line, values_of
from even_sieve.documents.breakdown_grid import grid_of
from even_sieve.documents.document import (
    Accounts,
    Document,
    Grid,
    Notes,
    Part,
    Records,
    free_name,
)
from even_sieve.documents.every_line import EveryLine, Stretched
from even_sieve.documents.figures import (
    BLANK_KEY,
    SUBTOTAL,
    TOTAL,
    accounts,
    plain_as_of,
    plain_notices,
    plain_tally,
    remarks,
    show_key,
)
from even_sieve.documents.handout import Handout
from even_sieve.documents.plain_lines import plain_line, plain_lines
from even_sieve.documents.roundings import roundings
from even_sieve.documents.shown import shape_of
from even_sieve.documents.values import plain_json, plain_text

if TYPE_CHECKING:
    from matplotlib.axes import Axes

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
        return grid_of(self.answer)

    def _notes(self) -> list[str]:
        result = self.answer
        found = [*texts_of(result.notices), *remarks(result.total)]
        empty: dict[str, str] = {}
        zeros = [
            {place for place, value in enumerate(values_of(result.lines, i)) if value == 0}
            for i in range(len(result.total))
        ]
        for place in steps(sorted(set().union(*zeros)), "working out the lines"):
            line = result.lines[place]
            for notice in (each for tally in line.tallies for each in tally.notices):
                if notice.code is Code.NOTHING_USED:
                    key = ", ".join(map(show_key, line.key))
                    empty.setdefault(key, f"{key}: {notice.text}")
        found += roundings(result)
        if len(empty) <= _FEW_LINES:
            found.extend(empty.values())
        else:
            shown = "; ".join(list(empty)[:_FEW_LINES])
            told = f"on {len(empty)} lines a 0 stands for nothing found or added"
            found.append(f"{told}: {shown}; …")
        return list(dict.fromkeys(found))

    def plain(self) -> dict[str, object]:
        """Return the lines, the rest, the subtotals and the total."""
        result = self.answer
        subtotals = [_plain_subtotal(result, each) for each in result.subtotals]
        return {
            "by": list(result.by),
            "across": result.across,
            "lines": list(plain_lines(result.lines, len(result.total))),
            "rest": None if result.rest is None else plain_line(result.rest),
            **({"subtotals": subtotals} if subtotals else {}),
            "total": {"measures": list(map(plain_tally, result.total))},
            **plain_as_of(result.total),
            "notices": plain_notices(result.notices),
        }

    def records(self) -> Records:
        """Return a row a line, each group's subtotals below it, and the total."""
        result, every = self.answer, EveryLine(self.answer)
        keys = every.keys()
        columns = _key_columns(result.axes, keys)
        for i, tally in enumerate(result.total):
            columns[free_name(tally.name, columns)] = every.values(i)
        return Records(columns, _marks(keys), len(result.axes), spelt=True)

    def sheet(self) -> Records:
        """Return a breakdown as it is laid out: the values of `across` side by side."""
        result = self.answer
        if result.across is None:
            return self.records()
        every = EveryLine(result)
        every_key = [*zip(*every.keys(), strict=True)]
        sides: list[Any] = list(dict.fromkeys(key[-1] for key in every_key))
        sides = [*(each for each in sides if each is not ALL_VALUES), ALL_VALUES]
        keys = list(dict.fromkeys(key[:-1] for key in every_key))
        known = {key: place for place, key in enumerate(every_key)}
        key_columns = [*zip(*keys, strict=True)]
        columns = _key_columns(result.by, key_columns)
        repeating = set()
        for side in sides:
            label = TOTAL if side is ALL_VALUES else BLANK_KEY if side is None else plain_text(side)
            places = [known.get((*key, side)) for key in keys]
            for i, tally in enumerate(result.total):
                name = label if len(result.total) == 1 else f"{label}: {tally.name}"
                values = every.values(i)
                cells = [None if place is None else values[place] for place in places]
                name = free_name(name, columns)
                columns[name] = cells
                if side is ALL_VALUES:
                    repeating.add(name)
        marks = _marks(key_columns)
        return Records(columns, marks, len(result.by), spelt=True, repeating=frozenset(repeating))

    def handout(self) -> Handout:
        """Return the breakdown as it is laid out, its keys in words; what is drawn of it."""
        result, records = self.answer, self.sheet()
        names = list(records.columns)
        keys, values = names[: records.keys], names[records.keys :]
        columns = dict(records.columns)
        for depth, name in enumerate(keys):
            columns[name] = [
                BLANK_KEY if key is None and not _is_filler(columns, keys[:depth], row) else key
                for row, key in enumerate(columns[name])
            ]
        shapes = {
            name: shape_of(tally, columns[name])
            for name, tally in zip(values, cycle(result.total), strict=False)
        }
        drawn = values[:1] if result.across is None else values[:: len(result.total)]
        series = [name for name in drawn if name not in records.repeating]
        pair = (keys[-1], tuple(series))
        along = result.across is not None and is_period(result.across)
        return Handout(
            columns, shapes, records.marks, notes=self.notes(), series=pair,
            over_time=along or is_period(result.by[0]), periods=along,
        )  # fmt: skip

    def plot(self, measure: str | None = None, axes: "Axes | None" = None) -> "Axes":
        """Draw one measure as bars, or as lines over periods."""
        from even_sieve.documents.chart import draw_breakdown

        return draw_breakdown(self.answer, measure, axes)


def _is_filler(columns: Mapping[str, Sequence[Cell]], before: Sequence[str], row: int) -> bool:
    """Tell whether a key stands after the word `total`, where nothing is meant."""
    return any(columns[name][row] == TOTAL for name in before)


def _key_columns(names: Sequence[str], keys: Sequence[Sequence[Any]]) -> dict[str, Sequence[Cell]]:
    """Return the columns of the keys: `total` where all values are in a line, and blanks after."""
    found: dict[str, Sequence[Cell]] = {}
    said: set[int] = set()
    for name, column in zip(names, keys, strict=True):
        if isinstance(column, Stretched):  # the last line alone is of all values
            found[name] = column.with_last(None if len(column) - 1 in said else TOTAL)
            said.add(len(column) - 1)
            continue
        own = list(column)
        for place in [place for place, key in enumerate(own) if key is ALL_VALUES]:
            own[place] = None if place in said else TOTAL
            said.add(place)
        found[name] = own
    return found


def _marks(keys: Sequence[Sequence[Any]]) -> list[str | None]:
    """Return the mark of each line: rows of all values are a total, of some a subtotal."""
    found: list[str | None] = [None] * len(keys[0])
    if isinstance(keys[0], Stretched):
        found[-1] = TOTAL
        return found
    alls = Counter(place for own in keys for place, key in enumerate(own) if key is ALL_VALUES)
    for place, count in alls.items():
        found[place] = TOTAL if count == len(keys) else SUBTOTAL
    return found


def _plain_subtotal(result: Breakdown, line: Line) -> dict[str, object]:
    """Return a subtotal; `of` names the axes whose values are in its key."""
    pairs = zip(result.axes, line.key, strict=True)
    fixed = [(name, key) for name, key in pairs if key is not ALL_VALUES]
    return {
        "of": [name for name, _ in fixed],
        "key": [plain_json(value) for _, value in fixed],
        "measures": list(map(plain_tally, line.tallies)),
    }
