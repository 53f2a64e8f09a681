"""The rows of a trial: those that match, or all with the verdict on each."""

from typing import Any

from rich.text import Text
from textual.app import ComposeResult
from textual.containers import Vertical
from textual.widgets import DataTable, Static

from even_sieve.core.tally import Listing
from even_sieve.documents.values import show_value, visible

_LONGEST_CELL = 60


class RowPane(Vertical):
    """How many rows match, and the first of them."""

    def __init__(self) -> None:
        super().__init__(id="below")

    def compose(self) -> ComposeResult:
        """Lay out the count above the rows."""
        yield Static(id="count", markup=False)
        yield DataTable(id="rows", cursor_type="row", zebra_stripes=True)

    def show(self, found: Listing) -> None:
        """Show other rows."""
        shown: DataTable[Any] = self.query_one("#rows", DataTable)
        shown.clear(columns=True)
        verdict = () if found.verdicts is None else ("verdict",)
        shown.add_columns("row", *verdict, *(visible(name) for name in found.names))
        verdicts = found.shown_verdicts or ("",) * len(found.rows)
        for number, said, row in zip(found.numbers, verdicts, found.rows, strict=True):
            cells = [
                _cell(show_value(cell, decimals), isinstance(cell, int | float))
                for cell, decimals in zip(row, found.decimals, strict=True)
            ]
            before = () if found.verdicts is None else (said,)
            shown.add_row(str(number), *before, *cells)
        self.query_one("#count", Static).update(found.counted)


def _cell(text: str, numeric: bool) -> Text:
    shown = visible(text)
    shown = shown if len(shown) <= _LONGEST_CELL else f"{shown[: _LONGEST_CELL - 1]}…"
    return Text(shown, justify="right" if numeric else "left")
