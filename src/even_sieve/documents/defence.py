"""What backs figures laid out: explanations and rechecks."""

from collections.abc import Iterator, Sequence
from typing import Any

from even_sieve.core.cells import Cell
from even_sieve.core.tally import Explanation, Explanations, Rechecks
from even_sieve.documents.document import Backing, Document, Facts, Part, Records
from even_sieve.documents.shown import show_figure
from even_sieve.documents.values import plain_json, plain_row, row_words


class ExplanationsDocument(Document):
    """What each figure is, of which rows, and where every other row went."""

    answer: Explanations

    def parts(self) -> Sequence[Part]:
        """Return each figure with the lines that explain it."""
        return tuple(
            Backing(f"{tally.name} = {show_figure(tally)}", tuple(explanation.lines()))
            for tally, explanation in self.answer.items
        )

    def _every(self) -> list[Explanation]:
        return [each for top in self.answer for each in _with_inner(top)]

    def plain(self) -> list[dict[str, Any]]:
        """Return a record a figure, after those of the figures inside it."""
        return [
            {
                "name": each.name,
                "definition": each.definition,
                "criteria": each.criteria,
                "before_rounding": None
                if each.before_rounding is None
                else str(each.before_rounding),
                "buckets": [
                    {
                        "bucket": b.bucket,
                        "rows": b.rows,
                        "first_rows": list(map(plain_row, b.first)),
                    }
                    for b in each.buckets
                ],
            }
            for each in self._every()
        ]

    def records(self) -> Records:
        """Return a row a bucket of each figure."""
        found = [(each.name, bucket) for each in self._every() for bucket in each.buckets]
        columns: dict[str, Sequence[Cell]] = {
            "measure": [name for name, _ in found],
            "bucket": [bucket.bucket for _, bucket in found],
            "rows": [bucket.rows for _, bucket in found],
            "first_rows": [row_words(bucket.first) for _, bucket in found],
        }
        return Records(columns)


def _with_inner(explanation: Explanation) -> Iterator[Explanation]:
    """Yield the explanation of a figure, after those of the figures inside it."""
    for part in explanation.parts:
        yield from _with_inner(part)
    yield explanation


class RechecksDocument(Document):
    """Figures that were worked out twice."""

    answer: Rechecks

    def parts(self) -> Sequence[Part]:
        """Return a line a figure."""
        return (Facts(tuple(f"{each.name} {each.words()}" for each in self.answer), "recheck"),)

    def plain(self) -> list[dict[str, Any]]:
        """Return a record a figure."""
        return [
            {
                "name": each.name,
                "agrees": True,
                "value": plain_json(each.value),
                "again": plain_json(each.again),
                "rows": each.rows,
            }
            for each in self.answer
        ]

    def records(self) -> Records:
        """Return a row a figure."""
        columns: dict[str, Sequence[Cell]] = {
            "measure": [each.name for each in self.answer],
            "value": [each.value for each in self.answer],
            "again": [each.again for each in self.answer],
            "rows": [each.rows for each in self.answer],
        }
        return Records(columns, keys=1)
