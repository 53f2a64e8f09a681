"""What is printed of an answer, and what stands beside it."""

import sys
from collections.abc import Mapping
from typing import TYPE_CHECKING, Any

import click

from even_sieve.cli import progress

if TYPE_CHECKING:
    from even_sieve.core.answer import Answer


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


def _warn_of_unused(form: str = "table") -> None:
    """Say for which names a look was given that nothing had."""
    from even_sieve.documents.looks import current

    for name in current().unused() if form in ("table", "markdown") else ():
        text = f"note: no figure and no column shown here is '{name}': its look is not used"
        click.echo(text, err=True)
