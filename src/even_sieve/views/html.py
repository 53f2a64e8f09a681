"""Results as HTML for a notebook: a table, the account under it, everything escaped."""

from functools import cache

from jinja2 import Environment, PackageLoader, Template

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
    rows = tuple(
        (str(number), *("" if cell is None else show_value(cell) for cell in row))
        for number, row in zip(result.numbers, result.rows, strict=True)
    )
    grid = Grid(("row", *result.names), rows, (True, *(False for _ in result.names)))
    counted = f"{result.matching:,} of {result.rows_in_table:,} rows"
    return _render(grid, [("shown", counted)], [each.text for each in result.notices])


def _render(grid: Grid, account_lines: list[tuple[str, str]], notes: list[str]) -> str:
    return _template().render(
        grid=grid,
        first_total=len(grid.rows) - grid.totals,
        accounts=account_lines,
        notes=notes,
    )
