"""Axes of a breakdown: what puts each row of the table into one group.

    COLUMN                              a group for each value
    COLUMN by year | quarter | month | week | day      for each period of its dates
    COLUMN by weekday | month of year | hour           for each of these parts of them
    COLUMN in bands 0, 100, 500         below 0, from 0 to below 100, …, from 500 on
    COLUMN as Heron | B* | "Eider"      these labels in this order, and a rest

Cells that an axis has no group for (a text among dates) are groups of their own values.
"""

import re
from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal
from fractions import Fraction
from math import ceil

import numpy as np

from even_sieve.core.axes.calendar import BY_PERIOD, DATE_PARTS, UNITS
from even_sieve.core.axes.first_that_holds import FirstThatHolds
from even_sieve.core.axes.groups import (
    BandGroup,
    Group,
    LabelGroup,
    PeriodGroup,
    ValueGroup,
    ValueGroups,
    errors_together,
)
from even_sieve.core.cells import Cell, Kind, fold, read_number
from even_sieve.core.cells.dates import DAY, date_from_days
from even_sieve.core.cells.quoting import (
    for_example,
    is_quoted,
    match_unquoted,
    split_unquoted,
    unquoted,
)
from even_sieve.core.criteria import Criteria
from even_sieve.core.criteria.conditions import OneOf
from even_sieve.core.criteria.nodes import Condition
from even_sieve.core.criteria.operands import Period, read_letters
from even_sieve.core.criteria.settings import operand_of
from even_sieve.core.errors import CallError, UnknownColumn, closest, listed
from even_sieve.core.table import Column, Table
from even_sieve.core.table.arrays import pick
from even_sieve.core.table.distinct import Values, by_kind, numbered
from even_sieve.core.table.lanes import Array, DateLane, FixedLane, FloatLane, narrowest

_BANDS = re.compile(r"(.+?)\s+in\s+bands\s+(.+)\Z", re.IGNORECASE | re.DOTALL)
_LABELS = re.compile(r"(.+?)\s+as\s+(.+)\Z", re.IGNORECASE | re.DOTALL)
_OTHER_PARTS = re.compile(r"(.+?)\s+by\s+(.+)\Z", re.IGNORECASE | re.DOTALL)
_BLOCK = 1 << 16


@dataclass(frozen=True, eq=False)
class Axis:
    """A group for every row: `codes` (integers, shape (rows,)) into `groups`.

    `name` is the axis as it was written, `column` the column that it is about. `listed`
    says that the groups were given, so that those without rows are shown too; the last one
    is then the rest.
    """

    name: str
    column: str
    codes: Array
    groups: Sequence[Group]
    listed: bool = False

    @property
    def keys(self) -> Sequence[Cell]:
        """What each group is shown as."""
        groups = self.groups
        return groups.keys if isinstance(groups, ValueGroups) else [each.key for each in groups]


def axis_of(table: Table, text: str, *, apart: bool = False) -> Axis:
    """Return the axis that is written out. Raises `UnknownColumn`, `CallError`.

    Errors of one token are one group, or, `apart`, each its own beside periods and bands.
    """
    text = text.strip()
    if text not in table:
        for pattern, make in ((BY_PERIOD, _by_period), (_BANDS, _by_band), (_LABELS, _by_label)):
            found = match_unquoted(pattern, text)
            if found is not None and unquoted(found[0]) in table:
                return make(text, table, unquoted(found[0]), found[1], apart)
    try:
        return _by_value(table.column(text if text in table else unquoted(text)))
    except UnknownColumn as error:
        _refuse_other_parts(table, text)
        raise error.at("by") from None


def _refuse_other_parts(table: Table, text: str) -> None:
    """Raise `CallError` for a column by what is no period and no part of a date."""
    found = match_unquoted(_OTHER_PARTS, text)
    if found is not None and unquoted(found[0]) in table:
        known = [*UNITS, *DATE_PARTS]
        near = closest(found[1], known)
        hint = f"Did you mean {listed(near)}?" if near else f"Accepted are {', '.join(known)}"
        raise CallError(f"by '{text}': '{found[1]}' is no period and no part of a date\n{hint}")


def _by_value(column: Column) -> Axis:
    identity = column.identity
    keys, codes = errors_together(identity.keys, identity.codes, identity.values)
    if column.order:
        keys, codes = _in_order(column.order, keys, codes)
    return Axis(column.name, column.name, codes, ValueGroups(column.name, keys))


def _in_order(
    order: Sequence[Cell], keys: Sequence[Cell], codes: Array
) -> tuple[list[Cell], Array]:
    """Return keys as they were written down, others after them, and the codes for these."""
    place = {(type(key), key): position for position, key in enumerate(order)}
    last = len(order)
    sorting = sorted(range(len(keys)), key=lambda i: place.get((type(keys[i]), keys[i]), last))
    number = np.empty(len(keys), dtype=narrowest(len(keys) + 1))
    number[sorting] = np.arange(len(keys))
    return [keys[position] for position in sorting], pick(number, codes)


def _by_period(name: str, table: Table, column_name: str, unit: str, apart: bool) -> Axis:
    column, (number, start, label) = table.column(column_name), UNITS[unit.lower()]
    lane = refuse_no_dates(name, column)
    numbers = _numbers_of_days(lane, number)

    def group(found: int) -> Group:
        first, after = start(found), start(found + 1)
        period = Period(first * DAY, after * DAY, label(date_from_days(first)))
        return PeriodGroup(column.name, period)

    return _beside_others(name, column, Kind.DATE, Values((lane.values,), numbers), group, apart)


def _numbers_of_days(lane: DateLane, number: Callable[[Array], Array]) -> Callable[[Array], Array]:
    """Return what gives the number of each stored date; where days come again from a table."""
    unit = DAY if lane.has_time else 1
    first, last = (end // unit for end in lane.ends)

    def one_by_one(stored: Array) -> Array:
        return number((stored // unit).astype(np.int64))

    if last - first >= min(len(lane.values) // _AGAIN, _MOST_DAYS):
        return one_by_one
    table = number(np.arange(first, last + 1))

    def looked_up(stored: Array) -> Array:
        days = stored // unit if lane.has_time else stored
        found: Array = table[days - first]
        return found

    return looked_up


#: Days are put into a table where each comes so often, and there are not more.
_AGAIN, _MOST_DAYS = 4, 1 << 20


def refuse_no_dates(name: str, column: Column) -> DateLane:
    """Return the dates of a column. Raises `CallError` naming the axis if it holds none."""
    lane = column.lanes.get(Kind.DATE)
    if not isinstance(lane, DateLane):
        like = "" if column.date_like is None else "\nIts texts look like dates: see --date-order"
        fact = f"by '{name}': column '{column.name}' holds {column.words} and no date"
        raise CallError(f"{fact}{like}")
    return lane


def _beside_others(
    name: str,
    column: Column,
    kind: Kind,
    numbers: Values,
    group: Callable[[int], Group],
    apart: bool,
) -> Axis:
    """Return the axis of numbered groups of one kind, and of the values of other kinds.

    `numbers` gives the groups' numbers of the rows.
    """
    present, codes = numbered(replace(numbers, states=column.states, kind=kind))
    groups = [group(int(each)) for each in present]
    if column.states is None:
        return Axis(name, column.name, codes, tuple(groups))
    parts: list[tuple[int, Array, int]] = [(kind, codes, 0)]
    for other in (each for each in column.counts if each is not kind):
        keys, own = column.values_of(other)
        if other is Kind.ERROR and not apart:
            keys, own = errors_together(keys, own, 0)
        parts.append((other, own, len(groups)))
        groups += [ValueGroup(column.name, key) for key in keys]
    together = by_kind(column.states, narrowest(len(groups)), parts)
    return Axis(name, column.name, together, tuple(groups))


def _by_band(name: str, table: Table, column_name: str, text: str, apart: bool) -> Axis:
    column = table.column(column_name)
    ends = _ends(name, text, column)
    lane = column.lanes.get(Kind.NUMBER)
    if not isinstance(lane, FixedLane | FloatLane):
        raise CallError(f"by '{name}': column '{column.name}' holds {column.words} and no number")
    if isinstance(lane, FixedLane):
        unit = 10**lane.scale
        stored = [ceil(Fraction(end) * unit) for end in ends]
        most = 2**63 - 1
        edges: Array = np.array([max(-most, min(most, each)) for each in stored], dtype=np.int64)
    else:
        edges = np.array([float(end) for end in ends])

    def numbers(stored: Array) -> Array:
        return np.searchsorted(edges, stored, side="right")

    def group(number: int) -> Group:
        low = ends[number - 1] if number else None
        high = ends[number] if number < len(ends) else None
        return BandGroup(column.name, low, high)

    return _beside_others(name, column, Kind.NUMBER, Values((lane.values,), numbers), group, apart)


def _ends(name: str, text: str, column: Column) -> list[Decimal]:
    """Return the ends of bands, as the column's source writes numbers; `;` can stand between."""
    comma = column.conventions.decimal == ","
    parts = text.split(";") if ";" in text else re.split(r",\s+" if comma else ",", text)
    ends = []
    for part in map(str.strip, parts):
        number = column.conventions.number(part)
        number = read_number(part) if number is None else number
        ends += [] if number is None else [number]
    if len(ends) < len(parts) or not ends or sorted(set(ends)) != ends:
        raise CallError(
            f"by '{name}': the ends of bands are numbers that ascend\n"
            f"Write for example: {for_example([column.name], '')[0]} in bands 0, 100, 500"
        )
    return ends


def _by_label(name: str, table: Table, column_name: str, text: str, _apart: bool) -> Axis:
    column = table.column(column_name)
    labels = [part.strip() for part in split_unquoted(text, "|")]
    if not all(labels):
        (own,) = for_example([column.name], "")
        example = f"Write for example: {own} as B* | C*"
        raise CallError(f"by '{name}': a label is missing\n{example}")
    counts = Counter(map(fold, labels))
    twice = [label for label in labels[::-1] if counts[fold(label)] > 1]
    if twice:
        raise CallError(f"by '{name}': the label '{twice[0]}' stands there twice")
    tests = tuple(_label_test(column.name, label) for label in labels)
    keys = [*map(unquoted, labels), "rest"]
    groups = [LabelGroup(key, tests, position) for position, key in enumerate(keys)]
    return Axis(
        name,
        column.name,
        FirstThatHolds.of(table, tests).codes(table.length),
        tuple(groups),
        listed=True,
    )


def _label_test(name: str, label: str) -> Criteria:
    if is_quoted(label):
        operand = operand_of(unquoted(label))
        return Condition(name, OneOf((operand,) if operand is not None else ()))
    return Condition(name, OneOf((read_letters(label),)))
