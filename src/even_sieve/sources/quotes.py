"""Whether the quotes of a CSV file open and close (RFC 4180), told before it is parsed.

A parser takes a quote that is never closed for a cell that goes on to the end of the file, and
rows are lost without a word.
"""

from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np

from even_sieve.core.errors import SourceError
from even_sieve.core.table.lanes import Array
from even_sieve.sources.dialect import Dialect
from even_sieve.sources.octets import Octets, lines_in, whole_lines

_BLOCK, _AT_ONCE = 1 << 23, 2
_ENDS = b"\r\n"
_SHOWN = 40


def refuse_open_quotes(content: Octets, source: str, dialect: Dialect, above: int = 0) -> bool:
    """Raise `SourceError` for a quote that is not closed, or text after a closing one.

    The error names the line on which the quote opens; there are so many lines above. Most files
    are told good by the bytes beside their quotes, which is returned; where a quote stands as a
    letter (`5" pipe`), it is told which ones open and close.
    """
    paired = pair_up(content, dialect)
    if not paired and len(dialect.quote.encode()) == 1:
        refuse_by_lines(content, source, dialect, above)
    return paired


def pair_up(content: Octets, dialect: Dialect) -> bool:
    """Tell whether quotes in turn open and close fields, those inside of a field doubled."""
    if len(dialect.quote.encode()) != 1:
        return False
    quote, beside = ord(dialect.quote), _beside(dialect)
    beside[quote] = True

    def look(start: int, among: tuple[bool, ...] = (False, True)) -> tuple[int, bool | None]:
        """Return how many quotes a block has, and whether it begins inside of a field."""
        above = content[start - 1 : start] if start else _ENDS[-1:]
        some = content[start : start + _BLOCK + 1]
        octets = np.frombuffer(above + some + _ENDS[-1:], dtype=np.uint8)
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


def _beside(dialect: Dialect) -> Array:
    """Return which bytes part fields, bool, shape (256,)."""
    beside = np.zeros(256, dtype=bool)
    beside[[*_ENDS, *dialect.delimiter.encode()]] = True
    return beside


@dataclass(frozen=True)
class Marks:
    """The quotes among some lines that open or close a field, by turns; all others are letters.

    `inside` says that the last one is still open. `broken` is the place of one that closes where
    text follows, or None; of what stands after it nothing is told.
    """

    places: Array
    inside: bool
    broken: int | None

    @classmethod
    def of(cls, octets: Array, dialect: Dialect, inside: bool) -> "Marks":
        """Return those of whole lines, which begin inside of a field or outside.

        Quotes side by side are one run. Outside of a field a run that begins one opens it, and
        inside each two stand for a letter, so that one of odd length opens or closes, one of
        even length stays or opens and closes; a run that begins none leaves us outside.

        >>> lines = np.frombuffer(b'5",x\\n"a "" b",y\\n"",z\\n', dtype=np.uint8)
        >>> Marks.of(lines, Dialect(), False).places.tolist()
        [5, 12, 16, 17]
        """
        places, beside = np.flatnonzero(octets == ord(dialect.quote)), _beside(dialect)
        if not len(places):
            return cls(places, inside, None)
        firsts = np.flatnonzero(np.concatenate(([True], np.diff(places) > 1)))
        starts, odd = places[firsts], np.diff(np.append(firsts, len(places))) % 2 == 1
        ends = places[np.append(firsts[1:], len(places)) - 1]
        begins = beside[octets[starts - 1]] | (starts == 0)
        parted = beside[octets[np.minimum(ends + 1, len(octets) - 1)]] | (ends == len(octets) - 1)
        turned = np.cumsum(odd & begins) + inside
        letters = np.maximum.accumulate(np.where(odd & ~begins, turned, 0))
        after = (turned - letters) % 2 == 1
        before = np.concatenate(([inside], after[:-1]))
        opens, closes = ~before & begins, np.where(before, odd, begins & ~odd)
        broken = np.flatnonzero(closes & ~parted)
        if len(broken):
            opens, closes = opens[: broken[0] + 1], closes[: broken[0] + 1]
            starts, ends = starts[: broken[0] + 1], ends[: broken[0] + 1]
        found = np.sort(np.concatenate((starts[opens], ends[closes])))
        return cls(found, bool(after[-1]), int(ends[-1]) if len(broken) else None)


def refuse_by_lines(content: Octets, source: str, dialect: Dialect, above: int = 0) -> None:
    """Raise `SourceError` as `refuse_open_quotes` does, quotes as letters allowed for."""
    lines, inside, opened = above + 1, False, (0, 0)
    for start, some in whole_lines(content, len(content), _BLOCK):
        octets = np.frombuffer(some, dtype=np.uint8)
        marks = Marks.of(octets, dialect, inside)
        opens = marks.places[int(inside) :: 2]
        if len(opens):
            at = int(opens[-1])
            opened = start + at, lines + lines_in(some[:at])
        if marks.broken is not None:
            closed = lines + lines_in(some[: marks.broken])
            raise _open(content, source, opened, f"close in line {closed}, and text follows them")
        inside = marks.inside
        lines += lines_in(some)
    if inside:
        raise _open(content, source, opened, "are not closed")


def _open(content: Octets, source: str, opened: tuple[int, int], fact: str) -> SourceError:
    at, row = opened
    shown = content[at : at + _SHOWN].splitlines()[0].decode("utf-8", errors="replace")
    text = f"the quotes that open at {shown} {fact}"
    return SourceError(source, text, "Inside of quotes write a quote twice", row)
