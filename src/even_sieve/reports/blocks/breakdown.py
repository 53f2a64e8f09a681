"""Blocks of measures by the groups of axes."""

from typing import Annotated, Literal

from pydantic import Field, model_validator

from even_sieve.core.tally import Breakdown, Layout, break_down
from even_sieve.reports.blocks.block import Block, BlockKind, Chart, Measures, Place

_MOST_CHARTED = 2


class BreakdownBlock(Block):
    """Measures by the groups of axes."""

    kind: Literal["breakdown"]
    measures: Measures
    by: Measures
    across: str | None = None
    sort: str | None = None
    top: Annotated[int, Field(ge=1)] | None = None
    chart: Chart = None

    @model_validator(mode="after")
    def _charted_along_few_axes(self) -> "BreakdownBlock":
        axes = len(self.by) + (self.across is not None)
        if self.chart is not None and axes > _MOST_CHARTED:
            raise ValueError("a chart goes along two axes at the most: leave out one of by")
        return self


def run(block: BreakdownBlock, place: Place) -> Breakdown:
    """Return the lines and their total."""
    layout = Layout(tuple(block.by), block.across, block.sort, block.top)
    return break_down(place.query, place.table, block.measures, layout)


KIND = BlockKind("breakdown", BreakdownBlock, run)
