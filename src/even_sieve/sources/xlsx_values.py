"""What the cells of sheets of ISO/IEC 29500 store: numbers, texts by their place, days counted."""

import re
from collections.abc import Mapping, Sequence, Set
from dataclasses import dataclass, field
from datetime import date, datetime, timedelta
from functools import cached_property

import numpy as np

from even_sieve.core.table.lanes import Array
from even_sieve.sources.made_cells import objects

_SECONDS = 86_400
#: A letter by its code, or by the two that UTF-16 has for it.
_LETTER = re.compile(
    "_x([Dd][89ABab][0-9A-Fa-f]{2})__x([Dd][C-Fc-f][0-9A-Fa-f]{2})_"
    "|_x((?![Dd][89A-Fa-f])[0-9A-Fa-f]{4})_"
)
_NO_DAY, _FIRST_YEAR = 60, 1900
_EPOCH_DAY = date(1970, 1, 1).toordinal()


@dataclass(frozen=True)
class Values:
    """What the cells of all sheets refer to: texts, and which styles show dates or lengths,
    and which a number as percent or in a currency.

    `epoch` is day 0 of the dates that are stored as numbers of days.
    """

    texts: Sequence[str]
    dates: Set[int]
    lengths: Set[int]
    epoch: datetime
    looks: Mapping[int, str] = field(default_factory=dict)

    @cached_property
    def shared(self) -> Array:
        """The cells that the texts are, an array of objects."""
        return objects([text.strip() or None for text in self.texts])


def spelt_out(text: str) -> str:
    """Return the text that a cell stores, which may spell letters by their codes (22.9.2.19).

    >>> spelt_out("a_x000A_b"), spelt_out("_x005F_x000A_"), spelt_out("_xD83D__xDEA2_")
    ('a\\nb', '_x000A_', '🚢')
    """
    if "_x" not in text:
        return text
    return _LETTER.sub(_letter, text)


def _letter(code: re.Match[str]) -> str:
    if code[3]:
        return chr(int(code[3], 16))
    return bytes.fromhex(code[1] + code[2]).decode("utf-16-be")


def number_of(text: str) -> int | float:
    """Return the number that a cell stores. Raises `ValueError`."""
    try:
        if text.isdigit():
            return int(text)
        return float(text) if "." in text or "E" in text or "e" in text else int(text)
    except ValueError:
        raise ValueError(f"'{text[:40]}' is no number") from None


def moment_of(number: float, epoch: datetime) -> date | str:
    """Return the day or moment that a number of days is, or the time of a day for less than one.

    To the millisecond, as the standard stores them (ISO/IEC 29500-1, 18.17.4). The dates that
    begin in 1900 count a 29 February 1900, which was none: the days before it stand one later.

    >>> moment_of(47853.5, datetime(1899, 12, 30)), moment_of(1, datetime(1899, 12, 30))
    (datetime.datetime(2031, 1, 5, 12, 0), datetime.date(1900, 1, 1))
    """
    day, part = divmod(number, 1)
    clock = round(part * _SECONDS * 1000)
    if 0 <= number < 1 and clock < _SECONDS * 1000:
        return str((datetime.min + timedelta(milliseconds=clock)).time())
    if 0 < number < _NO_DAY and epoch.year < _FIRST_YEAR:
        day += 1
    if clock in (0, _SECONDS * 1000):
        return date.fromordinal(epoch.toordinal() + int(day) + (clock > 0))
    return epoch + timedelta(days=day, milliseconds=clock)


def moments_of(numbers: Array, epoch: datetime) -> tuple[Array, Array]:
    """Return the same of many numbers (float64), and which of them it is known for, bool.

    Not known are days before March 1900 and beyond the calendar.

    >>> list(moments_of(np.array([47853.5, 47853.0]), datetime(1899, 12, 30))[0])
    [datetime.datetime(2031, 1, 5, 12, 0), datetime.date(2031, 1, 5)]
    """
    first = epoch.toordinal() - _EPOCH_DAY
    last = date.max.toordinal() - _EPOCH_DAY - first
    known = (numbers > _NO_DAY) & (numbers < last)
    held = np.where(known, numbers, _NO_DAY + 1)
    whole = np.floor(held)
    clock = np.rint((held - whole) * _SECONDS * 1000).astype(np.int64)
    over = clock == _SECONDS * 1000
    days = whole.astype(np.int64) + first + over
    found = np.empty(len(numbers), dtype=object)
    is_day = over | (clock == 0)
    found[is_day] = days[is_day].astype("datetime64[D]").tolist()
    times = (days[~is_day] * _SECONDS * 1000 + clock[~is_day]) * 1000
    found[~is_day] = times.astype("datetime64[us]").tolist()
    return found, known
