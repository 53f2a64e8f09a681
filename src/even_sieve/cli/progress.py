"""How far a long reading is, on a terminal."""

import sys
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path

#: From so many bytes on, reading takes long enough to say so.
_LONG_TEXT = 8 << 20
_LONG = dict.fromkeys((".xlsx", ".xlsm", ".ods"), 1 << 20)


@contextmanager
def reading(files: Sequence[str]) -> Iterator[Callable[[float], None] | None]:
    """Show that a long read is under way, and how far it is where the reader tells.

    Yields what is to be told the share done, 0 to 1; nothing off a terminal.
    """
    paths = [path for path in map(Path, files) if sys.stderr.isatty() and path.is_file()]
    sizes = [(path.stat().st_size, _LONG.get(path.suffix.lower(), _LONG_TEXT)) for path in paths]
    if sum(size / long for size, long in sizes) < 1:
        yield None
        return
    from rich.console import Console
    from rich.progress import BarColumn, Progress, TaskProgressColumn, TextColumn

    columns = TextColumn("{task.description}"), BarColumn(), TaskProgressColumn()
    what = paths[0].name if len(paths) == 1 else f"{len(paths):,} files"
    with Progress(*columns, console=Console(stderr=True), transient=True) as bar:
        whole = sum(size for size, _ in sizes) / 2**20
        task = bar.add_task(f"reading {what}, {whole:.1f} MiB", total=None)
        yield lambda share: bar.update(task, total=1.0, completed=share)
