"""Results as Markdown: a table, and what stands behind it as a list."""

from collections.abc import Sequence

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


def show_tallies(result: Tallies) -> str:
    """Return the tallies as a table, their accounts and remarks as a list."""
    return _table(tallies_grid(result)) + _list(_account_items(result) + remarks(result))


def show_breakdown(result: Breakdown) -> str:
    """Return the breakdown as a table with the total in bold, and the total's account."""
    items = _account_items(result.total) + breakdown_remarks(result)
    return _table(breakdown_grid(result)) + _list(items)


def show_rows(result: Listing) -> str:
    """Return the rows as a table, each with its number in the source."""
    items = [result.counted, *(each.text for each in result.notices)]
    return _table(rows_grid(result)) + _list(items)


def show_funnel(result: Funnel) -> str:
    """Return the funnel as a table an alternative, and what it means as a list."""
    tables = [
        (f"{_escape(title)}\n\n" if title else "") + _table(grid)
        for title, grid in funnel_grids(result)
    ]
    return "\n".join(tables) + _list(funnel_notes(result))


def show_lines(result: LineSet) -> str:
    """Return the lines of a report as a table, and its remarks as a list."""
    return _table(lines_grid(result)) + _list(lines_remarks(result))


def show_bridge(result: Bridge) -> str:
    """Return the bridge as a table with the figure in bold, and its remarks as a list."""
    return _table(bridge_grid(result)) + _list(bridge_remarks(result))


def with_explanations(shown: str, result: Tallies) -> str:
    """Return a shown result with what backs its figures under it, a list a figure."""
    pieces = [
        f"\n**{_escape(heading)}**\n\n{''.join(map(_nested, lines))}"
        for heading, lines in explanations(result)
    ]
    return shown + "".join(pieces)


def _nested(line: str) -> str:
    """Return a line as an item of a list, as deep in it as the line is indented."""
    text = line.lstrip(" ")
    return f"{line[: len(line) - len(text)]}- {_escape(text)}\n"


def with_rechecks(shown: str, result: Sequence[Recheck]) -> str:
    """Return a shown result with what the rechecks found under it."""
    return shown + _list([f"recheck: {each}" for each in result])


def show_profile(result: Profile) -> str:
    """Return the profile as a table, and what to look at as a list."""
    return _table(profile_grid(result)) + _list(profile_notes(result))


def with_funnel(shown: str, funnel: Funnel) -> str:
    """Return a shown result with the funnel under it."""
    return f"{shown}\n{show_funnel(funnel)}"


def _account_items(result: Tallies) -> list[str]:
    return [f"{names or 'account'}: {words}" for names, words in accounts(result)]


def _table(grid: Grid) -> str:
    rule = ["---:" if numeric else "---" for numeric in grid.numeric]
    body = list(map(_cells, grid.rows))
    for position, row in enumerate(body):
        if grid.is_strong(position):
            body[position] = [f"**{cell}**" if cell else "" for cell in row]
    return "".join(f"| {' | '.join(row)} |\n" for row in [_cells(grid.header), rule, *body])


def _cells(row: Sequence[str]) -> list[str]:
    return [_escape(cell) for cell in row]


def _escape(text: str) -> str:
    for char in "\\|*_`<#":
        text = text.replace(char, "\\" + char)
    return text.replace("\n", " ")


def _list(items: Sequence[str]) -> str:
    return "\n" + "".join(f"- {_escape(item)}\n" for item in items) if items else ""
