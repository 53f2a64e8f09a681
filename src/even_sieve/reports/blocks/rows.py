"""Blocks of the rows that match, or of all rows with a verdict on each."""

from dataclasses import replace
from typing import Annotated, Literal

from pydantic import Field

from even_sieve.core.tally import Choice, Listing, list_rows
from even_sieve.public.table import Table
from even_sieve.reports.blocks.block import Block, BlockKind, Place, Texts


class RowsBlock(Block):
    """The rows that match, or all rows with a verdict on each."""

    kind: Literal["rows"]
    all: bool = False
    columns: Texts = []
    sort: Texts = []
    limit: Annotated[int, Field(ge=1)] | None = None


def run(block: RowsBlock, place: Place) -> Listing:
    """Return the rows.

    Of all rows the report's own criteria choose which, the block's say which of them match.
    """
    choice = Choice(tuple(block.columns), tuple(block.sort), block.limit)
    if not block.all:
        return list_rows(place.query, place.table, choice)
    within = Table(place.table).sifted(place.shared).core
    own = (block.where,) if block.where is not None else ()
    return list_rows(replace(place.query, where=own), within, choice, every_row=True)


KIND = BlockKind("rows", RowsBlock, run)
