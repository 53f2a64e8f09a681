"""Tallies laid out: a row a measure, the accounts and remarks under it."""

from collections.abc import Mapping, Sequence

from even_sieve.core.cells import Cell
from even_sieve.core.tally import BUCKETS, Tallies
from even_sieve.documents.document import Accounts, Document, Grid, Notes, Part, Records
from even_sieve.documents.figures import (
    accounts,
    found_at,
    plain_as_of,
    plain_notices,
    plain_tally,
    remarks,
)
from even_sieve.documents.handout import Handout
from even_sieve.documents.shown import shape_of, show_figure
from even_sieve.documents.values import row_words


class TalliesDocument(Document):
    """A row a measure: its value and, where any has one, the rows that gave it."""

    answer: Tallies

    def parts(self) -> Sequence[Part]:
        """Return the figures, their accounts, and what is to be known of them."""
        result = self.answer
        return self.grid(), Accounts(accounts(result)), Notes(tuple(remarks(result)))

    def grid(self) -> Grid:
        """Return the figures as headed rows."""
        found = any(tally.found_at for tally in self.answer)
        width = 3 if found else 2
        rows = [(tally.name, show_figure(tally), found_at(tally)) for tally in self.answer]
        return Grid(
            ("measure", "value", "found at")[:width],
            tuple(row[:width] for row in rows),
            (False, True, False)[:width],
            sources=tuple((None, tally, None)[:width] for tally in self.answer),
        )

    def plain(self) -> dict[str, object]:
        """Return the measures, and the notices on all of them."""
        return {
            "measures": list(map(plain_tally, self.answer)),
            **plain_as_of(self.answer),
            "notices": plain_notices(self.answer.notices),
        }

    def records(self) -> Records:
        """Return a row a measure: name, value, the account, the rows that gave it, why."""
        result = self.answer
        columns: dict[str, Sequence[Cell]] = {
            "measure": [tally.name for tally in result],
            "value": [tally.value for tally in result],
            "rows": [tally.account.rows for tally in result],
            **{name: [getattr(tally.account, name) for tally in result] for name in BUCKETS},
            "found_at": [row_words(tally.found_at) or None for tally in result],
            "reason": [tally.reason for tally in result],
        }
        return Records(columns, keys=1)

    def handout(self) -> Handout:
        """Return a row a figure, each shown in its own way, and why where there is none."""
        result = self.answer
        columns: dict[str, Sequence[Cell]] = {
            "figure": [tally.name for tally in result],
            "value": [tally.value for tally in result],
        }
        if any(tally.value is None for tally in result):
            columns["no value because"] = [
                tally.reason if tally.value is None else None for tally in result
            ]
        shapes = [shape_of(tally, [tally.value]) for tally in result]
        return Handout(columns, {"value": shapes}, notes=self.notes())

    def lists(self) -> Mapping[str, Sequence[object]]:
        """The rows that gave each figure, by their numbers."""
        return {"found_at": [list(tally.found_at) for tally in self.answer]}
