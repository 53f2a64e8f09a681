"""A report on a terminal."""

import sys
import time
from collections.abc import Iterable, Sequence
from datetime import date
from pathlib import Path

from even_sieve.cli import progress
from even_sieve.cli.interrupts import interrupted
from even_sieve.core.errors import ParameterError, SieveError
from even_sieve.core.notices import counted
from even_sieve.renderers.formats.table import RENDERER
from even_sieve.reports import Report, Results
from even_sieve.reports.changes import changes

#: Milliseconds between two looks at whether an interrupt came while nothing changes.
_GLANCE = 500


def run_report(
    path: str,
    settings: Iterable[str],
    folder: Path | None,
    *,
    check_only: bool = False,
    strict: bool = False,
    as_of: date | None = None,
    earlier: str | None = None,
) -> None:
    """Run a report; show it and write its outputs, or say that all it names is there."""
    report = Report.from_file(path)
    report.refuse_outputs(folder)
    results = report.run(_settings(settings), strict=strict, as_of=as_of)
    if check_only:
        count = len(results.blocks)
        print(f"{path}: {count} {'block' if count == 1 else 'blocks'}, all can be worked out")
        return
    if earlier is not None:
        results = results.against(earlier)
    written = report.write(results, folder)
    _show(results)
    for each in written:
        print(f"written: {each}")


def results_of_words(words: Sequence[str]) -> Results:
    """Return the results of the words of a call of `run`."""
    path, *rest = words
    pairs = list(zip(rest[::2], rest[1::2], strict=True))
    days = [date.fromisoformat(value) for flag, value in pairs if flag == "--as-of"]
    settings = _settings(value for flag, value in pairs if flag == "--set")
    return Report.from_file(path).run(settings, as_of=days[-1] if days else None)


def watch_report(
    path: str, settings: Iterable[str], folder: Path | None, *, as_of: date | None = None
) -> None:
    """Run a report again whenever a file of it changes, and print which figures moved.

    Goes on until it is interrupted. What cannot be run is told, and waited out.
    """
    from watchfiles import watch

    chosen = _settings(settings)
    report = Report.from_file(path)
    before = report.run(chosen, as_of=as_of)
    print(f"watching {', '.join(each.name for each in before.inputs)}", flush=True)
    folders = {each.resolve().parent for each in report.paths()}
    outputs = {each.name for each in report.write(before, folder)}
    for seen in watch(*folders, raise_interrupt=False, rust_timeout=_GLANCE, yield_on_timeout=True):
        if interrupted():  # by one that came while the report was run
            break
        names = {Path(each).name for _, each in seen} - outputs
        if not names or not names & (
            {Path(each.name).name for each in before.inputs} | _named_now(report)
        ):
            continue
        try:
            report, after = _run_again(path, chosen, as_of)
            report.write(after, folder)
        except SieveError as error:  # told, and tried again with the next change
            print(f"even-sieve: {error}", file=sys.stderr, flush=True)
            continue
        moves = changes(before, after)
        print(f"{', '.join(sorted(names))} changed: {counted(len(moves), 'figure')} moved")
        for move in moves:
            print(f"  {move.text()}")
        sys.stdout.flush()
        before = after


def _run_again(
    path: str, chosen: dict[str, str | list[str]], as_of: date | None
) -> tuple[Report, Results]:
    """Run a report whose files change: an editor that saves one takes it away for a moment."""
    for wait in (0.1, 0.3, 0.6):
        try:
            report = Report.from_file(path)
            return report, report.run(chosen, as_of=as_of)
        except SieveError:
            time.sleep(wait)
    report = Report.from_file(path)
    return report, report.run(chosen, as_of=as_of)


def _named_now(report: Report) -> set[str]:
    """Return the names of the files that a report reads: in a folder there may be new ones."""
    try:
        return {each.name for each in report.paths()}
    except SieveError:  # told when it is run
        return set()


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
    progress.clear()
    with results.shown():
        print(RENDERER.on(RENDERER.console(), results.document()), end="")
