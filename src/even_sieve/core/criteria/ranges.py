"""Criteria ranges: criteria laid out as a small table.

A header of column names, and rows of conditions. Across a row all must hold; the rows
are alternatives. A blank cell sets no condition; a blank row is passed over.
"""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field

from even_sieve.core.cells import Cell, CellError
from even_sieve.core.criteria.conditions import OneOf
from even_sieve.core.criteria.grammar import parse_cell
from even_sieve.core.criteria.nodes import (
    EVERYTHING,
    And,
    Condition,
    Criteria,
    Not,
    Or,
    all_of,
    any_of,
    conditions,
)
from even_sieve.core.criteria.settings import operand_of
from even_sieve.core.criteria.writing import write_cell, write_criteria
from even_sieve.core.errors import SourceError
from even_sieve.core.notices import Code, Notice
from even_sieve.core.understood import refused


@dataclass(frozen=True)
class RangeCriteria:
    """What a criteria range says, and what to know about it.

    `cells` are the alternatives as they were written, column name and cell; empty where it was
    not a range that was read.
    """

    criteria: Criteria
    notices: tuple[Notice, ...] = ()
    cells: tuple[tuple[tuple[str, object], ...], ...] = field(default=(), compare=False)


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
            notices.append(_blank_row(source, number))
    if not alternatives:
        return RangeCriteria(EVERYTHING, tuple(notices))
    cells = tuple(tuple(zip(names, row, strict=False)) for row in rows)
    return RangeCriteria(any_of(alternatives), tuple(notices), cells)


def criteria_from_mapping(
    mapping: Mapping[str, object], *, source: str = "criteria", number: int | None = None
) -> Criteria | None:
    """Return criteria that hold where every column of a mapping does as its value says.

    A text is read as a cell of a criteria range, a list holds alternatives, any other
    value stands for itself; None and blank texts set no condition. None if none is set.

    >>> from even_sieve.core.criteria.writing import write_criteria
    >>> write_criteria(criteria_from_mapping({"zone": ["Outer", "B*"], "dues": "> 500"}))
    'zone = Outer | B* and dues > 500'
    """
    parts = []
    for name, value in mapping.items():
        if isinstance(value, str) or not isinstance(value, Sequence):
            found = _cell(str(name), value, source, number)
        else:
            found = _alternatives(str(name), value, source, number)
        if found is not None:
            parts.append(found)
    return all_of(parts) if parts else None


def criteria_from_records(
    records: Sequence[Mapping[str, object]], *, source: str = "criteria"
) -> RangeCriteria:
    """Return the criteria of a list of mappings: each one an alternative, as a range's row."""
    alternatives: list[Criteria] = []
    notices: list[Notice] = []
    for number, record in enumerate(records, 1):
        found = criteria_from_mapping(record, source=source, number=number)
        if found is None:
            notices.append(_blank_row(source, number))
        else:
            alternatives.append(found)
        notices.extend(blanks_among(record))
    cells = tuple(tuple(record.items()) for record in records)
    return RangeCriteria(
        any_of(alternatives) if alternatives else EVERYTHING, tuple(notices), cells
    )


def blanks_among(mapping: Mapping[str, object]) -> Iterator[Notice]:
    """Yield a notice for each list of alternatives in which some are blank."""
    for name, value in mapping.items():
        if isinstance(value, str) or not isinstance(value, Sequence):
            continue
        blank = sum(each is None or not str(each).strip() for each in value)
        if 0 < blank < len(value):
            text = f"{name}: a blank among the values was passed over; for blanks add: is blank"
            yield Notice(Code.BLANK_AMONG_VALUES, text)


def _alternatives(
    name: str, values: Sequence[object], source: str, number: int | None
) -> Criteria | None:
    """Return one condition for a list of plain values, else alternatives."""
    found = [_cell(name, value, source, number) for value in values]
    parts = [part for part in found if part is not None]
    plain = [
        part.test.values
        for part in parts
        if isinstance(part, Condition) and isinstance(part.test, OneOf) and not part.negated
    ]
    if parts and len(plain) == len(parts):
        return Condition(name, OneOf(tuple(value for values in plain for value in values)))
    return any_of(parts) if parts else None


def _blank_row(source: str, number: int) -> Notice:
    text = f"{source}, row {number}: the row is blank and was passed over"
    return Notice(Code.BLANK_RANGE_ROW, text, {"row": number})


def write_range(criteria: Criteria) -> list[list[str]]:
    """Return criteria laid out as a criteria range: the header, then a row an alternative.

    A column that is asked twice in a row stands twice in the header. Raises `ValueError`
    for criteria that do not fit: none at all, or a `not` over several conditions.

    >>> from even_sieve.core.criteria.grammar import parse_criteria
    >>> write_range(parse_criteria("zone = Outer and dues >= 5 and dues < 9 or vessel = B*"))
    [['zone', 'dues', 'dues', 'vessel'], ['Outer', '>= 5', '< 9', ''], ['', '', '', 'B*']]
    """
    if not isinstance(criteria, Condition | And | Or | Not):
        raise refused("criteria", "what parse_criteria gives, or field(…) compared", criteria)
    if criteria == EVERYTHING:
        raise ValueError("no condition: a criteria range needs one")
    header: list[str] = []
    rows = []
    for alternative in criteria.parts if isinstance(criteria, Or) else (criteria,):
        cells: dict[int, str] = {}
        position = 0
        for part in alternative.parts if isinstance(alternative, And) else (alternative,):
            column = _column_of(part)
            while position < len(header) and header[position] != column:
                position += 1
            if position == len(header):
                header.append(column)
            cells[position] = write_cell(part)
            position += 1
        rows.append(cells)
    return [header, *([row.get(i, "") for i in range(len(header))] for row in rows)]


def _column_of(part: Criteria) -> str:
    """Return the one column that a part asks. Raises `ValueError` if there are several."""
    columns = {condition.column for condition in conditions(part)}
    if len(columns) != 1:
        raise ValueError(f"'{write_criteria(part)}' does not fit into one cell of a criteria range")
    return columns.pop()


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


def _cell(name: str, cell: object, source: str, number: int | None) -> Criteria | None:
    if isinstance(cell, str):
        row = "" if number is None else f", row {number}"
        return parse_cell(cell, name, f"{source}{row}, column '{name}':")
    if isinstance(cell, OneOf | And | Or | Condition):
        raise TypeError(f"column '{name}': a value is needed here, not criteria")
    if isinstance(cell, CellError):
        raise SourceError(source, f"column '{name}' holds the error {cell}", "", number)
    operand = operand_of(cell)  # type: ignore[arg-type]
    return None if operand is None else Condition(name, OneOf((operand,)))
