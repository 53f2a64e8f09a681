"""A report: read from its file, run on its table, every block with its result."""

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, replace
from datetime import date
from functools import partial
from pathlib import Path
from typing import Any

from even_sieve.core.cells import fold
from even_sieve.core.criteria import Criteria, parse_criteria, prepare, write_criteria
from even_sieve.core.errors import CallError, SieveError, closest, listed
from even_sieve.core.progress import steps
from even_sieve.core.query import MARK_NAMES, LookUp, Marking, Query
from even_sieve.core.table import Table
from even_sieve.core.tally import Breakdown, Bridge, LineSet, Tallies, figures_of
from even_sieve.receipts import digest_of, settings_words
from even_sieve.reports.blocks import BLOCK_KINDS
from even_sieve.reports.blocks.block import Block, Place
from even_sieve.reports.following import followed
from even_sieve.reports.model import LookUpModel, ReportFile, read_report, source_of
from even_sieve.reports.parameters import put_parameters, show_parameter
from even_sieve.reports.results import BlockResult, Input, Results
from even_sieve.sources.paths import path_of
from even_sieve.sources.places import beside, is_address, places_of, told_apart
from even_sieve.sources.several import read_named
from even_sieve.sources.source_options import SourceOptions


@dataclass(frozen=True)
class Report:
    """A report file that was read and checked. `folder` is where its files are looked for.

    >>> import even_sieve
    >>> import pathlib, tempfile
    >>> folder = pathlib.Path(tempfile.mkdtemp())
    >>> _ = (folder / "calls.csv").write_text("zone,dues\\nOuter,120\\n")
    >>> _ = (folder / "dues.toml").write_text(
    ...     'title = "Dues"\\nsource = {file = "calls.csv"}\\n'
    ...     '[[blocks]]\\nkind = "figures"\\nmeasures = ["sum of dues"]\\n'
    ... )
    >>> even_sieve.Report.from_file(folder / "dues.toml").run().figures()
    {'sum of dues': 120}
    """

    file: ReportFile
    name: str
    folder: Path

    @classmethod
    def from_file(cls, path: str | Path) -> "Report":
        """Return the report of a file. Raises `ReportError` naming the key, `SourceNotFound`."""
        path = path_of("a report file", path)
        return cls(read_report(str(path)), str(path), Path(path).parent)

    def run(
        self,
        settings: Mapping[str, Any] | None = None,
        *,
        strict: bool = False,
        as_of: date | None = None,
    ) -> Results:
        """Return the results of all blocks, with parameters set as given.

        Raises `ParameterError` for a parameter that the report does not have, or a value that it
        does not accept; what a block cannot do names the block. With `strict`, as with the
        report's own word, any notice of doubt is an error. `as_of` goes before the report's own
        date.
        """
        file, inputs = self.file, self._inputs()
        names, source = source_of(file)
        table = read_named(
            [beside(self.folder, name) for name in names], SourceOptions.of(**source)
        )
        parameters = put_parameters(file.parameters, settings or {}, table)
        query = Query.of(
            keep=file.keep,
            parameters={**parameters, **self._criteria(table)},
            as_of=as_of or file.as_of,
            fiscal_start=file.fiscal_start,
            strict=file.strict or strict,
        )
        table = self._made(table, query)
        query = replace(query, where=() if file.where is None else (file.where,))
        blocks = tuple(
            self._block(number, block, table, query)
            for number, block in enumerate(steps(file.blocks, f"running {self.name}"), 1)
        )
        shown = {name: show_parameter(value) for name, value in parameters.items()}
        where, criteria = _put_in(file.where, table, query), dict(file.criteria)
        if self._inputs() != inputs:
            raise RunError(
                f"{self.name}: a file that it reads changed while it was run\nRun it again"
            )
        self._refuse_unknown_looks(table, blocks)
        with self._at("follow"):
            rows = {} if file.follow is None else followed(
                table, file.follow.key, file.follow.columns or _measured(table, blocks)
            )  # fmt: skip
        return Results(
            file.title, blocks, query.as_of, shown, inputs, where, criteria,
            table=table, presentation=file.presentation(),
            call=(Path(self.name).name, *settings_words(settings or {})), followed=rows,
        )  # fmt: skip

    def _refuse_unknown_looks(self, table: Table, blocks: Iterable[BlockResult]) -> None:
        """Raise `CallError` for a look under a name that no figure and no column has."""
        known = [*table.names]
        for result in (block.result for block in blocks):
            if isinstance(result, Tallies | Breakdown | LineSet | Bridge):
                known += [tally.name for tally in figures_of(result)]
        for name in self.file.shown:
            if fold(name) not in {"all", *map(fold, known)}:
                near = closest(name, known)
                hint = f"\nDid you mean {listed(near)}?" if near else ""
                raise CallError(f"{self.name}: shown: no figure and no column is '{name}'{hint}")

    def check(self) -> None:
        """Run the report and throw the results away: everything that it names is there."""
        self.run()

    def refuse_outputs(self, folder: Path | None = None) -> None:
        """Raise `CallError` for an output that is an input, is named twice, or lies outside."""
        from even_sieve.reports.outputs import refuse_outputs

        refuse_outputs(self.file, folder or self.folder, self.paths())

    def write(self, results: Results, folder: Path | None = None) -> list[Path]:
        """Write the outputs that the file names; return where they are."""
        from even_sieve.reports.outputs import write_outputs

        self.refuse_outputs(folder)
        return write_outputs(results, self.file.outputs, folder or self.folder)

    def _criteria(self, table: Table) -> dict[str, Criteria]:
        """Return the named criteria."""
        columns = (*table.names, *self.file.derived)
        found = {}
        for name, text in self.file.criteria.items():
            with self._at(f"criteria, {name}"):
                found[name] = parse_criteria(text, columns)
        return found

    def _made(self, table: Table, query: Query) -> Table:
        """Return the table with columns looked up and derived, and with its marks."""
        for key, part in self._parts(query):
            with self._at(key):
                table = part().made_table(table)
        return table

    def _parts(self, query: Query) -> Iterator[tuple[str, Callable[[], Query]]]:
        """Yield queries that each make one thing ready, with the key that asks for it."""
        for number, each in enumerate(self.file.look_ups, 1):
            yield f"look_ups {number}", partial(self._looked_up, query, each)
        for name, text in self.file.derived.items():
            yield f"derived, {name}", partial(replace, query, derived=(f"{name} = {text}",))
        marks = self.file.marks
        for word, mark in MARK_NAMES.items():
            for number, criteria in enumerate(getattr(marks, word), 1):
                marking = Marking(mark, criteria)
                yield f"marks, {word} {number}", partial(replace, query, marks=(marking,))
        if marks.by is not None:
            yield "marks, by", partial(replace, query, marked_by=marks.by)

    def _looked_up(self, query: Query, each: LookUpModel) -> Query:
        memory = source_of(self.file)[1]["memory"]  # else as much as is usual is granted again
        how = SourceOptions.of(**each.how, memory=memory)
        other = read_named(beside(self.folder, each.file), how)
        return replace(query, look_ups=(LookUp.of(other, each.on, each.bring),))

    @contextmanager
    def _at(self, key: str) -> Iterator[None]:
        """Have an error name the report and the key at which it came up."""
        try:
            yield
        except SieveError as error:
            raise type_of(error)(f"{self.name}: {key}: {error}") from error

    def _block(self, number: int, block: Block, table: Table, query: Query) -> BlockResult:
        kind = BLOCK_KINDS[block.kind]  # type: ignore[attr-defined]
        with self._at(f"blocks {number}"):
            answer = kind.run(block, Place(table, query.narrowed_by(block.where), query))
        where, chart = _put_in(block.where, table, query), getattr(block, "chart", None)
        return BlockResult(kind.name, block.title, where, answer, chart)

    def paths(self) -> list[Path]:
        """Return the report file and the files that it reads."""
        read = [name for name in self._read() if not is_address(name)]
        return list(dict.fromkeys([Path(self.name), *map(Path, read)]))

    def _read(self) -> list[str]:
        """Return what the report reads besides itself."""
        look_ups: Sequence[LookUpModel] = self.file.look_ups
        names = [*source_of(self.file)[0], *(each.file for each in look_ups)]
        places = [each for name in names for each in places_of([beside(self.folder, name)]).every]
        return [
            f"{each.path}!{each.sheets}" if is_address(each.path) and each.sheets else each.path
            for each in places
        ]

    def _inputs(self) -> tuple[Input, ...]:
        # A missing one is told where it is read.
        paths = [path for path in self.paths() if path.is_file()]
        files = (
            Input(name, *digest_of(path))
            for name, path in zip(told_apart(map(str, paths)), paths, strict=True)
        )
        databases = dict.fromkeys(name for name in self._read() if is_address(name))
        return (*files, *(Input(name, None, "") for name in databases))


def _measured(table: Table, blocks: Iterable[BlockResult]) -> list[str]:
    """Return the columns that the figures of a report measure, in the table's order."""
    tallies = [
        tally
        for result in (block.result for block in blocks)
        if isinstance(result, Tallies | Breakdown | LineSet | Bridge)
        for tally in figures_of(result)
    ]
    for each in tallies:
        tallies += each.parts
    asked = {
        fold(name)
        for each in tallies
        for name in (each.request.column, each.request.weight)
        if name
    }
    return [name for name in table.names if fold(name) in asked]


class RunError(SieveError):
    """What a report asks for cannot be had; the text names the file and the key."""


class RunCallError(CallError):
    """The words of a report are off; the text names the file and the key."""


def type_of(error: SieveError) -> type[SieveError]:
    """Return the class of an error in a report: that of words that are off, or of data."""
    return RunCallError if isinstance(error, CallError) else RunError


def _put_in(where: str | None, table: Table, query: Query) -> str:
    """Return criteria as text with the parameters put in; nothing for none."""
    if where is None:
        return ""
    return write_criteria(prepare(parse_criteria(where, table.names), query.settings).criteria)
