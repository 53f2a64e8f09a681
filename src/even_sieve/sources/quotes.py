"""Whether the quotes of a CSV file open and close (RFC 4180), told before it is parsed.

A parser takes a quote that is never closed for a cell that goes on to the end of the file, and
rows are lost without a word.
"""

import re
from typing import Any

import numpy as np

from even_sieve.core.errors import SourceError
from even_sieve.core.table.lanes import Array
from even_sieve.sources.dialect import Dialect

_BLOCK = 1 << 24
_ENDS = b"\r\n"
_SHOWN = 40


def refuse_open_quotes(content: Any, source: str, dialect: Dialect) -> None:
    """Raise `SourceError` for a quote that is not closed, or text after a closing one.

    The error names the line on which the quote opens. Most files are told good by the bytes
    beside their quotes; where a quote stands as a letter (`5" pipe`), fields are gone through.
    """
    if len(dialect.quote.encode()) == 1 and not _pair_up(content, dialect):
        _go_through(bytes(content), source, dialect)


def _pair_up(content: Any, dialect: Dialect) -> bool:
    """Tell whether quotes in turn open and close fields, those inside of a field doubled."""
    octets = np.frombuffer(content, dtype=np.uint8)
    quote = ord(dialect.quote)
    beside = np.zeros(256, dtype=bool)
    beside[[quote, *_ENDS, *dialect.delimiter.encode()]] = True
    before = 0
    for start in range(0, len(octets), _BLOCK):
        places = np.flatnonzero(octets[start : start + _BLOCK] == quote) + start
        closing = (np.arange(len(places)) + before) % 2 == 1
        before += len(places)
        opens, closes = places[~closing], places[closing]
        if not beside[_at(octets, opens - 1)].all() or not beside[_at(octets, closes + 1)].all():
            return False
    return before % 2 == 0


def _at(octets: Array, places: Array) -> Array:
    """Return the bytes at some places; the end of a line beyond either end."""
    inside = (places >= 0) & (places < len(octets))
    found = np.full(len(places), _ENDS[-1], dtype=np.uint8)
    found[inside] = octets[places[inside]]
    return found


def _go_through(content: bytes, source: str, dialect: Dialect) -> None:
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
        row = content.count(b"\n", 0, opened.start()) + 1
        shown = content[opened.start() : opened.start() + _SHOWN].splitlines()[0]
        text = shown.decode("utf-8", errors="replace")
        fact = f"the quotes that open at {text} are not closed"
        if at < len(content):
            closed = content.count(b"\n", 0, at) + 1
            fact = f"the quotes that open at {text} close in line {closed}, and text follows them"
        raise SourceError(source, fact, "Inside of quotes write a quote twice", row)
