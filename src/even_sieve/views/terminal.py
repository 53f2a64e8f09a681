"""Results for a terminal (rich): the figures first, then the account, then what to know."""

from collections.abc import Iterable, Sequence
from dataclasses import replace

from rich import box
from rich.cells import cell_len
from rich.console import Console, Group, RenderableType
from rich.padding import Padding
from rich.table import Table as RichTable
from rich.text import Text

from even_sieve.core.table import Profile
from even_sieve.core.tally import Breakdown, Bridge, Funnel, LineSet, Recheck, Tallies
from even_sieve.views.breakdowns import breakdown_grid, breakdown_remarks
from even_sieve.views.grid import (
    Grid,
    accounts,
    bridge_grid,
    bridge_remarks,
    explanations,
    funnel_grids,
    funnel_notes,
    profile_grid,
    profile_notes,
    remarks,
    rows_grid,
    tallies_grid,
)
from even_sieve.views.lines import lines_grid, lines_remarks
from even_sieve.views.listing import Listing

PLAIN_WIDTH = 100
# Colours that can be read on a light ground and on a dark one.
NOTE = "bold #b35900"
MATCHING = "bold #1a8f4c"
#: Rows as plain text are not wrapped: a pager, a file or a narrower choice takes them.
WIDEST = 100_000


def show_tallies(result: Tallies) -> str:
    """Return the tallies as plain text."""
    return as_text(draw_tallies(result))


def show_breakdown(result: Breakdown) -> str:
    """Return the breakdown as plain text, as wide as its table needs."""
    width = sum(_widths(breakdown_grid(result)))
    return as_text(draw_breakdown(result), max(PLAIN_WIDTH, width + 2))


def show_rows(result: Listing) -> str:
    """Return the rows as plain text."""
    return as_text(draw_rows(result), WIDEST)


def as_text(drawn: RenderableType, width: int = PLAIN_WIDTH) -> str:
    """Return what is drawn as text without colours, no line with spaces at its end."""
    console = Console(width=width, color_system=None, force_terminal=False, legacy_windows=False)
    with console.capture() as capture:
        console.print(drawn)
    return "".join(f"{line.rstrip()}\n" for line in capture.get().splitlines())


def draw_tallies(result: Tallies) -> RenderableType:
    """Return the tallies for a rich console."""
    return Group(_table(tallies_grid(result)), _accounts(result), _remarks(remarks(result)))


def draw_breakdown(result: Breakdown, width: int = WIDEST) -> RenderableType:
    """Return the breakdown for a rich console; the account is the total's.

    Columns that do not fit into the width are left out from the right and counted.
    """
    grid, left_out = _fitting(breakdown_grid(result), width)
    notes = breakdown_remarks(result)
    if left_out:
        columns = f"{len(left_out)} columns from '{left_out[0]}' on"
        notes.append(f"not shown for want of width: {columns}; see --format csv, or --to")
    return Group(_table(grid), _accounts(result.total, "account of the total"), _remarks(notes))


def draw_rows(result: Listing, width: int = WIDEST) -> RenderableType:
    """Return the rows for a rich console; where all are shown, the matching ones stand out.

    Columns that do not fit into the width are left out from the right and named.
    """
    grid, left_out = _fitting(rows_grid(result), width)
    table = _frame()
    for position, name in enumerate(grid.header):
        right = grid.numeric[position]
        style = "dim" if position == 0 else ""
        justify = "right" if right else "left"
        table.add_column(Text(name), justify=justify, style=style, overflow="fold")  # type: ignore[arg-type]
    for position, row in enumerate(grid.rows):
        out = result.verdicts is not None and bool(result.verdicts[position])
        found = result.verdicts is not None and not out
        style = "dim" if out else MATCHING if found else ""
        table.add_row(*(Text(cell, style=style) for cell in row))
    notes = [each.text for each in result.notices]
    if left_out:
        names = ", ".join(left_out)
        notes.append(f"not shown for want of width: {names}; choose with --columns")
    counted = Padding(Text(result.counted, style="dim"), (1, 1, 0, 1))
    return Group(Padding(table, (1, 1, 0, 1)), counted, _remarks(notes))


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
    return [
        max(cell_len(line) for cell in cells for line in cell.split("\n")) + 3 for cells in columns
    ]


def draw_funnel(result: Funnel) -> RenderableType:
    """Return the funnel for a rich console: a table an alternative, then what it means."""
    drawn: list[RenderableType] = []
    for title, grid in funnel_grids(result):
        if title:
            drawn.append(Padding(Text(title, style="bold"), (1, 1, 0, 1)))
        drawn.append(_table(grid))
    notes = _indented(Text(each) for each in funnel_notes(result))
    return Group(*drawn, notes)


def draw_lines(result: LineSet) -> RenderableType:
    """Return the lines of a report for a rich console."""
    return Group(_table(lines_grid(result)), _remarks(lines_remarks(result)))


def draw_bridge(result: Bridge) -> RenderableType:
    """Return the bridge for a rich console, and what to know about its figure."""
    return Group(_table(bridge_grid(result)), _remarks(bridge_remarks(result)))


def draw_explanations(result: Tallies) -> RenderableType:
    """Return what backs each figure for a rich console."""
    drawn: list[RenderableType] = []
    for heading, lines in explanations(result):
        drawn.append(Padding(Text(heading, style="bold"), (1, 1, 0, 1)))
        drawn.append(Padding(Group(*map(Text, lines)), (0, 1, 0, 3)))
    return Group(*drawn)


def draw_rechecks(result: Sequence[Recheck]) -> RenderableType:
    """Return what the rechecks found for a rich console."""
    return _indented(
        Text.assemble(("recheck: ", MATCHING), f"{each.name} {each.words()}") for each in result
    )


def show_bridge(result: Bridge) -> str:
    """Return the bridge as plain text."""
    return as_text(draw_bridge(result))


def with_explanations(shown: str, result: Tallies) -> str:
    """Return a shown result with what backs its figures under it."""
    return shown + as_text(draw_explanations(result))


def with_rechecks(shown: str, result: Sequence[Recheck]) -> str:
    """Return a shown result with what the rechecks found under it."""
    return shown + as_text(draw_rechecks(result), WIDEST)


def draw_profile(result: Profile) -> RenderableType:
    """Return the profile for a rich console: the columns, then what to look at."""
    counts, *notes = profile_notes(result)
    drawn = [Text(counts), Text(""), Text("Look at first", style="bold")]
    drawn += [Text.assemble(("- ", NOTE), note) for note in notes]
    return Group(_table(profile_grid(result)), _indented(drawn))


def show_profile(result: Profile) -> str:
    """Return the profile as plain text."""
    return as_text(draw_profile(result))


def show_funnel(result: Funnel) -> str:
    """Return the funnel as plain text."""
    return as_text(draw_funnel(result))


def with_funnel(shown: str, funnel: Funnel) -> str:
    """Return a shown result with the funnel under it."""
    return shown + show_funnel(funnel)


def _frame() -> RichTable:
    return RichTable(box=box.SIMPLE_HEAD, pad_edge=False, header_style="bold", show_edge=False)


def _table(grid: Grid) -> RenderableType:
    table = _frame()
    for name, numeric in zip(grid.header, grid.numeric, strict=True):
        justify = "right" if numeric else "left"
        table.add_column(Text(name), justify=justify, overflow="fold")  # type: ignore[arg-type]
    first_total = len(grid.rows) - grid.totals
    for position, row in enumerate(grid.rows):
        style = "bold" if grid.is_strong(position) else ""
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
    return _indented(Text.assemble(("note: ", NOTE), text) for text in texts)


def _indented(lines: Iterable[Text]) -> RenderableType:
    found = list(lines)
    if not found:
        return Group()
    return Padding(Group(*found), (1, 1, 0, 1))
