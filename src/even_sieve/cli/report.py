"""A report on a terminal."""

import sys
from collections.abc import Iterable
from pathlib import Path

from rich.console import Console
from rich.padding import Padding
from rich.rule import Rule
from rich.text import Text

from even_sieve.core.errors import ParameterError, SieveError
from even_sieve.core.notices import counted
from even_sieve.reports import Report, Results
from even_sieve.reports.changes import changes
from even_sieve.reports.results import NOUNS
from even_sieve.views import terminal


def run_report(path: str, settings: Iterable[str], folder: Path | None, check_only: bool) -> None:
    """Run a report; show it and write its outputs, or say that all it names is there."""
    report = Report.from_file(path)
    results = report.run(_settings(settings))
    if check_only:
        count = len(results.blocks)
        print(f"{path}: {count} {'block' if count == 1 else 'blocks'}, all can be worked out")
        return
    written = report.write(results, folder)
    _show(results)
    for each in written:
        print(f"written: {each}")


def watch_report(path: str, settings: Iterable[str], folder: Path | None) -> None:
    """Run a report again whenever a file of it changes, and print which figures moved.

    Goes on until it is interrupted. What cannot be run is told, and waited out.
    """
    from watchfiles import watch

    chosen = _settings(settings)
    report = Report.from_file(path)
    before = report.run(chosen)
    print(f"watching {', '.join(each.name for each in before.inputs)}", flush=True)
    folders = {each.resolve().parent for each in report.paths()}
    outputs = {each.name for each in report.write(before, folder)}
    for seen in watch(*folders, raise_interrupt=False):
        names = {Path(each).name for _, each in seen} - outputs
        if not names & {each.name for each in before.inputs}:
            continue
        try:
            report = Report.from_file(path)
            after = report.run(chosen)
        except SieveError as error:
            print(f"even-sieve: {error}", file=sys.stderr, flush=True)
            continue
        report.write(after, folder)
        moves = changes(before, after)
        print(f"{', '.join(sorted(names))} changed: {counted(len(moves), 'figure')} moved")
        for move in moves:
            print(f"  {move.text()}")
        sys.stdout.flush()
        before = after


def _settings(settings: Iterable[str]) -> dict[str, str | list[str]]:
    """Return the parameters that are set; one that is set several times stands for any of them."""
    found: dict[str, list[str]] = {}
    for setting in settings:
        name, equal, value = setting.partition("=")
        if not equal or not name.strip():
            raise ParameterError(setting, "no value is given", "Write: --set NAME=VALUE")
        found.setdefault(name.strip(), []).append(value.strip())
    return {name: values[0] if len(values) == 1 else values for name, values in found.items()}


def _show(results: Results) -> None:
    on_terminal = sys.stdout.isatty()
    console = Console(width=None if on_terminal else terminal.PLAIN_WIDTH, highlight=False)
    with console.capture() as capture:
        console.print(Text(results.title, style="bold"))
        for number, done in enumerate(results.blocks, 1):
            console.print()
            heading = Text(done.heading(number), style="bold")
            console.print(Rule(heading, align="left", style="bright_black"))
            if done.where:
                console.print(Padding(Text(f"rows: {done.where}", style="dim"), (1, 1, 0, 1)))
            noun = NOUNS[done.kind]
            width = (console.width,) if noun in ("rows", "breakdown") else ()
            console.print(getattr(terminal, f"draw_{noun}")(done.result, *width))
        console.print()
        for name, text in results.made_from():
            console.print(Text.assemble((f"{name}: ", "dim"), text), soft_wrap=True)
    for line in capture.get().splitlines():
        print(line.rstrip())
