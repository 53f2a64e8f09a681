"""How far long work is, on a terminal."""

import sys
import time
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING

from even_sieve.core.progress import heard_by, tell

if TYPE_CHECKING:
    from rich.progress import Progress

#: From so many bytes on, reading takes long enough to say so.
_LONG_TEXT = 8 << 20
_LONG = dict.fromkeys((".xlsx", ".xlsm", ".ods"), 1 << 20)
#: So many seconds of a piece of work pass before anything is shown of it.
_PATIENCE = 0.7


class _Bar:
    """One line of what is under way, the share done and the time left; gone when it is."""

    def __init__(self) -> None:
        self._shown: Progress | None = None
        self._what = ""
        self._since: dict[str, float] = {}

    def told(self, what: str, share: float | None) -> None:
        """Show how far a piece of work is, if it has been going on for a while."""
        now = time.monotonic()
        if not share and what != self._what:  # begun anew: one that was left is over
            self._since[what] = now
        waited = now - self._since.setdefault(what, now) > _PATIENCE
        if share == 1:
            del self._since[what]
            if what == self._what:
                self.clear()
        elif what != self._what and (waited or share is None):
            self.clear()
            self._open(what)
        if self._shown is not None and what == self._what and share is not None:
            self._shown.update(self._shown.task_ids[0], total=1.0, completed=share, left="left")

    def _open(self, what: str) -> None:
        from rich.console import Console
        from rich.progress import (
            BarColumn,
            Progress,
            TaskProgressColumn,
            TextColumn,
            TimeRemainingColumn,
        )

        columns = TextColumn("{task.description}"), BarColumn(), TaskProgressColumn()
        left = TextColumn("{task.fields[left]}"), TimeRemainingColumn(compact=True)
        console = Console(stderr=True)
        # What is printed meanwhile is an answer: it goes where it is sent, and not to the screen.
        self._shown = Progress(
            *columns, *left, console=console, transient=True,
            redirect_stdout=False, redirect_stderr=False,
        )  # fmt: skip
        self._shown.add_task(what, total=None, left="")
        self._what = what
        self._shown.start()

    def clear(self) -> None:
        """Take the line away."""
        if self._shown is not None:
            self._shown.stop()
        self._shown, self._what = None, ""


_BAR = _Bar()


@contextmanager
def shown() -> Iterator[None]:
    """Show how far the work is that is done meanwhile, where standard error is a terminal."""
    with heard_by(_BAR.told if sys.stderr.isatty() else None):
        try:
            yield
        finally:
            _BAR.clear()


def clear() -> None:
    """Take the line of what is under way off the terminal, before something is printed there."""
    _BAR.clear()


def reading(files: Sequence[str]) -> Callable[[float], None]:
    """Return what is to be told the share of a reading that is done, 0 to 1.

    Of long files it is shown at once that they are being read: not all readers tell how far.
    """
    paths = [path for path in map(Path, files) if path.is_file()]
    sizes = [(path.stat().st_size, _LONG.get(path.suffix.lower(), _LONG_TEXT)) for path in paths]
    name = paths[0].name if len(paths) == 1 else f"{len(paths):,} files" if paths else files[0]
    what = f"reading {name}"
    if sum(size / long for size, long in sizes) >= 1:
        what += f", {sum(size for size, _ in sizes) / 2**20:.1f} MiB"
        tell(what)
    return lambda share: tell(what, share)
