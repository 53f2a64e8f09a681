"""Dates and times as ISO 8601 writes them."""

from datetime import datetime

import pytest

from even_sieve.core.cells.dates import datetime_from_micros, read_date


@pytest.mark.parametrize(
    ("token", "moment", "offset"),
    [
        ("2031-01-05T10:20:30,5", datetime(2031, 1, 5, 10, 20, 30, 500000), None),
        ("20310105T102030.25", datetime(2031, 1, 5, 10, 20, 30, 250000), None),
        ("20310105T10", datetime(2031, 1, 5, 10), None),
        ("2031-01-05T10", datetime(2031, 1, 5, 10), None),
        ("2031-01-05 10:20", datetime(2031, 1, 5, 10, 20), None),
        ("2031-12-31T24:00", datetime(2032, 1, 1), None),
        ("2031-01-05t10:20z", datetime(2031, 1, 5, 10, 20), 0),
        ("2031-01-05T10:20-0330", datetime(2031, 1, 5, 13, 50), -210),
        ("20310105T1020+01", datetime(2031, 1, 5, 9, 20), 60),
    ],
)
def test_times_are_read_in_every_form(token, moment, offset):
    found = read_date(token)
    assert (datetime_from_micros(found.micros), found.has_time, found.offset) == (
        moment,
        True,
        offset,
    )


@pytest.mark.parametrize(
    "token",
    [
        "20310105", "2031-01-05 10", "2031-01-05T24:01", "2031-01-05T10:60", "2031-01-05T25:00",
        "2031-02-29", "2031-01-05T1020", "9999-12-31T24:00", "0001-01-01T00:00+01:00",
        "2031-01-05T10:20+24:00", "2031-01-05T10:20:30." + "1" * 60, "२०३१-०१-०५",
    ],
)  # fmt: skip
def test_what_is_no_time_is_left(token):
    assert read_date(token) is None
