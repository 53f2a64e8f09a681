"""A table: named columns of equal length, marks on its rows, and the rows' numbers."""

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import TYPE_CHECKING, Any

import numpy as np

from even_sieve.core.cells import Cell, Kind, fold
from even_sieve.core.errors import DuplicateColumn, LengthMismatch, UnknownColumn
from even_sieve.core.notices import Code, Notice
from even_sieve.core.table.columns import Column
from even_sieve.core.table.from_arrays import column_from
from even_sieve.core.table.lanes import Array
from even_sieve.core.table.marks import Mark, count_bits, count_skipped
from even_sieve.core.table.origins import Origins, RowNumber
from even_sieve.core.table.unread import Unread

if TYPE_CHECKING:
    from even_sieve.core.table.far import Elsewhere


@dataclass(frozen=True, eq=False)
class Table:
    """Named columns of equal length.

    `row_numbers` gives each row the number that the source gives it, int64, shape (n,), or
    the number of the first row where they follow one another. `marks` holds the bits of
    `Mark`, uint8, shape (n,), or None where no row is marked. `source` names where the
    table came from, for messages; `origins` say it of each row where there are several.
    `elsewhere` is who has the rows where they are not here, `unread` are rows of the source that
    were not read: no column has them, and they stand in accounts as unmatched.
    """

    columns: tuple[Column, ...]
    length: int
    row_numbers: Array | int = 1
    marks: Array | None = None
    source: str = ""
    own_notices: tuple[Notice, ...] = field(default=())
    origins: Origins | None = None
    elsewhere: "Elsewhere | None" = None
    unread: Unread | None = None

    def __post_init__(self) -> None:
        refuse_twice(self.names, self.source)
        for column in self.columns:
            first = self.columns[0]
            if column.length != self.length:
                raise LengthMismatch(first.name, first.length, column.name, column.length)

    def __len__(self) -> int:
        return self.length

    @property
    def rows_in_all(self) -> int:
        """How many rows the source has: those of the table, and those that were not read."""
        return self.length + (0 if self.unread is None else self.unread.rows)

    def __sizeof__(self) -> int:
        """Return how many bytes the cells take, as far as they are here."""
        return sum(column.__sizeof__() for column in self.columns)

    @property
    def names(self) -> tuple[str, ...]:
        """The column names, in order."""
        return tuple(column.name for column in self.columns)

    @cached_property
    def _positions(self) -> dict[str, int]:
        return {key_of(column.name): i for i, column in enumerate(self.columns)}

    @property
    def notices(self) -> tuple[Notice, ...]:
        """What the reader met on the way: its own notices, then the columns'."""
        return self.own_notices + tuple(each for column in self.columns for each in column.notices)

    def column(self, name: str) -> Column:
        """Return the column of that name (case and outer space do not matter), or `#5`'s.

        Raises `UnknownColumn`, which names the closest columns.
        """
        position = self._positions.get(key_of(name))
        if position is None:
            position = _numbered(name, len(self.columns))
        if position is None:
            raise UnknownColumn(name.strip(), self.names, why=self._left_out(name))
        return self.columns[position]

    def _left_out(self, name: str) -> str:
        """Return what a notice says of a column that was left out; nothing of another one."""
        begin = f"column '{key_of(name)}' "
        texts = (each.text for each in self.own_notices if each.code is Code.COLUMN_LEFT_OUT)
        return next((text for text in texts if text.casefold().startswith(begin)), "")

    @cached_property
    def _mark_counts(self) -> dict[int, int]:
        return count_bits(self.marks)

    def count_marks(self, skipped: Mark) -> dict[Mark, int]:
        """Return how many rows each of the skipped marks puts out, each row counted once."""
        if skipped not in self._put_out:
            self._put_out[skipped] = count_skipped(self._mark_counts, skipped)
        return self._put_out[skipped]

    @cached_property
    def _put_out(self) -> dict[Mark, dict[Mark, int]]:
        return {}

    def __contains__(self, name: str) -> bool:
        return key_of(name) in self._positions or _numbered(name, len(self.columns)) is not None

    def number(self, row: int) -> int:
        """Return the source's number of the row that stands at `row`, counted from 0.

        It is a `RowNumber` where there are several sources.
        """
        own = self.row_numbers
        number = own + row if isinstance(own, int) else int(own[row])
        return number if self.origins is None else RowNumber.of(number, self.origins.of_row(row))

    @property
    def numbers_first(self) -> tuple[str, ...]:
        """The names of the columns, those that lead with numbers before the others."""
        by_kind = sorted(self.columns, key=lambda column: column.leading is not Kind.NUMBER)
        return tuple(column.name for column in by_kind)

    def take(self, rows: Array) -> "Table":
        """Return the table of these rows (positions from 0, in order), numbers and marks kept."""
        chosen = np.asarray(rows, dtype=np.intp)
        own = self.row_numbers
        numbers = chosen + own if isinstance(own, int) else own[chosen]
        return replace(
            self,
            columns=tuple(column.take(chosen) for column in self.columns),
            length=len(chosen),
            row_numbers=numbers,
            marks=None if self.marks is None else self.marks[chosen],
            origins=None if self.origins is None else self.origins.take(chosen),
            elsewhere=None,
            unread=None,
        )

    def marked(self, mark: Mark, rows: Array) -> "Table":
        """Return a table on which the rows (bool, shape (n,)) carry the mark as well."""
        marks = np.zeros(self.length, np.uint8) if self.marks is None else self.marks.copy()
        marks[rows] |= np.uint8(mark)
        return replace(self, marks=marks)

    def records(self) -> Iterator[dict[str, Cell]]:
        """Yield each row as a mapping from column name to cell."""
        names = [column.name for column in self.columns]
        for row in zip(*(column.cells() for column in self.columns), strict=True):
            yield dict(zip(names, row, strict=True))


def refuse_twice(names: Iterable[str], source: str = "") -> None:
    """Raise `DuplicateColumn` for two names that differ in case or outer space alone."""
    seen: dict[str, int] = {}
    for position, name in enumerate(names, 1):
        earlier = seen.setdefault(key_of(name), position)
        if earlier != position:
            raise DuplicateColumn(name, (earlier, position), source)


def table_from_columns(
    columns: Mapping[str, Any], *, row_numbers: Array | int = 1, source: str = ""
) -> Table:
    """Return a table from a mapping of names to lists or NumPy arrays of one length.

    Rows are numbered from 1. Raises `LengthMismatch` naming two columns that differ,
    `DuplicateColumn` for names that differ in case or outer space alone.

    >>> table_from_columns({"zone": ["Outer", "Inner"], "dues": [120, 80]}).names
    ('zone', 'dues')
    """
    built = tuple(column_from(str(name).strip(), values) for name, values in columns.items())
    return Table(built, built[0].length if built else 0, row_numbers, None, source)


def key_of(name: str) -> str:
    """Return what names that mean one column have in common, however their letters are composed.

    >>> key_of(" Geb\u00fchr") == key_of("gebu\u0308hr")
    True
    """
    return fold(name.strip())


def _numbered(name: str, count: int) -> int | None:
    """Return the position that `#5` means, or None if it is no such name."""
    digits = name.strip().removeprefix("#")
    if name.strip().startswith("#") and digits.isdecimal() and 1 <= int(digits) <= count:
        return int(digits) - 1
    return None
