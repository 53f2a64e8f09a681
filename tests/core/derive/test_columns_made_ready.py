"""Columns read as another kind, and the order of labels, weekdays and months on an axis."""

from datetime import date, datetime

import pytest

from even_sieve import CallError, table_from
from even_sieve.core.cells import CellError


def test_columns_are_read_as_another_kind():
    table = table_from({
        "fee": ["€ 1,250.00", "waived", None, "007", True],
        "day": ["20310105", 20310106, "2031-01-07T05:30", "soon", None],
        "tons": [1.5, 2, "x", None, date(2031, 1, 5)],
    })  # fmt: skip
    made = table.derive("a = number of fee", "b = date of day", "c = text of tons")
    assert list(made.column("a"))[:4] == [
        1250, CellError("no number", "'waived' in column 'fee' is no number"), None, 7
    ]  # fmt: skip
    assert made.column("a")[4].reason == "'yes' in column 'fee' is no number"
    assert list(made.column("b"))[:3] == [
        datetime(2031, 1, 5), datetime(2031, 1, 6), datetime(2031, 1, 7, 5, 30)
    ]  # fmt: skip
    assert list(made.column("c")) == ["1.5", "2", "x", None, "2031-01-05"]
    found = made.tally("sum of a")
    assert found[0].value == 1257
    assert any("2 cells of 'fee' cannot be read as a number" in each.text for each in found.notices)


def test_labels_stand_on_an_axis_as_they_were_written():
    table = table_from(
        {"tons": [5, 5000, 50], "arrived": [date(2031, 1, day) for day in (7, 5, 6)]}
    )
    ladder = "size = small if tons < 10, middling if tons < 1000, else big"
    found = table.derive(ladder, "band = tons in bands 10, 100", "day = weekday of arrived")
    assert [line.key[0] for line in found.tally("rows", by="size")] == ["small", "middling", "big"]
    bands = [line.key[0] for line in found.tally("rows", by="band")]
    assert bands == ["below 10", "10 to below 100", "100 and above"]
    assert [line.key[0] for line in found.sift().tally("rows", by="size")] == [
        "small", "middling", "big"
    ]  # fmt: skip
    assert [line.key[0] for line in found.tally("rows", by="day")] == [
        "Monday",
        "Tuesday",
        "Sunday",
    ]


def test_weekdays_and_months_of_the_year_are_axes():
    days = [date(2031, 4, 7), datetime(2031, 1, 5, 23), date(2030, 4, 8), None]
    table = table_from({"paid by": days, "zone": list("abca")})
    found = table.tally("rows", by="paid by by weekday")
    assert [line.key[0] for line in found] == ["Monday", "Sunday", None]
    assert [line.tallies[0].value for line in found] == [2, 1, 1]
    assert all("agrees" in each.words() for each in table.recheck(found))
    assert table.rows(found["Monday"][0]) == (1, 3)
    months = table.tally("rows", by="paid by by month of year", across="paid by by hour")
    assert [key for key, _ in (line.key for line in months)] == ["January", "April", None]
    with pytest.raises(CallError, match="column 'zone' holds text and no date"):
        table.tally("rows", by="zone by weekday")
