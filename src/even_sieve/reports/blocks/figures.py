"""Blocks of single figures, one under the other."""

from typing import Literal

from even_sieve.core.tally import Tallies, tally
from even_sieve.reports.blocks.block import Block, BlockKind, Measures, Place


class Figures(Block):
    """Single figures."""

    kind: Literal["figures"]
    measures: Measures


def run(block: Figures, place: Place) -> Tallies:
    """Return the figures."""
    return tally(place.query, place.table, block.measures)


KIND = BlockKind("figures", Figures, run)
