"""A profile laid out: a row a column, and what to look at first."""

from collections.abc import Sequence
from typing import Any

from even_sieve.core.cells import Kind
from even_sieve.core.notices import counted, words_of
from even_sieve.core.table import Profile
from even_sieve.documents.document import Document, Findings, Grid, Part, Records
from even_sieve.documents.values import plain_json, plain_row, show_value


class ProfileDocument(Document):
    """What each column holds, how many different values, its extremes."""

    answer: Profile

    def parts(self) -> Sequence[Part]:
        """Return the columns, the rows and their marks, and what to look at first."""
        result = self.answer
        marks = [f"{count:,} {mark}" for mark, count in result.marked.items() if count]
        summary = f"{counted(result.rows, 'row')}, of these {', '.join(marks) or 'none'} marked"
        found = words_of((each.code, each.text) for each in result.findings)
        found = found or ["nothing stands out"]
        for column in result.columns:
            if column.trimmed:
                cells = counted(column.trimmed, "cell")
                found.append(f"column '{column.name}': outer white space was trimmed from {cells}")
        return self.grid(), Findings(summary, tuple(found))

    def grid(self) -> Grid:
        """Return a row a column."""
        header = ("column", "holds", "different", "least", "most")
        rows = tuple(
            (
                column.name,
                ", ".join(_held(*each) for each in column.kinds.items()) or "nothing",
                f"{column.distinct:,}",
                "" if column.least is None else show_value(column.least),
                "" if column.most is None else show_value(column.most),
            )
            for column in self.answer.columns
        )
        return Grid(header, rows, (False, False, True, False, False))

    def plain(self) -> dict[str, Any]:
        """Return the profile as it is."""
        plain: dict[str, Any] = self.answer.as_dict()
        for column, found in zip(plain["columns"], self.answer.columns, strict=True):
            column |= {"least": plain_json(found.least), "most": plain_json(found.most)}
        for finding in plain["findings"]:
            finding["rows"] = list(map(plain_row, finding["rows"]))
        return plain

    def records(self) -> Records:
        """Return a row a column: its counts by kind, different values, extremes."""
        columns, kinds = self.answer.columns, [kind.words for kind in Kind]
        return Records(
            {
                "column": [each.name for each in columns],
                **{kind: [each.kinds.get(kind, 0) for each in columns] for kind in kinds},
                "different": [each.distinct for each in columns],
                "least": [each.least for each in columns],
                "most": [each.most for each in columns],
                "trimmed": [each.trimmed for each in columns],
            }
        )


def _held(kind: str, count: int) -> str:
    """Return how many cells are of a kind: `1 blank`, `2 numbers`, `3 text`."""
    return f"{count:,} {kind.removesuffix('s') if count == 1 else kind}"
