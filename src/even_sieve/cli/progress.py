"""How far a long reading is, on a terminal."""

import sys
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

#: From so many bytes on, reading takes long enough to say so.
_LONG_TEXT = 8 << 20
_LONG = dict.fromkeys((".xlsx", ".xlsm", ".ods"), 1 << 20)


@contextmanager
def reading(file: str) -> Iterator[Callable[[float], None] | None]:
    """Show that a long read is under way, and how far it is where the reader tells.

    Yields what is to be told the share done, 0 to 1; nothing off a terminal.
    """
    path = Path(file)
    long = _LONG.get(path.suffix.lower(), _LONG_TEXT)
    if not sys.stderr.isatty() or not path.is_file() or path.stat().st_size < long:
        yield None
        return
    from rich.console import Console
    from rich.progress import BarColumn, Progress, TaskProgressColumn, TextColumn

    columns = TextColumn("{task.description}"), BarColumn(), TaskProgressColumn()
    with Progress(*columns, console=Console(stderr=True), transient=True) as bar:
        task = bar.add_task(
            f"reading {path.name}, {path.stat().st_size / 2**20:.1f} MiB", total=None
        )
        yield lambda share: bar.update(task, total=1.0, completed=share)
