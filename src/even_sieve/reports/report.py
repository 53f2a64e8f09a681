"""A report: read from its file, run on its table, every block with its result."""

import hashlib
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import date
from pathlib import Path
from typing import TYPE_CHECKING, Any

from even_sieve.core.criteria import (
    Criteria,
    Settings,
    parse_criteria,
    prepare,
    write_criteria,
)
from even_sieve.core.errors import CallError, SieveError
from even_sieve.core.tally import Heading, Together, Wanted
from even_sieve.public.criteria import Where
from even_sieve.public.reading import read_table
from even_sieve.public.results import Tallies
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
from even_sieve.reports.results import BlockResult, Input, Result, Results
from even_sieve.views.listing import Choice

if TYPE_CHECKING:
    pass


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
        from even_sieve.reports.outputs import write_outputs

        return write_outputs(results, self.file.outputs, folder or self.folder)

    def _criteria(self, table: Table) -> dict[str, Criteria]:
        """Return the named criteria."""
        columns = (*table.names, *self.file.derived)
        found = {}
        for name, text in self.file.criteria.items():
            with self._at(f"criteria, {name}"):
                found[name] = parse_criteria(text, columns)
        return found

    def _table(self) -> Table:
        source = self.file.source
        how = source.model_dump(exclude={"file"})
        return read_table(self.folder / source.file, **how)

    def _made(self, table: Table, asked: dict[str, Any]) -> Table:
        """Return the table with columns looked up and derived, and with its marks."""
        for number, each in enumerate(self.file.look_ups, 1):
            with self._at(f"look_ups {number}"):
                table = self._looked_up(table, each)
        for name, text in self.file.derived.items():
            with self._at(f"derived, {name}"):
                table = table.derive(f"{name} = {text}", **asked)
        marks, given = self.file.marks, asked["parameters"]
        for mark in ("hidden", "filtered", "subtotal"):
            for number, criteria in enumerate(getattr(marks, mark), 1):
                with self._at(f"marks, {mark} {number}"):
                    table = table.mark(**{mark: criteria}, parameters=given)
        with self._at("marks, by"):
            return table if marks.by is None else table.mark(by=marks.by)

    @contextmanager
    def _at(self, key: str) -> Iterator[None]:
        """Have an error name the report and the key at which it came up."""
        try:
            yield
        except SieveError as error:
            raise type_of(error)(f"{self.name}: {key}: {error}") from error

    def _looked_up(self, table: Table, look_up: LookUp) -> Table:
        other = read_table(self.folder / look_up.file)
        return table.look_up(other, look_up.on, bring=look_up.bring)

    def _block(self, number: int, block: Any, table: Table, asked: dict[str, Any]) -> BlockResult:
        where: list[Where] = [each for each in (self.file.where, block.where) if each is not None]
        both: Any = {"where": where, "keep": self.file.keep, **asked}
        with self._at(f"blocks {number}"):
            result = _run(block, table, both)
        where_text, chart = _put_in(block.where, table, asked), getattr(block, "chart", None)
        return BlockResult(block.kind, block.title, where_text, result, chart)

    def paths(self) -> list[Path]:
        """Return the report file and the files that it reads."""
        names = [self.file.source.file, *(each.file for each in self.file.look_ups)]
        return list(dict.fromkeys([Path(self.name), *(self.folder / name for name in names)]))

    def _inputs(self) -> tuple[Input, ...]:
        return tuple(
            Input(path.name, path.stat().st_size, hashlib.sha256(path.read_bytes()).hexdigest())
            for path in self.paths()
        )


class RunError(SieveError):
    """What a report asks for cannot be had; the text names the file and the key."""


class RunCallError(CallError):
    """The words of a report are off; the text names the file and the key."""


def type_of(error: SieveError) -> type[SieveError]:
    """Return the class of an error in a report: that of words that are off, or of data."""
    return RunCallError if isinstance(error, CallError) else RunError


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
