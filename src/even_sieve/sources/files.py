"""Files: found, opened, and given to the reader that their name asks for."""

import gzip
import re
import sys
import zlib
from collections.abc import Callable
from importlib import import_module
from io import BytesIO
from pathlib import Path
from stat import S_ISBLK, S_ISCHR, S_ISREG
from typing import BinaryIO

from even_sieve.core.cells import Cell
from even_sieve.core.errors import CallError, SourceError, SourceNotFound, closest, listed
from even_sieve.core.table import Table
from even_sieve.sources.guard import guarded
from even_sieve.sources.source_options import Limits, SourceOptions, said_options

#: The reader's module for each ending of a file name. Readers load when they are needed.
READERS = {
    ".csv": "even_sieve.sources.csv",
    ".txt": "even_sieve.sources.csv",
    ".tsv": "even_sieve.sources.csv",
    ".jsonl": "even_sieve.sources.json_lines",
    ".ndjson": "even_sieve.sources.json_lines",
    ".parquet": "even_sieve.sources.parquet",
    ".arrow": "even_sieve.sources.arrow_file",
    ".ods": "even_sieve.sources.ods",
    ".xlsx": "even_sieve.sources.xlsx",
    ".xlsm": "even_sieve.sources.xlsx",
}

#: The module that reads long files of an ending in pieces; None from it: to be read whole.
_IN_PIECES = dict.fromkeys((".csv", ".txt", ".tsv"), "even_sieve.sources.long_csv")
_LONG = 4 << 20


def read_file(path: str | Path, options: SourceOptions) -> Table:
    """Return the file's table.

    Raises `SourceNotFound` for a missing file or a folder, `SourceError` naming file and
    row for what cannot be read as a table.
    """
    if str(path) == "-":
        content = _read_within(sys.stdin.buffer, "standard input", options.limits)
        return read_content(content, "standard input", options)
    file = Path(path)
    if file.suffix.lower() in _IN_PIECES and _is_long(file, options.limits):
        reader = import_module(_IN_PIECES[file.suffix.lower()])
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
        content, name = _unzipped(content, name, options.limits), name.removesuffix(".gz")
    ending = Path(name).suffix if name != "standard input" else _ending_of(content)
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
_MAGIC = {b"PAR1": ".parquet", b"ARROW1": ".arrow"}


def _ending_of(content: bytes) -> str:
    """Return the ending of a file's name from how its content begins; CSV if nothing tells."""
    for magic, ending in _MAGIC.items():
        if content.startswith(magic):
            return ending
    if content.startswith(b"PK"):
        return ".ods" if b"opendocument" in content[:100] else ".xlsx"
    return ".jsonl" if content.lstrip()[:1] == b"{" else ".csv"


def _unzipped(content: bytes, name: str, limits: Limits) -> bytes:
    """Return what a gzip file holds. Raises `SourceError` beyond the limits, or if broken."""
    pieces, size = [], 0
    try:
        with gzip.open(BytesIO(content)) as stream:
            while piece := stream.read(_PIECE):
                size += len(piece)
                pieces.append(piece)
                if size > limits.unpacked:
                    fact = f"the file unpacks to more than {limits.unpacked:,} bytes"
                    raise SourceError(name, fact, "To read more say: --at-most unpacked=4GiB")
                if size > _ALWAYS and size > limits.ratio * len(content):
                    fact = f"the file unpacks to more than {limits.ratio:,} times its size"
                    raise SourceError(name, fact, "If that is right say: --at-most ratio=2000")
    except (OSError, EOFError, zlib.error):
        raise SourceError(name, "the gzip file is broken", "Pack it again") from None
    return b"".join(pieces)


_PIECE, _ALWAYS = 1 << 24, 1 << 26


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


def read_bytes(file: Path, limits: Limits | None = None) -> bytes:
    """Return what the file holds.

    Raises `SourceNotFound`, or `SourceError` if it is shut or beyond the limits.
    """
    most = (limits or Limits()).unpacked
    try:
        if file.is_dir():
            inside = sorted(each.name for each in file.iterdir() if each.suffix in READERS)
            hint = f"In it are: {', '.join(inside[:5])}" if inside else "Name a file in it"
            raise SourceNotFound(str(file), "this is a folder, not a file", hint)
        about = file.stat()
        if S_ISCHR(about.st_mode) or S_ISBLK(about.st_mode):
            raise SourceError(str(file), "this is a device, and no file", "Write - to read a pipe")
        if about.st_size > most:
            raise _too_large(str(file), about.st_size, most)
        if S_ISREG(about.st_mode):
            return file.read_bytes()  # at once: pieces would be held twice while they are joined
        with file.open("rb") as stream:
            return _read_within(stream, str(file), limits or Limits())
    except FileNotFoundError:
        beside = file.parent.iterdir() if file.parent.is_dir() else ()
        near = closest(file.name, [each.name for each in beside if each.is_file()])
        hint = f"Did you mean {listed(near)}?" if near else "Check the name and the folder"
        raise SourceNotFound(str(file), "there is no such file", hint) from None
    except OSError as error:
        why = error.strerror or type(error).__name__
        name = str(file) if len(str(file)) <= _LONGEST_NAME else f"{str(file)[:_LONGEST_NAME]}…"
        raise SourceError(name, f"the file cannot be opened: {why}") from error


_LONGEST_NAME = 300


def _too_large(source: str, size: int, most: int) -> SourceError:
    hint = f"At most {most:,} are read; to read more say: --at-most unpacked=4GiB"
    return SourceError(source, f"there are {size:,} bytes", hint)


def _read_within(stream: BinaryIO, source: str, limits: Limits) -> bytes:
    """Return what a stream holds, piece by piece: of a pipe nobody knows how much it is.

    Raises `SourceError` beyond the limits, and for a beginning that no file of a table has.
    """
    pieces: list[bytes] = []
    size = 0
    while piece := stream.read(_PIECE):
        if not pieces and piece.count(0) == len(piece):
            raise SourceError(source, "it begins with nothing but zeros", "Is it the right file?")
        pieces.append(piece)
        size += len(piece)
        if size > limits.unpacked:
            raise _too_large(source, size, limits.unpacked)
    return pieces[0] if len(pieces) == 1 else b"".join(pieces)
