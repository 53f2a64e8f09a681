"""A report as one page of HTML, and as Markdown.

The page is whole in itself: no script, no other file. It reads on a phone, on paper and
aloud; every figure opens to its account.
"""

from collections.abc import Callable, Iterator
from functools import cache
from typing import Any

from jinja2 import Environment, PackageLoader, Template
from markupsafe import Markup

from even_sieve.core.tally import Breakdown, Tallies
from even_sieve.reports.drilldown import drilldown
from even_sieve.reports.results import NOUNS, BlockResult, Results
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
from even_sieve.views.listing import Listing


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


def _block(number: int, done: BlockResult) -> dict[str, Any]:
    """Return what the page shows of a block."""
    lay_out, remark = _SHOWN[done.kind]
    grid = lay_out(done.result)
    return {
        "id": f"block-{number}",
        "title": done.heading(number),
        "where": done.where,
        "grid": grid,
        "opened": drilldown(done.result, grid),
        "chart": _chart(done),
        "accounts": list(_accounts(done)),
        "notes": remark(done.result),
    }


def _chart(done: BlockResult) -> Markup | None:
    """Return the block's chart as SVG; its texts are escaped by Matplotlib."""
    figure = done.draw()
    return None if figure is None else Markup(svg_of(figure))


def _accounts(done: BlockResult) -> Iterator[tuple[str, str]]:
    result = done.result
    if isinstance(result, Tallies):
        yield from accounts(result)
    elif isinstance(result, Breakdown):
        yield from accounts(result.total)


def _listing_remarks(result: Listing) -> list[str]:
    return [result.counted, *(each.text for each in result.notices)]


#: How the result of each kind of block is laid out, and what is remarked on it.
_SHOWN: dict[str, tuple[Callable[[Any], Grid], Callable[[Any], list[str]]]] = {
    "figures": (tallies_grid, remarks),
    "breakdown": (breakdown_grid, breakdown_remarks),
    "lines": (lines_grid, lines_remarks),
    "bridge": (bridge_grid, bridge_remarks),
    "rows": (rows_grid, _listing_remarks),
}


def show_markdown(results: Results) -> str:
    """Return the report as Markdown: a heading a block, and what it was made from."""
    pieces = [f"# {results.title}\n"]
    for number, done in enumerate(results.blocks, 1):
        shown = getattr(markdown, f"show_{NOUNS[done.kind]}")(done.result)
        where = f"\nRows: `{done.where}`\n" if done.where else ""
        pieces.append(f"\n## {done.heading(number)}\n{where}\n{shown}")
    made = "".join(f"- {name}: {text}\n" for name, text in results.made_from())
    return "".join([*pieces, f"\n## Made from\n\n{made}"])
