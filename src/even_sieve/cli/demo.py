"""The demo on a terminal."""

import sys
from pathlib import Path

from rich.console import Console
from rich.padding import Padding
from rich.rule import Rule
from rich.text import Text

from even_sieve.cli.report import run_report
from even_sieve.core.errors import SourceError
from even_sieve.demo.make import REPORT, write_files
from even_sieve.demo.walk import walk
from even_sieve.documents import document_of
from even_sieve.renderers.formats.table import PLAIN_WIDTH, draw

# A colour that can be read on a light ground and on a dark one.
COMMAND = "#0b7a9a"


def run_demo() -> None:
    """Print the walk through the demo."""
    console = Console(width=None if sys.stdout.isatty() else PLAIN_WIDTH, highlight=False)
    with console.capture() as capture:
        _draw(console)
    for line in capture.get().splitlines():
        print(line.rstrip())


def write_demo(folder: Path) -> None:
    """Write the demo's files into a folder, and run its report there."""
    try:
        written = write_files(folder)
    except OSError as error:
        why = error.strerror or type(error).__name__
        raise SourceError(str(folder), f"the demo cannot be written there: {why}") from error
    report = folder / REPORT
    run_report(str(report), (), None, check_only=False)
    print(f"\nThe files that it was made from: {', '.join(str(path) for path in written)}")
    print(f"The page: open {report.with_suffix('.html')} in a browser")
    print(f"Another quarter: even-sieve run {report} --set quarter=2031-Q2")
    print("Step by step from a bare total to a defended figure: even-sieve demo")


def _draw(console: Console) -> None:
    for number, step in enumerate(walk(), 1):
        title = Text(f"{number}. {step.title}", style="bold")
        console.print()
        console.print(Rule(title, align="left", style="bright_black"))
        console.print(Padding(Text("$ " + step.command, style=COMMAND, overflow="fold"), (0, 1)))
        if step.text:
            console.print(Padding(Text(step.text), (1, 1, 0, 1)))
        console.print(draw(document_of(step.result)))
    console.print()
    console.print(Text("To try it on your own: even-sieve demo --to FOLDER"))
