"""Lines of a report as headed rows of texts."""

from even_sieve.core.tally import Added, Counted, Heading, LineSet
from even_sieve.core.tally.answers import Tally
from even_sieve.views.grid import Grid, show_amount, show_figure
from even_sieve.views.values import DASH


def lines_grid(result: LineSet) -> Grid:
    """Return a row a line; headings and lines of others stand out."""
    measures = [request.name for request in result.measures]
    decimals = _decimals(result)
    rows: list[tuple[str, ...]] = []
    sources: list[tuple[Tally | None, ...]] = []
    strong: list[int] = []
    for entry in result:
        nothing: tuple[Tally | None, ...] = (None,) * len(measures)
        if isinstance(entry, Counted):
            rows.append((entry.label, *map(show_figure, entry.tallies)))
            nothing = tuple(entry.tallies)
        else:
            strong.append(len(rows))
            rows.append((entry.label, *_shown(entry, len(measures), decimals)))
        sources.append((None, *nothing))
    numeric = (False, *(True for _ in measures))
    return Grid(("line", *measures), tuple(rows), numeric, 0, frozenset(strong), tuple(sources))


def _shown(entry: Heading | Added, count: int, decimals: list[int]) -> list[str]:
    if isinstance(entry, Heading):
        return [""] * count
    pairs = zip(entry.amounts, decimals, strict=True)
    return [DASH if amount is None else show_amount(amount, own) for amount, own in pairs]


def _decimals(result: LineSet) -> list[int]:
    """Return how many decimals each measure is shown with."""
    counted = next((each for each in result if isinstance(each, Counted)), None)
    if counted is None:
        return [0] * len(result.measures)
    return [tally.decimals for tally in counted.tallies]


def lines_remarks(result: LineSet) -> list[str]:
    """Return what is to be known of the lines, each once."""
    found = [each.text for each in result.notices]
    for entry in result:
        if isinstance(entry, Counted):
            found += [f"{entry.label}: {n.text}" for tally in entry.tallies for n in tally.notices]
            found += [f"{entry.label}: {tally.reason}" for tally in entry.tallies if tally.reason]
        elif isinstance(entry, Added):
            found += [f"{entry.label}: {reason}" for reason in entry.reasons if reason]
    return list(dict.fromkeys(found))
