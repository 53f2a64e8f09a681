"""Answers of many lines, cut for a prompt or a notebook."""

from collections.abc import Sequence
from dataclasses import replace

from even_sieve.core.answer import Answer
from even_sieve.core.tally import Breakdown, Listing
from even_sieve.documents import document_of
from even_sieve.documents.document import Document, Facts, Grid, Part


class Shortened(Document):
    """An answer whose grids have so many rows at the most, and a line that says so."""

    def __init__(self, answer: Answer, whole: Document, most: int, count: int) -> None:
        super().__init__(answer)
        self._whole, self._most, self._count = whole, most, count

    def parts(self) -> Sequence[Part]:
        """Return the parts, their grids cut."""
        parts = [_cut(each, self._most) for each in self._whole.parts()]
        left = self._count or max((_rows(each) for each in self._whole.parts()), default=0)
        if left <= self._most:
            return parts
        return *parts, Facts((f"the first {self._most} of {left:,}; print it to see all",))

    def plain(self) -> object:
        """Return what a program reads: all of it."""
        return document_of(self.answer).plain()


def shortened(answer: Answer, most: int) -> Document:
    """Return an answer laid out, with so many lines at the most; the others are not made."""
    count = 0
    part = answer
    if isinstance(answer, Breakdown) and answer.across is None and len(answer.by) == 1:
        count = len(answer.lines)
        part = replace(answer, lines=tuple(answer.lines[:most])) if count > most else answer
    elif isinstance(answer, Listing) and answer.verdicts is None:
        count = len(answer.rows)
        part = replace(answer, rows=answer.rows[:most], numbers=answer.numbers[:most])
    return Shortened(answer, document_of(part), most, count)


def _rows(part: Part) -> int:
    return len(part.rows) - part.totals if isinstance(part, Grid) else 0


def _cut(part: Part, most: int) -> Part:
    """Return a grid with its first rows alone; what stands at its rows goes with them."""
    if not isinstance(part, Grid) or len(part.rows) - part.totals <= most:
        return part
    last = len(part.rows) - part.totals
    rows, sources = part.rows, part.sources
    return replace(
        part, rows=(*rows[:most], *rows[last:]), sources=(*sources[:most], *sources[last:])
    )
