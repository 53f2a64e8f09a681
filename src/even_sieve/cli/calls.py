"""What every command has in common: its words read, its table asked, its errors shown."""

import sys
from collections import Counter
from collections.abc import Callable, Iterable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import replace
from typing import TYPE_CHECKING

import click

from even_sieve.cli import progress
from even_sieve.cli.look_ups import said_of_first
from even_sieve.cli.options import TableOptions
from even_sieve.core.errors import CallError, SieveError
from even_sieve.documents.looks import shown_as
from even_sieve.documents.values import visible

if TYPE_CHECKING:
    from even_sieve.core.notices import Notice
    from even_sieve.core.query import Query
    from even_sieve.core.table import Table


class Command(click.Command):
    """A command that refuses an option of one value that is given twice."""

    def parse_args(self, ctx: click.Context, args: list[str]) -> list[str]:
        """Return the words left over. Raises `click.UsageError`."""
        _, _, order = self.make_parser(ctx).parse_args(list(args))
        once = [each for each in order if isinstance(each, click.Option) and not each.multiple]
        for option, count in Counter(each for each in once if not each.is_flag).items():
            if count > 1:
                raise click.UsageError(f"{option.opts[0]} is given {count} times: say it once", ctx)
        return super().parse_args(ctx, args)


class Group(click.Group):
    """Commands listed in the order of the work, and errors of ours shown without a traceback."""

    command_class = Command

    def list_commands(self, ctx: click.Context) -> list[str]:
        """Return the names of the commands, the first to try first."""
        return list(self.commands)


@contextmanager
def clear_errors() -> Iterator[None]:
    """Turn errors raised on purpose into a message and an exit status."""
    try:
        with progress.shown():
            yield
    except SieveError as error:
        click.echo(f"even-sieve: {visible(str(error))}", err=True)
        sys.exit(error.exit_status)


def asked(
    file: str,
    options: TableOptions,
    to: str | None = None,
    *,
    chart: str | None = None,
    asks: Iterable[str] | None = None,
    measures: Sequence[str] = (),
    ask: "Callable[[Query, Table], object]" = lambda query, table: None,
    prune: bool = False,
) -> "tuple[Query, Table]":
    """Return the query and the table of a file, made ready for it.

    `asks` are the words of the question besides the options, if all of them are known; what is
    wrong with these, with `measures`, or with what `ask` does with both is told before a long
    file is read, as is what is wrong with the names of files to be written, of a table and a chart.
    With `prune` groups of rows that cannot match are left unread.
    Raises `CallError` for an output that would be written over what is read, or cannot be written.
    """
    from even_sieve.core.table import Table
    from even_sieve.core.table.joined import blanks
    from even_sieve.core.table.table import key_of
    from even_sieve.core.tally import rehearse
    from even_sieve.sinks.files import refuse_inputs, refuse_unwritable
    from even_sieve.sources.places import places_of
    from even_sieve.sources.several import read_places
    from even_sieve.sources.source_options import SourceOptions

    presentation = options.presentation()
    if presentation is not None:
        click.get_current_context().with_resource(shown_as(presentation))
    places = places_of([file, *options.more_files])
    inputs = [each.path for each in places.every]
    refuse_inputs([to, chart], [*inputs, *options.criteria_files, *options.parameter_files])
    refuse_unwritable(to, chart)
    known = asks is not None and not options.criteria_files
    words = " ".join((*(asks or ()), *options.words())) if known else None
    told = progress.reading(inputs)
    query = options.query()
    if prune and not query.where:
        raise CallError("--prune goes with criteria\nWrite: --where CRITERIA")

    def named(names: Sequence[str], notices: "Sequence[Notice]") -> None:
        every = {key_of(name): name for name in names}
        if source.origin is not None:  # a name that is taken is told by who adds the column
            every.setdefault(key_of(source.origin), source.origin)
        columns = tuple(blanks(name, 0) for name in every.values())
        rehearse(query, Table(columns, 0, own_notices=tuple(notices)), measures, ask)

    said = said_of_first(options.source, inputs, options.look_ups, query.look_ups)
    source = SourceOptions.of(**said, progress=told, asks=words)
    source = replace(source, named=named, prune=query if prune else None)
    table = read_places(places, source)
    return query.of_made_table(), query.made_table(table)
