"""The kinds of blocks of a report, one a module."""

from even_sieve.reports.blocks import breakdown, bridge, figures, lines, rows
from even_sieve.reports.blocks.block import BlockKind

#: Every kind by its name, in the order in which they are told.
BLOCK_KINDS: dict[str, BlockKind] = {
    each.KIND.name: each.KIND for each in (figures, breakdown, lines, bridge, rows)
}
