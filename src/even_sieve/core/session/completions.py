"""What a cell could say: the values of its column with their counts, periods, comparisons."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

import numpy as np

from even_sieve.core.cells import Kind
from even_sieve.core.criteria import ParameterValue
from even_sieve.core.session.offered_values import BLANK, OfferedValues, plain
from even_sieve.core.table import Column, Mark, Table

#: So many are offered at once.
_MOST = 50
_COMPARISONS = (
    (">= ", "at least"), ("<= ", "at most"), ("> ", "more than"), ("< ", "less than"),
    ("<> ", "anything but"),
)  # fmt: skip
_OF_ANY = ((BLANK, "nothing in it"), ("is filled", "anything in it"))
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
        self._values: dict[str, OfferedValues] = {}

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
            self._values[name] = OfferedValues(column, self._in_play)
        own = self._values[name]
        found = [*own.periods(begun), *own.values(begun, _MOST)]
        said = [Completion(f"{lead}{text}", about, count) for text, about, count in found]
        if not begun and not sign:
            words = [Completion(before + t, about) for t, about in _words(column)]
            ordered = column.leading in (Kind.NUMBER, Kind.DATE)
            said = [*words, *said] if ordered else [*said, *words]
        said += [
            Completion(f"{lead}{{{each}}}", "a parameter")
            for each in self._parameters
            if plain(each).startswith(plain(begun.lstrip("{")))
        ]
        different = {each.text.strip(): each for each in reversed(said)}
        different.pop(typed.strip(), None)
        return list(reversed(different.values()))[:_MOST]

    def names(self, typed: str = "") -> list[Completion]:
        """Return the columns whose names hold what is typed, those that begin so first."""
        sought = plain(typed.strip())
        found = [each for each in self._table.columns if sought in plain(each.name)]
        found.sort(key=lambda each: not plain(each.name).startswith(sought))
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
