"""ISO dates and times, told by the bytes of all strings of a column at once."""

from dataclasses import dataclass
from datetime import date, datetime
from functools import cache
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from even_sieve.core.cells.dates import DAY, days_of, micros_of, spans_of_date
from even_sieve.core.table.arrays import spans
from even_sieve.core.table.distinct import once_each
from even_sieve.core.table.lanes import Array, DateLane
from even_sieve.sources.arrow_buffers import Bytes, cast_if_all, stored, take
from even_sieve.sources.ordered_dates import days_of_calendar
from even_sieve.sources.shaped import Shaped

_DATE = r"^[0-9]{4}-[0-9]{2}-[0-9]{2}([T ][0-9]{2}:[0-9]{2}(:[0-9]{2}(\.[0-9]{1,6})?)?)?$"
OFFSET_DATE = (
    r"^[0-9]{4}-[0-9]{2}-[0-9]{2}[T ][0-9]{2}:[0-9]{2}(:[0-9]{2}(\.[0-9]{1,6})?)?"
    r"(Z|[+-][0-9]{2}(:?[0-9]{2})?)$"
)
_LONGEST_OFFSET, _NO_SIGN = 6, "0123456789:."
_FIRST, _LAST = micros_of(datetime.min), micros_of(datetime.max)
#: What each byte of a date and time is at the least, and how far beyond it may be.
_LEAST = np.frombuffer(b"0000-00-00\x0000:00:00", dtype=np.uint8)
_BETWEEN, _TOGETHER = np.frombuffer(b"T ", dtype=np.uint8), 1 << 12
_BEYOND = np.select([ord("0") == _LEAST, _LEAST == 0], [9, 255], 0).astype(np.uint8)
DATE_LENGTHS = (10, 16, 19)
_MINUS, _DAY = ord("-"), len("2031-01-05")
#: How many digits the parts of a date and a time have, up to the second, and its decimals.
_WIDTHS, _MICROS = (4, 2, 2, 2, 2, 2), 6
_SIXTY, _END_OF_DAY, _SECOND = 60, 24, 1_000_000


def dates(some: Shaped) -> tuple[Array, DateLane | None]:
    """Return the places that hold ISO dates without offsets, and their lane; none if one is bad."""
    text = Bytes.of(some.strings)
    rows = np.flatnonzero(text.lengths >= DATE_LENGTHS[0])
    rows = rows[text.data[text.offsets[rows] + 4] == _MINUS]
    if not len(rows):
        return rows, None
    tokens = take(some.strings, rows)
    if not _all_shaped_like_dates(tokens):
        rows = some.matching(rows, _DATE)
        tokens = take(some.strings, rows)
    if not len(rows):
        return rows, None
    lane = _lane_of(tokens)
    return (rows[:0], None) if lane is None else (rows, lane)


def all_dates(tokens: Any) -> DateLane | None:
    """Return the lane of tokens that are all ISO dates of one length; None where they are not."""
    return _lane_of(tokens) if _all_shaped_like_dates(tokens) else None


def all_days(tokens: Any) -> DateLane | None:
    """Return the lane of tokens that are all ISO days; None for others.

    >>> from even_sieve.sources.arrow_buffers import strings_of
    >>> all_days(strings_of(["2031-01-05"])), all_days(strings_of(["2031-01-05", "2031-02-30"]))
    (DateLane(values=array([22284], dtype=int32), has_time=False), None)
    """
    lengths = Bytes.of(tokens).lengths
    if not len(lengths) or lengths.min() != _DAY or lengths.max() != _DAY:
        return None
    days = cast_if_all(tokens, pa.date32())
    if days is None:
        return None
    values = stored(days, np.int32)
    return None if values.min() < days_of(date.min) else DateLane(values, False)


def _lane_of(tokens: Any) -> DateLane | None:
    """Return the lane of what looks like ISO dates; None where no calendar has one."""
    stamps = cast_if_all(tokens, pa.timestamp("us"))
    if stamps is None:
        return None
    micros = stored(stamps, np.int64)
    return lane_of_moments(micros) if micros.min() >= _FIRST else None


def lane_of_moments(micros: Array) -> DateLane:
    """Return the lane of microseconds since 1970: of days where all are midnights.

    >>> lane_of_moments(np.array([86_400_000_000]))
    DateLane(values=array([1], dtype=int32), has_time=False)
    """
    if (micros % DAY).any():
        return DateLane(micros, True)
    return DateLane((micros // DAY).astype(np.int32), False)


def dates_with_offsets(tokens: Any) -> tuple[DateLane, set[int]] | None:
    """Return the lane of ISO times that all have an offset, in UTC, and the offsets in minutes.

    None if one is bad: they are read token by token.
    """
    named = np.flatnonzero(Bytes.of(tokens).ends()[1] != ord("Z"))
    others = take(tokens, named).cast(pa.binary())
    ends = pc.binary_slice(others, -_LONGEST_OFFSET).unique().to_pylist()
    offsets = {_minutes(each.decode().lstrip(_NO_SIGN)) for each in ends}
    offsets |= {0} if len(others) < len(tokens) else set()
    stamps = cast_if_all(tokens, pa.timestamp("us", "UTC"))
    if stamps is None:
        return None
    micros = stored(stamps, np.int64)
    known = {each for each in offsets if each is not None}
    if len(known) < len(offsets) or micros.min() < _FIRST or micros.max() > _LAST:
        return None
    return lane_of_moments(micros), known


def _minutes(offset: str) -> int | None:
    """Return an offset in minutes east of UTC, None for one that no clock has."""
    digits = offset[1:].replace(":", "")
    hours, minutes = int(digits[:2]), int(digits[2:] or 0)
    found = 60 * hours + minutes
    return None if hours > 23 or minutes > 59 else -found if offset[0] == "-" else found


def _all_shaped_like_dates(tokens: Any) -> bool:
    """Tell whether all tokens have one length and the shape of an ISO date of that length."""
    text = Bytes.of(tokens)
    length = int(text.offsets[1] - text.offsets[0])
    if length not in DATE_LENGTHS or (text.lengths != length).any():
        return False
    least, beyond = _shape_of(length)
    for rows in spans(len(text.used), len(least)):
        some = text.used[rows]
        if (some - least[: len(some)] > beyond[: len(some)]).any():  # what is less goes round
            return False
    between = text.used[DATE_LENGTHS[0] :: length] if length > DATE_LENGTHS[0] else _BETWEEN[:1]
    return bool(((between == _BETWEEN[0]) | (between == _BETWEEN[1])).all())


@cache
def _shape_of(length: int) -> tuple[Array, Array]:
    """Return what the bytes of many dates of a length are at the least, and may be beyond."""
    return np.tile(_LEAST[:length], _TOGETHER), np.tile(_BEYOND[:length], _TOGETHER)


@dataclass(frozen=True)
class Moments:
    """Dates and times that stand at these places: microseconds since 1970, in UTC.

    `offsets` are those of the times, in minutes, None for none; `cut` is the first of which
    digits beyond microseconds were left off.
    """

    places: Array
    micros: Array
    offsets: set[int | None]
    cut: str


def moments(some: Shaped) -> Moments | None:
    """Return the ISO dates and times of any form, each by its shape (`read_date`); None for none.

    >>> from even_sieve.sources.arrow_buffers import strings_of
    >>> tokens = ["2031-02-30", "1970-01-01 00:00:01,25", "19700102T0100 +0100", "1970-01-01T24"]
    >>> found = moments(Shaped(strings_of(tokens)))
    >>> found.places.tolist(), found.micros.tolist(), found.offsets == {None, 60}
    ([1, 2, 3], [1250000, 86400000000, 86400000000], True)
    """
    spans = [spans_of_date(shape) for shape in some.shapes or ()]
    if not any(spans):
        return None
    places = np.flatnonzero(np.array([each is not None for each in spans])[some.codes])
    own = some.take(places)
    shapes = own.shapes or []
    known = [spans_of_date(shape) or [] for shape in shapes]

    def part(number: int, width: int) -> Array:
        return own.numbers([_first(span[number], 0, width) for span in known])

    year, month, day, hour, minute, second = map(part, range(6), _WIDTHS)
    fraction = own.numbers([_first(span[6], 0, _MICROS) for span in known])
    offset, no_offset, no_clock = _offsets(own, shapes, known)
    clock = (hour * _SIXTY + minute) * _SIXTY + second
    time = clock * _SECOND + fraction
    days, good = days_of_calendar(year, month, day)
    good &= ~no_clock & (minute < _SIXTY) & (second < _SIXTY)
    good &= (time < DAY) | ((time == DAY) & (hour == _END_OF_DAY))
    micros = days * np.int64(DAY) + time - offset * (_SIXTY * _SECOND)
    good &= (micros >= _FIRST) & (micros <= _LAST)
    timed = np.array([span[3][0] >= 0 for span in known])[own.codes] & good
    offsets: set[int | None] = set(once_each(offset[timed & ~no_offset]).tolist())
    if (timed & no_offset).any():
        offsets.add(None)
    longest = max(span[6][1] - span[6][0] for span in known)
    cut = np.zeros(len(places), dtype=bool)
    for digit in range(_MICROS, longest):
        cut |= own.numbers([_first(span[6], digit, 1) for span in known]) > 0
    cut &= good
    first = own.strings[int(cut.argmax())].as_py() if cut.any() else ""
    return Moments(places[good], micros[good], offsets, first)


def _offsets(
    own: Shaped, shapes: list[str], known: list[list[tuple[int, int]]]
) -> tuple[Array, Array, Array]:
    """Return the minutes east of UTC, whether there are none, and whether no clock has them."""
    spans = [span[7] for span in known]
    signs = [
        shape[start] if start >= 0 else "" for shape, (start, _) in zip(shapes, spans, strict=True)
    ]
    digits = [(start + 1, stop) if stop - start > 1 else (-1, -1) for start, stop in spans]
    hours = own.numbers([_first(span, 0, 2) for span in digits])
    ends = [(stop - 2, stop) if stop - start > 2 else (-1, -1) for start, stop in digits]
    minutes = own.numbers([_first(span, 0, 2) for span in ends])
    sign = np.array([-1 if each == "-" else 1 for each in signs])[own.codes]
    none = np.array([not each for each in signs])[own.codes]
    return sign * (60 * hours + minutes), none, (hours >= _END_OF_DAY) | (minutes >= _SIXTY)


def _first(span: tuple[int, int], begin: int, count: int) -> list[int]:
    """Return so many places of a part from one on; -1 for those that it does not have."""
    start, stop = span
    return [at if start <= at < stop else -1 for at in range(start + begin, start + begin + count)]
