"""Blocks that walk from the bare column to a figure."""

from typing import Literal

from even_sieve.core.tally import Bridge, make_bridge
from even_sieve.reports.blocks.block import Block, BlockKind, Chart, Place, Text


class BridgeBlock(Block):
    """The walk from the bare column to a figure."""

    kind: Literal["bridge"]
    measure: Text
    chart: Chart = None


def run(block: BridgeBlock, place: Place) -> Bridge:
    """Return the steps."""
    return make_bridge(place.query, place.table, block.measure)


KIND = BlockKind("bridge", BridgeBlock, run)
