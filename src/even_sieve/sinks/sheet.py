"""A sheet of a workbook: a table, and how it is laid out for its reader."""

import textwrap
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date
from decimal import Decimal
from functools import cached_property
from math import ceil

from even_sieve.core.cells import Cell, Kind
from even_sieve.core.table import Column, Table
from even_sieve.documents.handout import Shape
from even_sieve.sinks.files import repeats_others

_LOOKED_AT, _WIDEST, _NARROWEST = 200, 40, 8
_NARROW_TEXT, _LAST_LOOKED_AT = 60, 20
#: How much wider letters in bold are, whatever the typeface.
_BOLD = 1.2


def _before(currency: str) -> str:
    """Return the place of an amount after a currency: a sign stands close to it, letters do not."""
    return currency + (" {}" if currency[-1].isalpha() else "{}")


def is_of_numbers(column: Column) -> bool:
    """Tell whether a column holds numbers, and blanks at most besides."""
    return Kind.NUMBER in column.counts and set(column.counts) <= {Kind.NUMBER, Kind.BLANK}


@dataclass(frozen=True, eq=False)
class Sheet:
    """A table under a name, with texts above it, the first of which is its title.

    `shapes` says how cells are shown, by column, or cell by cell; `strong` rows stand out, as
    those do that repeat others; columns that are `put_away` are there and not seen. A `series`
    (the column of labels, those of values) is drawn beside it where the format has charts.
    """

    name: str
    table: Table
    above: tuple[str, ...] = ()
    shapes: Mapping[str, Shape | Sequence[Shape | None]] = field(default_factory=dict)
    strong: frozenset[int] = frozenset()
    put_away: frozenset[str] = frozenset()
    series: tuple[str, tuple[str, ...]] | None = None
    over_time: bool = False
    periods: bool = False
    stacked: bool = False

    @property
    def header(self) -> int:
        """The row of the header, from 1."""
        return len(self.lines_above) + 2 if self.above else 1

    @property
    def last(self) -> int:
        """The last row of the table, from 1."""
        return self.header + self.table.length

    @property
    def is_laid_out(self) -> bool:
        """Whether it is meant for a reader, and printed with its title."""
        return bool(self.above)

    def is_strong(self, row: int) -> bool:
        """Tell whether a row stands out."""
        return row in self.strong or repeats_others(self.table, row)

    def shape(self, column: str, row: int, cell: Cell) -> Shape | None:
        """Return how a cell is shown; None as its kind of cell is by itself."""
        found = self.shapes.get(column) or self._own.get(column)
        shape = found if found is None or isinstance(found, Shape) else found[row]
        is_date = isinstance(cell, date)  # in a column of numbers it is not shown as one
        return None if shape is None or (shape.kind == "date") is not is_date else shape

    def is_shown_alike(self, column: str) -> bool:
        """Tell whether all cells of a column are shown in one way."""
        return isinstance(self.shapes.get(column), Shape | None)

    @cached_property
    def _own(self) -> dict[str, Shape]:
        """How the sources of columns show their numbers, where they do so in a way of their own."""
        return {
            column.name: Shape("percent", max(column.decimals - 2, 0))
            if column.shown == "percent"
            else Shape("currency", column.decimals, _before(column.shown))
            for column in self.table.columns
            if column.shown
        }

    def shapes_of(self, column: str) -> list[Shape]:
        """Return the shapes that the cells of a column have, each once, as they come."""
        found = self.shapes.get(column) or self._own.get(column) or ()
        if isinstance(found, Shape):
            return [found]
        return list(dict.fromkeys(each for each in found if each is not None))

    @cached_property
    def widths(self) -> list[int]:
        """How wide each column is to be: for its name, its first cells and its last."""
        return [self._width(column) for column in self.table.columns]

    def _width(self, column: Column) -> int:
        name = max((len(part) for part in column.name.splitlines()), default=0)
        longest = name * _BOLD
        last = max(column.length - _LAST_LOOKED_AT, _LOOKED_AT)  # totals, above all, stand there
        for row in (*range(min(_LOOKED_AT, column.length)), *range(last, column.length)):
            cell = column.cell(row)
            if cell is None:
                continue
            shape, text = self.shape(column.name, row, cell), str(cell)
            if shape is not None and isinstance(cell, int | float | Decimal):
                text = f"{cell:,.{shape.decimals}f}{shape.unit}{shape.code}"
            longest = max(longest, len(text) * (_BOLD if self.is_strong(row) else 1))
        return min(max(ceil(longest) + 2, _NARROWEST), _WIDEST)

    @cached_property
    def lines_above(self) -> list[str]:
        """The texts above, but for the title cut into lines as wide as the table."""
        width = max(sum(self.widths), _NARROW_TEXT)
        wrapped = (line for text in self.above[1:] for line in textwrap.wrap(text, width))
        return [*self.above[:1], *wrapped]
