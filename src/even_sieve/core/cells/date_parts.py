"""Where the parts of a date stand in a text, and the date that they make."""

import re
from dataclasses import dataclass
from datetime import date, datetime

Span = tuple[int, int]
NOWHERE: Span = (-1, -1)
_NO_CLOCK = (NOWHERE, NOWHERE, NOWHERE, NOWHERE)
#: Between a time and the letters of its half of the day there may be one of these.
SPACES = " \u00a0\u202f"
_HALF_A_DAY = 12
#: A time, maybe with decimals of a second, maybe of one half of the day.
_CLOCK = (
    r"[T ,]+(\d{1,2})[:h.](\d{2})(?:[:.](\d{2})(?:[.,](\d{1,6}))?)?"
    rf"(?:[{SPACES}]?([AaPp])\.?[Mm]\.?)?"
)
_TIME = re.compile(rf"{_CLOCK}\Z", re.ASCII)
#: The same, for times that may be said to be in UTC.
_TIME_IN_UTC = re.compile(rf"{_CLOCK}(?: ?(?:UTC|GMT|Z))?\Z", re.ASCII)


@dataclass(frozen=True)
class DateParts:
    """Where year, month, day, hour, minute, second and its decimals stand in a text.

    What is not there stands at (-1, -1). `named` is the month that a name tells, `half` where
    the letter stands that tells the half of a day.
    """

    year: Span
    month: Span
    day: Span
    named: int = 0
    clock: tuple[Span, Span, Span, Span] = _NO_CLOCK
    half: Span = NOWHERE

    def read(self, text: str) -> date | None:
        """Return the date that such a text makes: None where it is in no calendar.

        >>> DateParts((6, 10), (3, 5), (0, 2)).read("05.01.2031")
        datetime.date(2031, 1, 5)
        """
        year, month, day = (int(text[slice(*part)] or 0) for part in self._of_day)
        try:
            if self.clock == _NO_CLOCK:
                return date(year, month or self.named, day)
            hour, minute, second = (int(text[slice(*part)] or 0) for part in self.clock[:3])
            micros = int(f"{text[slice(*self.clock[3])]:0<6}")
            letter = text[slice(*self.half)]
            if letter and not 1 <= hour <= _HALF_A_DAY:
                return None
            if letter:
                hour = hour % _HALF_A_DAY + _HALF_A_DAY * (letter in "pP")
            return datetime(year, month or self.named, day, hour, minute, second, micros)
        except ValueError:
            return None

    @property
    def _of_day(self) -> tuple[Span, Span, Span]:
        return self.year, self.month, self.day

    def with_clock(self, text: str, begin: int, in_utc: bool = False) -> "DateParts | None":
        """Return the parts with those of the time that follows from there; None where none does.

        Nothing may follow, too; the time may end in `UTC` where that is so.
        """
        if begin == len(text):
            return self
        found = (_TIME_IN_UTC if in_utc else _TIME).match(text, begin)
        if found is None:
            return None
        hour, minute, second, decimals = (found.span(part) for part in range(1, 5))
        clock = hour, minute, second, decimals
        return DateParts(*self._of_day, self.named, clock, found.span(5))
