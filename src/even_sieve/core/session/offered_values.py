"""The values of a column with their counts, and the periods that its dates fall into.

Of a column of few different values all are known; of one of many, texts alone are offered, and
looked up when a part of one is typed.
"""

import re
import unicodedata
from collections import Counter
from collections.abc import Iterator
from datetime import date
from functools import cached_property

import numpy as np

from even_sieve.core.cells import Cell, CellError, Kind, fold
from even_sieve.core.criteria import operand_of
from even_sieve.core.criteria.conditions import OneOf
from even_sieve.core.criteria.nodes import Condition
from even_sieve.core.criteria.writing import write_cell
from even_sieve.core.errors import SieveError
from even_sieve.core.table import Column
from even_sieve.core.table.distinct import once_each
from even_sieve.core.table.lanes import Array, DateLane, TextLane

#: A text to offer, what is told of it, and in how many rows it stands, if that is known.
Offer = tuple[str, str, int | None]

BLANK = "is blank"
#: A column has many different values from here on: told of a text at once, else of a sample.
_MANY, _SAMPLE = 5_000, 20_000
#: Below it a double that is whole is shown as a whole number.
_EXACT = 2**53
_A_DAY = 86_400_000_000


def plain(text: str) -> str:
    """Return a text without case and accents."""
    apart = unicodedata.normalize("NFKD", text)
    return fold("".join(char for char in apart if not unicodedata.combining(char)))


class OfferedValues:
    """The different values of a column in the rows in play (positions from 0; None for all)."""

    def __init__(self, column: Column, in_play: Array | None) -> None:
        self._column, self._in_play = column, in_play

    def values(self, begun: str, most: int) -> list[Offer]:
        """Return so many values that hold what is begun, those that begin so first.

        The most frequent ones stand before the others. Accents and case do not matter, but of a
        column of many different values accents do.
        """
        sought = plain(begun).lstrip('"')
        if self._has_many:
            return list(self._among_many(begun.lstrip('"'), most))
        held = [each for each in self._few if sought in each[1]]
        held = [each for each in held if each[0] is not None or each[1].startswith(sought)]
        held.sort(key=lambda each: not each[1].startswith(sought))
        written = ((_cell(value), count) for value, _, count in held[:most])
        return [(text, "", count) for text, count in written if text is not None]

    def periods(self, begun: str) -> Iterator[Offer]:
        """Yield the years, quarters and months of its dates that begin as is typed."""
        sought = begun.upper()
        for text, about, count in self._periods:
            if text.startswith(sought):
                yield text, about, count

    @cached_property
    def _has_many(self) -> bool:
        for lane in self._column.lanes.values():
            if isinstance(lane, TextLane):
                if len(lane.spellings) > _MANY:
                    return True
            elif self._column.length > _MANY:
                step = max(1, self._column.length // _SAMPLE)
                if len(once_each(lane.values[::step])) > _MANY:
                    return True
        return False

    @cached_property
    def _few(self) -> list[tuple[Cell, str, int]]:
        """Each value, as it is sought, and its count."""
        identity = self._column.identity
        codes = identity.codes if self._in_play is None else identity.codes[self._in_play]
        counts = np.bincount(codes, minlength=len(identity.keys))
        order = np.argsort(-counts, kind="stable")[: np.count_nonzero(counts)].tolist()
        pairs = ((identity.keys[place], int(counts[place])) for place in order)
        return [(v, _sought(v), n) for v, n in pairs if not isinstance(v, CellError)]

    def _of_kind(self, kind: Kind) -> Array | None:
        """Return the rows in play that hold a kind, as positions; None for all rows."""
        states = self._column.states
        if states is None:
            return self._in_play
        if self._in_play is None:
            return np.flatnonzero(states == kind)
        found: Array = self._in_play[states[self._in_play] == kind]
        return found

    @cached_property
    def _text_counts(self) -> Array:
        """How many rows in play hold each spelling."""
        lane = self._column.lanes[Kind.TEXT]
        rows = self._of_kind(Kind.TEXT)
        codes = lane.values if rows is None else lane.values[rows]
        found: Array = np.bincount(codes, minlength=len(getattr(lane, "spellings", ())))
        return found

    def _among_many(self, begun: str, most: int) -> Iterator[Offer]:
        lane = self._column.lanes.get(Kind.TEXT)
        if not isinstance(lane, TextLane):
            return
        counts = self._text_counts
        low, high = lane.range_beginning(fold(begun)) if begun else (0, len(counts))
        codes = low + _largest(counts[low:high], most)
        search = getattr(lane.folded, "search", None)
        if search is not None and begun and len(codes) < most:
            inside = search(re.escape(fold(begun)))
            inside = inside[(inside < low) | (inside >= high)]
            codes = np.concatenate((codes, inside[_largest(counts[inside], most - len(codes))]))
        for code in codes.tolist():
            text = _cell(lane.spellings[code])
            if text is not None and counts[code]:
                yield text, "", int(counts[code])

    @cached_property
    def _periods(self) -> list[Offer]:
        lane = self._column.lanes.get(Kind.DATE)
        if self._column.leading is not Kind.DATE or not isinstance(lane, DateLane):
            return []
        rows = self._of_kind(Kind.DATE)
        stored = lane.values if rows is None else lane.values[rows]
        days, counts = _counted(stored // _A_DAY if lane.has_time else stored)
        months = days.astype("M8[D]").astype("M8[M]").astype(np.int64)
        found: Counter[tuple[int, str]] = Counter()
        for month, count in zip(months.tolist(), counts.tolist(), strict=True):
            year, number = 1970 + month // 12, month % 12
            found[0, f"{year:04}"] += count
            found[1, f"{year:04}-Q{number // 3 + 1}"] += count
            found[2, f"{year:04}-{number + 1:02}"] += count
        about = "the year", "the quarter", "the month"
        return [(text, about[kind], count) for (kind, text), count in sorted(found.items())]


def _largest(counts: Array, most: int) -> Array:
    """Return the places of the largest counts, those first; the earlier of equal ones."""
    if len(counts) > most:
        least = np.partition(counts, len(counts) - most)[len(counts) - most]
        above, equal = np.flatnonzero(counts > least), np.flatnonzero(counts == least)
        places = np.concatenate((above, equal[: most - len(above)]))
    else:
        places = np.arange(len(counts))
    found: Array = places[np.argsort(-counts[places], kind="stable")]
    return found


def _counted(days: Array) -> tuple[Array, Array]:
    """Return the different days, and how many rows have each."""
    if not len(days):
        return days, days
    least, most = int(days.min()), int(days.max())
    if most - least > len(days):
        found, counts = np.unique(days, return_counts=True)
        return found, counts
    counts = np.bincount(days - least)
    held = np.flatnonzero(counts)
    return held + least, counts[held]


def _sought(value: Cell) -> str:
    if value is None:
        return BLANK
    if isinstance(value, bool):
        return "yes" if value else "no"
    return plain(value.isoformat() if isinstance(value, date) else str(value))


def _cell(value: Cell) -> str | None:
    """Return a value as a cell of a criteria range says it; None for what no cell can."""
    if isinstance(value, CellError):
        return None
    if value is None:
        return BLANK
    if isinstance(value, float) and value.is_integer() and abs(value) < _EXACT:
        value = int(value)
    try:
        operand = operand_of(value)
        return None if operand is None else write_cell(Condition("x", OneOf((operand,))))
    except (SieveError, ValueError):
        return None
