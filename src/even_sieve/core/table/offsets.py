"""What is to be known of times: offsets from UTC, to which they are brought, and what is cut."""

from collections.abc import Iterable, Set
from datetime import datetime, timedelta

from even_sieve.core.cells import read_date
from even_sieve.core.cells.said import without_utc
from even_sieve.core.notices import Code, Notice

_MINUTE = timedelta(minutes=1)
#: Names under which times are in UTC already.
_UTC = ("UTC", "Etc/UTC", "Z", "+00:00", "utc")


def offset_notices(name: str, offsets: Set[int | None]) -> tuple[Notice, ...]:
    """Return what is to be told of a column whose times have these offsets, in minutes.

    None is that of times without one.

    >>> offset_notices("arrived", {0}), offset_notices("arrived", {60})[0].text
    ((), "column 'arrived': times with the offset +01:00 were brought to UTC, where some may fall \
on another day")
    """
    if len(offsets) < 2:
        (only,) = offsets or {None}
        return (offset_notice(name, offset_words(only)),) if only else ()
    shown = ", ".join(sorted(map(offset_words, offsets)))
    text = (
        f"column '{name}' mixes times with different offsets from UTC ({shown}); those "
        "with an offset were brought to UTC, those without were left as they are"
    )
    return (Notice(Code.MIXED_OFFSETS, text),)


def offset_notice(name: str, offset: str) -> Notice:
    """Return the notice on times that all have one offset: in UTC their day may be another."""
    text = (
        f"column '{name}': times with the offset {offset} were brought to UTC, where some may "
        "fall on another day"
    )
    return Notice(Code.OFFSET_TO_UTC, text)


def zone_notices(name: str, zone: str) -> tuple[Notice, ...]:
    """Return what is to be told of a column whose times have this zone, or offset.

    >>> zone_notices("arrived", "Etc/UTC"), len(zone_notices("arrived", "Europe/Oslo"))
    ((), 1)
    """
    return () if zone in _UTC else (offset_notice(name, zone),)


def cut_notices(name: str, example: str = "") -> tuple[Notice, ...]:
    """Return what is to be told of a column whose times had more decimals than are kept.

    >>> cut_notices("arrived")[0].text
    "column 'arrived': times with more than six decimals were cut to microseconds"
    """
    shown = f", such as {example}," if example else ""
    text = f"column '{name}': times with more than six decimals{shown} were cut to microseconds"
    return (Notice(Code.TIMES_CUT, text),)


def offset_words(minutes: int | None) -> str:
    """Return an offset as a person writes it."""
    if minutes is None:
        return "none"
    sign = "-" if minutes < 0 else "+"
    return f"{sign}{abs(minutes) // 60:02d}:{abs(minutes) % 60:02d}"


def offsets_in(cells: Iterable[object]) -> set[int | None]:
    """Return the offsets of the times among some cells, of texts that are ISO times too.

    >>> offsets_in(["2031-01-05T14:30+01:00", "2031-01-05 14:30 UTC", "soon"]) == {0, 60}
    True
    """
    found: set[int | None] = set()
    for cell in cells:
        if isinstance(cell, datetime) and cell == cell:  # a missing one is unlike itself
            east = cell.utcoffset()
            found.add(None if east is None else east // _MINUTE)
        elif isinstance(cell, str) and cell[:1].isdecimal():
            text = cell.strip()
            moment = read_date(without_utc(text))
            if moment is not None and moment.has_time:
                in_utc = moment.offset is None and text != without_utc(text)
                found.add(0 if in_utc else moment.offset)
    return found
