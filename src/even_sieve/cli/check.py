"""The command that looks a file through before anything is asked of it."""

import click

from even_sieve.cli.calls import Command, asked, clear_errors
from even_sieve.cli.options import TableOptions, table_options
from even_sieve.cli.show import show
from even_sieve.core.errors import CallError


@click.command(cls=Command)
@click.argument("file")
@table_options
def check(file: str, options: TableOptions) -> None:
    """Profile the columns of FILE, or of its rows that match, and say what to look at first."""
    with clear_errors():
        from even_sieve.public.table import Table

        if options.keep:
            raise CallError("check takes no --keep: it looks at rows whatever their marks")
        if options.strict:
            raise CallError("check takes no --strict: to tell what casts doubt is what it is for")
        query, table = asked(file, options)
        show(Table(table).sifted(query, told=True).profile(), options.form)


for each in check.params:
    if isinstance(each, click.Option) and each.name in ("keep", "strict"):
        each.hidden = True
