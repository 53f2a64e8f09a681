"""The calendar at its ends: an open end of 9999-12-31, and year 1."""

from datetime import date

import pytest

from even_sieve import table_from
from even_sieve.core.errors import CallError

CALLS = table_from(
    {"open": [date(9999, 12, 31), date(1, 1, 1), date(2031, 5, 5)], "dues": [1, 2, 4]}
)
LAST = {
    "year": "9999",
    "quarter": "9999-Q4",
    "month": "9999-12",
    "week": "9999-W52",
    "day": "9999-12-31",
}


@pytest.mark.parametrize("unit", LAST)
def test_every_axis_of_periods_has_both_ends(unit):
    found = CALLS.tally("sum of dues", "change of rows", by=f"open by {unit}")
    assert [line.tallies[0].value for line in found] == [2, 4, 1]
    assert found.lines[-1].key == (LAST[unit],)
    assert len(CALLS.recheck(found)) > 4
    assert found.lines[0].tallies[1].value is None


WITHIN = [
    ("open in last 9999 years", 2, {}), ("open in next 9999 years", 1, {}), ("open in FY0001", 1, {"fiscal_start": 7}),
    ("open in FY9999-Q4", 1, {}), ("open in 0001", 1, {}), ("open in this year", 1, {"as_of": date(9999, 12, 31)}),
    ("open in this week", 1, {"as_of": date(1, 1, 2)}), ("open in week to date", 1, {"as_of": date(9999, 12, 31)}),
]  # fmt: skip


@pytest.mark.parametrize(("where", "rows", "settings"), WITHIN)
def test_windows_reach_as_far_as_the_calendar(where, rows, settings):
    settings = {"as_of": date(2031, 6, 1), **settings}
    if where == "open in 0001":
        where = "open in 0001-01..0001-12"
    assert CALLS.tally("rows", where=where, **settings)[0].value == rows


@pytest.mark.parametrize(("where", "as_of"), [("open in next month", date(9999, 12, 31)), ("open = yesterday", date(1, 1, 1)),
                                              ("open in next week", date(9999, 12, 31))])  # fmt: skip
def test_a_period_outside_of_the_calendar_is_refused(where, as_of):
    with pytest.raises(
        CallError, match="lies outside of the calendar\nIt goes from year 1 to 9999"
    ):
        CALLS.tally("rows", where=where, as_of=as_of)
