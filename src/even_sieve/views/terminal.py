"""Results for a terminal (rich): the figures first, then the account, then what to know."""

from collections.abc import Iterable, Sequence

from rich import box
from rich.console import Console, Group, RenderableType
from rich.padding import Padding
from rich.table import Table as RichTable
from rich.text import Text

from even_sieve.core.tally import Breakdown, Tallies
from even_sieve.views.grid import (
    Grid,
    accounts,
    breakdown_grid,
    breakdown_remarks,
    remarks,
    tallies_grid,
)
from even_sieve.views.listing import Listing
from even_sieve.views.values import show_value

PLAIN_WIDTH = 100


def show_tallies(result: Tallies) -> str:
    """Return the tallies as plain text."""
    return as_text(draw_tallies(result))


def show_breakdown(result: Breakdown) -> str:
    """Return the breakdown as plain text."""
    return as_text(draw_breakdown(result))


def show_rows(result: Listing) -> str:
    """Return the rows as plain text."""
    return as_text(draw_rows(result))


def as_text(drawn: RenderableType, width: int = PLAIN_WIDTH) -> str:
    """Return what is drawn as text without colours, no line with spaces at its end."""
    console = Console(width=width, color_system=None, force_terminal=False, legacy_windows=False)
    with console.capture() as capture:
        console.print(drawn)
    return "".join(f"{line.rstrip()}\n" for line in capture.get().splitlines())


def draw_tallies(result: Tallies) -> RenderableType:
    """Return the tallies for a rich console."""
    return Group(_table(tallies_grid(result)), _accounts(result), _remarks(remarks(result)))


def draw_breakdown(result: Breakdown) -> RenderableType:
    """Return the breakdown for a rich console; the account is the total's."""
    return Group(
        _table(breakdown_grid(result)),
        _accounts(result.total, "account of the total"),
        _remarks(breakdown_remarks(result)),
    )


def draw_rows(result: Listing) -> RenderableType:
    """Return the rows for a rich console, each with its number in the source."""
    table = _frame()
    table.add_column("row", justify="right", style="dim")
    for position, name in enumerate(result.names):
        cells = [row[position] for row in result.rows if row[position] is not None]
        numeric = bool(cells) and isinstance(cells[0], int | float)
        table.add_column(Text(name), justify="right" if numeric else "left", overflow="fold")
    for number, row in zip(result.numbers, result.rows, strict=True):
        shown = ["" if cell is None else show_value(cell) for cell in row]
        table.add_row(str(number), *map(Text, shown))
    counted = f"{result.matching:,} of {result.rows_in_table:,} rows match"
    if len(result.rows) < result.matching:
        counted += f", the first {len(result.rows):,} are shown"
    notices = _remarks([each.text for each in result.notices])
    return Group(table, Padding(Text(counted, style="dim"), (0, 1)), notices)


def _frame() -> RichTable:
    return RichTable(box=box.SIMPLE_HEAD, pad_edge=False, header_style="bold", show_edge=False)


def _table(grid: Grid) -> RenderableType:
    table = _frame()
    for name, numeric in zip(grid.header, grid.numeric, strict=True):
        justify = "right" if numeric else "left"
        table.add_column(Text(name), justify=justify, overflow="fold")  # type: ignore[arg-type]
    first_total = len(grid.rows) - grid.totals
    for position, row in enumerate(grid.rows):
        style = "bold" if position >= first_total else ""
        table.add_row(
            *(Text(cell, style=style) for cell in row),
            end_section=position == first_total - 1,
        )
    return Padding(table, (1, 1, 0, 1))


def _accounts(result: Tallies, title: str = "account") -> RenderableType:
    lines = []
    for names, words in accounts(result):
        label = f"{title}, {names}" if names else title
        lines.append(Text.assemble((f"{label}: ", "dim"), words))
    return _indented(lines)


def _remarks(texts: Sequence[str]) -> RenderableType:
    return _indented(Text.assemble(("note: ", "bold yellow"), text) for text in texts)


def _indented(lines: Iterable[Text]) -> RenderableType:
    found = list(lines)
    if not found:
        return Group()
    return Padding(Group(*found), (1, 1, 0, 1))
