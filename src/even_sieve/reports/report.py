"""A report: read from its file, run on its table, every block with its result."""

import hashlib
import json
from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import date
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any, TypeAlias

from even_sieve import __version__
from even_sieve.core.criteria import (
    Criteria,
    Settings,
    parse_criteria,
    prepare,
    write_criteria,
)
from even_sieve.core.errors import CallError, SieveError
from even_sieve.core.tally import Heading, LineSet, Together, Wanted
from even_sieve.public.criteria import Where
from even_sieve.public.reading import read_table
from even_sieve.public.results import Breakdown, Bridge, Tallies
from even_sieve.public.table import Table
from even_sieve.reports.model import (
    BreakdownBlock,
    BridgeBlock,
    Entry,
    Figures,
    LinesBlock,
    LookUp,
    ReportFile,
    RowsBlock,
    read_report,
)
from even_sieve.reports.parameters import put_parameters, show_parameter
from even_sieve.sinks.charts import write_chart
from even_sieve.sinks.files import replace_file
from even_sieve.views.listing import Choice, Listing

if TYPE_CHECKING:
    import pandas as pd
    from matplotlib.figure import Figure

Result: TypeAlias = Tallies | Breakdown | LineSet | Bridge | Listing


@dataclass(frozen=True)
class Done:
    """One block that was run: its title, its criteria as text, its result."""

    kind: str
    title: str
    where: str
    result: Result
    chart: str | None = None

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
    blocks: tuple[Done, ...]
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


@dataclass(frozen=True)
class Report:
    """A report file that was read and checked. `folder` is where its files are looked for."""

    file: ReportFile
    name: str
    folder: Path

    @classmethod
    def from_file(cls, path: str | Path) -> "Report":
        """Return the report of a file. Raises `ReportError` naming the key, `SourceNotFound`."""
        return cls(read_report(path), str(path), Path(path).parent)

    def run(self, settings: Mapping[str, Any] | None = None) -> Results:
        """Return the results of all blocks, with parameters set as given.

        Raises `ParameterError` for a parameter that the report does not have, or a value
        that it does not accept; what a block cannot do names the block.
        """
        file = self.file
        table = self._table()
        parameters = put_parameters(file.parameters, settings or {}, table)
        as_of = file.as_of or date.today()
        given = {**parameters, **self._criteria(table)}
        asked = {"parameters": given, "as_of": as_of, "fiscal_start": file.fiscal_start}
        table = self._made(table, asked)
        done = tuple(
            self._block(number, block, table, asked) for number, block in enumerate(file.blocks, 1)
        )
        shown = {name: show_parameter(value) for name, value in parameters.items()}
        where = _put_in(file.where, table, asked)
        return Results(file.title, done, as_of, shown, self._inputs(), where, dict(file.criteria))

    def check(self) -> None:
        """Run the report and throw the results away: everything that it names is there."""
        self.run()

    def write(self, results: Results, folder: Path | None = None) -> list[Path]:
        """Write the outputs that the file names; return where they are."""
        from even_sieve.reports.tables import write_tables, write_workbook

        makers = {
            self.file.outputs.html: results.to_html,
            self.file.outputs.markdown: results.to_markdown,
            self.file.outputs.json_: results.to_json,
        }
        written, outputs = [], self.file.outputs
        for name, make in makers.items():
            if name is not None:
                path = (folder or self.folder) / name
                content = make().encode()
                replace_file(path, partial(_put, content))
                written.append(path)
        if outputs.workbook is not None:
            path = (folder or self.folder) / outputs.workbook
            write_workbook(results, path)
            written.append(path)
        if outputs.csv is not None:
            written += write_tables(results, (folder or self.folder) / outputs.csv)
        for done in results.blocks:
            figure = done.draw()
            if figure is not None and done.chart is not None:
                path = (folder or self.folder) / done.chart
                write_chart(figure, path)
                written.append(path)
        return written

    def _criteria(self, table: Table) -> dict[str, Criteria]:
        """Return the named criteria. Raises `BlockCallError` naming the key of what is off."""
        columns = (*table.names, *self.file.derived)
        found = {}
        for name, text in self.file.criteria.items():
            try:
                found[name] = parse_criteria(text, columns)
            except SieveError as error:
                raise BlockCallError(f"{self.name}: criteria, {name}: {error}") from error
        return found

    def _table(self) -> Table:
        source = self.file.source
        how = source.model_dump(exclude={"file"})
        return read_table(self.folder / source.file, **how)

    def _made(self, table: Table, asked: dict[str, Any]) -> Table:
        """Return the table with columns looked up and derived, and with its marks."""
        for each in self.file.look_ups:
            table = self._looked_up(table, each)
        for name, text in self.file.derived.items():
            table = table.derive(f"{name} = {text}", **asked)
        marks, given = self.file.marks, asked["parameters"]
        for mark in ("hidden", "filtered", "subtotal"):
            for criteria in getattr(marks, mark):
                table = table.mark(**{mark: criteria}, parameters=given)
        return table if marks.by is None else table.mark(by=marks.by)

    def _looked_up(self, table: Table, look_up: LookUp) -> Table:
        other = read_table(self.folder / look_up.file)
        return table.look_up(other, look_up.on, bring=look_up.bring)

    def _block(self, number: int, block: Any, table: Table, asked: dict[str, Any]) -> Done:
        where: list[Where] = [each for each in (self.file.where, block.where) if each is not None]
        both: Any = {"where": where, "keep": self.file.keep, **asked}
        try:
            result = _run(block, table, both)
        except SieveError as error:
            raise type_of(error)(f"{self.name}: blocks {number}: {error}") from error
        where_text, chart = _put_in(block.where, table, asked), getattr(block, "chart", None)
        return Done(block.kind, block.title, where_text, result, chart)

    def paths(self) -> list[Path]:
        """Return the report file and the files that it reads."""
        names = [self.file.source.file, *(each.file for each in self.file.look_ups)]
        return list(dict.fromkeys([Path(self.name), *(self.folder / name for name in names)]))

    def _inputs(self) -> tuple[Input, ...]:
        return tuple(
            Input(path.name, path.stat().st_size, hashlib.sha256(path.read_bytes()).hexdigest())
            for path in self.paths()
        )


class BlockError(SieveError):
    """What a block asks for cannot be had; the text names the file and the block."""


class BlockCallError(CallError):
    """The words of a block are off; the text names the file and the block."""


def type_of(error: SieveError) -> type[SieveError]:
    """Return the class of a block's error: that of words that are off, or of data."""
    return BlockCallError if isinstance(error, CallError) else BlockError


def _run(block: Any, table: Table, asked: dict[str, Any]) -> Result:
    if isinstance(block, Figures):
        found: Tallies = table.tally(*block.measures, **asked)
        return found
    if isinstance(block, BreakdownBlock):
        return table.tally(
            *block.measures,
            by=block.by,
            across=block.across,
            sort=block.sort,
            top=block.top,
            **asked,
        )
    if isinstance(block, LinesBlock):
        wanted = [_wanted(entry, table) for entry in block.lines]
        return table.lines(*block.measures, wanted=wanted, **asked)
    if isinstance(block, BridgeBlock):
        return table.bridge(block.measure, **asked)
    if isinstance(block, RowsBlock):
        choice = Choice(tuple(block.columns), tuple(block.sort), block.limit)
        if not block.all:
            return table.listing(**asked, choice=choice)
        # The report's own criteria choose the rows, the block's say which of them match.
        *shared, own = asked["where"] if block.where is not None else (*asked["where"], None)
        given = {name: asked[name] for name in ("parameters", "as_of", "fiscal_start")}
        within = table.sift(shared, **given) if shared else table
        return within.listing(**{**asked, "where": own}, choice=choice, every_row=True)
    raise TypeError(f"no block {block.kind}")


def _put_in(where: str | None, table: Table, asked: dict[str, Any]) -> str:
    """Return criteria as text with the parameters put in; nothing for none."""
    if where is None:
        return ""
    settings = Settings(asked["parameters"], asked["as_of"], asked["fiscal_start"])
    return write_criteria(prepare(parse_criteria(where, table.names), settings).criteria)


def _wanted(entry: Entry, table: Table) -> Heading | Wanted | Together:
    if entry.heading is not None:
        return Heading(entry.heading)
    label = entry.label or ""
    if entry.where is not None:
        return Wanted(label, parse_criteria(entry.where, table.names))
    return Together(label, tuple(entry.sum))


def _put(content: bytes, path: Path) -> None:
    path.write_bytes(content)
