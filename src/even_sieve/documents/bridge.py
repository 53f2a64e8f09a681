"""A bridge laid out: a row a step, what it takes away and what is left."""

from collections.abc import Sequence
from fractions import Fraction
from typing import TYPE_CHECKING

from even_sieve.core.cells import Cell
from even_sieve.core.notices import texts_of
from even_sieve.core.tally import Bridge
from even_sieve.documents.document import Document, Grid, Notes, Part, Records
from even_sieve.documents.figures import SUBTOTAL, plain_notices, plain_tally
from even_sieve.documents.handout import Handout
from even_sieve.documents.shown import shape_of, show_like
from even_sieve.documents.values import plain_amount, plain_json

if TYPE_CHECKING:
    from matplotlib.axes import Axes

#: The steps that stand from nothing on, and what holds the others up.
_WHOLE, _BELOW = ("start", "figure"), "below"


class BridgeDocument(Document):
    """A row a step, in rows and in amount; of a count of rows the amount would say the same."""

    answer: Bridge

    def parts(self) -> Sequence[Part]:
        """Return the steps, and what is to be known of the figure."""
        result = self.answer
        found = texts_of((*result.notices, *result.tally.notices))
        return self.grid(), Notes(tuple(dict.fromkeys(found)))

    def grid(self) -> Grid:
        """Return the steps as headed rows."""
        result = self.answer
        header = ("step", "rows", result.name, "rows left", "left")
        first, *middle, last = result.steps
        rows = [(first.label, "", "", f"{first.rows:,}", show_like(result.tally, first.amount))]
        rows += [
            (
                step.label,
                _signed(f"{step.rows:,}", step.rows),
                _signed(show_like(result.tally, step.amount), step.amount),
                f"{step.rows_left:,}",
                show_like(result.tally, step.amount_left),
            )
            for step in middle
        ]
        rows.append((last.label, "", "", f"{last.rows:,}", show_like(result.tally, last.amount)))
        shown = (0, 1, 3) if result.tally.request.kind == "rows" else range(5)
        return Grid(
            tuple(header[i] for i in shown),
            tuple(tuple(row[i] for i in shown) for row in rows),
            tuple(i > 0 for i in shown),
            totals=1,
        )

    def plain(self) -> dict[str, object]:
        """Return the figure, and a record a step."""
        columns = self.records().columns
        steps = [
            {name: plain_json(cells[i]) for name, cells in columns.items() if name != "step"}
            for i in range(len(self.answer))
        ]
        steps = [
            {"reason": step.pop("reason"), "label": each.label, **step}
            for step, each in zip(steps, self.answer, strict=True)
        ]
        notices = plain_notices(self.answer.notices)
        return {"figure": plain_tally(self.answer.tally), "steps": steps, "notices": notices}

    def records(self) -> Records:
        """Return a row a step; the figure is marked as a subtotal of the steps before it."""
        steps = self.answer.steps
        columns: dict[str, Sequence[Cell]] = {
            "reason": [step.reason for step in steps],
            "step": [step.label for step in steps],
            "rows": [step.rows for step in steps],
            "amount": [plain_amount(step.amount) for step in steps],
            "rows_left": [step.rows_left for step in steps],
            "amount_left": [plain_amount(step.amount_left) for step in steps],
        }
        return Records(columns, [*(None for _ in steps[1:]), SUBTOTAL])

    def handout(self) -> Handout:
        """Return the steps under the names that they have on a page."""
        result, columns = self.answer, self.records().columns
        name, whole = result.name, result.tally.request.kind == "rows"
        amounts = {} if whole else {name: columns["amount"], "left": columns["amount_left"]}
        shapes = {each: shape_of(result.tally, cells) for each, cells in amounts.items()}
        shown = {"step": columns["step"], "rows": columns["rows"]}
        shown |= {} if whole else {name: amounts[name]}
        shown |= {"rows left": columns["rows_left"]}
        shown |= {} if whole else {"left": amounts["left"]}
        marks = [*(None for _ in result.steps[1:]), SUBTOTAL]
        bars = self._bars()
        series = ("step", tuple(bars)) if bars else None
        return Handout(
            {**shown, **bars}, shapes, marks, notes=self.notes(),
            series=series, stacked=True, put_away=frozenset(bars),
        )  # fmt: skip

    def _bars(self) -> dict[str, list[Cell]]:
        """Return the bars that follow one another; none where an amount is below nothing."""
        steps = self.answer.steps
        if min(step.amount_left for step in steps) < 0:
            return {}
        names = (_BELOW, "whole", "taken away", "added")
        bars: dict[str, list[Fraction]] = {name: [] for name in names}
        none = Fraction()
        for step in steps:
            whole = step.reason in _WHOLE
            change = none if whole else step.amount
            bars[_BELOW].append(none if whole else step.amount_left - max(change, none))
            bars["whole"].append(step.amount_left if whole else none)
            bars["taken away"].append(max(-change, none))
            bars["added"].append(max(change, none))
        seen = {name: cells for name, cells in bars.items() if name == _BELOW or any(cells)}
        return {name: [plain_amount(each) for each in cells] for name, cells in seen.items()}

    def plot(self, measure: str | None = None, axes: "Axes | None" = None) -> "Axes":
        """Draw a bar a step."""
        from even_sieve.documents.chart import draw_bridge

        return draw_bridge(self.answer, axes)


def _signed(shown: str, amount: int | Fraction) -> str:
    """Return an amount as it is shown, with a sign before it unless it is 0."""
    return f"+{shown}" if amount > 0 else shown
