"""Which figures of a report moved from one run to the next, and by how much."""

from collections.abc import Iterator
from dataclasses import dataclass

from even_sieve.core.cells import Cell
from even_sieve.core.tally import (
    Added,
    Breakdown,
    Bridge,
    Counted,
    LineSet,
    Listing,
    Tallies,
    as_shown,
)
from even_sieve.documents.figures import show_key
from even_sieve.documents.values import plain_amount, show_value
from even_sieve.reports.results import BlockResult, Results


@dataclass(frozen=True)
class Change:
    """One figure before and after; None where it was not there, or had no value."""

    place: str
    before: Cell
    after: Cell

    def text(self) -> str:
        """Return the move as a line of text, with the difference of numbers."""
        shown = f"{self.place}: {show_value(self.before)} → {show_value(self.after)}"
        first, second = as_shown(self.before), as_shown(self.after)
        if first is None or second is None:
            return shown
        change = show_value(plain_amount(second - first))
        return f"{shown} ({'' if change.startswith('-') else '+'}{change})"


def changes(before: Results, after: Results) -> list[Change]:
    """Return the figures that differ, in the order of the blocks; those that went come last."""
    first, second = dict(_figures(before)), dict(_figures(after))
    places = [*second, *(place for place in first if place not in second)]
    pairs = [Change(place, first.get(place), second.get(place)) for place in places]
    return [each for each in pairs if each.before != each.after]


def _figures(results: Results) -> Iterator[tuple[str, Cell]]:
    for number, done in enumerate(results.blocks, 1):
        title = done.title or f"{done.kind} {number}"
        for place, value in _of_block(done):
            yield f"{title}, {place}", value


def _of_block(done: BlockResult) -> Iterator[tuple[str, Cell]]:
    result = done.result
    if isinstance(result, Tallies):
        yield from ((tally.name, tally.value) for tally in result)
    elif isinstance(result, Breakdown):
        for line in result.with_rest:
            key = ", ".join(map(show_key, line.key))
            yield from ((f"{key}, {tally.name}", tally.value) for tally in line.tallies)
        yield from ((f"total, {tally.name}", tally.value) for tally in result.total)
    elif isinstance(result, LineSet):
        for entry in result:
            if isinstance(entry, Counted):
                yield from ((f"{entry.label}, {t.name}", t.value) for t in entry.tallies)
            elif isinstance(entry, Added):
                for request, amount in zip(result.measures, entry.amounts, strict=True):
                    value = None if amount is None else plain_amount(amount)
                    yield f"{entry.label}, {request.name}", value
    elif isinstance(result, Bridge):
        yield from ((step.label, plain_amount(step.amount)) for step in result)
    elif isinstance(result, Listing):
        yield "rows", result.matching
