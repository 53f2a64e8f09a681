"""Trying criteria on a terminal: what the screen has to do with files, and what is left behind."""

import csv
import os
import shlex
import sys
import tempfile
from collections.abc import Callable, Mapping, Sequence
from pathlib import Path
from typing import Any

import click

from even_sieve.cli.options import TableOptions
from even_sieve.cli.show import show
from even_sieve.cli.states import States
from even_sieve.cli.words import is_given, option_words
from even_sieve.core.errors import CallError
from even_sieve.core.query import Query
from even_sieve.core.session import Session
from even_sieve.core.table import Table
from even_sieve.sources.places import is_address, places_of

_NO_TERMINAL = "trying criteria needs a terminal\nElsewhere write: even-sieve tally"
#: Options that the session says for itself, or that say how an answer is printed.
_OWN = ("where", "criteria_files", "form", "light")


class Trial:
    """One call of `try`."""

    def __init__(self, context: click.Context, file: str, options: TableOptions) -> None:
        self._context, self._file, self._options = context, file, options

    def run(
        self, measures: Sequence[str], read: Callable[[], tuple[Query, Table]], *, light: bool
    ) -> int:
        """Let a person try criteria, then print the last figures and the command for them.

        Returns the exit status. Raises `CallError` where there is no terminal.
        """
        _refuse_no_terminal()
        if "-" in (self._file, *self._options.more_files):
            raise CallError("keys come from standard input, so a table cannot\nName a file")
        from even_sieve.screen.app import TrialApp
        from even_sieve.screen.surroundings import Surroundings

        query, table = read()
        session = Session.of_query(query, table, measures)
        session.ask(*session.measures)
        places = places_of([self._file, *self._options.more_files])
        states = States([Path(place.path) for place in places.every])

        def read_again() -> Table:
            states.renew()
            return read()[1]

        title = f"{table.source}: {table.length:,} rows"
        around = Surroundings(title, states.changed, read_again, _save, self._add)
        app = TrialApp(session, around, night=not light)
        app.run()
        if app.failure is not None:
            return _failed(session, app.failure)
        if session.figures is not None:
            show(session.figures, "table")
        if session.outcome.faults:
            click.echo("These are the figures of the last criteria that could be read.")
        click.echo(f"Again: {shlex.join(self._command(session))}")
        return 0

    def _command(self, session: Session) -> list[str]:
        words = self._words_of_options()
        figures = session.figures
        if figures is not None and figures.as_of is not None and "--as-of" not in words:
            words += ["--as-of", figures.as_of]
        return session.command_words(self._file, words)

    def _words_of_options(self) -> list[str]:
        return option_words(self._context, _OWN)

    def _add(self, session: Session, path: Path) -> str:
        from even_sieve.reports.adding import add_block

        files = [_from(path, each) for each in (self._file, *self._options.more_files)]
        named: dict[str, Any] = {"file": files[0]} if len(files) == 1 else {"files": files}
        given = {
            name: list(value) if isinstance(value, tuple) else value
            for name, value in self._options.source.items()
            if is_given(self._context, name)
        }
        return add_block(path, session.block("Tried out"), {"source": named | given} | self._said())

    def _said(self) -> dict[str, Any]:
        """Return what else a new report says: what the call says of rows and columns.

        Raises `CallError` for an option that a report file says in another way.
        """
        options = self._options
        given = self._words_of_options()
        for flag in ("--look-up", "--hidden-rows", "--subtotal-rows", "--set", "--parameters"):
            if flag in given:
                hint = "Write the report first, then add to it"
                raise CallError(f"{flag} cannot be put into a new report from here\n{hint}")
        marks: Mapping[str, Any] = {
            "hidden": list(options.hidden),
            "subtotal": list(options.subtotal),
            "by": options.marks,
        }
        derived = [each.partition("=") for each in options.derived]
        said = {
            "keep": [word for each in options.keep for word in each.replace(",", " ").split()],
            "as_of": options.as_of,
            "fiscal_start": options.fiscal_start if options.fiscal_start != 1 else None,
            "strict": options.strict,
            "marks": {key: value for key, value in marks.items() if value},
            "derived": {name.strip(): text.strip() for name, _, text in derived},
        }
        return {key: value for key, value in said.items() if value}


def _refuse_no_terminal() -> None:
    dumb = os.environ.get("TERM", "") in ("", "dumb")
    if dumb or not (sys.stdin.isatty() and sys.stdout.isatty()):
        raise CallError(_NO_TERMINAL)


def _save(session: Session, path: Path) -> str:
    """Save the criteria as a range; a file that is there already is left as it is."""
    if path.suffix.lower() != ".csv":
        raise CallError(f"{path}: criteria are saved as CSV\nName a file that ends in .csv")
    rows = session.draft.range()
    if len(rows) == 1:
        raise CallError("no cell says anything yet")
    if path.exists():
        raise CallError(f"{path}: there is such a file already\nName another one")
    with path.open("x", encoding="utf-8", newline="") as out:
        csv.writer(out, lineterminator="\n").writerows(rows)
    return f"saved: {path}; use it as --criteria {path}"


def _from(report: Path, file: str) -> str:
    """Return the name of a file from the folder of a report."""
    if is_address(file) or Path(file).is_absolute():
        return file
    return Path(os.path.relpath(file, report.parent)).as_posix()


def _failed(session: Session, error: BaseException) -> int:
    """Save what was typed where nobody foresaw an error, and say where."""
    words = " ".join(f"{type(error).__name__}: {error}".split())[:300]
    click.echo(f"even-sieve: this is a fault of Even Sieve, please report it: {words}", err=True)
    rows = session.draft.range()
    if len(rows) > 1:
        kept, name = tempfile.mkstemp(prefix="criteria-", suffix=".csv")
        with open(kept, "w", encoding="utf-8", newline="") as out:
            csv.writer(out, lineterminator="\n").writerows(rows)
        click.echo(f"The criteria that were typed are kept in {name}", err=True)
    return 3
