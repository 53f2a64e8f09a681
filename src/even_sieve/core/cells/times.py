"""Texts that a person would take for times of the day or lengths of time."""

import re
from collections.abc import Iterable, Sequence
from decimal import Decimal

from even_sieve.core.cells.likeness import Likeness, Places, Searching, searched

_HALF = r"(?: ?([apAP])\.?[mM]\.?)?"
_SHAPE = rf"(?:(-?\d{{1,9}}) days?, )?(-?)(\d{{1,9}}):(\d\d)(?::(\d\d(?:[.,]\d{{1,9}})?))?{_HALF}"
#: The first tells no digits apart.
_LIKE = re.compile(_SHAPE, re.ASCII)
_LENGTH = re.compile(_SHAPE.replace(r"(\d\d", r"([0-5]\d"), re.ASCII)
#: The beginning of all of them, in the words of RE2.
_WIDE = r"^([0-9]{1,9} days?, -?)?[0-9]{1,9}:[0-9][0-9]"


def all_like_times(texts: Sequence[str]) -> Places:
    """Return the places of the texts that a person would take for times.

    >>> all_like_times(["9:30", "Berth 9", "09:30:15", "12:05 pm", "1:2"])
    [0, 2, 3]
    """
    if isinstance(texts, Searching):
        return searched(texts, Likeness.TIME, _WIDE, looks_like_time)
    return [at for at, text in enumerate(texts) if looks_like_time(text)]


def looks_like_time(text: str) -> bool:
    """Tell whether a person would take this text cell for a time, or a length of time."""
    return text[:1].isdecimal() and _LIKE.fullmatch(text) is not None


def out_of_order(texts: Iterable[str]) -> tuple[str, str] | None:
    """Return the first two of some times of which the later one comes first; None if none does.

    >>> out_of_order(["08:15", "13:30", "13:30:05"]), out_of_order(["10:30", "11:00", "9:30"])
    (None, ('11:00', '9:30'))
    """
    last: tuple[int | Decimal, str] | None = None
    for text in texts:
        time = seconds_said(text)
        if time is not None and last is not None and time < last[0]:
            return last[1], text
        last = last if time is None else (time, text)
    return None


def seconds_said(text: str) -> int | Decimal | None:
    """Return the seconds of a time of the day, or of a length of time; None for another text.

    >>> seconds_said("1:30"), seconds_said("1:30 pm"), seconds_said("-1 day, 23:59:59.5")
    (5400, 48600, Decimal('-0.5'))
    >>> seconds_said("-0:45:10"), seconds_said("90"), seconds_said("1:75")
    (-2710, None, None)
    """
    found = _LENGTH.fullmatch(text.strip())
    if found is None:
        return None
    days, minus, hours, minutes, seconds, half = found.groups()
    hour = int(hours) if half is None else int(hours) % 12 + 12 * (half in "pP")
    length = 60 * (60 * hour + int(minutes)) + Decimal((seconds or "0").replace(",", "."))
    length = 86_400 * int(days or 0) + (-length if minus else length)
    return int(length) if length == int(length) else length
