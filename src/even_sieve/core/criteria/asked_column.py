"""One column as one condition asks it: what values mean to it, and what is refused."""

from collections.abc import Callable
from dataclasses import dataclass

from even_sieve.core.cells import Kind, looks_like_date
from even_sieve.core.cells.named_dates import read_named_date, read_named_month
from even_sieve.core.cells.written import DateOrder, read_ordered_date, read_written_number
from even_sieve.core.criteria.blocks import Probe
from even_sieve.core.criteria.column_comparison import PAIRS
from even_sieve.core.criteria.meant import meant
from even_sieve.core.criteria.notes import Remarks
from even_sieve.core.criteria.operands import (
    Number,
    Operand,
    Period,
    Text,
    WindowEnd,
    suited,
)
from even_sieve.core.criteria.probes import Constant, any_probe, of_kind
from even_sieve.core.criteria.seeming import period_meant
from even_sieve.core.errors import CallError
from even_sieve.core.table import Column


@dataclass(frozen=True)
class AskedColumn:
    """A column that a condition asks.

    `place` names the condition for errors, `named` finds another column of the table.
    """

    column: Column
    remarks: Remarks
    place: Callable[[], str]
    named: Callable[[str], Column]

    def column_probe(self, kind: Kind, probe: Probe) -> Probe:
        """Return the probe restricted to the rows whose cell is of the kind."""
        return of_kind(self.column, kind, probe)

    def nothing(self, kind: Kind, value: Operand) -> Probe:
        """Remark that the column holds none of the kind, and return the probe of no row."""
        self.remarks.wrong_kind(kind, value)
        return Constant(False)

    def suited(self, value: Operand) -> Operand:
        """Return the value as the column takes it; a remark is made where it could mean two."""
        found = suited(value, self.column)
        if isinstance(value, Number) and isinstance(found, Number) and value != found:
            self.remarks.read_two_ways(value, found)
        return found

    def end(self, end: WindowEnd) -> Number | Period | None:
        """Return an end of a window as the column takes it, None for an open one."""
        value = self.suited(end) if isinstance(end, Number | Text) else end
        if isinstance(value, Text):
            self.refuse_unordered(value, certainly=True)
        return value if isinstance(value, Number | Period) else None

    def refuse_unordered(self, value: Text, *, certainly: bool = False) -> None:
        """Raise `CallError` for an order to a text where the column holds numbers or dates."""
        counts = self.column.counts
        ordered = counts.get(Kind.NUMBER, 0) + counts.get(Kind.DATE, 0)
        if certainly or (ordered and ordered >= counts.get(Kind.TEXT, 0)):
            raise CallError(
                f"{self.place()}: '{value.text}' is no number and no date, and column "
                f"'{self.column.name}' holds {self.column.words}\n"
                f"{_nearest_reading(value.text, self.column)}"
            )

    def refuse_no_period(self, value: Text) -> None:
        """Raise `CallError` for a bare text that seems a date, asked of a column of dates."""
        counts = self.column.counts
        dates = counts.get(Kind.DATE, 0) > counts.get(Kind.TEXT, 0)
        if not (value.bare and dates):
            return
        if (
            looks_like_date(value.text)
            or period_meant(value.text)
            or meant(value.text, self.column)
        ):
            self.refuse_unordered(value, certainly=True)

    def pairwise(self, name: str, comparison: str) -> Probe:
        """Return the probe that compares with another column, for each kind that both hold."""
        column, other = self.column, self.named(name)
        probes: list[Probe] = []
        for kind in (Kind.NUMBER, Kind.DATE, Kind.TEXT, Kind.YES_NO):
            left, right = column.lanes.get(kind), other.lanes.get(kind)
            if left is not None and right is not None:
                pair = PAIRS[kind](comparison, left, right)
                probes.append(of_kind(other, kind, of_kind(column, kind, pair)))
        if not probes:
            self.remarks.no_common_kind(other)
        return any_probe(tuple(probes))


def _nearest_reading(text: str, column: Column) -> str:
    """Return what a person may have meant by a text where a number or a date is wanted."""
    other = meant(text, column)
    if other:
        return other[0].upper() + other[1:]
    if Kind.NUMBER in column.counts:
        for mark in (".", ","):
            number = read_written_number(text, mark)
            if number is not None:
                return f"A number is written {number:f}"
    if Kind.DATE in column.counts:
        orders = (read_ordered_date(text, order) for order in DateOrder)
        found = {*orders, read_named_date(text)} - {None}
        if found:
            days = " or ".join(sorted(str(day) for day in found))
            return f"A date is written {days}"
        period = read_named_month(text)
        if looks_like_date(text) and not period:
            return "The calendar has no such day"
        period = period or period_meant(text)
        if period:
            return f"A period is written {period}"
    return "Write a number or a date; for another column write @ before its name"
