"""Documents as CSV (RFC 4180): the exact values with all digits, a mark for what repeats others."""

import csv
from collections.abc import Mapping
from dataclasses import dataclass
from io import StringIO

from even_sieve.core.cells import Cell
from even_sieve.core.errors import CallError
from even_sieve.documents.document import Document, ReportDocument, free_name
from even_sieve.documents.values import plain_text
from even_sieve.sinks.tokens import harmless

_MARK = "mark"


@dataclass(frozen=True)
class CsvRenderer:
    """Renders the records of a document; texts that begin as formulas do are guarded or left."""

    leave_formulas: bool = False

    def answer(self, document: Document, beside: Mapping[str, Document]) -> str:
        """Return a header and a line a record. Raises `CallError` for more than the records."""
        if beside:
            raise CallError("CSV holds one table and nothing beside it\nUse another format")
        records = document.records()
        columns = {
            self._text(name, name): [self._text(plain_text(cell), cell) for cell in cells]
            for name, cells in records.columns.items()
        }
        if records.spelt:
            columns[free_name(_MARK, columns)] = [mark or "" for mark in records.marks]
        out = StringIO()
        writer = csv.writer(out, lineterminator="\n")
        writer.writerow(columns)
        writer.writerows(zip(*columns.values(), strict=True))
        return out.getvalue()

    def _text(self, text: str, cell: Cell) -> str:
        return text if self.leave_formulas else harmless(text, cell)

    def report(self, report: ReportDocument) -> str:
        """Refuse: a report is several tables, each a file of its own."""
        raise CallError("a report is no single table\nName a csv output in the report file")


RENDERER = CsvRenderer()
