"""Columns worked out from numbers and blanks, thousands of rows at a time.

The result is, cell by cell, that of `expressions.work_out`. Rows with cells of other kinds, and
results that no few digits hold, are left to it.
"""

from collections.abc import Callable, Sequence
from typing import Any, TypeAlias

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
from even_sieve.core.derive.fractions_at_once import Fractions, Whole, apply, largest
from even_sieve.core.derive.operands import (
    decimals_of_rows,
    fractions_of,
    has_many_digits,
    kinds_of,
)
from even_sieve.core.derive.twofold import Known, twofold, worked_out
from even_sieve.core.progress import Steps
from even_sieve.core.table import Column
from even_sieve.core.table.arrays import holds, spans, zeros
from even_sieve.core.table.build import assemble
from even_sieve.core.table.coded_lanes import error_lane
from even_sieve.core.table.decimals import Decimals
from even_sieve.core.table.lanes import Array, DateLane, Lane, Rows

_BLOCK = 1 << 16
#: Whole numbers up to here are doubles.
_MOST_EXACT = 2**53
#: What is worked out for rows that are left, by their positions.
OneByOne = Callable[[Array], Sequence[Cell]]
#: What is known at once of some rows, which are blank, and which are left.
_Quick: TypeAlias = tuple[Known, Array, Array]


def worked_out_at_once(
    name: str, steps: Sequence[Expression], columns: dict[str, Column], one_by_one: OneByOne
) -> Column:
    """Return the column of an expression's results; `one_by_one` gives those of rows left over."""
    length = next(iter(columns.values())).length

    def results(rows: Rows) -> tuple[Fractions, Array]:
        found: list[Fractions] = []
        parts = {each: fractions_of(column, rows) for each, column in columns.items()}
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

    def quick(rows: slice) -> _Quick:
        found = {each: decimals_of_rows(column, rows) for each, column in columns.items()}
        numbers = {each: twofold(own.whole, own.places) for each, own in found.items()}
        blank = np.logical_or.reduce([own.blank for own in found.values()])
        left = np.logical_or.reduce([own.left for own in found.values()])
        return worked_out(steps, numbers), blank, left

    is_long = any(map(has_many_digits, columns.values()))
    return column_of_fractions(name, length, results, one_by_one, quick if is_long else None)


def column_of_fractions(
    name: str,
    length: int,
    results: Callable[[Rows], tuple[Fractions, Array]],
    one_by_one: OneByOne,
    quick: Callable[[slice], _Quick] | None = None,
) -> Column:
    """Return the column of fractions that `results` gives of rows.

    With them it tells which rows are left to `one_by_one`. `quick` gives what is known of results
    at once, and which rows are blank, and left: of the others `results` is asked.
    """
    numbers = Decimals.of(length)
    states = zeros(length, np.uint8)
    errors: dict[CellError, int] = {}
    codes = zeros(length, np.int32)  # of texts that are no numbers each is an error of its own
    told = Steps(f"working out {name}", length)
    for rows in spans(length, _BLOCK):
        told.took(rows.stop - rows.start)
        if quick is None:
            fractions, left = results(rows)
            left |= _put(numbers, states[rows], np.arange(rows.start, rows.stop), fractions, left)
        else:
            left = _put_known(numbers, states[rows], rows, quick(rows), results)
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
    lane, states = column.lanes.get(Kind.DATE), kinds_of(column, rows)
    micros: Array = np.zeros(len(states), dtype=np.int64)
    if isinstance(lane, DateLane):
        micros = lane.values[rows].astype(np.int64) * (1 if lane.has_time else DAY)
    return micros, states == Kind.DATE, states == Kind.BLANK


def _put_known(
    numbers: Decimals,
    states: Array,
    rows: slice,
    quick: _Quick,
    results: Callable[[Rows], tuple[Fractions, Array]],
) -> Array:
    """Put results that are known at once, and work out the others; return which are left."""
    known, blank, left = quick
    states[blank & ~left], states[known.wrong & ~(blank | left)] = Kind.BLANK, Kind.ERROR
    none = blank | left | known.wrong
    few, near = np.flatnonzero(known.few & ~none), np.flatnonzero(known.near & ~none)
    numbers.put(rows.start + few, known.whole[few], known.places[few])
    if len(near):
        numbers.put_doubles(rows.start + near, known.doubles[near])
    rest = ~(none | known.few | known.near)
    close = np.flatnonzero(rest & known.close)
    if len(close):  # the decimal of few digits, or none
        found, _ = results(rows.start + close)
        over, under = (np.broadcast_to(each, len(close)) for each in (found.over, found.under))
        tens = np.array(10, dtype=object) ** known.places[close]
        is_it = np.asarray(over * tens == known.whole[close].astype(object) * under, dtype=bool)
        own = close[is_it]
        numbers.put(rows.start + own, known.whole[own], known.places[own])
        _put_doubles(numbers, rows.start + close, over, under, ~is_it)
    others = np.flatnonzero(rest & ~known.close)
    if len(others):
        apart = np.zeros(len(others), dtype=np.uint8)
        found, _ = results(rows.start + others)
        nowhere = np.zeros(len(others), dtype=bool)
        left = left.copy()
        left[others] = _put(numbers, apart, rows.start + others, found, nowhere)
        states[others] = apart
    return left


def _put(numbers: Decimals, states: Array, at: Array, found: Fractions, left_out: Array) -> Array:
    """Put results at these rows, but for those that are left out; return which are left."""
    count = len(at)
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
        numbers.put(at[some[few]], whole[few], places[few])
    left |= _put_doubles(numbers, at, over, under, ~(exact | left))
    return left & ~none


def _put_doubles(numbers: Decimals, at: Array, over: Array, under: Whole, wanted: Array) -> Array:
    """Put the nearest doubles of results at wanted rows; return which have none."""
    left = np.zeros(len(over), dtype=bool)
    places = np.flatnonzero(wanted)
    if not len(places):
        return left
    above = over[places]
    below = np.broadcast_to(under, over.shape)[places]
    if below.dtype.kind == "u":  # one beyond 63 bits
        below = below.astype(object)
    if largest(above) <= _MOST_EXACT and largest(below) <= _MOST_EXACT:
        doubles = above.astype(np.float64) / below.astype(np.float64)
    else:
        common = np.gcd(above, below)
        doubles = np.empty(len(places))
        pairs = zip((above // common).tolist(), (below // common).tolist(), strict=True)
        for place, (one, other) in enumerate(pairs):
            try:
                doubles[place] = one / other
            except OverflowError:
                doubles[place], left[places[place]] = 0.0, True
    numbers.put_doubles(at[places], doubles)
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
