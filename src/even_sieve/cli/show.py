"""What is printed of a result, and what can stand beside it."""

import sys
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

import click

if TYPE_CHECKING:
    from even_sieve.core import tally as core
    from even_sieve.public.results import Funnel


@dataclass(frozen=True)
class Beside:
    """What is shown under a result: how the rows were found, what backs figures, rechecks."""

    funnel: "Funnel | None" = None
    explained: "core.Tallies | None" = None
    rechecks: "Sequence[core.Recheck]" = ()

    def parts(self) -> list[tuple[str, Any]]:
        """Return the parts that are there, with the noun of each."""
        every = (
            ("funnel", self.funnel),
            ("explanations", self.explained),
            ("rechecks", self.rechecks or None),
        )
        return [(noun, part) for noun, part in every if part is not None]


def every_line(lines: "core.Breakdown") -> "list[core.Line]":
    """Return the lines of a breakdown, its rest, and its subtotals."""
    return [*lines.with_rest, *lines.subtotals]


def rechecks(tallies: "Iterable[core.Tally]", wanted: bool) -> "list[core.Recheck]":
    """Return every figure worked out again, once; but an `only` that a total has no value for."""
    if not wanted:
        return []
    every = {id(each): each for tally in tallies for each in _of_rows(tally)}
    return [
        each.recheck()
        for each in every.values()
        if each.request.kind != "only" or each.value is not None
    ]


def _of_rows(tally: "core.Tally") -> "Iterator[core.Tally]":
    """Yield the figure, or the one of a line's rows that it goes on from: a running total."""
    if len(tally.parts) == 1:
        yield from _of_rows(tally.parts[0])
    else:
        yield tally


def show(result: Any, what: str, form: str, beside: Beside | None = None) -> None:
    """Print a result: on a terminal with its width and colours, else as plain text."""
    from even_sieve.views.formats import view

    if form == "table" and sys.stdout.isatty():
        from rich.console import Console

        from even_sieve.views import terminal

        console = Console()
        width = (console.width,) if what in ("rows", "breakdown") else ()
        console.print(getattr(terminal, f"draw_{what}")(result, *width))
        for noun, part in beside.parts() if beside else ():
            console.print(getattr(terminal, f"draw_{noun}")(part))
        return
    shown = view(form, f"show_{what}")(result)
    for noun, part in beside.parts() if beside else ():
        if form == "csv":
            click.echo("".join(f"recheck: {each}\n" for each in part), nl=False, err=True)
        else:
            shown = view(form, f"with_{noun}")(shown, part)
    click.echo(shown, nl=False)
