"""Files, given to the reader that their name asks for, and what is inside of workbooks."""

import re
import sys
from collections.abc import Callable
from importlib import import_module
from pathlib import Path

from even_sieve.core.cells import Cell
from even_sieve.core.errors import CallError, SourceError
from even_sieve.core.table import Table
from even_sieve.sources.contents import read_bytes, read_within, unzipped
from even_sieve.sources.guard import guarded
from even_sieve.sources.readers import IN_PIECES, READERS
from even_sieve.sources.source_options import Limits, SourceOptions, said_options

_LONG = 4 << 20


def read_file(path: str | Path, options: SourceOptions) -> Table:
    """Return the file's table.

    Raises `SourceNotFound` for a missing file or a folder, `SourceError` naming file and
    row for what cannot be read as a table.
    """
    if str(path) == "-":
        content = read_within(sys.stdin.buffer, "standard input", options.limits)
        return read_content(content, "standard input", options)
    file = Path(path)
    if file.suffix.lower() in IN_PIECES and _is_long(file, options.limits):
        reader = import_module(IN_PIECES[file.suffix.lower()])
        text = import_module(READERS[file.suffix.lower()]).READS_BY
        _refuse_without_effect(options, text, file.suffix, str(path))
        with guarded(str(path)):
            table: Table | None = reader.read(file, str(path), options)
        if table is not None:
            return table
    return read_content(read_bytes(file, options.limits), str(path), options)


def _is_long(file: Path, limits: Limits) -> bool:
    """Tell whether a file is better read in pieces, and may be read."""
    try:
        return file.is_file() and _LONG <= file.stat().st_size <= limits.unpacked
    except OSError:  # a name that no file can have: told where it is opened
        return False


def read_content(content: bytes, name: str, options: SourceOptions) -> Table:
    """Return the table of a file's content; the ending of its name chooses the reader."""
    if content[:2] == _GZIP:
        content, name = unzipped(content, name, options.limits), name.removesuffix(".gz")
    ending = _ending_of(content) if _NAMELESS.match(name) else Path(name).suffix
    reader = READERS.get(ending.lower())
    if reader is None:
        known = ", ".join(READERS)
        raise SourceError(name, f"a file that ends in '{ending}' is not read", f"Read are: {known}")
    module = import_module(reader)
    _refuse_without_effect(options, module.READS_BY, ending, name)
    read: Callable[[bytes, str, SourceOptions], Table] = module.read
    with guarded(name):
        return read(content, name, options)


def _refuse_without_effect(
    options: SourceOptions, read_by: frozenset[str], ending: str, name: str
) -> None:
    """Raise `CallError` for an option that is set and that the reader does not read by."""
    for option, (_, default) in said_options().items():
        if option not in (*read_by, "at_most") and getattr(options, option) != default:
            spelt = f"--{option.replace('_', '-')}"
            known = [f"--{each.replace('_', '-')}" for each in said_options() if each in read_by]
            hint = f"It is read by {', '.join(known)}" if known else "It says all of itself"
            raise CallError(f"{name}: {spelt} has no effect on a {ending} file\n{hint}")


_GZIP = b"\x1f\x8b"
#: What is read from a pipe has no name that says what it is.
_NAMELESS = re.compile(r"standard input\Z|/dev/stdin\Z|/dev/fd/|/proc/self/fd/")
_MAGIC = {b"PAR1": ".parquet", b"ARROW1": ".arrow"}


def _ending_of(content: bytes) -> str:
    """Return the ending of a file's name from how its content begins; CSV if nothing tells."""
    for magic, ending in _MAGIC.items():
        if content.startswith(magic):
            return ending
    if content.startswith(b"PK"):
        return ".ods" if b"opendocument" in content[:100] else ".xlsx"
    return ".jsonl" if content.lstrip()[:1] == b"{" else ".csv"


_INSIDE = re.compile(r"(.+\.(?:ods|xlsx|xlsm))!(.+)\Z", re.IGNORECASE | re.DOTALL)


def read_inside(name: str) -> list[list[Cell]] | None:
    """Return the cells of a block or name in a workbook: `calls.ods!wanted`; None for a file.

    Raises `SourceError` for a name or block that is not there.
    """
    found = _INSIDE.match(name)
    if found is None:
        return None
    file, place = found[1], found[2]
    module = import_module(READERS[Path(file).suffix.lower()])
    with guarded(file):
        workbook = module.open_workbook(read_bytes(Path(file)), file, SourceOptions())
        cells: list[list[Cell]] = workbook.cells(workbook.area(place))
    if not cells:
        raise SourceError(file, f"'{place}' is empty")
    return cells
