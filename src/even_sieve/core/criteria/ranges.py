"""Criteria ranges: criteria laid out as a small table.

A header of column names, and rows of conditions. Across a row all must hold; the rows
are alternatives. A blank cell sets no condition; a blank row is passed over.
"""

from collections.abc import Sequence
from dataclasses import dataclass

from even_sieve.core.cells import Cell, CellError
from even_sieve.core.criteria.grammar import parse_cell
from even_sieve.core.criteria.nodes import (
    EVERYTHING,
    Condition,
    Criteria,
    OneOf,
    all_of,
    any_of,
)
from even_sieve.core.criteria.settings import operand_of
from even_sieve.core.errors import SourceError
from even_sieve.core.notices import Code, Notice


@dataclass(frozen=True)
class RangeCriteria:
    """What a criteria range says, and what to know about it."""

    criteria: Criteria
    notices: tuple[Notice, ...] = ()


def criteria_from_range(
    header: Sequence[Cell],
    rows: Sequence[Sequence[Cell]],
    *,
    source: str = "criteria range",
    numbers: Sequence[int] | None = None,
) -> RangeCriteria:
    """Return the criteria of a header and rows of cells.

    Text cells are read by the criteria grammar; numbers, dates and yes/no stand for
    themselves. `numbers` are the source's row numbers, for messages (2, 3, … if left out).
    Raises `CriteriaError` naming source, row and column of a cell that cannot be read, and
    `SourceError` for a condition under no header or an error cell.

    >>> read = criteria_from_range(["zone", "dues"], [["Outer", ">= 500"], ["Inner", None]])
    >>> from even_sieve.core.criteria.writing import write_criteria
    >>> write_criteria(read.criteria)
    'zone = Outer and dues >= 500 or zone = Inner'
    """
    names = [str(cell).strip() if cell is not None else "" for cell in header]
    if not any(names):
        raise SourceError(source, "the criteria range has no header", "Its first row names columns")
    alternatives: list[Criteria] = []
    notices: list[Notice] = []
    for position, row in enumerate(rows):
        number = numbers[position] if numbers is not None else position + 2
        parts = _row(names, row, source, number)
        if parts:
            alternatives.append(all_of(parts))
        else:
            notices.append(
                Notice(
                    Code.BLANK_RANGE_ROW,
                    f"{source}, row {number}: the row is blank and was passed over",
                    {"row": number},
                )
            )
    if not alternatives:
        return RangeCriteria(EVERYTHING, tuple(notices))
    return RangeCriteria(any_of(dict.fromkeys(alternatives)), tuple(notices))


def _row(names: Sequence[str], row: Sequence[Cell], source: str, number: int) -> list[Criteria]:
    parts: list[Criteria] = []
    for position, cell in enumerate(row):
        if cell is None or (isinstance(cell, str) and not cell.strip()):
            continue
        name = names[position] if position < len(names) else ""
        if not name:
            raise SourceError(
                source,
                f"'{cell}' stands under no column name",
                "Write the name of its column in the first row",
                number,
            )
        condition = _cell(name, cell, source, number)
        if condition is not None:
            parts.append(condition)
    return parts


def _cell(name: str, cell: Cell, source: str, number: int) -> Criteria | None:
    if isinstance(cell, str):
        return parse_cell(cell, name, f"{source}, row {number}, column '{name}':")
    if isinstance(cell, CellError):
        raise SourceError(source, f"column '{name}' holds the error {cell}", "", number)
    operand = operand_of(cell)
    return None if operand is None else Condition(name, OneOf((operand,)))
