"""What a search for totals finds: rows that repeat others, and those called so that do not."""

from dataclasses import dataclass, replace

from even_sieve.core.cells import Cell, CellError
from even_sieve.core.table.lanes import MOST_EXACT
from even_sieve.core.table.origins import row_span
from even_sieve.core.table.table import Table


@dataclass(frozen=True)
class Suspect:
    """A row that looks like a subtotal, and the rows that it repeats (positions from 0).

    `columns` are those whose numbers agree, `label` the text that hints at a total, if any.
    `sure` says that it is no chance: a label, or numbers that hardly meet so by themselves.
    """

    row: int
    repeats: tuple[int, ...]
    columns: tuple[str, ...]
    label: str | None = None
    sure: bool = True


@dataclass(frozen=True)
class Misfit:
    """A row that is called a total and does not add up (positions from 0).

    In `column` it says one number, and the rows from `first` up to it give another; None if it
    holds no number there, but an error or a text.
    """

    row: int
    label: str
    column: str
    says: Cell
    gives: Cell
    first: int


@dataclass(frozen=True)
class Totals:
    """What a search found: rows that repeat others, and rows that are called so and do not."""

    suspects: tuple[Suspect, ...] = ()
    misfits: tuple[Misfit, ...] = ()

    def from_row(self, first: int) -> "Totals":
        """Return what was found in a table, in one of which its rows are those from `first` on."""
        suspects = (
            replace(each, row=each.row + first, repeats=tuple(row + first for row in each.repeats))
            for each in self.suspects
        )
        misfits = (
            replace(each, row=each.row + first, first=each.first + first) for each in self.misfits
        )
        return Totals(tuple(suspects), tuple(misfits))


def misfit_words(table: Table, misfit: Misfit) -> str:
    """Return in words what a row that is called a total says, and what the rows above it give."""
    says, gives = misfit.says, misfit.gives
    shown = f"holds the error {says}" if isinstance(says, CellError) else f"says {_digits(says)}"
    first, last = table.number(misfit.first), table.number(misfit.row - 1)
    rows = f"{row_span(first, last)} {'gives' if first == last else 'give'}"
    return (
        f"row {table.number(misfit.row)} is called a total ('{misfit.label}') and {shown} in "
        f"{misfit.column}; {rows} {_digits(gives)}"
    )


def _digits(value: Cell) -> str:
    if isinstance(value, float) and value.is_integer() and abs(value) < MOST_EXACT:
        value = int(value)
    return f"{value:,}" if isinstance(value, int | float) else str(value)
