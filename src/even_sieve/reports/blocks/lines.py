"""Blocks of labelled lines with criteria of their own."""

from typing import Annotated, Literal

from pydantic import Field, model_validator

from even_sieve.core.tally import Heading, LineRows, LineSet, Together, make_lines
from even_sieve.reports.blocks.block import Block, BlockKind, Measures, Place, Strict, Text, Texts


class Entry(Strict):
    """One entry: a heading, a line of rows, or a line of others."""

    heading: Text | None = None
    label: Text | None = None
    where: Text | None = None
    sum: Texts = []

    @model_validator(mode="after")
    def _one_of_three(self) -> "Entry":
        given = (self.heading is not None, self.where is not None, bool(self.sum))
        if sum(given) != 1 or (self.heading is None) != (self.label is not None):
            raise ValueError("an entry is a heading, or a label with either where or sum")
        return self

    def entry(self) -> Heading | LineRows | Together:
        """Return the entry as lines are asked for."""
        if self.heading is not None:
            return Heading(self.heading)
        label = self.label or ""
        if self.where is not None:
            return LineRows(label, self.where)
        return Together(label, tuple(self.sum))


class LinesBlock(Block):
    """Labelled lines."""

    kind: Literal["lines"]
    measures: Measures
    lines: Annotated[list[Entry], Field(min_length=1)]


def run(block: LinesBlock, place: Place) -> LineSet:
    """Return the lines."""
    entries = [each.entry() for each in block.lines]
    return make_lines(place.query, place.table, block.measures, entries)


KIND = BlockKind("lines", LinesBlock, run)
