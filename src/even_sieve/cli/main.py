"""The command line: reads the words of a call, asks the library, prints the answer.

Exit status: 0 done; 1 the data could not give the answer; 2 the words of the call are off;
3 a fault of Even Sieve; 130 interrupted (see `cli/entry.py`).
"""

import sys
from datetime import datetime
from functools import partial
from pathlib import Path

import click

from even_sieve import __version__
from even_sieve.cli.calls import Group, asked, clear_errors
from even_sieve.cli.check import check
from even_sieve.cli.completion import completion
from even_sieve.cli.keeping import schema, verify
from even_sieve.cli.options import TableOptions, prune_option, table_options
from even_sieve.cli.show import say_how_it_ran, show
from even_sieve.core.answer import Answer
from even_sieve.core.errors import CallError

#: Beside a file, of a breakdown of more lines the first ones are shown.
_MANY_LINES = 500


@click.group(cls=Group, context_settings={"help_option_names": ["-h", "--help"]})
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
    with clear_errors():
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
@prune_option
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
    prune: bool,
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
    with clear_errors():
        from even_sieve.cli.verify import Receipts
        from even_sieve.core import tally as core
        from even_sieve.core.answer import MOST_LINES

        if explain and options.form == "csv":
            raise CallError("--explain has no place in CSV\nUse --format table, json or markdown.")
        if not by and (across or sort or top):
            raise CallError("--across, --sort and --top go with --by\nWrite: --by COLUMN")
        receipts = Receipts(file, options) if options.form == "json" else None
        layout = core.Layout(by, across, sort, top) if by else None
        work_out = partial(core.tally_or_break_down, measures=measures, layout=layout)
        words = (*measures, *by, across or "", sort or "")
        query, table = asked(
            file, options, to, asks=words, measures=measures, ask=work_out, prune=prune
        )
        beside: dict[str, Answer] = {"explain": core.make_funnel(query, table)} if explain else {}
        answer = work_out(query, table)
        if explain:
            beside["explanations"] = core.explain(query, table, answer)
        if recheck:
            beside["rechecks"] = core.recheck(query, table, answer)
        receipt = None if receipts is None else receipts.of(query, table)
        shown = answer
        if to is not None and options.form == "table" and isinstance(answer, core.Breakdown):
            # All lines are in the file; with an axis across, columns are of all of them.
            many = len(answer.lines) > _MANY_LINES and not (across or top)
            shown = answer.head(MOST_LINES) if many else answer
        show(shown, options.form, beside, receipt=receipt)
        if explain:
            say_how_it_ran(table, options.source.get("cluster"))
        _write(answer, to)
        failed = core.has_error(answer)
    sys.exit(1 if failed else 0)


@main.command("try")
@click.argument("file")
@click.argument("measures", nargs=-1, metavar="MEASURE…")
@click.option("--light", is_flag=True, help="Dark on light; Ctrl+P changes it.")
@table_options
@click.pass_context
def try_criteria(
    context: click.Context,
    options: TableOptions,
    file: str,
    measures: tuple[str, ...],
    light: bool,
) -> None:
    """Try criteria on FILE: type, clear, and watch the figures move.

    Without a MEASURE: rows, and the sum and the average of the first column of numbers. On
    leaving, the figures are printed with the command that gives them again:

    \b
        even-sieve try calls.csv "sum of dues" "average of dues" --where "zone = Outer"
    """
    with clear_errors():
        from even_sieve.cli.trial import Trial

        status = Trial(context, file, options).run(
            measures, lambda: asked(file, options), light=light
        )
    sys.exit(status)


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
@click.option("--to", metavar="FILE", help="Write all rows that match to a file; show the first.")
@click.option("--leave-formulas", is_flag=True, help="Leave texts that begin as formulas do.")
@prune_option
@table_options
def rows(
    file: str,
    every_row: bool,
    columns: str | None,
    sort: tuple[str, ...],
    limit: int | None,
    to: str | None,
    leave_formulas: bool,
    prune: bool,
    options: TableOptions,
) -> None:  # fmt: skip
    """Show the rows of FILE that match, each with its number in the source."""
    with clear_errors():
        from even_sieve.core.answer import MOST_LINES
        from even_sieve.core.cells.quoting import split_unquoted
        from even_sieve.core.tally import Choice, list_rows
        from even_sieve.public.table import Table

        names = tuple(each.strip() for each in split_unquoted(columns or "", ",") if each.strip())
        if prune and every_row:
            raise CallError("--all and --prune: rows that do not match are not all read")
        ask = partial(list_rows, choice=Choice(names, sort))
        query, table = asked(file, options, to, ask=ask, prune=prune)
        if to is not None and limit is None and options.form == "table":
            limit = MOST_LINES  # all of them are in the file
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
    with clear_errors():
        from even_sieve.core.tally import make_bridge

        work_out = partial(make_bridge, measure=measure)
        made = asked(
            file, options, to, chart=chart, asks=[measure], measures=[measure], ask=work_out
        )
        result = work_out(*made)
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
@click.option(
    "--as-of",
    type=click.DateTime(["%Y-%m-%d"]),
    metavar="DATE",
    help="The date for windows such as last 30 days, in the place of the report's own.",
)
@click.option(
    "--against",
    "earlier",
    metavar="FILE",
    help="The JSON of an earlier run: show what moved since, and what has changed.",
)
@click.option("--strict", is_flag=True, help="Give nothing where any notice casts doubt.")
@click.option(
    "--watch", is_flag=True, help="Run it again when a file changes; show which figures moved."
)
def run(
    report: str,
    settings: tuple[str, ...],
    folder: str | None,
    check_only: bool,
    as_of: datetime | None,
    earlier: str | None,
    strict: bool,
    watch: bool,
) -> None:
    """Run a REPORT file (TOML): show its blocks, and write the outputs that it names.

    \b
        even-sieve run harbour.toml --set quarter=2031-Q2 --to reports
    """
    with clear_errors():
        from even_sieve.cli.report import run_report, watch_report

        where = None if folder is None else Path(folder)
        day = None if as_of is None else as_of.date()
        how = {"check_only": check_only, "strict": strict}
        run_report(report, settings, where, **how, as_of=day, earlier=earlier)
        if watch:
            watch_report(report, settings, where, as_of=day)


for each in (completion, schema, verify, check):
    main.add_command(each)


def _write(result: Answer, to: str | None) -> None:
    if to is not None:
        result.write(to)
