"""Documents for a terminal (rich): the figures first, then the account, then what to know."""

import sys
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace
from typing import Any

from rich import box
from rich.cells import cell_len
from rich.console import Console, Group, RenderableType
from rich.padding import Padding
from rich.rule import Rule
from rich.table import Table as RichTable
from rich.text import Text as RichText

from even_sieve.documents.document import (
    Accounts,
    Backing,
    Caption,
    Document,
    Facts,
    Findings,
    Grid,
    Notes,
    Part,
    ReportDocument,
)
from even_sieve.documents.values import visible
from even_sieve.renderers.grid_lines import GridLines, widest

PLAIN_WIDTH = 100
# Colours that can be read on a light ground and on a dark one.
NOTE = "bold #b35900"
MATCHING = "bold #1a8f4c"
#: Rows as plain text are not wrapped: a pager, a file or a narrower choice takes them.
WIDEST = 100_000


class Text(RichText):
    """Text of which nothing is obeyed by a terminal or hidden."""

    def __init__(self, text: str = "", **how: Any) -> None:
        super().__init__(visible(text), **how)

    def append(self, text: Any, style: Any = None) -> RichText:
        """Add a text, made visible too."""
        return super().append(visible(text) if isinstance(text, str) else text, style)


class TableRenderer:
    """Renders the parts of a document one under the other."""

    def answer(self, document: Document, beside: Mapping[str, Document]) -> str:
        """Return the document as plain text, as wide as it needs."""
        return "".join(map(_as_text, [document, *beside.values()]))

    def report(self, report: ReportDocument) -> str:
        """Return the report as plain text."""
        return self.on(self.console(), report)

    def console(self) -> Console:
        """Return the console of standard output; off a terminal of the plain width."""
        return Console(width=None if sys.stdout.isatty() else PLAIN_WIDTH, highlight=False)

    def on(self, console: Console, report: ReportDocument) -> str:
        """Return the report with the colours and the width of a console."""
        with console.capture() as capture:
            console.print(Text(report.title, style="bold"))
            for each in report.sections:
                console.print()
                heading = Text(each.heading, style="bold")
                console.print(Rule(heading, align="left", style="bright_black"))
                if each.where:
                    where = Text(f"rows: {each.where}", style="dim")
                    console.print(Padding(where, (1, 1, 0, 1)))
                console.print(draw(each.document, console.width))
            console.print()
            for name, text in report.made_from:
                console.print(Text.assemble((f"{name}: ", "dim"), text), soft_wrap=True)
        return "".join(f"{line.rstrip()}\n" for line in capture.get().splitlines())


def draw(document: Document, width: int = WIDEST) -> RenderableType:
    """Return a document for a rich console of that width.

    Columns that do not fit are left out from the right, and told.
    """
    return _drawn(document.parts(), width)


def _drawn(parts: Sequence[Part], width: int) -> RenderableType:
    drawn: list[RenderableType] = []
    cropped: list[str] = []
    for part in parts:
        if isinstance(part, Grid):
            shown, left_out = _fitting(part, width) if part.crops else (part, [])
            if left_out:
                cropped.append(_cropped(part, left_out))
            if part.title:
                drawn.append(Padding(Text(part.title, style="bold"), (1, 1, 0, 1)))
            drawn.append(_table(shown, width))
        elif isinstance(part, Notes):
            drawn.append(_labelled("note", NOTE, [*part.texts, *cropped]))
        else:
            drawn.append(_part(part))
    return Group(*drawn)


def _as_text(document: Document) -> str:
    """Return a document as text without colours, no line with spaces at its end."""
    parts = document.parts()
    width = _plain_width(parts)
    console = Console(
        width=width,
        color_system=None,
        force_terminal=False,
        legacy_windows=False,
    )
    with console.capture() as capture:
        console.print(_drawn(parts, width), crop=False)
    return "".join(f"{line.rstrip()}\n" for line in capture.get().splitlines())


def _plain_width(parts: Sequence[Part]) -> int:
    """Return how wide plain text is: wider than usual where lines are not to be folded."""
    wide = [PLAIN_WIDTH]
    for part in parts:
        if isinstance(part, Grid) and (part.of_rows or part.crops):
            wide.append(sum(_widths(part)) + 2)
        elif isinstance(part, Facts) and part.label:
            wide += [cell_len(f"{part.label}: {visible(text)}") + 2 for text in part.texts]
    if any(isinstance(part, Grid) and part.of_rows for part in parts):
        notes = (text for part in parts if isinstance(part, Notes) for text in part.texts)
        wide += [cell_len(visible(text)) + len("note:   ") for text in notes]
    return min(max(wide), WIDEST)


def _part(part: Part) -> RenderableType:
    match part:
        case Accounts(items, whose):
            title = f"account {whose}".strip()
            labels = [f"{title}, {names}" if names else title for names, _ in items]
            pairs = zip(labels, items, strict=True)
            return _indented(
                Text.assemble((f"{label}: ", "dim"), words) for label, (_, words) in pairs
            )
        case Caption(text):
            return Padding(Text(text, style="dim"), (1, 1, 0, 1))
        case Facts(texts, label):
            return _labelled(label, MATCHING, texts)
        case Findings(summary, texts):
            found = [Text(summary), Text(""), Text("Look at first", style="bold")]
            return _indented([*found, *(Text.assemble(("- ", NOTE), text) for text in texts)])
        case Backing(heading, lines):
            return Group(
                Padding(Text(heading, style="bold"), (1, 1, 0, 1)),
                Padding(Group(*map(Text, lines)), (0, 1, 0, 3)),
            )
    raise TypeError(f"{type(part).__name__} is no part of a document")


def _cropped(grid: Grid, left_out: Sequence[str]) -> str:
    """Return what is left out, and where it can be seen."""
    if grid.of_rows:
        return f"not shown for want of width: {', '.join(left_out)}; choose with --columns"
    columns = f"{len(left_out)} columns from '{left_out[0]}' on"
    return f"not shown for want of width: {columns}; see --format csv, or --to"


def _fitting(grid: Grid, width: int) -> tuple[Grid, list[str]]:
    """Return the grid's columns that fit into the width, and the names of the others."""
    kept: list[int] = []
    used = 0
    last = len(grid.header) - 1
    widths = _widths(grid)
    verdicts = grid.header[last] == "verdict"
    order = [0, last, *range(1, last)] if verdicts else range(last + 1)
    for position in order:
        if kept and used + widths[position] > width:
            break
        kept.append(position)
        used += widths[position]
    kept.sort()
    left_out = [name for i, name in enumerate(grid.header) if i not in kept]
    rows = tuple(tuple(row[i] for i in kept) for row in grid.rows)
    header = tuple(grid.header[i] for i in kept)
    numeric = tuple(grid.numeric[i] for i in kept)
    return replace(grid, header=header, rows=rows, numeric=numeric), left_out


def _widths(grid: Grid) -> list[int]:
    """Return how wide each column is, with the space between columns."""
    columns = zip(grid.header, *grid.rows, strict=True)
    return [widest(cells) + 3 for cells in columns]


def _table(grid: Grid, width: int) -> RenderableType:
    def style_of(position: int) -> str:
        if grid.matching is not None:
            return MATCHING if position in grid.matching else "dim"
        return "bold" if grid.is_strong(position) else ""

    lines = GridLines(grid, style_of)
    if lines.width <= width:
        return lines
    table = RichTable(box=box.SIMPLE_HEAD, pad_edge=False, header_style="bold", show_edge=False)
    for position, (name, numeric) in enumerate(zip(grid.header, grid.numeric, strict=True)):
        justify = "right" if numeric else "left"
        style = "dim" if grid.of_rows and position == 0 else ""
        table.add_column(Text(name), justify=justify, style=style, overflow="fold")  # type: ignore[arg-type]
    first_total = len(grid.rows) - grid.totals
    for position, row in enumerate(grid.rows):
        table.add_row(
            *(Text(cell, style=style_of(position)) for cell in row),
            end_section=position == first_total - 1 and grid.totals > 0,
        )
    return Padding(table, (1, 1, 0, 1))


def _labelled(label: str, style: str, texts: Iterable[str]) -> RenderableType:
    start = (f"{label}: ", style) if label else ""
    return _indented(Text.assemble(start, text) for text in texts)


def _indented(lines: Iterable[RichText]) -> RenderableType:
    found = list(lines)
    return Padding(Group(*found), (1, 1, 0, 1)) if found else Group()


RENDERER = TableRenderer()
