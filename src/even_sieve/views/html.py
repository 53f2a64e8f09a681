"""Results as HTML for a notebook: a table, the account under it, everything escaped."""

from functools import cache

from jinja2 import Environment, PackageLoader, Template

from even_sieve.core.tally import Breakdown, Bridge, Funnel, Tallies
from even_sieve.views.breakdowns import breakdown_grid, breakdown_remarks
from even_sieve.views.grid import (
    Grid,
    accounts,
    bridge_grid,
    bridge_remarks,
    funnel_grids,
    funnel_notes,
    remarks,
    rows_grid,
    tallies_grid,
)
from even_sieve.views.listing import Listing


@cache
def _template() -> Template:
    environment = Environment(loader=PackageLoader("even_sieve", "views"), autoescape=True)
    return environment.get_template("result.html.jinja")


def show_tallies(result: Tallies) -> str:
    """Return the tallies as an HTML fragment."""
    return _render(tallies_grid(result), list(accounts(result)), remarks(result))


def show_breakdown(result: Breakdown) -> str:
    """Return the breakdown as an HTML fragment."""
    return _render(breakdown_grid(result), list(accounts(result.total)), breakdown_remarks(result))


def show_rows(result: Listing) -> str:
    """Return the rows as an HTML fragment."""
    notes = [each.text for each in result.notices]
    return _render(rows_grid(result), [("shown", result.counted)], notes)


def show_bridge(result: Bridge) -> str:
    """Return the bridge as an HTML fragment."""
    return _render(bridge_grid(result), [], bridge_remarks(result))


def show_funnel(result: Funnel) -> str:
    """Return the funnel as an HTML fragment, a table an alternative."""
    pieces = [
        _render(grid, [("counted", title)] if title else [], [])
        for title, grid in funnel_grids(result)
    ]
    return "".join(pieces) + _render(Grid((), (), ()), [], funnel_notes(result))


def _render(grid: Grid, account_lines: list[tuple[str, str]], notes: list[str]) -> str:
    return _template().render(
        grid=grid,
        accounts=account_lines,
        notes=notes,
    )
