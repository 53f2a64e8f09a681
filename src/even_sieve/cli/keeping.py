"""Commands for what is kept: the schema of report files, and receipts."""

import sys

import click

from even_sieve.cli.calls import Command, clear_errors


@click.command(cls=Command)
def schema() -> None:
    """Print the JSON Schema of the report file, with which editors complete and check it."""
    from even_sieve.renderers.formats.json import dump
    from even_sieve.reports.model import schema as of_report

    click.echo(dump(of_report()), nl=False)


@click.command(cls=Command)
@click.argument("receipt")
@click.option("--in", "folder", metavar="FOLDER", help="Where the files are that it was made from.")
def verify(receipt: str, folder: str | None) -> None:
    """Work out again what a RECEIPT says: the JSON of a tally or of a report.

    It says that the figures are the same, or names each that differs, and what has changed: the
    files, their rows and marks, the criteria, the version. Exit status 1 where a figure differs:

    \b
        even-sieve tally calls.csv "sum of dues" --format json > dues.json
        even-sieve verify dues.json
    """
    with clear_errors():
        from even_sieve.cli.verify import print_verified
        from even_sieve.cli.verify import verify as work_out

        found, _ = work_out(receipt, folder)
        print_verified(found)
    sys.exit(0 if found.holds else 1)
