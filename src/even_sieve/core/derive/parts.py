"""What is of one column alone: parts of dates, texts in another case, cells of another kind."""

from collections.abc import Callable, Sequence
from dataclasses import replace
from datetime import date, datetime
from decimal import Decimal
from functools import partial
from typing import Any

import numpy as np

from even_sieve.core.cells import Cell, CellError, Kind, seconds_said
from even_sieve.core.cells.dates import DAY
from even_sieve.core.cells.said import as_text, date_said, number_said, told_of_counted
from even_sieve.core.notices import Code, Notice, counted
from even_sieve.core.table import Column, column_from_cells, column_from_codes
from even_sieve.core.table.arrays import pick, spans, zeros
from even_sieve.core.table.build import within_doubles
from even_sieve.core.table.distinct import count_codes
from even_sieve.core.table.far import column_of_codes
from even_sieve.core.table.far_arrays import worked_out
from even_sieve.core.table.lanes import Array, DateLane, narrowest
from even_sieve.core.table.offsets import offset_notices, offsets_in

_WEEKDAYS = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")
_MONTHS = (
    "January", "February", "March", "April", "May", "June", "July", "August", "September",
    "October", "November", "December",
)  # fmt: skip
_OF_DATE: dict[str, Callable[[date], Cell]] = {
    "year": lambda day: day.year,
    "quarter": lambda day: (day.month + 2) // 3,
    "month": lambda day: day.month,
    "month name": lambda day: _MONTHS[day.month - 1],
    "week": lambda day: day.isocalendar().week,
    "day": lambda day: day.day,
    "weekday": lambda day: _WEEKDAYS[day.weekday()],
    "hour": lambda day: day.hour if isinstance(day, datetime) else None,
}
_OF_TEXT: dict[str, Callable[[str], str]] = {
    "upper": str.upper,
    "lower": str.lower,
    "trimmed": lambda text: " ".join(text.split()),
}
_READ: dict[str, tuple[Callable[[Column, Cell], Cell], type | tuple[type, ...]]] = {
    "number": (
        lambda column, cell: within_doubles(number_said(cell, column.conventions.decimal)),
        (int, float, Decimal),
    ),
    "seconds": (
        lambda _, cell: seconds_said(cell) if isinstance(cell, str) else None,
        (int, Decimal),
    ),
    "date": (
        lambda column, cell: date_said(
            cell, column.conventions.date_order, column.conventions.day_zero
        ),
        date,
    ),
    "text": (lambda _, cell: as_text(cell) or None, str),
}
#: What a cell is no one of, where that has another name.
_CALLED = {"seconds": "length of time"}
#: What may stand before `of` and a column.
PARTS = (*_OF_DATE, *_OF_TEXT, *_READ)
#: The order in which parts stand on an axis, where it is not that of their values.
ORDERS: dict[str, tuple[Cell, ...]] = {"weekday": _WEEKDAYS, "month name": _MONTHS}
#: Cells that are of this kind already are what they would be read as.
_AS_THEY_ARE = {"number": Kind.NUMBER, "date": Kind.DATE}
_MOST_SHOWN = 3
_HOUR = DAY // 24


def part_of(name: str, what: str, column: Column) -> Column:
    """Return a part of each cell, or what it is read as; other cells are errors.

    Blanks stay blanks and errors errors; how many others cannot be read is told.
    """
    if what in _AS_THEY_ARE and {*column.counts} <= {_AS_THEY_ARE[what], Kind.BLANK, Kind.ERROR}:
        return replace(column, name=name, notices=(), trimmed=0, order=())
    if what in _OF_DATE:
        column = _coarser(column, _HOUR if what == "hour" else DAY)
    identity = column.spelt
    keys = list(identity.keys)
    cells = [_part(what, column, key) for key in keys]
    made = from_codes(name, cells, identity.codes)
    if what in _READ:
        lost = {place for place, (old, new) in enumerate(zip(keys, cells, strict=True))
                if isinstance(new, CellError) and old is not new}  # fmt: skip
        notices = _of_lost(name, what, column, keys, sorted(lost))
        if what == "date":
            read = [key for place, key in enumerate(keys) if place not in lost]
            notices = (*notices, *offset_notices(name, offsets_in(map(as_text, read))))
            counted = told_of_counted(read, column.conventions.day_zero)
            if counted:
                text = f"column '{name}': '{column.name}' holds {counted}"
                notices = (*notices, Notice(Code.READ_AS_SAID, text))
        made = replace(made, notices=notices)
    return replace(made, order=ORDERS.get(what, ()))


def _coarser(column: Column, unit: int) -> Column:
    """Return a column of dates with the hours, or the days, of its times: of which fewer differ."""
    lane = column.lanes.get(Kind.DATE)
    if not isinstance(lane, DateLane) or not lane.has_time:
        return column
    kind = np.dtype(np.int32 if unit == DAY else np.int64)
    begun = worked_out(partial(_begun, kind, unit), kind, lane.values)
    lanes = {**column.lanes, Kind.DATE: DateLane(begun, unit != DAY)}
    return replace(column, lanes=lanes)


def _begun(kind: np.dtype[Any], unit: int, times: Array) -> Array:
    """Return the days of times, or the times with which their hours begin."""
    found = zeros(len(times), kind)
    for rows in spans(len(times)):
        whole = times[rows] // unit
        found[rows] = whole if unit == DAY else whole * unit
    return found


def _part(what: str, column: Column, key: Cell) -> Cell:
    if key is None or isinstance(key, CellError):
        return key
    if what in _OF_TEXT and isinstance(key, str):
        return _OF_TEXT[what](key) or None
    if what in _OF_DATE and isinstance(key, date):
        return _OF_DATE[what](key)
    if what in _READ:
        read, kinds = _READ[what]
        found = read(column, key)
        if isinstance(found, kinds) and not isinstance(found, bool):
            return found
        if found is None and what == "text":
            return None
    if what in _OF_DATE:  # all alike: of an axis they are one line
        return CellError("no date", f"a cell of column '{column.name}' is no date")
    kind = _CALLED.get(what, what) if what in _READ else "text"
    return CellError(f"no {kind}", f"'{as_text(key)}' in column '{column.name}' is no {kind}")


def _of_lost(
    name: str, what: str, column: Column, keys: Sequence[Cell], lost: Sequence[int]
) -> tuple[Notice, ...]:
    """Return the notice on cells that cannot be read as what they are said to be."""
    left = int(count_codes(column.spelt.codes, len(keys))[list(lost)].sum()) if lost else 0
    if not left:
        return ()
    shown = ", ".join(f"'{as_text(keys[place])}'" for place in lost[:_MOST_SHOWN])
    more = f" and {len(lost) - _MOST_SHOWN:,} more" if len(lost) > _MOST_SHOWN else ""
    text = (
        f"column '{name}': {counted(left, 'cell')} of '{column.name}' cannot be read as a "
        f"{_CALLED.get(what, what)} "
        f"and {'is an error' if left == 1 else 'are errors'}: {shown}{more}"
    )
    return (Notice(Code.READ_AS_SAID, text, {"left": left}),)


def from_codes(name: str, cells: Sequence[Cell], codes: Array) -> Column:
    """Return a column from cells, equal ones among them, and the position of each row's."""
    if not len(codes):
        return column_from_cells(name, [])
    places: dict[object, int] = {}
    # A text is like no cell of another kind; yes is like the number 1.
    keys = (cell if isinstance(cell, str) else (type(cell), cell) for cell in cells)
    own = np.array([places.setdefault(key, len(places)) for key in keys])
    number = own.astype(narrowest(len(places)))
    first = np.flatnonzero(np.diff(np.maximum.accumulate(own), prepend=-1)).tolist()
    found = [cells[place] for place in first]
    return column_of_codes(pick(number, codes), partial(column_from_codes, name, found))
