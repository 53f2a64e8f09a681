"""A report as one page of HTML, and as Markdown.

The page is whole in itself: no script, no other file. It reads on a phone, on paper and
aloud; every figure opens to its account.
"""

from collections.abc import Iterator
from functools import cache
from typing import Any

from jinja2 import Environment, PackageLoader, Template
from markupsafe import Markup

from even_sieve.core.tally import Breakdown, Bridge, LineSet, Tallies
from even_sieve.reports.opened import opened
from even_sieve.reports.results import NOUNS, Done, Results
from even_sieve.sinks.charts import svg_of
from even_sieve.views import markdown
from even_sieve.views.breakdowns import breakdown_grid, breakdown_remarks
from even_sieve.views.grid import (
    Grid,
    accounts,
    bridge_grid,
    bridge_remarks,
    remarks,
    rows_grid,
    tallies_grid,
)
from even_sieve.views.lines import lines_grid, lines_remarks


@cache
def _template() -> Template:
    environment = Environment(
        loader=PackageLoader("even_sieve", "reports"), autoescape=True, trim_blocks=True
    )
    return environment.get_template("page.html.jinja")


def show_page(results: Results) -> str:
    """Return the page."""
    blocks = [_block(number, done) for number, done in enumerate(results.blocks, 1)]
    return _template().render(results=results, blocks=blocks, made_from=results.made_from())


def _block(number: int, done: Done) -> dict[str, Any]:
    """Return what the page shows of a block."""
    grid = _grid(done)
    return {
        "id": f"block-{number}",
        "title": done.title or f"{done.kind.capitalize()} {number}",
        "where": done.where,
        "grid": grid,
        "opened": opened(done.result, grid),
        "chart": _chart(done),
        "accounts": list(_accounts(done)),
        "notes": _notes(done),
    }


def _chart(done: Done) -> Markup | None:
    """Return the block's chart as SVG; its texts are escaped by Matplotlib."""
    figure = done.draw()
    return None if figure is None else Markup(svg_of(figure))


def _grid(done: Done) -> Grid:
    result = done.result
    if isinstance(result, Tallies):
        return tallies_grid(result)
    if isinstance(result, Breakdown):
        return breakdown_grid(result)
    if isinstance(result, LineSet):
        return lines_grid(result)
    return bridge_grid(result) if isinstance(result, Bridge) else rows_grid(result)


def _accounts(done: Done) -> Iterator[tuple[str, str]]:
    result = done.result
    if isinstance(result, Tallies):
        yield from accounts(result)
    elif isinstance(result, Breakdown):
        yield from accounts(result.total)


def _notes(done: Done) -> list[str]:
    result = done.result
    if isinstance(result, Tallies):
        return remarks(result)
    if isinstance(result, Breakdown):
        return breakdown_remarks(result)
    if isinstance(result, LineSet):
        return lines_remarks(result)
    if isinstance(result, Bridge):
        return bridge_remarks(result)
    return [result.counted, *(each.text for each in result.notices)]


def show_markdown(results: Results) -> str:
    """Return the report as Markdown: a heading a block, and what it was made from."""
    pieces = [f"# {results.title}\n"]
    for number, done in enumerate(results.blocks, 1):
        shown = getattr(markdown, f"show_{NOUNS[done.kind]}")(done.result)
        where = f"\nRows: `{done.where}`\n" if done.where else ""
        pieces.append(
            f"\n## {done.title or f'{done.kind.capitalize()} {number}'}\n{where}\n{shown}"
        )
    made = "".join(f"- {name}: {text}\n" for name, text in results.made_from())
    return "".join([*pieces, f"\n## Made from\n\n{made}"])
