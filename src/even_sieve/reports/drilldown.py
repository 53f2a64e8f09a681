"""What each figure on a page opens to: its account, and the numbers of its rows."""

from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import replace
from typing import TypeAlias

from even_sieve.core.criteria import describe
from even_sieve.core.table.origins import listed_rows
from even_sieve.core.tally import Added, Bridge, Defence, LineSet, Tally
from even_sieve.documents.document import Grid, ReportDocument, Section
from even_sieve.documents.shown import show_figure
from even_sieve.documents.values import spans
from even_sieve.reports.results import BlockResult
from even_sieve.sinks.charts import svg_of

#: The texts to which each cell of a grid opens, row by row; None where there is nothing to open.
Opened: TypeAlias = list[list[list[str] | None]]

#: With more rows than this to go through, the figures of a block do not list theirs.
_MOST_ROWS = 50_000_000


def with_drilldown(
    report: ReportDocument, blocks: Sequence[BlockResult], defence: Defence | None
) -> ReportDocument:
    """Return a report whose cells open, and whose charts are drawn."""
    opened = [_opening(*pair, defence) for pair in zip(report.sections, blocks, strict=False)]
    return replace(report, sections=(*opened, *report.sections[len(opened) :]))


def _opening(section: Section, block: BlockResult, defence: Defence | None) -> Section:
    grid = next(part for part in section.document.parts() if isinstance(part, Grid))
    figure = block.draw()
    chart = "" if figure is None else svg_of(figure)
    return replace(section, drilldown=drilldown(block.result, grid, defence), chart=chart)


def drilldown(result: object, grid: Grid, defence: Defence | None) -> Opened:
    """Return what every cell of an answer's grid opens to."""
    if isinstance(result, Bridge):
        return _of_bridge(result, len(grid.header), defence)
    figures = [tally for row in grid.sources for tally in row if tally is not None]
    if sum(tally.account.rows for tally in figures) > _MOST_ROWS:
        defence = None
    found = [[_of_figure(each, defence) for each in row] for row in grid.sources]
    return _with_sums(result, found) if isinstance(result, LineSet) else found


def _of_figure(tally: Tally | None, defence: Defence | None) -> list[str] | None:
    """Return the account of a figure, what its line asks for, and the rows that it has."""
    if tally is None:
        return None
    reason = [tally.reason] if tally.reason else []
    if tally.parts:
        return [*(f"{part.name} = {show_figure(part)}" for part in tally.parts), *reason]
    lines = [tally.account.words()]
    lines += [f"line: {describe(group.criteria)}" for group in tally.place]
    if defence is not None:
        lines += _row_spans(tally, defence)
    if tally.found_at:
        lines.append(f"found at: {listed_rows(tally.found_at[:20])}")
    return [*lines, *reason]


def _row_spans(tally: Tally, defence: Defence) -> Iterator[str]:
    """Yield the rows that are used, and those that matched but are not."""
    for bucket in ("used", "blank", "error", "not_a_number"):
        if getattr(tally.account, bucket):
            yield f"{bucket.replace('_', ' ')}: {spans(defence.rows(tally, bucket))}"


def _with_sums(result: LineSet, found: Opened) -> Opened:
    """Return what lines open to, those that add others with these."""
    for entry, cells in zip(result, found, strict=True):
        if isinstance(entry, Added):
            words = "the lines " + ", ".join(f"'{part}'" for part in entry.parts)
            cells[1:] = [[words] for _ in cells[1:]]
    return found


def _of_bridge(result: Bridge, width: int, defence: Defence | None) -> Opened:
    """Return what the steps open to: the rows that each takes away, and the figure's account."""
    found: Opened = [[None] * width for _ in result]
    if defence is None or result.tally.account.rows > _MOST_ROWS:
        return found
    steps = Counter(step.reason for step in result)
    for step, cells in zip(result, found, strict=True):
        if step.rows and steps[step.reason] == 1 and step.reason not in ("start", "figure"):
            cells[1] = [spans(defence.rows(result.tally, step.reason))]
    found[-1][-1] = _of_figure(result.tally, defence)
    return found
