"""Whether the quotes of a CSV file open and close (RFC 4180), told before it is parsed.

A parser takes a quote that is never closed for a cell that goes on to the end of the file, and
rows are lost without a word.
"""

import re
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Protocol

import numpy as np

from even_sieve.core.errors import SourceError
from even_sieve.sources.dialect import Dialect

_BLOCK, _AT_ONCE = 1 << 23, 2
_ENDS = b"\r\n"
_SHOWN = 40


class Octets(Protocol):
    """Bytes, or a file, of which stretches can be looked at."""

    def __len__(self) -> int: ...

    def __getitem__(self, rows: slice) -> bytes: ...


class FileOctets:
    """The bytes of a file from a place on, read where they are looked at."""

    def __init__(self, path: Path, start: int = 0) -> None:
        self._path, self._start = path, start

    def __len__(self) -> int:
        return self._path.stat().st_size - self._start

    def __getitem__(self, rows: slice) -> bytes:
        with self._path.open("rb") as stream:
            stream.seek(self._start + (rows.start or 0))
            return stream.read(-1 if rows.stop is None else rows.stop - (rows.start or 0))


def refuse_open_quotes(content: Octets, source: str, dialect: Dialect, above: int = 0) -> bool:
    """Raise `SourceError` for a quote that is not closed, or text after a closing one.

    The error names the line on which the quote opens; there are so many lines above. Most files
    are told good by the bytes beside their quotes, which is returned; where a quote stands as a
    letter (`5" pipe`), fields are gone through.
    """
    paired = pair_up(content, dialect)
    if not paired and len(dialect.quote.encode()) == 1:
        _go_through(content[:], source, dialect, above)
    return paired


def pair_up(content: Octets, dialect: Dialect) -> bool:
    """Tell whether quotes in turn open and close fields, those inside of a field doubled."""
    if len(dialect.quote.encode()) != 1:
        return False
    quote, ends = ord(dialect.quote), bytes(_ENDS)
    beside = np.zeros(256, dtype=bool)
    beside[[quote, *ends, *dialect.delimiter.encode()]] = True

    def look(start: int, among: tuple[bool, ...] = (False, True)) -> tuple[int, bool | None]:
        """Return how many quotes a block has, and whether it begins inside of a field."""
        above = content[start - 1 : start] if start else ends[-1:]
        some = content[start : start + _BLOCK + 1]
        octets = np.frombuffer(above + some + ends[-1:], dtype=np.uint8)
        places = np.flatnonzero(octets[1 : min(len(some), _BLOCK) + 1] == quote) + 1
        for inside in among:
            opens, closes = places[inside::2], places[1 - inside :: 2]
            if beside[octets[opens - 1]].all() and beside[octets[closes + 1]].all():
                return len(places), inside
        return len(places), None

    starts, inside = range(0, len(content), _BLOCK), False
    if len(starts) == 1:  # no thread is begun for so little
        count, fits = look(0, (False,))
        return fits is not None and count % 2 == 0
    with ThreadPoolExecutor(_AT_ONCE) as pool:
        for start, (count, fits) in zip(starts, pool.map(look, starts), strict=True):
            if fits is not inside and look(start, (inside,))[1] is None:
                pool.shutdown(cancel_futures=True)
                return False
            inside ^= bool(count % 2)
    return not inside


def _go_through(content: bytes, source: str, dialect: Dialect, above: int) -> None:
    quote, delimiter = (re.escape(each.encode()) for each in (dialect.quote, dialect.delimiter))
    opening = re.compile(rb"(?:\A|(?<=[\r\n])|(?<=" + delimiter + rb"))" + quote)
    inside = re.compile(rb"(?:[^" + quote + rb"]+|" + quote * 2 + rb")*")
    after = re.compile(rb"(?:" + delimiter + rb"|[\r\n]|\Z)")
    at = 0
    while (opened := opening.search(content, at)) is not None:
        end = inside.match(content, opened.end())
        at = len(content) if end is None else end.end()
        if at < len(content) and after.match(content, at + 1):
            at += 1
            continue
        row = above + content.count(b"\n", 0, opened.start()) + 1
        shown = content[opened.start() : opened.start() + _SHOWN].splitlines()[0]
        text = shown.decode("utf-8", errors="replace")
        fact = f"the quotes that open at {text} are not closed"
        if at < len(content):
            closed = above + content.count(b"\n", 0, at) + 1
            fact = f"the quotes that open at {text} close in line {closed}, and text follows them"
        raise SourceError(source, fact, "Inside of quotes write a quote twice", row)
