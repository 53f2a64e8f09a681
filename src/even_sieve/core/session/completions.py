"""What a cell could say: the values of its column with their counts, periods, comparisons."""

import unicodedata
from collections import Counter
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from datetime import date
from functools import cached_property

import numpy as np

from even_sieve.core.cells import Cell, CellError, Kind, fold
from even_sieve.core.criteria import ParameterValue, operand_of
from even_sieve.core.criteria.conditions import OneOf
from even_sieve.core.criteria.nodes import Condition
from even_sieve.core.criteria.writing import write_cell
from even_sieve.core.errors import SieveError
from even_sieve.core.table import Column, Mark, Table
from even_sieve.core.table.lanes import Array, TextLane

#: Below it a double that is whole is shown as a whole number.
_EXACT = 2**53
#: So many are offered at once.
_MOST = 50
#: The values of a column with more different ones are not all looked at while one types.
_MOST_VALUES = 100_000
_COMPARISONS = (
    (">= ", "at least"), ("<= ", "at most"), ("> ", "more than"), ("< ", "less than"),
    ("<> ", "anything but"),
)  # fmt: skip
_BLANK = "is blank"
_OF_ANY = ((_BLANK, "nothing in it"), ("is filled", "anything in it"))
_OF_TEXT = (("*", "any run of characters, as in B*"), ("<> ", "anything but"))


@dataclass(frozen=True)
class Completion:
    """One thing that a cell could say: the whole text of the cell, and what is told of it.

    `count` is in how many rows in play the value stands; None for what is no value.
    """

    text: str
    about: str = ""
    count: int | None = None


class Completions:
    """What the cells of a draft could say, told from one table without the rows that are skipped.

    >>> from even_sieve.core.table import table_from_columns
    >>> found = Completions(table_from_columns({"zone": ["Outer", "Inner", "Outer"]}))
    >>> [(each.text, each.count) for each in found.of("zone", "o")]
    [('Outer', 2)]
    """

    def __init__(
        self,
        table: Table,
        parameters: Mapping[str, ParameterValue] | None = None,
        skipped: Mark | None = None,
    ) -> None:
        self._table, self._parameters = table, dict(parameters or {})
        marks = None if skipped is None else table.marks
        self._in_play = None if marks is None else np.flatnonzero((marks & (skipped or 0)) == 0)
        self._values: dict[str, _Values] = {}

    def of(self, name: str, typed: str = "") -> list[Completion]:
        """Return what the cell of a column could say, given what is typed of it already.

        Values come first, the most frequent before the others; those that begin as is typed
        before those that hold it further on. Accents and case do not matter.
        """
        if name not in self._table:
            return []
        before, last = _last_alternative(typed)
        sign = next((s for s in ("<>", ">=", "<=", "!=", ">", "<", "=") if last.startswith(s)), "")
        begun = last[len(sign) :].strip()
        lead = f"{before}{sign} " if sign else before
        column = self._table.column(name)
        if name not in self._values:
            self._values[name] = _Values(column, self._in_play)
        own = self._values[name]
        found = [*own.periods(begun), *own.values(begun)]
        said = [Completion(f"{lead}{each.text}", each.about, each.count) for each in found]
        if not begun and not sign:
            words = [Completion(before + t, about) for t, about in _words(column)]
            ordered = column.leading in (Kind.NUMBER, Kind.DATE)
            said = [*words, *said] if ordered else [*said, *words]
        said += [
            Completion(f"{lead}{{{each}}}", "a parameter")
            for each in self._parameters
            if _plain(each).startswith(_plain(begun.lstrip("{")))
        ]
        different = {each.text.strip(): each for each in reversed(said)}
        different.pop(typed.strip(), None)
        return list(reversed(different.values()))[:_MOST]

    def names(self, typed: str = "") -> list[Completion]:
        """Return the columns whose names hold what is typed, those that begin so first."""
        plain = _plain(typed.strip())
        found = [each for each in self._table.columns if plain in _plain(each.name)]
        found.sort(key=lambda each: not _plain(each.name).startswith(plain))
        return [Completion(each.name, each.words) for each in found]


def _last_alternative(typed: str) -> tuple[str, str]:
    """Split what is typed before the alternative that is being typed, outside of quotes."""
    cut = -1
    quoted = False
    for place, char in enumerate(typed):
        quoted ^= char == '"'
        if char in "|&" and not quoted:
            cut = place
    before = typed[: cut + 1]
    return (f"{before.rstrip()} " if before else ""), typed[cut + 1 :].lstrip()


def _words(column: Column) -> Iterator[tuple[str, str]]:
    if column.leading in (Kind.NUMBER, Kind.DATE):
        yield from _COMPARISONS
        yield (("2..5", "from 2 to 5") if column.leading is Kind.NUMBER else
               ("last 30 days", "up to the as-of date"))  # fmt: skip
    else:
        yield from _OF_TEXT
    yield from _OF_ANY


def _plain(text: str) -> str:
    """Return a text without case and accents."""
    apart = unicodedata.normalize("NFKD", text)
    return fold("".join(char for char in apart if not unicodedata.combining(char)))


class _Values:
    """The different values of a column, the most frequent first."""

    def __init__(self, column: Column, in_play: Array | None) -> None:
        self._column, self._in_play = column, in_play

    @cached_property
    def _counted(self) -> tuple[list[tuple[Cell, int]], bool]:
        """The values with their counts, and whether these are all that there are."""
        identity = self._column.identity
        codes = identity.codes if self._in_play is None else identity.codes[self._in_play]
        counts = np.bincount(codes, minlength=len(identity.keys))
        order = np.argsort(-counts, kind="stable")
        order = order[: np.count_nonzero(counts)]
        kept = order[:_MOST_VALUES].tolist()
        return [(identity.keys[i], int(counts[i])) for i in kept], len(kept) == len(order)

    @cached_property
    def _written(self) -> list[tuple[str, str, int]]:
        """Each value as a cell of a range says it, as it is sought, and its count."""
        pairs = self._counted[0]
        if not self._counted[1]:
            pairs = pairs[:_MOST]
        found = ((_cell(value), count) for value, count in pairs)
        return [(text, _plain(text), count) for text, count in found if text is not None]

    def values(self, begun: str) -> list[Completion]:
        """Return the values that hold what is begun, those that begin so first."""
        plain = _plain(begun).lstrip('"')
        if not self._counted[1] and plain:
            return list(self._among_many(begun))
        held = [each for each in self._written if plain in each[1]]
        held = [each for each in held if each[0] != _BLANK or each[1].startswith(plain)]
        held.sort(key=lambda each: not each[1].lstrip('"').startswith(plain))
        return [Completion(text, "", count) for text, _, count in held[:_MOST]]

    def _among_many(self, begun: str) -> Iterator[Completion]:
        """Yield texts that begin so, of a column with very many; accents matter there."""
        lane = self._column.lanes.get(Kind.TEXT)
        if not isinstance(lane, TextLane):
            return
        low, high = lane.range_beginning(fold(begun.lstrip('"')))
        for code in range(low, min(high, low + _MOST)):
            text = _cell(lane.spellings[code])
            if text is not None:
                yield Completion(text)

    @cached_property
    def _periods(self) -> list[tuple[str, str, int]]:
        """The years, quarters and months that dates of the column fall into, with counts."""
        found: Counter[tuple[int, str]] = Counter()
        for value, count in self._counted[0]:
            if isinstance(value, date):
                quarter = (value.month + 2) // 3
                found[0, f"{value.year:04}"] += count
                found[1, f"{value.year:04}-Q{quarter}"] += count
                found[2, f"{value.year:04}-{value.month:02}"] += count
        kinds = "the year", "the quarter", "the month"
        complete = self._counted[1]
        return [(t, kinds[kind], n if complete else 0) for (kind, t), n in sorted(found.items())]

    def periods(self, begun: str) -> Iterable[Completion]:
        """Return the periods that begin as is typed."""
        if self._column.leading is not Kind.DATE:
            return []
        sought = begun.upper()
        return [Completion(t, k, n or None) for t, k, n in self._periods if t.startswith(sought)]


def _cell(value: Cell) -> str | None:
    """Return a value as a cell of a criteria range says it; None for what no cell can."""
    if isinstance(value, CellError):
        return None
    if value is None:
        return _BLANK
    if isinstance(value, float) and value.is_integer() and abs(value) < _EXACT:
        value = int(value)
    try:
        operand = operand_of(value)
        return None if operand is None else write_cell(Condition("x", OneOf((operand,))))
    except (SieveError, ValueError):
        return None
