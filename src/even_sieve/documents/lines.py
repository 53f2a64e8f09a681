"""Lines laid out: a row a line; headings and lines of others stand out."""

from collections.abc import Iterable, Sequence
from typing import Any

from even_sieve.core.cells import Cell
from even_sieve.core.notices import texts_of
from even_sieve.core.tally import Added, Counted, Heading, LineSet, Tally
from even_sieve.documents.document import Document, Grid, Notes, Part, Records, free_name
from even_sieve.documents.figures import (
    SUBTOTAL,
    plain_notices,
    plain_tally,
    show_amount,
)
from even_sieve.documents.handout import Handout
from even_sieve.documents.shown import shape_of, show_figure, show_like
from even_sieve.documents.values import DASH, plain_amount, plain_json


class LinesDocument(Document):
    """A row a line, under its label."""

    answer: LineSet

    def parts(self) -> Sequence[Part]:
        """Return the lines, and what is to be known of them."""
        return self.grid(), Notes(tuple(self._notes()))

    def grid(self) -> Grid:
        """Return the lines as headed rows."""
        result = self.answer
        measures = [request.name for request in result.measures]
        first = next((each.tallies for each in result if isinstance(each, Counted)), ())
        rows: list[tuple[str, ...]] = []
        sources: list[tuple[Tally | None, ...]] = []
        strong: list[int] = []
        for entry in result:
            behind: tuple[Tally | None, ...] = (None,) * len(measures)
            if isinstance(entry, Counted):
                rows.append((entry.label, *map(show_figure, entry.tallies)))
                behind = tuple(entry.tallies)
            else:
                strong.append(len(rows))
                rows.append((entry.label, *_shown(entry, len(measures), first)))
            sources.append((None, *behind))
        numeric = (False, *(True for _ in measures))
        header = ("line", *measures)
        return Grid(header, tuple(rows), numeric, 0, frozenset(strong), tuple(sources))

    def _notes(self) -> list[str]:
        found = texts_of(self.answer.notices)
        for entry in self.answer:
            told: list[str | None] = []
            if isinstance(entry, Counted):
                told += [notice.text for tally in entry.tallies for notice in tally.notices]
                told += [tally.reason for tally in entry.tallies]
            elif isinstance(entry, Added):
                told += entry.reasons
            found += [f"{entry.label}: {text}" for text in told if text]
        return list(dict.fromkeys(found))

    def handout(self) -> Handout:
        """Return a row an entry; headings and sums stand out."""
        result, records = self.answer, self.records()
        first = next((each.tallies for each in result if isinstance(each, Counted)), None)
        names = list(records.columns)[1:]
        shapes = {} if first is None else {
            name: shape_of(tally, records.columns[name])
            for name, tally in zip(names, first, strict=True)
        }  # fmt: skip
        strong = frozenset(i for i, each in enumerate(result) if not isinstance(each, Counted))
        return Handout(records.columns, shapes, records.marks, strong, self.notes())

    def plain(self) -> dict[str, object]:
        """Return a record an entry."""
        entries = list(map(_plain_entry, self.answer))
        return {"lines": entries, "notices": plain_notices(self.answer.notices)}

    def records(self) -> Records:
        """Return a row an entry; those that add others are marked as subtotals."""
        columns: dict[str, Sequence[Cell]] = {"line": [entry.label for entry in self.answer]}
        for i, request in enumerate(self.answer.measures):
            cells = [_value(entry, i) for entry in self.answer]
            columns[free_name(request.name, columns)] = cells
        marks = [SUBTOTAL if isinstance(each, Added) else None for each in self.answer]
        return Records(columns, marks, 1)


def _value(entry: Heading | Counted | Added, position: int) -> Cell:
    if isinstance(entry, Counted):
        return entry.tallies[position].value
    amount = entry.amounts[position] if isinstance(entry, Added) else None
    return None if amount is None else plain_amount(amount)


def _shown(entry: Heading | Added, count: int, first: Iterable[Tally]) -> list[str]:
    """Return the amounts of an entry, each shown as the figures of its measure are."""
    if isinstance(entry, Heading):
        return [""] * count
    likes = [*first, *(None for _ in range(count))]
    return [
        DASH
        if amount is None
        else show_amount(amount, 0)
        if like is None
        else show_like(like, amount)
        for amount, like in zip(entry.amounts, likes, strict=False)
    ]


def _plain_entry(entry: Heading | Counted | Added) -> dict[str, Any]:
    if isinstance(entry, Heading):
        return {"heading": entry.label}
    if isinstance(entry, Counted):
        return {"label": entry.label, "measures": list(map(plain_tally, entry.tallies))}
    values = [plain_json(_value(entry, i)) for i in range(len(entry.amounts))]
    return {
        "label": entry.label,
        "sum": list(entry.parts),
        "values": values,
        "reasons": list(entry.reasons),
    }
