"""Files: found, opened, and given to the reader that their name asks for."""

import re
from collections.abc import Callable
from importlib import import_module
from pathlib import Path

from even_sieve.core.cells import Cell
from even_sieve.core.errors import SourceError, SourceNotFound, closest, listed
from even_sieve.core.table import Table
from even_sieve.sources.options import SourceOptions

#: The reader's module for each ending of a file name. Readers load when they are needed.
READERS = {
    ".csv": "even_sieve.sources.csv",
    ".txt": "even_sieve.sources.csv",
    ".ods": "even_sieve.sources.ods",
    ".xlsx": "even_sieve.sources.xlsx",
    ".xlsm": "even_sieve.sources.xlsx",
}


def read_file(path: str | Path, options: SourceOptions) -> Table:
    """Return the file's table.

    Raises `SourceNotFound` for a missing file or a folder, `SourceError` naming file and
    row for what cannot be read as a table.
    """
    return read_content(read_bytes(Path(path)), str(path), options)


def read_content(content: bytes, name: str, options: SourceOptions) -> Table:
    """Return the table of a file's content; the ending of its name chooses the reader."""
    ending = Path(name).suffix
    reader = READERS.get(ending.lower())
    if reader is None:
        known = ", ".join(READERS)
        raise SourceError(name, f"a file that ends in '{ending}' is not read", f"Read are: {known}")
    read: Callable[[bytes, str, SourceOptions], Table] = import_module(reader).read
    return read(content, name, options)


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
    workbook = module.open_workbook(read_bytes(Path(file)), file, SourceOptions())
    cells: list[list[Cell]] = workbook.cells(workbook.area(place))
    if not cells:
        raise SourceError(file, f"'{place}' is empty")
    return cells


def read_bytes(file: Path) -> bytes:
    """Return what the file holds. Raises `SourceNotFound`, or `SourceError` if it is shut."""
    if file.is_dir():
        inside = sorted(each.name for each in file.iterdir() if each.suffix in READERS)
        hint = f"In it are: {', '.join(inside[:5])}" if inside else "Name a file in it"
        raise SourceNotFound(str(file), "this is a folder, not a file", hint)
    try:
        return file.read_bytes()
    except FileNotFoundError:
        beside = file.parent.iterdir() if file.parent.is_dir() else ()
        near = closest(file.name, [each.name for each in beside if each.is_file()])
        hint = f"Did you mean {listed(near)}?" if near else "Check the name and the folder"
        raise SourceNotFound(str(file), "there is no such file", hint) from None
    except OSError as error:
        why = error.strerror or type(error).__name__
        raise SourceError(str(file), f"the file cannot be opened: {why}") from error
