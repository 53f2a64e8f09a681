"""Criteria under edit: columns across, alternatives down, each cell as it is typed."""

from dataclasses import dataclass, replace

from even_sieve.core.cells import Kind
from even_sieve.core.criteria import (
    EVERYTHING,
    Criteria,
    all_of,
    any_of,
    parse_cell,
    write_range,
)
from even_sieve.core.errors import CallError, CriteriaError, SieveError, UnknownColumn
from even_sieve.core.table import Table
from even_sieve.core.table.lanes import TextLane

#: A first draft has so many columns of texts whose values repeat.
_FIRST_TEXTS = 3
#: A text of more values than these, that stand in fewer rows than that on average, tells rows
#: apart and not groups.
_FEW_VALUES, _ROWS_A_VALUE = 20, 4


@dataclass(frozen=True)
class Fault:
    """What is wrong with a cell: its row and place from 0, the position in it from 1 if known.

    `row` is None where the name of a column is wrong, `place` too where it is not known which
    cell is.
    """

    text: str
    row: int | None = None
    place: int | None = None
    position: int | None = None


@dataclass(frozen=True)
class Draft:
    """A criteria range under edit. Editing gives another draft; this one stays as it is.

    >>> draft = Draft(("zone", "dues")).typed(0, 0, "Outer").typed(1, 1, "> 500")
    >>> draft.rows
    (('Outer', ''), ('', '> 500'))
    """

    columns: tuple[str, ...] = ()
    rows: tuple[tuple[str, ...], ...] = ((),)

    def __post_init__(self) -> None:
        width = len(self.columns)
        rows = [(*row[:width], *("",) * (width - len(row))) for row in self.rows or ((),)]
        object.__setattr__(self, "rows", tuple(rows))

    def typed(self, row: int, place: int, text: str) -> "Draft":
        """Return the draft with another text in a cell; rows are added up to it.

        Raises `CallError` for a place where no column is.
        """
        if not 0 <= place < len(self.columns) or row < 0:
            raise CallError(f"there is no cell in row {row + 1} of column {place + 1}")
        rows = [*self.rows, *((),) * (row + 1 - len(self.rows))]
        cells = [*rows[row], *("",) * (len(self.columns) - len(rows[row]))]
        rows[row] = (*cells[:place], text, *cells[place + 1 :])
        return replace(self, rows=tuple(rows))

    def named(self, place: int, name: str) -> "Draft":
        """Return the draft with another column at a place; its cells stay."""
        columns = (*self.columns[:place], name, *self.columns[place + 1 :])
        return replace(self, columns=columns)

    def with_column(self, name: str, place: int | None = None) -> "Draft":
        """Return the draft with one more column, at the end if no place is named."""
        at = len(self.columns) if place is None else place
        rows = [(*row[:at], "", *row[at:]) for row in self.rows]
        return Draft((*self.columns[:at], name, *self.columns[at:]), tuple(rows))

    def without_column(self, place: int) -> "Draft":
        """Return the draft without a column and its cells."""
        rows = [(*row[:place], *row[place + 1 :]) for row in self.rows]
        return Draft((*self.columns[:place], *self.columns[place + 1 :]), tuple(rows))

    def with_row(self, row: int | None = None) -> "Draft":
        """Return the draft with one more blank alternative, at the end if no row is named."""
        at = len(self.rows) if row is None else row
        return replace(self, rows=(*self.rows[:at], (), *self.rows[at:]))

    def without_row(self, row: int) -> "Draft":
        """Return the draft without an alternative; one is always left."""
        return replace(self, rows=(*self.rows[:row], *self.rows[row + 1 :]) or ((),))

    @property
    def ends_blank(self) -> bool:
        """Whether the last alternative says nothing."""
        return not any(map(str.strip, self.rows[-1]))

    def cleared(self) -> "Draft":
        """Return the draft with no cell filled, and one alternative."""
        return replace(self, rows=((),))

    def read(self, table: Table) -> "Reading":
        """Return what the cells say of a table, or what is wrong with them."""
        faults: list[Fault] = []
        cells: dict[tuple[int, int], Criteria] = {}
        for place, name in enumerate(self.columns):
            try:
                table.column(name)
            except UnknownColumn as error:
                faults.append(Fault(str(error), None, place))
                continue
            for row, texts in enumerate(self.rows):
                try:
                    found = parse_cell(texts[place], name) if texts[place].strip() else None
                except CriteriaError as error:
                    faults.append(Fault(_said(error), row, place, error.position))
                except SieveError as error:
                    faults.append(Fault(str(error), row, place))
                else:
                    if found is not None:
                        cells[row, place] = found
        return Reading(cells, tuple(faults))

    def range(self) -> list[list[str]]:
        """Return the header and the rows that say something; columns without a cell are left."""
        used = [i for i in range(len(self.columns)) if any(row[i].strip() for row in self.rows)]
        rows = [[row[i] for i in used] for row in self.rows]
        return [[self.columns[i] for i in used], *(row for row in rows if any(map(str.strip, row)))]


@dataclass(frozen=True)
class Reading:
    """The criteria of each filled cell, by row and place, and the faults of the others."""

    cells: dict[tuple[int, int], Criteria]
    faults: tuple[Fault, ...]

    @property
    def criteria(self) -> Criteria:
        """What all cells say together: a blank cell and a blank row set no condition."""
        rows: dict[int, list[Criteria]] = {}
        for (row, _), criteria in sorted(self.cells.items(), key=lambda each: each[0]):
            rows.setdefault(row, []).append(criteria)
        return any_of([all_of(parts) for parts in rows.values()]) if rows else EVERYTHING


def _said(error: CriteriaError) -> str:
    return f"{error.fact}; {error.hint}" if error.hint else error.fact


def first_draft(table: Table, criteria: Criteria = EVERYTHING) -> Draft:
    """Return the draft that a trial begins with.

    Criteria are laid out as they are; without any there are a few columns to begin with: texts
    that repeat, the first dates, the first numbers. Raises `ValueError` for criteria that do
    not fit into a criteria range.
    """
    if criteria != EVERYTHING:
        header, *rows = write_range(criteria)
        return Draft(tuple(header), tuple(map(tuple, rows)))
    texts = [c.name for c in table.columns if _repeats(c.lanes.get(Kind.TEXT), table.length)]
    others = [
        next((c.name for c in table.columns if c.leading is kind), None)
        for kind in (Kind.DATE, Kind.NUMBER)
    ]
    wanted = {*texts[:_FIRST_TEXTS], *(name for name in others if name is not None)}
    names = [name for name in table.names if name in wanted] or list(table.names[:1])
    return Draft(tuple(names))


def _repeats(lane: object, rows: int) -> bool:
    most = max(_FEW_VALUES, rows / _ROWS_A_VALUE)
    return isinstance(lane, TextLane) and 1 < len(lane.spellings) <= most
