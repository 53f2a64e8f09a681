"""Texts that a person would take for times of the day or lengths of time."""

import re
from collections.abc import Iterable, Sequence

from even_sieve.core.cells.text import Searching, searched

_HALF = r"(?: ?([apAP])\.?[mM]\.?)?"
_TIME = re.compile(rf"(\d{{1,6}}):(\d\d)(?::(\d\d(?:[.,]\d+)?))?{_HALF}", re.ASCII)
#: The beginning of all of them, in the words of RE2.
_WIDE = r"^[0-9]{1,6}:[0-9][0-9]"


def all_like_times(texts: Sequence[str]) -> list[int]:
    """Return the places of the texts that a person would take for times.

    >>> all_like_times(["9:30", "Berth 9", "09:30:15", "12:05 pm", "1:2"])
    [0, 2, 3]
    """
    if isinstance(texts, Searching):
        return searched(texts, _WIDE, looks_like_time)
    return [at for at, text in enumerate(texts) if looks_like_time(text)]


def looks_like_time(text: str) -> bool:
    """Tell whether a person would take this text cell for a time, or a length of time."""
    return text[:1].isdecimal() and _TIME.fullmatch(text) is not None


def out_of_order(texts: Iterable[str]) -> tuple[str, str] | None:
    """Return the first two of some times of which the later one comes first; None if none does.

    >>> out_of_order(["08:15", "13:30", "13:30:05"]), out_of_order(["10:30", "11:00", "9:30"])
    (None, ('11:00', '9:30'))
    """
    last: tuple[tuple[int, float], str] | None = None
    for text in texts:
        time = _seconds(text)
        if last is not None and time < last[0]:
            return last[1], text
        last = time, text
    return None


def _seconds(text: str) -> tuple[int, float]:
    """Return a time as whole minutes and seconds."""
    found = _TIME.fullmatch(text)
    if found is None:
        raise ValueError(f"'{text}' is no time")
    hours, minutes, seconds, half = found.groups()
    hour = int(hours)
    if half is not None:
        hour = hour % 12 + 12 * (half in "pP")
    return 60 * hour + int(minutes), float((seconds or "0").replace(",", "."))
