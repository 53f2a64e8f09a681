"""What is printed of an answer, and what stands beside it."""

import sys
from collections.abc import Mapping
from typing import TYPE_CHECKING, Any

import click

from even_sieve.cli import progress
from even_sieve.core.notices import counted

if TYPE_CHECKING:
    from even_sieve.core.answer import Answer
    from even_sieve.core.table import Table


def show(
    answer: "Answer",
    form: str,
    beside: "Mapping[str, Answer] | None" = None,
    *,
    leave_formulas: bool = False,
    receipt: "Mapping[str, Any] | None" = None,
) -> None:
    """Print an answer: on a terminal with its width and colours, else as plain text.

    `receipt` is what the JSON of it says of how it came about.
    `beside` are answers that stand under it, by what a program reads them as. In CSV, which
    has no place for them, rechecks go to standard error; there texts that begin as formulas do
    are guarded unless they are left.
    """
    from even_sieve.core.tally import Rechecks
    from even_sieve.documents import document_of
    from even_sieve.documents.values import visible
    from even_sieve.receipts import with_receipt
    from even_sieve.renderers.formats.csv import CsvRenderer
    from even_sieve.renderers.formats.json import dump
    from even_sieve.renderers.renderer import renderer

    under = dict(beside or {})
    if form == "csv":
        for found in [each for each in under.values() if isinstance(each, Rechecks)]:
            click.echo("".join(f"recheck: {each}\n" for each in found), nl=False, err=True)
        under = {}
    documents = {name: document_of(each) for name, each in under.items()}
    if form == "table" and sys.stdout.isatty():
        from rich.console import Console

        from even_sieve.renderers.formats.table import draw

        progress.clear()
        console = Console()
        for document in (document_of(answer), *documents.values()):
            console.print(draw(document, console.width))
        _warn_of_unused()
        return
    rendered = CsvRenderer(leave_formulas) if form == "csv" else renderer(form)
    if receipt is not None and form == "json":
        plain = document_of(answer).plain()
        plain |= {name: each.plain() for name, each in documents.items()}
        shown = dump(with_receipt(plain, receipt))
    else:
        shown = rendered.answer(document_of(answer), documents)
    if sys.stdout.isatty():  # nothing that a cell holds is obeyed
        shown = "".join(f"{visible(line)}\n" for line in shown.split("\n"))[:-1]
    progress.clear()
    _warn_of_unused(form)
    click.echo(shown, nl=False, color=True)  # and nothing is taken from it elsewhere


def say_how_it_ran(table: "Table", cluster: str | None) -> None:
    """Say which part of a table was read, and where it stands, if not all of it in memory.

    On standard error: the answer is the same however it ran.
    """
    from even_sieve.sources.shelf import on_disk

    made, size = sum(column.is_made for column in table.columns), on_disk()
    if made == len(table.columns) and not size and cluster is None:
        return
    where = f"{size / (1 << 20):,.1f} MiB of them on disk" if size else "in memory"
    by = "" if cluster is None else f", by the workers of the cluster ({cluster})"
    text = f"how it ran: {made} of {counted(len(table.columns), 'column')} read{by}, {where}"
    click.echo(text, err=True)


def _warn_of_unused(form: str = "table") -> None:
    """Say for which names a look was given that nothing had."""
    from even_sieve.documents.looks import current

    for name in current().unused() if form in ("table", "markdown") else ():
        text = f"note: no figure and no column shown here is '{name}': its look is not used"
        click.echo(text, err=True)
