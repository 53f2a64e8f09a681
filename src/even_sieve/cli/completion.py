"""Completion in the shell: of commands and options, and of what the file on the line holds."""

import os
import re
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click
from click.shell_completion import CompletionItem, get_completion_class, split_arg_string

from even_sieve.cli.calls import Command

if TYPE_CHECKING:
    from even_sieve.core.session import Completions
    from even_sieve.core.table import Table

VARIABLE = "_EVEN_SIEVE_COMPLETE"
SHELLS = ("bash", "zsh", "fish")
#: A file that is larger is not read for it; of a text file the first lines are.
_MOST_BYTES, _FIRST_BYTES = 20_000_000, 300_000
_TEXTS = (".csv", ".tsv", ".tab", ".txt", ".jsonl")
_JOINTS = re.compile(r"\b(?:and|or|not)\s+|\(\s*", re.IGNORECASE)
_ASKED = re.compile(r"(.+?)\s*(<=|>=|!=|=|<|>|\s(?:in|is)\s)\s*(.*)\Z", re.DOTALL | re.IGNORECASE)
_OF = re.compile(r"(.*?\bof\s+)(.*)\Z", re.DOTALL | re.IGNORECASE)
_WHERE = re.compile(r"(.*\swhere\s+)(.*)\Z", re.DOTALL | re.IGNORECASE)
_BY = re.compile(r"(.+?\sby\s+)(\w*)\Z", re.DOTALL | re.IGNORECASE)
_Complete = Callable[[click.Context, str], list[CompletionItem]]


@click.command(cls=Command)
@click.argument("shell", type=click.Choice(SHELLS))
def completion(shell: str) -> None:
    """Print what a SHELL (bash, zsh, fish) needs to complete commands, columns and values.

    \b
        bash   eval "$(even-sieve completion bash)"       in ~/.bashrc
        zsh    eval "$(even-sieve completion zsh)"        in ~/.zshrc
        fish   even-sieve completion fish | source        in config.fish
    """
    found = get_completion_class(shell)
    if found is None:
        raise click.UsageError(f"there is no completion for {shell}")
    root = click.get_current_context().find_root().command
    click.echo(found(root, {}, "even-sieve", VARIABLE).source())


def _table(context: click.Context) -> "Table | None":
    """Return the table of the file on the line, or of its first rows; None if it cannot be had."""
    from even_sieve.public.reading import read_table, table_from_bytes

    try:
        path = Path(str(context.params.get("file") or _file_on_line()))
        if path.suffix.lower() in _TEXTS and path.is_file():
            with path.open("rb") as file:
                first = file.read(_FIRST_BYTES)
            if len(first) == _FIRST_BYTES:
                first = first[: first.rfind(b"\n") + 1]
            return table_from_bytes(first, path.name).core
        if not path.is_file() or path.stat().st_size > _MOST_BYTES:
            return None
        return read_table(path).core
    except Exception:  # nobody waits for an error while a word is typed
        return None


def _file_on_line() -> str:
    """Return the first word on the line that is a file: an option without its value hides it."""
    words = split_arg_string(os.environ.get("COMP_WORDS", ""))[2:]
    return next((word for word in words if Path(word).is_file()), "")


def _for_table(offer: "Callable[[Completions, str], Iterable[str]]") -> _Complete:
    """Return what completes a parameter from the table of the file on the line."""

    def complete(context: click.Context, incomplete: str) -> list[CompletionItem]:
        from even_sieve.core.session import Completions

        table = _table(context)
        if table is None:
            return []
        found = offer(Completions(table), incomplete)
        return [CompletionItem(each) for each in dict.fromkeys(found) if each != incomplete]

    return complete


def _names(known: "Completions", typed: str) -> list[str]:
    begun = typed.casefold()
    return [each.text for each in known.names(typed) if each.text.casefold().startswith(begun)]


def _criteria(known: "Completions", typed: str) -> Iterable[str]:
    """Yield criteria with the next column, or the next value, put in."""
    start = max((found.end() for found in _JOINTS.finditer(typed)), default=0)
    before, clause = typed[:start], typed[start:]
    asked = _ASKED.match(clause)
    if asked is None:
        yield from (f"{before}{name}" for name in _names(known, clause))
        return
    name, value = asked[1].strip(), asked[3]
    lead = before + clause[: asked.start(3)]
    for each in known.of(name, value):
        if (
            each.count is not None
            and not each.text.startswith("is ")
            and each.text.casefold().startswith(value.casefold())
        ):
            yield f"{lead}{each.text}"


def _measures(known: "Completions", typed: str) -> Iterable[str]:
    """Yield measures with the next word put in: a kind, a column, criteria of its own."""
    from even_sieve.core.measures.signatures import KINDS

    named = f"{typed.partition('=')[0].rstrip()} = " if "=" in typed.split(" where ")[0] else ""
    asked = typed[len(typed.partition("=")[0]) + 1 :].lstrip() if named else typed
    where, of = _WHERE.match(asked), _OF.match(asked)
    if where is not None:
        yield from (f"{named}{where[1]}{each}" for each in _criteria(known, where[2]))
    elif of is not None:
        yield from (f"{named}{of[1]}{each}" for each in _names(known, of[2]))
    else:
        kinds = (f"{kind} of" if form.column else kind for kind, form in KINDS.items())
        yield from (f"{named}{each}" for each in kinds if each.startswith(asked.casefold()))


def _axes(known: "Completions", typed: str) -> Iterable[str]:
    from even_sieve.core.axes.calendar import DATE_PARTS, UNITS

    by = _BY.match(typed)
    if by is None:
        return _names(known, typed)
    return [f"{by[1]}{unit}" for unit in (*UNITS, *DATE_PARTS) if unit.startswith(by[2].casefold())]


def _columns(known: "Completions", typed: str) -> Iterable[str]:
    before, comma, last = typed.rpartition(",")
    return [f"{before}{comma}{name}" for name in _names(known, last)]


#: What completes a parameter, by its name.
_COMPLETED: dict[str, Any] = {
    "where": _criteria, "hidden": _criteria, "subtotal": _criteria, "measures": _measures,
    "measure": _measures, "by": _axes, "across": _axes, "columns": _columns, "sort": _names,
    "marks": _names, "as_number": _names, "as_date": _names,
}  # fmt: skip
_FILES = ("file", "report", "receipt", "more_files", "criteria_files", "parameter_files", "to")


def complete_commands(group: click.Group) -> None:
    """Give the parameters of commands what completes them."""
    for command in group.commands.values():
        for each in command.params:
            name = str(each.name)
            if name in _COMPLETED:
                setattr(each, "shell_complete", _for_table(_COMPLETED[name]))  # noqa: B010
            elif name in _FILES:
                setattr(each, "shell_complete", _paths)  # noqa: B010


def _paths(_: click.Context, incomplete: str) -> list[CompletionItem]:
    return [CompletionItem(incomplete, type="file")]
