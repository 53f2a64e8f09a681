"""Receipts on the command line: made beside an answer, and worked out again."""

import io
from collections.abc import Mapping
from contextlib import chdir, redirect_stdout
from pathlib import Path
from typing import Any

import click
import simplejson

from even_sieve import __version__
from even_sieve.cli.look_ups import named_file
from even_sieve.cli.options import TableOptions
from even_sieve.cli.states import States
from even_sieve.cli.words import argument_words, option_words
from even_sieve.core.criteria import write_criteria
from even_sieve.core.errors import CallError, SourceError
from even_sieve.core.query import Query
from even_sieve.core.table import Mark, Table
from even_sieve.receipts import Verified, compare, read_files, read_receipt, words_of
from even_sieve.sources.places import is_address, places_of

#: What only says where an answer goes, and how it looks there.
_OF_OUTPUT = ("to", "form", "looks", "locale", "as_of")
_MOST_TOLD = 20


def names_read(file: str, options: TableOptions) -> list[str]:
    """Return the names of all files that a call reads."""
    names = [place.path for place in places_of([file, *options.more_files]).every]
    names += [*options.criteria_files, *options.parameter_files]
    return list(dict.fromkeys((*names, *map(named_file, options.look_ups))))


class Receipts:
    """The receipt of one call; made before anything is read."""

    def __init__(self, file: str, options: TableOptions) -> None:
        self._context = click.get_current_context()
        self._names = names_read(file, options)
        self._states = States(list(map(Path, self._names)))

    def of(self, query: Query, table: Table) -> dict[str, Any]:
        """Return what the receipt says. Raises `CallError` for a file that changed meanwhile."""
        context, read = self._context, read_files(self._names)
        if self._states.changed():
            raise CallError("a file that was read changed meanwhile\nAsk again")
        marks = table.count_marks(Mark.SUBTOTAL | Mark.HIDDEN | Mark.FILTERED)
        as_of = query.as_of.isoformat()
        arguments = argument_words(context)
        words = [*arguments, *option_words(context, _OF_OUTPUT), "--as-of", as_of]
        if any(each.startswith("-") and each != "-" for each in arguments):
            words = [*words[len(arguments) :], "--", *arguments]
        return {
            "made by": f"Even Sieve {__version__}",
            "command": "tally",
            "words": words,
            "as of": as_of,
            "criteria": write_criteria(query.criteria(table).criteria),
            "parameters": {name: str(value) for name, value in query.parameters.items()},
            "rows": table.rows_in_all,
            "marks": {mark.name.lower(): count for mark, count in marks.items() if mark.name},
            "read": read,
        }


def verify(path: str, folder: str | None) -> tuple[Verified, Mapping[str, Any]]:
    """Work the answer of a receipt out again; return what came of it, and the receipt.

    The files are looked for in the folder; if none is named here, then beside the receipt, then
    above it. Raises `SourceError`, `CallError`, and what the call raises.
    """
    before = read_receipt(path)
    receipt = before["receipt"]
    words = words_of(receipt)
    with chdir(_place_of(path, folder, receipt)):
        return compare(before, _again(str(receipt["command"]), words)), receipt


def _place_of(path: str, folder: str | None, receipt: Mapping[str, Any]) -> Path:
    own = Path(path).resolve().parent
    wanted = [name for name in receipt["read"] if not is_address(name)]
    if receipt["command"] == "run":  # a report finds its files by itself
        wanted = [str(receipt["words"][0])]
    for place in [Path(folder)] if folder is not None else [Path.cwd(), own, own.parent]:
        if all((place / name).exists() for name in wanted):
            return place
    missing = next((name for name in wanted if not Path(folder or "", name).exists()), "")
    fact = f"'{missing}', which it was made from, is not there"
    raise SourceError(path, fact, "Name its folder: --in")


def _again(command: str, words: list[str]) -> dict[str, Any]:
    """Return the answer of a call, with its receipt."""
    if command == "run":
        from even_sieve.cli.report import results_of_words

        text = results_of_words(words).to_json()
    else:
        from even_sieve.cli.main import main

        out = io.StringIO()
        with redirect_stdout(out):
            try:
                main.main(args=[command, "--format", "json", *words], standalone_mode=False)
            except SystemExit as error:
                if not out.getvalue():
                    raise CallError("the call of the receipt could not be answered") from error
        text = out.getvalue()
    found: dict[str, Any] = simplejson.loads(text, use_decimal=True)
    return found


def print_verified(found: Verified) -> None:
    """Print what came of a receipt."""
    for each in found.changed:
        click.echo(f"changed: {each}")
    for each in found.differ[:_MOST_TOLD]:
        click.echo(f"differs: {each}")
    if len(found.differ) > _MOST_TOLD:
        click.echo(f"and {len(found.differ) - _MOST_TOLD:,} more")
    if found.holds:
        count = found.figures
        click.echo(f"the same figures: {count:,} of {count:,}, their accounts and rows too")
