"""What a sheet of a workbook holds for its reader: cells with the way they are shown, notes."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from even_sieve.core.cells import Cell


@dataclass(frozen=True)
class Shape:
    """How a number or a date in a cell is shown; the cell holds it as it is.

    `kind` is number, percent, currency or date. `code` is the currency with its sign put in its
    place (`{} €`), or the pattern of a date (CLDR); `unit` stands behind a number.
    """

    kind: str = "number"
    decimals: int = 0
    code: str = ""
    unit: str = ""
    grouped: bool = True


@dataclass(frozen=True)
class Handout:
    """Columns under their names, and what is said above and below them.

    `shapes` holds a shape for a column, or one for each of its cells; `marks` says of each row
    whether it repeats others or is hidden, `strong` which rows stand out besides. `series` names
    the column of labels and those of values that a chart shows; `over_time` that it is a line,
    `periods` that it goes along the columns, `stacked` that bars follow one another, the first
    of them unseen, and the last row is drawn too. Columns that are `put_away` are not seen.
    """

    columns: Mapping[str, Sequence[Cell]]
    shapes: Mapping[str, Shape | Sequence[Shape | None]] = field(default_factory=dict)
    marks: Sequence[str | None] = ()
    strong: frozenset[int] = frozenset()
    notes: tuple[str, ...] = ()
    series: tuple[str, tuple[str, ...]] | None = None
    over_time: bool = False
    periods: bool = False
    stacked: bool = False
    put_away: frozenset[str] = frozenset()

    def shape(self, name: str, row: int) -> Shape | None:
        """Return how the cell of a column in a row (from 0) is shown; None as it is by itself."""
        found = self.shapes.get(name)
        return found if found is None or isinstance(found, Shape) else found[row]
