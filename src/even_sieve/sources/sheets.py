"""Sheets of workbooks as grids of cells, whatever the format."""

from dataclasses import dataclass, field
from datetime import date, datetime, time

from even_sieve.core.cells import Cell, CellError, fold
from even_sieve.core.cells.counted_days import DAY_ZERO
from even_sieve.core.errors import SourceError, closest, listed
from even_sieve.sources.areas import Area, corners_of
from even_sieve.sources.limits import Limits
from even_sieve.sources.shown_by_source import ShownRuns

NO_RESULT = CellError(
    "no result", "the formula has no stored result: open and save the file where it is calculated"
)


@dataclass
class Sheet:
    """A sheet as read: `rows[0]` is row 1, each row as long as its last filled cell.

    `hidden` and `filtered` are numbers of rows; `subtotals` gives, for a row, the columns
    whose formula calls a subtotalling function of the open standards, or sums its own column.
    `shown` holds the cells shown as percent or in a currency; `is_hidden` says that the whole
    sheet is.
    """

    name: str
    rows: list[list[Cell]] = field(default_factory=list)
    hidden: set[int] = field(default_factory=set)
    filtered: set[int] = field(default_factory=set)
    subtotals: dict[int, set[int]] = field(default_factory=dict)
    shown: ShownRuns = field(default_factory=ShownRuns)
    is_hidden: bool = False
    _width: tuple[int, int] = (0, 0)

    def filter_away(self, first: int, last: int) -> None:
        """Take the hidden rows from the first to the last as those that a filter put away."""
        own = {row for row in self.hidden if first <= row <= last}
        self.filtered, self.hidden = self.filtered | own, self.hidden - own

    def block(self, top: int, bottom: int, left: int, right: int) -> list[list[Cell]]:
        """Return the cells of a block, counted from 1; None beyond what is filled."""
        width = right + 1 - left
        found = []
        for row in self.rows[top - 1 : bottom]:
            cut = row if left == 1 and len(row) == width else row[left - 1 : right]
            found.append(cut if len(cut) == width else cut + [None] * (width - len(cut)))
        return found + [[None] * width for _ in range(bottom + 1 - top - len(found))]

    @property
    def used(self) -> Area:
        """The block from A1 to the last filled row and column."""
        if self._width[0] != len(self.rows):  # thousands of names may ask for it
            self._width = len(self.rows), max(map(len, self.rows), default=0)
        return Area(self.name, 1, 1, *self._width)


@dataclass
class Workbook:
    """Sheets, and the areas that have a name: `names` of ranges, `tables` of tables.

    A name that stands for something else than one block is None. `day_zero` is the day from
    which dates are counted that are stored as numbers.
    """

    source: str
    sheets: list[Sheet] = field(default_factory=list)
    names: dict[str, Area | None] = field(default_factory=dict)
    tables: dict[str, Area] = field(default_factory=dict)
    day_zero: date = DAY_ZERO
    _of_sheets: set[str] = field(default_factory=set)

    @property
    def named(self) -> list[Area]:
        """The areas that have a name."""
        return [area for area in (*self.names.values(), *self.tables.values()) if area is not None]

    def sheet(self, wanted: str | None) -> Sheet:
        """Return the sheet of that name, or number; the first one for None."""
        if wanted is None:
            return self.sheets[0]
        for sheet in self.sheets:
            if sheet.name == wanted:
                return sheet
        for sheet in self.sheets:
            if fold(sheet.name) == fold(wanted.strip()):
                return sheet
        if wanted.isdecimal() and 1 <= int(wanted) <= len(self.sheets):
            return self.sheets[int(wanted) - 1]
        names = [sheet.name for sheet in self.sheets]
        near = closest(wanted, names)
        hint = f"Did you mean {listed(near)}?" if near else f"The sheets are: {', '.join(names)}"
        raise SourceError(self.source, f"no sheet '{wanted}'", hint)

    def add_name(self, name: str, sheet: str, block: str, within: str | None) -> None:
        """Add a name that stands for a block of a sheet, or for none if `block` is empty.

        A name that holds `within` a sheet alone is called `Sheet!name`, and by itself where no
        other is called so. Names of the whole workbook are added first.
        """
        try:
            area = self.block(block, sheet) if block else None
        except SourceError:
            area = None
        if within is None:
            self.names[name] = area
            return
        self.names[f"{within}!{name}"] = area
        if name not in self.names:
            self.names[name] = area
            self._of_sheets.add(name)
        elif name in self._of_sheets:  # nothing says which sheet's is meant
            self.names[name] = None

    def area(self, wanted: str, sheet: str | None = None) -> Area:
        """Return the area that a name, a table or a block such as `Sheet!B2:F30` means.

        Whole columns (`B:F`) and rows (`2:30`) go as far as the sheet is filled.
        """
        key = fold(wanted.strip())
        for name, area in (*self.tables.items(), *self.names.items()):
            if fold(name) == key:
                if area is None:
                    fact = f"'{name}' stands for no single block of cells"
                    raise SourceError(self.source, fact, "Write a block such as B2:F30")
                return area
        found = self.block(wanted, sheet)
        if found is None:
            near = closest(wanted, [*self.tables, *self.names])
            hint = f"Did you mean {listed(near)}?" if near else "Write a block such as B2:F30"
            raise SourceError(self.source, f"no range, table or block '{wanted}'", hint)
        return found

    def block(self, wanted: str, sheet: str | None = None) -> Area | None:
        """Return the area of a block such as `Sheet!B2:F30`, None for what is no block.

        Raises `SourceError` for one of a sheet that is not there.
        """
        corners = corners_of(wanted)
        if corners is None:
            return None
        own, top, left, bottom, right = corners
        found = self.sheet(own or sheet)
        if not (bottom and right):
            bottom, right = bottom or found.used.bottom, right or found.used.right
        return Area(found.name, top, left, bottom, right)

    def cells(self, area: Area, most: int = Limits.cells) -> list[list[Cell]]:
        """Return the area's cells row by row, all rows of one length.

        Raises `SourceError` for more of them than so many, filled or not.
        """
        sheet = self.sheet(area.sheet)
        bottom = min(area.bottom, len(sheet.rows))
        rows, columns = max(bottom + 1 - area.top, 0), area.right + 1 - area.left
        if rows * columns > most:
            fact = f"sheet '{sheet.name}': {rows:,} rows of {columns:,} columns are too many cells"
            raise SourceError(self.source, fact, "Choose those that are filled: --cells")
        return sheet.block(area.top, bottom, area.left, area.right)


def day_or_moment(value: datetime) -> date:
    """Return the day alone for a midnight: sheets store every day as one."""
    return value.date() if value.time() == time() else value
