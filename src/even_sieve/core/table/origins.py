"""Where the rows of a table of several sources came from."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise

import numpy as np

from even_sieve.core.table.lanes import Array, narrowest


class RowNumber(int):
    """The number of a row in its own source; `origin` names the source.

    Two are equal if both agree; beside a plain number the number alone counts.

    >>> RowNumber.of(14, "calls-02.csv")
    14 of calls-02.csv
    >>> RowNumber.of(14, "calls-02.csv") == RowNumber.of(14, "calls-03.csv")
    False
    """

    origin: str

    @classmethod
    def of(cls, number: int, origin: str) -> "RowNumber":
        """Return the number of a row of a source."""
        made = cls(number)
        made.origin = origin
        return made

    def __str__(self) -> str:
        return f"{int(self)} of {self.origin}"

    __repr__ = __str__

    def __format__(self, how: str) -> str:
        return format(str(self), how)

    def __eq__(self, other: object) -> bool:
        same = int.__eq__(self, other) if isinstance(other, int) else NotImplemented
        return same and (not isinstance(other, RowNumber) or self.origin == other.origin)

    def __ne__(self, other: object) -> bool:
        return not self == other

    __hash__ = int.__hash__

    def __reduce__(self) -> tuple[object, ...]:
        return RowNumber.of, (int(self), self.origin)


@dataclass(frozen=True, eq=False)
class Origins:
    """The source of each row: `codes` (shape (n,)) are places among `names`."""

    names: tuple[str, ...]
    codes: Array

    @classmethod
    def of(cls, names: Sequence[str], lengths: Sequence[int]) -> "Origins":
        """Return the origins of sources that follow one another, with so many rows each."""
        numbers = np.arange(len(names), dtype=narrowest(len(names)))
        return cls(tuple(names), np.repeat(numbers, lengths))

    def take(self, rows: Array | slice) -> "Origins":
        """Return the origins of these rows alone."""
        return Origins(self.names, self.codes[rows])

    @cached_property
    def runs(self) -> tuple[tuple[int, int], ...]:
        """The rows, first and beyond the last, of each stretch that came from one source."""
        cuts = np.flatnonzero(self.codes[1:] != self.codes[:-1]) + 1
        ends = [0, *cuts.tolist(), len(self.codes)]
        return tuple(pairwise(ends)) if len(self.codes) else ()

    def of_row(self, row: int) -> str:
        """Return the name of a row's source."""
        return self.names[int(self.codes[row])]

    def parts(self) -> Iterator[tuple[str, slice]]:
        """Yield each stretch of rows that came from one source, with its name."""
        for first, last in self.runs:
            yield self.of_row(first), slice(first, last)


def listed_rows(numbers: Sequence[int], most: int | None = None) -> str:
    """Return rows in words, those of one source together; `…` where there are more than `most`.

    >>> listed_rows([3, 9, 12], 2)
    '3, 9, …'
    >>> listed_rows([RowNumber.of(3, "a.csv"), RowNumber.of(9, "a.csv"), RowNumber.of(2, "b.csv")])
    '3, 9 of a.csv, 2 of b.csv'
    """
    shown = numbers if most is None else numbers[:most]
    origins = [*map(origin_of, shown), None]
    words = [
        str(int(each) if origins[i] == origins[i + 1] else each) for i, each in enumerate(shown)
    ]
    return ", ".join(words) + (", …" if len(shown) < len(numbers) else "")


def origin_of(number: int) -> str | None:
    """Return the source of a row by its number; None where there is but one."""
    return number.origin if isinstance(number, RowNumber) else None


def row_span(first: int, last: int) -> str:
    """Return the rows from one to another in words: `row 3`, `rows 3 to 9`.

    >>> row_span(RowNumber.of(3, "a.csv"), RowNumber.of(9, "a.csv"))
    'rows 3 to 9 of a.csv'
    """
    alike = origin_of(first) == origin_of(last)
    return f"row {first}" if first == last else f"rows {int(first) if alike else first} to {last}"
