"""Dates with the names of months, and times of twelve hours: told, and read where that is said."""

from datetime import date, datetime

import pytest
from hypothesis import given
from hypothesis import strategies as st

from even_sieve import Code, read_table
from even_sieve.core.cells import all_like_dates, looks_like_date
from even_sieve.core.cells.said import date_said
from even_sieve.core.cells.written import DateOrder

FORMS = [
    "%d-%b-%Y", "%d %B %Y", "%d%b%Y", "%d/%b/%Y", "%d. %b %Y", "%B %d, %Y", "%b %d %Y", "%a, %d %b %Y",
    "%a %d %B %Y", "%Y年%m月%d日",
]  # fmt: skip
CLOCKS = ["", " %H:%M", " %H:%M:%S", " %I:%M %p", " %I:%M:%S%p", " %H:%M UTC", ", %H:%M"]


@given(
    st.datetimes(datetime(1000, 1, 1), datetime(9999, 12, 31)),
    st.sampled_from([*FORMS, "%Y-%m-%d"]),
    st.sampled_from(CLOCKS),
)
def test_what_is_written_is_read(moment, form, clock):
    if "%S" not in clock:
        moment = moment.replace(second=0)
    moment = moment.replace(microsecond=0)
    text = moment.strftime(form + clock).replace(f"-{moment.year}", f"-{moment.year:04}")
    assert date_said(text) == (moment if clock else moment.date())
    if form in FORMS:
        assert looks_like_date(text)
        assert all_like_dates(["Berth 1", text]) == [1]


@pytest.mark.parametrize(
    ("text", "order", "found"),
    [
        ("05/06/2031 02:30 PM", DateOrder.DAY_FIRST, datetime(2031, 6, 5, 14, 30)),
        ("12/31/2031 12:05 am", DateOrder.MONTH_FIRST, datetime(2031, 12, 31, 0, 5)),
        ("2031-05-06T10:00:00 GMT", None, datetime(2031, 5, 6, 10)),
        ("1st March 2031", None, date(2031, 3, 1)),
        ("31-Jun-2031", None, "31-Jun-2031"),
        ("5-Mai-2031", None, "5-Mai-2031"),
        ("05-May-2031 13:00 PM", None, "05-May-2031 13:00 PM"),
        ("05-May-2031 25:00", None, "05-May-2031 25:00"),
        ("05-May-2031 soon", None, "05-May-2031 soon"),
        ("Marina 2031", None, "Marina 2031"),
    ],
)
def test_what_is_said_to_be_a_date(text, order, found):
    assert date_said(text, order) == found


@pytest.mark.parametrize(
    "text", ["Marina 2031", "Maybe 12", "Julia 1204", "12 kr", "Sunrise", "May"]
)
def test_what_is_no_date_does_not_look_like_one(text):
    assert not looks_like_date(text)


def test_a_day_that_no_calendar_has_is_told(tmp_path):
    path = tmp_path / "calls.csv"
    path.write_text("paid\n2031-02-30\n2031-02-28\n")
    (told,) = read_table(path).tally("max of paid").notices
    assert "1 cell such as '2031-02-30' looks like a date but is in no calendar" in told.text


def test_what_looks_like_dates_says_how_it_is_read(tmp_path):
    path = tmp_path / "calls.csv"
    path.write_text("paid,left\n05-May-2031,05/06/2031\nJune 7 2031,13/06/2031\n")
    told = [n.text for n in read_table(path).tally("rows", "max of paid", "max of left").notices]
    assert [text.rpartition(": see ")[2] for text in told] == [
        "--as-date paid",
        "--as-date left --date-order",
    ]
    read = read_table(path, as_date="paid", date_order="day-month-year")
    assert read.tally("max of paid")[0].value == date(2031, 6, 7)
    assert not any(n.code is Code.TEXT_LIKE_DATES for n in read.tally("max of left").notices)
