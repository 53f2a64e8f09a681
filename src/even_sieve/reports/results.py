"""What a report gives: an answer a block, and what it was made from."""

from collections.abc import Mapping
from contextlib import AbstractContextManager, nullcontext
from dataclasses import dataclass, field, replace
from datetime import date
from pathlib import Path
from typing import TYPE_CHECKING, Any

import simplejson

from even_sieve import __version__
from even_sieve.core.answer import Answer
from even_sieve.core.query import Query
from even_sieve.core.table import Mark, Table
from even_sieve.core.tally import Breakdown, Bridge, Defence, LineSet, Tallies, figures_of
from even_sieve.documents import document_of
from even_sieve.documents.document import ReportDocument, Section
from even_sieve.documents.looks import Presentation, shown_as
from even_sieve.documents.since import Since
from even_sieve.receipts import read_receipt, since
from even_sieve.renderers.renderer import renderer

if TYPE_CHECKING:
    import pandas as pd
    from matplotlib.figure import Figure


@dataclass(frozen=True)
class BlockResult:
    """One block that was run: its title, its criteria as text, its answer."""

    kind: str
    title: str
    where: str
    result: Answer
    chart: str | None = None

    def heading(self, number: int) -> str:
        """Return the title, or the kind and the number of the block where it has none."""
        return self.title or f"{self.kind.capitalize()} {number}"

    def draw(self) -> "Figure | None":
        """Return the chart of the block, if it is to have one."""
        return None if self.chart is None else document_of(self.result).chart()

    def section(self, number: int) -> Section:
        """Return the block laid out."""
        document = document_of(self.result)
        heading, charted = self.heading(number), self.chart is not None
        return Section(heading, self.kind, self.title, self.where, document, charted=charted)


@dataclass(frozen=True)
class Input:
    """A file that a report was made from: its name, bytes, and SHA-256 digest.

    Of a database it is the address; what it held has no size and no digest.
    """

    name: str
    size: int | None
    digest: str

    def plain(self) -> dict[str, object]:
        """Return its size and digest for a program; of a database, that it is no file."""
        if self.size is None:
            return {"no file": True}
        return {"bytes": self.size, "sha256": self.digest}

    @property
    def words(self) -> str:
        """What is known of it: `4,821 bytes, SHA-256 9f…`."""
        if self.size is None:
            return "a database, as it stood when it was asked"
        return f"{self.size:,} bytes, SHA-256 {self.digest}"


@dataclass(frozen=True)
class Results:
    """A report that was run: its blocks, and what it was made from.

    The same inputs give the same results to the last byte: nothing in them tells the time.
    `table` is what the blocks were run on: on the page every figure opens to its rows.

    >>> import even_sieve
    >>> import pathlib, tempfile
    >>> report = pathlib.Path(tempfile.mkdtemp(), "dues.toml")
    >>> _ = report.with_name("calls.csv").write_text("zone,dues\\nOuter,120\\n")
    >>> _ = report.write_text(
    ...     'title = "May"\\nsource = {file = "calls.csv"}\\n[[blocks]]\\nkind = "figures"\\n'
    ...     'title = "Dues"\\nmeasures = ["sum of dues"]\\n'
    ... )
    >>> results = even_sieve.Report.from_file(report).run()
    >>> [block.title for block in results.blocks]
    ['Dues']
    """

    title: str
    blocks: tuple[BlockResult, ...]
    as_of: date
    parameters: Mapping[str, str]
    inputs: tuple[Input, ...]
    where: str = ""
    criteria: Mapping[str, str] = field(default_factory=dict)
    version: str = __version__
    table: Table | None = field(default=None, repr=False, compare=False)
    presentation: Presentation | None = field(default=None, repr=False)
    call: tuple[str, ...] = field(default=(), repr=False, compare=False)
    followed: Mapping[str, Any] = field(default_factory=dict, repr=False, compare=False)
    moved: Since | None = None

    def shown(self) -> AbstractContextManager[None]:
        """Return what is entered while the report is laid out for people."""
        return nullcontext() if self.presentation is None else shown_as(self.presentation)

    def made_from(self) -> list[tuple[str, str]]:
        """Return what the report was made from, as names and texts."""
        found = [(each.name, each.words) for each in self.inputs]
        found.append(("as of", self.as_of.isoformat()))
        found += [(f"parameter {name}", value) for name, value in self.parameters.items()]
        found += [(f"criteria {name}", text) for name, text in self.criteria.items()]
        if self.where:
            found.append(("rows", self.where))
        return [*found, ("made by", f"Even Sieve {self.version}")]

    def document(self) -> ReportDocument:
        """Return the report laid out."""
        sections = [each.section(number) for number, each in enumerate(self.blocks, 1)]
        if self.moved is not None:
            heading = f"Since {self.moved.name}"
            sections.append(Section(heading, "since", heading, "", document_of(self.moved)))
        return ReportDocument(self.title, self.where, tuple(sections), tuple(self.made_from()))

    def to_html(self) -> str:
        """Return one self-contained page; its figures open to their accounts and rows."""
        from even_sieve.renderers.html import page
        from even_sieve.reports.drilldown import with_drilldown

        defence = None if self.table is None else Defence(Query(), self.table)
        with self.shown():
            return page(with_drilldown(self.document(), self.blocks, defence))

    def to_markdown(self) -> str:
        """Return the report as Markdown."""
        with self.shown():
            return renderer("markdown").report(self.document())

    def to_json(self) -> str:
        """Return one JSON object: a record a block, as its own command would print it."""
        return renderer("json").report(replace(self.document(), receipt=self._receipt()))

    def against(self, earlier: str | Path) -> "Results":
        """Return the results with what moved since the JSON of an earlier run.

        Raises `SourceNotFound`, `SourceError` for a file that is no receipt.
        """
        before = read_receipt(earlier)
        now = simplejson.loads(replace(self, moved=None).to_json(), use_decimal=True)
        known = [
            tally
            for result in (block.result for block in self.blocks)
            if isinstance(result, Tallies | Breakdown | LineSet | Bridge)
            for tally in (result.total if isinstance(result, Breakdown) else figures_of(result))
        ]
        return replace(self, moved=since(before, now, Path(earlier).name, known))

    def _receipt(self) -> dict[str, Any]:
        """Return what the JSON of the report says of how it came about."""
        table, marks = self.table, Mark.SUBTOTAL | Mark.HIDDEN | Mark.FILTERED
        counts = {} if table is None else table.count_marks(marks)
        return {
            "made by": f"Even Sieve {self.version}",
            "command": "run",
            "words": [*self.call, "--as-of", self.as_of.isoformat()],
            "as of": self.as_of.isoformat(),
            "criteria": self.where,
            "parameters": dict(self.parameters),
            "rows": 0 if table is None else table.length,
            "marks": {mark.name.lower(): n for mark, n in counts.items() if mark.name},
            "read": {each.name: each.plain() for each in self.inputs},
            **({"followed": dict(self.followed)} if self.followed else {}),
        }

    def to_frames(self, *, totals: bool = True) -> "list[pd.DataFrame]":
        """Return a pandas data frame a block, in their order, each as `to_frame` of its answer."""
        return [each.result.to_frame(totals=totals) for each in self.blocks]

    def figures(self) -> dict[str, Any]:
        """Return every figure of the `figures` blocks by its name."""
        return {
            tally.name: tally.value
            for block in self.blocks
            if isinstance(block.result, Tallies)
            for tally in block.result
        }
