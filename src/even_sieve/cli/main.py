"""The command line: reads the words of a call, asks the library, prints the answer.

Exit status: 0 done; 1 the data could not give the answer; 2 the words of the call are off;
3 a fault of Even Sieve; 130 interrupted (see `cli/entry.py`).
"""

import sys
from collections import Counter
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING

import click

from even_sieve import __version__
from even_sieve.cli import progress
from even_sieve.cli.options import TableOptions, table_options
from even_sieve.cli.show import show
from even_sieve.core.answer import Answer
from even_sieve.core.errors import CallError, SieveError
from even_sieve.documents.values import visible

if TYPE_CHECKING:
    from even_sieve.core.query import Query
    from even_sieve.core.table import Table


class _Command(click.Command):
    """A command that refuses an option of one value that is given twice."""

    def parse_args(self, ctx: click.Context, args: list[str]) -> list[str]:
        """Return the words left over. Raises `click.UsageError`."""
        _, _, order = self.make_parser(ctx).parse_args(list(args))
        once = [each for each in order if isinstance(each, click.Option) and not each.multiple]
        for option, count in Counter(each for each in once if not each.is_flag).items():
            if count > 1:
                raise click.UsageError(f"{option.opts[0]} is given {count} times: say it once", ctx)
        return super().parse_args(ctx, args)


class _Group(click.Group):
    """Commands listed in the order of the work, and errors of ours shown without a traceback."""

    command_class = _Command

    def list_commands(self, ctx: click.Context) -> list[str]:
        """Return the names of the commands, the first to try first."""
        return list(self.commands)


@contextmanager
def _clear_errors() -> Iterator[None]:
    """Turn errors raised on purpose into a message and an exit status."""
    try:
        with progress.shown():
            yield
    except SieveError as error:
        click.echo(f"even-sieve: {visible(str(error))}", err=True)
        sys.exit(error.exit_status)


@click.group(cls=_Group, context_settings={"help_option_names": ["-h", "--help"]})
@click.version_option(__version__, prog_name="even-sieve")
def main() -> None:
    """Count, sum and average the rows that match, with an account of every row."""
    for stream in (sys.stdout, sys.stderr):
        if hasattr(stream, "reconfigure"):
            stream.reconfigure(encoding="utf-8", errors="backslashreplace")


@main.command()
@click.option("--to", "folder", metavar="FOLDER", help="Write its files, and run its report there.")
def demo(folder: str | None) -> None:
    """Walk through a year at a small made-up harbour, or write it down as a report."""
    with _clear_errors():
        from even_sieve.cli.demo import run_demo, write_demo

        if folder is None:
            run_demo()
        else:
            write_demo(Path(folder))


@main.command()
@click.argument("file")
@click.argument("measures", nargs=-1, metavar="MEASURE…")
@click.option(
    "--by",
    multiple=True,
    metavar="AXIS",
    help='A line for each group, and a total: a column, "arrived by month", "dues in bands 0, '
    '100", "vessel as Heron | B*". Repeated: groups within groups, with subtotals.',
)
@click.option("--across", metavar="AXIS", help="One more axis, its groups side by side.")
@click.option("--sort", metavar="MEASURE", help="Lines by a measure or by label; asc or desc.")
@click.option("--top", type=click.IntRange(1), metavar="N", help="So many lines, others summed up.")
@click.option(
    "--explain", is_flag=True, help="Show the criteria in words, and what each condition leaves."
)
@click.option(
    "--recheck", is_flag=True, help="Work every figure out again, row by row, by separate code."
)
@click.option("--to", metavar="FILE", help="Write the answer to a file as well: a table of it.")
@table_options
def tally(
    file: str,
    measures: tuple[str, ...],
    by: tuple[str, ...],
    across: str | None,
    sort: str | None,
    top: int | None,
    explain: bool,
    recheck: bool,
    to: str | None,
    options: TableOptions,
) -> None:
    """Work out measures of the rows of FILE that match.

    A MEASURE is rows, or one of these followed by "of COLUMN": numbers, filled, blanks,
    errors, distinct, distinct or blank, sum, product, average, weighted average (… by
    COLUMN), min, max, largest K, smallest K, range, median, mode, percentile P, quartile
    Q, variance, deviation, only, first, last, share; or all, for the usual set. It can
    have its own "where CRITERIA" and "keep WHAT". Of other measures: ratio of … to …,
    difference of … and …, and along lines change of, relative change of, running total of:

    \b
        even-sieve tally calls.csv rows "sum of dues" --where "zone = Outer"
        even-sieve tally calls.csv "late = sum of dues where status = late" --by zone
        even-sieve tally calls.csv "all of dues" --explain --recheck
    """
    with _clear_errors():
        from even_sieve.core import tally as core

        if explain and options.form == "csv":
            raise CallError("--explain has no place in CSV\nUse --format table, json or markdown.")
        if not by and (across or sort or top):
            raise CallError("--across, --sort and --top go with --by\nWrite: --by zone")
        query, table = _asked(file, options, to, asks=(*measures, *by, across or "", sort or ""))
        layout = core.Layout(by, across, sort, top) if by else None
        beside: dict[str, Answer] = {"explain": core.make_funnel(query, table)} if explain else {}
        answer = core.tally_or_break_down(query, table, measures, layout)
        if explain:
            beside["explanations"] = core.explain(query, table, answer)
        if recheck:
            beside["rechecks"] = core.recheck(query, table, answer)
        show(answer, options.form, beside)
        _write(answer, to)
        failed = core.has_error(core.figures_of(answer))
    sys.exit(1 if failed else 0)


@main.command()
@click.argument("file")
@click.option("--all", "every_row", is_flag=True, help="Show every row, with why it is out.")
@click.option("--columns", metavar="NAME,…", help="Show these columns alone, in this order.")
@click.option(
    "--sort",
    multiple=True,
    metavar="COLUMN",
    help='Sort by a column, "COLUMN desc" for the other way. Repeated: then by the next.',
)
@click.option("--limit", type=click.IntRange(1), metavar="N", help="Show the first N of them.")
@click.option("--to", metavar="FILE", help="Write all rows for which the criteria hold to a file.")
@click.option("--leave-formulas", is_flag=True, help="Leave texts that begin as formulas do.")
@table_options
def rows(
    file: str,
    every_row: bool,
    columns: str | None,
    sort: tuple[str, ...],
    limit: int | None,
    to: str | None,
    leave_formulas: bool,
    options: TableOptions,
) -> None:  # fmt: skip
    """Show the rows of FILE that match, each with its number in the source."""
    with _clear_errors():
        from even_sieve.core.cells.quoting import split_unquoted
        from even_sieve.core.tally import Choice, list_rows
        from even_sieve.public.table import Table

        names = tuple(each.strip() for each in split_unquoted(columns or "", ",") if each.strip())
        query, table = _asked(file, options, to)
        found = list_rows(query, table, Choice(names, sort, limit), every_row=every_row)
        show(found, options.form, leave_formulas=leave_formulas)
        if to is not None:  # marked rows are written with their marks
            Table(table).sifted(query).write(to, leave_formulas=leave_formulas)


@main.command()
@click.argument("file")
@click.argument("measure")
@click.option("--chart", metavar="FILE", help="Draw the bridge as well: a .png or .svg file.")
@click.option("--to", metavar="FILE", help="Write the steps to a file as well: a table of them.")
@table_options
def bridge(
    file: str, measure: str, chart: str | None, to: str | None, options: TableOptions
) -> None:
    """Walk from the bare column of FILE to the figure, one step a reason.

    MEASURE is a sum or a count; each step stands in rows and in amount:

    \b
        even-sieve bridge calls.csv "sum of dues" --where "zone = Outer" --chart dues.png
    """
    with _clear_errors():
        from even_sieve.core.tally import make_bridge

        result = make_bridge(*_asked(file, options, to, chart, asks=[measure]), measure)
        _write(result, to)
        if chart is not None:
            result.write_chart(chart)
        show(result, options.form)


@main.command()
@click.argument("report")
@click.option(
    "--set",
    "settings",
    multiple=True,
    metavar="NAME=VALUE",
    help="A parameter of the report. Repeated: one after the other.",
)
@click.option("--to", "folder", metavar="FOLDER", help="Where its outputs go. Default: beside it.")
@click.option("--check-only", is_flag=True, help="Run it and write nothing: is all it names there?")
@click.option("--strict", is_flag=True, help="Give nothing where any notice casts doubt.")
@click.option(
    "--watch", is_flag=True, help="Run it again when a file changes; show which figures moved."
)
def run(
    report: str,
    settings: tuple[str, ...],
    folder: str | None,
    check_only: bool,
    strict: bool,
    watch: bool,
) -> None:
    """Run a REPORT file (TOML): show its blocks, and write the outputs that it names.

    \b
        even-sieve run harbour.toml --set quarter=2031-Q2 --to reports
    """
    with _clear_errors():
        from even_sieve.cli.report import run_report, watch_report

        where = None if folder is None else Path(folder)
        run_report(report, settings, where, check_only=check_only, strict=strict)
        if watch:
            watch_report(report, settings, where)


@main.command()
@click.argument("file")
@table_options
def check(file: str, options: TableOptions) -> None:
    """Profile the columns of FILE, and say what to look at first."""
    with _clear_errors():
        from even_sieve.core.table import profile

        _, table = _asked(file, options)
        show(profile(table), options.form)


def _asked(
    file: str, options: TableOptions, *outputs: str | None, asks: Iterable[str] | None = None
) -> "tuple[Query, Table]":
    """Return the query and the table of a file, made ready for it.

    `asks` are the words of the question besides the options, if all of them are known.
    Raises `CallError` for an output that would be written over what is read.
    """
    from even_sieve.sinks.files import refuse_inputs
    from even_sieve.sources.places import places_of
    from even_sieve.sources.several import read_places
    from even_sieve.sources.source_options import SourceOptions

    places = places_of([file, *options.more_files])
    inputs = [each.path for each in places.every]
    refuse_inputs(outputs, [*inputs, *options.criteria_files, *options.parameter_files])
    known = asks is not None and not options.criteria_files
    words = " ".join((*(asks or ()), *options.words())) if known else None
    told = progress.reading(inputs)
    source = SourceOptions.of(**options.source, progress=told, asks=words)
    table = read_places(places, source)
    query = options.query()
    return query.of_made_table(), query.made_table(table)


def _write(result: Answer, to: str | None) -> None:
    if to is not None:
        result.write(to)
