"""Columns worked out from numbers and blanks, thousands of rows at a time.

The result is, cell by cell, that of `expressions.work_out`. Rows with cells of other kinds, and
results that no few digits hold, are left to it.
"""

from collections.abc import Callable, Sequence
from typing import Any

import numpy as np

from even_sieve.core.cells import Cell, CellError, Kind
from even_sieve.core.cells.dates import DAY
from even_sieve.core.derive.expressions import (
    DIVISION_BY_ZERO,
    Apply,
    Expression,
    Literal,
    Name,
)
from even_sieve.core.derive.few_digits import decimals_of
from even_sieve.core.derive.fractions_at_once import Fractions, Whole, apply, largest, times
from even_sieve.core.progress import Steps
from even_sieve.core.table import Column
from even_sieve.core.table.arrays import holds, spans, zeros
from even_sieve.core.table.build import assemble
from even_sieve.core.table.coded_lanes import error_lane
from even_sieve.core.table.decimals import Decimals
from even_sieve.core.table.lanes import Array, DateLane, FixedLane, FloatLane, Lane

_BLOCK = 1 << 16
#: Whole numbers up to here are doubles.
_MOST_EXACT = 2**53
#: Doubles of so many decimals, or so many zeros before them, are worked with as fractions.
_MOST_PLACES = 60
#: Powers of ten up to this one are whole numbers of 64 bits.
_LARGEST_POWER = 18
#: What is worked out for rows that are left, by their positions.
OneByOne = Callable[[Array], Sequence[Cell]]


def worked_out_at_once(
    name: str, steps: Sequence[Expression], columns: dict[str, Column], one_by_one: OneByOne
) -> Column:
    """Return the column of an expression's results; `one_by_one` gives those of rows left over."""
    length = next(iter(columns.values())).length

    def results(rows: slice) -> tuple[Fractions, Array]:
        found: list[Fractions] = []
        parts = {each: _numbers(column, rows) for each, column in columns.items()}
        for step in steps:
            if isinstance(step, Literal):
                found.append(Fractions(step.value.numerator, step.value.denominator))
            elif isinstance(step, Name):
                found.append(parts[step.column][0])
            elif isinstance(step, Apply):
                given = found[-len(step.parts) :]
                del found[-len(step.parts) :]
                found.append(apply(step.what, given))
        return found[0], np.logical_or.reduce([own for _, own in parts.values()])

    return column_of_fractions(name, length, results, one_by_one)


def column_of_fractions(
    name: str,
    length: int,
    results: Callable[[slice], tuple[Fractions, Array]],
    one_by_one: OneByOne,
) -> Column:
    """Return the column of fractions that `results` gives of stretches of rows.

    With them it tells which rows are left to `one_by_one`.
    """
    numbers = Decimals.of(length)
    states = zeros(length, np.uint8)
    errors: dict[CellError, int] = {}
    codes = zeros(length, np.int32)  # of texts that are no numbers each is an error of its own
    told = Steps(f"working out {name}", length)
    for rows in spans(length, _BLOCK):
        told.took(rows.stop - rows.start)
        fractions, left = results(rows)
        left |= _put(numbers, states[rows], rows, fractions, left)
        wrong = np.flatnonzero((states[rows] == Kind.ERROR) & ~left)
        if len(wrong):
            codes[rows.start + wrong] = errors.setdefault(DIVISION_BY_ZERO, len(errors))
        places = np.flatnonzero(left) + rows.start
        if len(places):
            cells = one_by_one(places)
            _put_cells(numbers, states, codes, errors, places, cells)
    lanes: dict[Kind, Lane] = {}
    if holds(states, Kind.NUMBER):
        lanes[Kind.NUMBER] = numbers.lane()
    if errors:
        lanes[Kind.ERROR] = error_lane(list(errors), codes)
    return assemble(name, length, lanes, states)


def _numbers(column: Column, rows: slice) -> tuple[Fractions, Array]:
    """Return the numbers of some rows, and which of them hold what is none and no blank."""
    count = rows.stop - rows.start
    lane, states = column.lanes.get(Kind.NUMBER), _kinds(column, rows)
    blank, here = states == Kind.BLANK, states == Kind.NUMBER
    left = ~(here | blank)
    over: Array = np.zeros(count, dtype=np.int64)
    under: Whole = 1
    if isinstance(lane, FixedLane):
        over, under = lane.values[rows], 10**lane.scale
    elif isinstance(lane, FloatLane):
        over, places = (each[rows] for each in lane.decimals)
        left |= here & ((places < -_MOST_PLACES) | (places > _MOST_PLACES))
        places = np.where(here & ~left, places, 0).astype(np.int64)
        over = np.asarray(times(over, _powers_of_ten(-places)))
        under = _powers_of_ten(places)
    if blank.any() or left.any():
        over = np.where(here & ~left, over, 0)
    return Fractions(over, under, blank if blank.any() else None), left


def _kinds(column: Column, rows: slice) -> Array:
    """Return of what kind each cell of some rows is."""
    if column.states is None:
        return np.full(rows.stop - rows.start, column.only_kind, dtype=np.uint8)
    return column.states[rows]


def days_between(later: Column, earlier: Column, rows: slice) -> tuple[Fractions, Array]:
    """Return the days from one date to another on some rows.

    With them come the rows that hold what is no date and no blank.
    """
    (last, dated, blank), (first, known, lacking) = (
        _micros(each, rows) for each in (later, earlier)
    )
    blank |= dated & lacking
    here = dated & known
    return Fractions(np.where(here, last - first, 0), DAY, blank), ~(here | blank)


def _micros(column: Column, rows: slice) -> tuple[Array, Array, Array]:
    """Return the moments of some rows, which rows hold dates, and which are blank."""
    lane, states = column.lanes.get(Kind.DATE), _kinds(column, rows)
    micros: Array = np.zeros(len(states), dtype=np.int64)
    if isinstance(lane, DateLane):
        micros = lane.values[rows].astype(np.int64) * (1 if lane.has_time else DAY)
    return micros, states == Kind.DATE, states == Kind.BLANK


def _powers_of_ten(powers: Array) -> Whole:
    """Return powers of ten, 1 for negative ones."""
    powers = np.maximum(powers, 0)
    if not len(powers) or (powers == powers[0]).all():
        return 10 ** int(powers[0]) if len(powers) else 1
    ten = 10 if powers.max() <= _LARGEST_POWER else np.array(10, dtype=object)
    found: Array = ten**powers
    return found


def _put(numbers: Decimals, states: Array, rows: slice, found: Fractions, left_out: Array) -> Array:
    """Put results where they belong, but for rows that are left out; return which are left."""
    count = rows.stop - rows.start
    over, under = np.broadcast_to(found.over, count), found.under
    none = np.zeros(count, dtype=bool)
    for kind, mask in ((Kind.BLANK, found.blank), (Kind.ERROR, found.wrong)):
        if mask is not None:
            states[np.broadcast_to(mask, count)] = kind
            none |= mask
    none |= left_out
    if none.any():
        over = np.where(none, 0, over)
    exact, left = none.copy(), np.zeros(count, dtype=bool)
    for some, few, whole, places, unknown in decimals_of(over, under):
        exact[some], left[some] = few, unknown
        numbers.put(rows.start + some[few], whole[few], places[few])
    left |= _put_doubles(numbers, rows, over, under, ~(exact | left))
    return left & ~none


def _put_doubles(numbers: Decimals, rows: slice, over: Array, under: Whole, wanted: Array) -> Array:
    """Put the nearest doubles of results; return which have none."""
    left = np.zeros(len(over), dtype=bool)
    places = np.flatnonzero(wanted)
    if not len(places):
        return left
    above = over[places]
    below = np.broadcast_to(under, over.shape)[places]
    if largest(above) <= _MOST_EXACT and largest(below) <= _MOST_EXACT:
        doubles = above.astype(np.float64) / below.astype(np.float64)
    else:
        common = np.gcd(above, below)
        doubles = np.empty(len(places))
        pairs = zip((above // common).tolist(), (below // common).tolist(), strict=True)
        for at, (one, other) in enumerate(pairs):
            try:
                doubles[at] = one / other
            except OverflowError:
                doubles[at], left[places[at]] = 0.0, True
    numbers.put_doubles(rows.start + places, doubles)
    return left


def _put_cells(
    numbers: Decimals,
    states: Array,
    codes: Array,
    errors: dict[CellError, int],
    places: Array,
    cells: Sequence[Cell],
) -> None:
    """Put what was worked out one by one."""
    found: list[tuple[int, Any]] = []
    for place, cell in zip(places.tolist(), cells, strict=True):
        if isinstance(cell, CellError):
            states[place], codes[place] = Kind.ERROR, errors.setdefault(cell, len(errors))
        elif cell is None:
            states[place] = Kind.BLANK
        else:
            states[place] = Kind.NUMBER
            found.append((place, cell))
    numbers.put_cells(found)
