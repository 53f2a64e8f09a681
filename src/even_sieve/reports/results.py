"""What a report gives: a result a block, and what it was made from."""

import json
from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import date
from typing import TYPE_CHECKING, Any, TypeAlias

from even_sieve import __version__
from even_sieve.core.tally import LineSet
from even_sieve.public.results import Breakdown, Bridge, Tallies
from even_sieve.public.table import Table
from even_sieve.views.listing import Listing

if TYPE_CHECKING:
    import pandas as pd
    from matplotlib.figure import Figure

Result: TypeAlias = Tallies | Breakdown | LineSet | Bridge | Listing


@dataclass(frozen=True)
class BlockResult:
    """One block that was run: its title, its criteria as text, its result."""

    kind: str
    title: str
    where: str
    result: Result
    chart: str | None = None

    def heading(self, number: int) -> str:
        """Return the title, or the kind and the number of the block where it has none."""
        return self.title or f"{self.kind.capitalize()} {number}"

    def draw(self) -> "Figure | None":
        """Return the chart of the block, if it is to have one."""
        from even_sieve.views.chart import draw_breakdown, draw_bridge

        if self.chart is None:
            return None
        if isinstance(self.result, Bridge):
            return draw_bridge(self.result)
        if isinstance(self.result, Breakdown):
            return draw_breakdown(self.result)
        raise TypeError(f"a block of {self.kind} has no chart")


@dataclass(frozen=True)
class Input:
    """A file that a report was made from: its name, bytes, and SHA-256 digest."""

    name: str
    size: int
    digest: str


@dataclass(frozen=True)
class Results:
    """A report that was run: its blocks, and what it was made from.

    The same inputs give the same results to the last byte: nothing in them tells the time.
    """

    title: str
    blocks: tuple[BlockResult, ...]
    as_of: date
    parameters: Mapping[str, str]
    inputs: tuple[Input, ...]
    where: str = ""
    criteria: Mapping[str, str] = field(default_factory=dict)
    version: str = __version__

    def made_from(self) -> list[tuple[str, str]]:
        """Return what the report was made from, as names and texts."""
        found = [(each.name, f"{each.size:,} bytes, SHA-256 {each.digest}") for each in self.inputs]
        found.append(("as of", self.as_of.isoformat()))
        found += [(f"parameter {name}", value) for name, value in self.parameters.items()]
        found += [(f"criteria {name}", text) for name, text in self.criteria.items()]
        if self.where:
            found.append(("rows", self.where))
        return [*found, ("made by", f"Even Sieve {self.version}")]

    def to_html(self) -> str:
        """Return one self-contained page."""
        from even_sieve.reports.page import show_page

        return show_page(self)

    def to_markdown(self) -> str:
        """Return the report as Markdown."""
        from even_sieve.reports.page import show_markdown

        return show_markdown(self)

    def to_json(self) -> str:
        """Return one JSON object: a record a block, as its own command would print it."""
        from even_sieve.views import json as view

        blocks = []
        for done in self.blocks:
            shown = getattr(view, f"show_{NOUNS[done.kind]}")(done.result)
            blocks.append({"kind": done.kind, "title": done.title, **json.loads(shown)})
        whole = {"title": self.title, "blocks": blocks, "made_from": dict(self.made_from())}
        return json.dumps(whole, ensure_ascii=False, indent=2) + "\n"

    def to_frames(self) -> "list[pd.DataFrame]":
        """Return a pandas data frame a block, in their order; totals have their mark in `mark`."""
        from even_sieve.reports.tables import table_of
        from even_sieve.sinks.files import with_marks

        return [Table(with_marks(table_of(done))).to_frame() for done in self.blocks]

    def figures(self) -> dict[str, Any]:
        """Return every figure of the `figures` blocks by its name."""
        return {
            tally.name: tally.value
            for done in self.blocks
            if isinstance(done.result, Tallies)
            for tally in done.result
        }


#: What the views call the result of each kind of block.
NOUNS = {
    "figures": "tallies",
    "breakdown": "breakdown",
    "lines": "lines",
    "bridge": "bridge",
    "rows": "rows",
}
