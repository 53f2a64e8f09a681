"""Rows that a program has chosen: a mask, or the numbers of rows."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from even_sieve.core.criteria.conditions import OneOf
from even_sieve.core.criteria.nodes import Condition, Criteria
from even_sieve.core.criteria.settings import operand_of
from even_sieve.core.errors import CallError
from even_sieve.core.notices import counted
from even_sieve.core.table import Table, column_from
from even_sieve.core.table.lanes import Array
from even_sieve.core.table.marking import rows_numbered

_NAME = "rows chosen"


@dataclass(frozen=True, eq=False)
class GivenRows:
    """Rows by a mask (bool, shape (rows,)), or by their numbers in the source."""

    rows: Array | tuple[int, ...]

    def __eq__(self, other: object) -> bool:
        return isinstance(other, GivenRows) and self._told == other._told

    def __hash__(self) -> int:
        return hash(self._told)

    @property
    def _told(self) -> tuple[object, ...]:
        if isinstance(self.rows, tuple):
            return self.rows
        return self.rows.dtype.kind, self.rows.tobytes()

    def mask(self, table: Table) -> Array:
        """Return the rows of a table. Raises `CallError` for another length, `MarkError`."""
        if isinstance(self.rows, tuple) or self.rows.dtype.kind != "b":
            return rows_numbered(table, self.rows)
        if len(self.rows) != table.length:
            rows = counted(table.length, "row")
            raise CallError(f"a mask of {len(self.rows):,} does not fit a table of {rows}")
        return self.rows


@dataclass(frozen=True)
class GivenColumn:
    """A column that says of each row whether it was chosen."""

    name: str
    rows: GivenRows

    @classmethod
    def after(cls, others: tuple["GivenColumn", ...], rows: GivenRows) -> "GivenColumn":
        """Return the column of rows, with a name that the others do not have."""
        return cls(_NAME if not others else f"{_NAME} {len(others) + 1}", rows)

    @property
    def criteria(self) -> Criteria:
        """Criteria that hold for the chosen rows."""
        operand = operand_of(True)
        return Condition(self.name, OneOf(() if operand is None else (operand,)))

    def added_to(self, table: Table) -> Table:
        """Return the table with the column. Raises `CallError` if the name is taken."""
        if self.name in table:
            raise CallError(f"there is a column '{self.name}': rows cannot be chosen by a mask")
        made = column_from(self.name, self.rows.mask(table))
        return replace(table, columns=(*table.columns, made))


def given_rows(value: Any) -> GivenRows | None:
    """Return the rows that a mask or row numbers choose; None for what is neither.

    That is an array of NumPy or Arrow, a series or an index of pandas, a range, or a list, a
    tuple or a set whose members are all yes/no, or all whole numbers.
    """
    if isinstance(value, str | bytes | Mapping) or value is None:
        return None
    if hasattr(value, "columns") or not isinstance(value, Iterable):  # a frame is no mask
        return None
    if isinstance(value, range | list | tuple | set | frozenset):
        return _of_members(list(value))
    if not (hasattr(value, "dtype") or hasattr(value, "to_numpy")):
        return None
    found = np.asarray(value)
    if found.ndim != 1:
        return None
    if not len(found):
        if found.dtype.kind == "b":
            return GivenRows(found)
        return GivenRows(found.astype(np.int64)) if found.dtype.kind in "iuf" else None
    if found.dtype.kind == "O":  # nullable types, and Arrow's
        return _of_members(found.tolist())
    return GivenRows(found) if found.dtype.kind in "biu" else None


def _of_members(members: list[Any]) -> GivenRows | None:
    """Return rows by yes/no, or by numbers, which may know their source; None for others."""
    if not members:
        return None
    if all(isinstance(each, bool | np.bool_) for each in members):
        return GivenRows(np.array(members, dtype=bool))
    if all(isinstance(each, int | np.integer) and not isinstance(each, bool) for each in members):
        return GivenRows(tuple(members))
    return None
