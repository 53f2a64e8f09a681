"""Files, given to the reader that their name asks for, and what is inside of workbooks."""

import re
import sys
from collections.abc import Callable, Iterator, Sequence
from importlib import import_module
from itertools import chain
from pathlib import Path
from types import ModuleType
from typing import Any

from even_sieve.core.cells import Cell
from even_sieve.core.errors import CallError, SourceError
from even_sieve.core.notices import Notice
from even_sieve.core.table import Table
from even_sieve.sources.contents import (
    bounded,
    pieces_of,
    read_bytes,
    read_within,
    unzipped,
    within,
)
from even_sieve.sources.guard import guarded
from even_sieve.sources.limits import Limits
from even_sieve.sources.readers import DATABASES, IN_PIECES, READERS
from even_sieve.sources.source_options import SourceOptions, said_options
from even_sieve.sources.unpacking import (
    GZIP,
    PACKED,
    LongAt,
    are_said,
    inner_ending,
    kept_on_disk,
    long_at,
    no_gzip,
)

_LONG = 4 << 20


def read_file(path: str | Path, options: SourceOptions) -> Table:
    """Return the file's table.

    Raises `SourceNotFound` for a missing file or a folder, `SourceError` naming file and
    row for what cannot be read as a table.
    """
    name = str(path)
    if name == "-":
        return read_stream(pieces_of(sys.stdin.buffer, _PIPED), _PIPED, options)
    table = read_long([(name, "")], name, options)
    if table is not None:
        return table
    content, name = content_of(name, options)
    return _read(content, name, options)


def read_stream(pieces: Iterator[bytes], name: str, options: SourceOptions) -> Table:
    """Return the table of what comes through a pipe; what is long is kept on disk for so long."""
    begun: list[bytes] = []
    for piece in pieces:
        begun.append(piece)
        if sum(map(len, begun)) >= _LONG:
            break
    head = b"".join(begun)
    every = chain([head], pieces)
    ending = "" if head[: len(GZIP)] == GZIP else _ending_of(head)
    reader = IN_PIECES.get(ending) if len(head) >= _LONG else None
    if reader is None:
        content, name = _unpacked(within(every, name, options.limits), name, options)
        return _read(content, name, options)
    refuse_without_effect(options, import_module(READERS[ending]).READS_BY, f"{ending} file", name)
    limited = bounded(every, name, options.limits) if are_said(options.limits) else every
    kept = kept_on_disk(limited, ending, name)
    read: Callable[[Any, str, SourceOptions], Table | None] = import_module(reader).read
    with guarded(name):
        table = read([LongAt(kept.path, "", name, kept)], name, options)
    return _read(kept.path.read_bytes(), name, options) if table is None else table


#: What is read from a pipe is called so.
_PIPED = "standard input"


def read_long(
    files: Sequence[tuple[str, str]], source: str, options: SourceOptions
) -> Table | None:
    """Return the one table of long text files, each with what it is called.

    None where they are short, or must be read whole.
    """
    paths = [Path(path) for path, _ in files]
    endings = {path: inner_ending(path.name) for path in paths}
    modules = {IN_PIECES.get(ending) for ending in endings.values()}
    reader = modules.pop() if len(modules) == 1 else None
    # Which rows are left unread hangs on no size.
    pruned = options.prune is not None
    if reader is None or not _are_long(paths, options.limits, whatever_size=pruned):
        return None
    for path, ending in endings.items():
        reads_by = import_module(READERS[ending]).READS_BY
        refuse_without_effect(options, reads_by, f"{ending} file", str(path))
    read: Callable[[Any, str, SourceOptions], Table | None] = import_module(reader).read
    with guarded(source):
        found = _unpacked_on_disk(paths, [origin for _, origin in files], options)
        return read(found[0], source, found[1])


def _unpacked_on_disk(
    paths: Sequence[Path], origins: Sequence[str], options: SourceOptions
) -> tuple[list[LongAt], SourceOptions]:
    """Return the files as they are read in pieces, and options that tell how far it is."""
    sizes = [path.stat().st_size if path.suffix.lower() == PACKED else 0 for path in paths]
    if not any(sizes):
        return [
            LongAt(path, own, str(path)) for path, own in zip(paths, origins, strict=True)
        ], options
    found, done, each = [], 0.0, _UNPACKING / sum(sizes)
    for path, origin, size in zip(paths, origins, sizes, strict=True):
        part = options.telling(done, done + size * each)
        found.append(long_at(path, origin, part))
        done += size * each
    return found, options.telling(_UNPACKING, 1.0)


#: The share that unpacking has in the time until a packed file is read.
_UNPACKING = 0.4


def are_long_texts(files: Sequence[Path], options: SourceOptions) -> bool:
    """Tell whether files are texts that are better read in pieces, and may be read."""
    modules = {IN_PIECES.get(path.suffix.lower()) for path in files}
    return modules == {IN_PIECES[".csv"]} and _are_long(files, options.limits)


def _are_long(files: Sequence[Path], limits: Limits, *, whatever_size: bool = False) -> bool:
    """Tell whether files are better read in pieces, and may be read."""
    try:
        if not all(file.is_file() for file in files):
            return False
        sizes = [file.stat().st_size for file in files]
    except (OSError, ValueError):  # a name that no file can have: told where it is opened
        return False
    # What is read in pieces may be longer than memory, unless somebody says how long.
    least = 0 if whatever_size else _LONG
    return sum(sizes) >= least and not (are_said(limits) and max(sizes) > limits.unpacked)


def content_of(path: str, options: SourceOptions) -> tuple[bytes, str]:
    """Return what a file holds, unpacked if it is packed by itself, and its name."""
    if path == "-":
        return _unpacked(read_within(sys.stdin.buffer, _PIPED, options.limits), _PIPED, options)
    return _unpacked(read_bytes(Path(path), options.limits), path, options)


def _unpacked(content: bytes, name: str, options: SourceOptions) -> tuple[bytes, str]:
    if content[:2] != GZIP:
        if name.lower().endswith(PACKED):
            raise no_gzip(name)
        return content, name
    return unzipped(content, name, options.limits), name


def read_content(content: bytes, name: str, options: SourceOptions) -> Table:
    """Return the table of a file's content; the ending of its name chooses the reader."""
    return _read(*_unpacked(content, name, options), options)


def _read(content: bytes, name: str, options: SourceOptions) -> Table:
    ending, module = reader_of(content, name)
    refuse_without_effect(options, module.READS_BY, f"{ending} file", name)
    read: Callable[[bytes, str, SourceOptions], Table] = module.read
    with guarded(name):
        return read(content, name, options)


def reader_of(content: bytes, name: str) -> tuple[str, ModuleType]:
    """Return the ending that tells how a file is read, and the module that reads it."""
    ending = _ending_of(content) if _NAMELESS.match(name) else inner_ending(name)
    reader = READERS.get(ending)
    if ending in DATABASES:
        raise SourceError(name, "this is no SQLite database", "Is its ending right?")
    if reader is None:
        known = ", ".join(READERS)
        raise SourceError(
            name, f"a file that ends in '{ending}' is not read", f"Read are: {known}; packed: .gz"
        )
    return ending, import_module(reader)


def read_by(path: str) -> frozenset[str] | None:
    """Return the options by which a file of that name is read; None where it does not tell.

    >>> sorted(read_by("calls.jsonl.gz")), sorted(read_by("calls.parquet")), read_by("-")
    (['blank_as', 'encoding'], [], None)
    """
    reader = READERS.get(inner_ending(path))
    found: frozenset[str] | None = None if reader is None else import_module(reader).READS_BY
    return found


def refuse_without_effect(
    options: SourceOptions, read_by: frozenset[str], what: str, name: str
) -> None:
    """Raise `CallError` for an option that is set and that the reader does not read by."""
    for option, (_, default) in said_options().items():
        of_texts = _OF_TEXTS if options.as_number or options.as_date else ()
        if option not in (*read_by, *_OF_ALL, *of_texts) and getattr(options, option) != default:
            spelt = f"--{option.replace('_', '-')}"
            known = [f"--{each.replace('_', '-')}" for each in said_options() if each in read_by]
            hint = f"It is read by {', '.join(known)}" if known else "It says all of itself"
            raise CallError(f"{name}: {spelt} has no effect on a {what}\n{hint}")


#: The options that go with every reader.
_OF_ALL = ("as_date", "as_number", "at_most", "cluster", "lacking", "memory", "origin")
#: What says how texts are written goes with every reader where some are read as numbers or dates.
_OF_TEXTS = ("decimal", "date_order")
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


def read_inside(name: str) -> tuple[list[list[Cell]], tuple[Notice, ...]] | None:
    """Return the cells of a block or name in a workbook: `calls.ods!wanted`; None for a file.

    Beside them the notice on what stands right below. Raises `SourceError` for a name or block
    that is not there.
    """
    found = _INSIDE.match(name)
    if found is None:
        return None
    file, place = found[1], found[2]
    module = import_module(READERS[Path(file).suffix.lower()])
    beyond = import_module("even_sieve.sources.beyond")
    with guarded(file):
        workbook = module.open_workbook(read_bytes(Path(file)), file, SourceOptions())
        area = workbook.area(place)
        cells: list[list[Cell]] = workbook.cells(area)
    if not cells:
        raise SourceError(file, f"'{place}' is empty")
    return cells, beyond.told_right_below(workbook.sheet(area.sheet), area)
