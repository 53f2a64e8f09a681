"""Periods: what each name means, as days."""

from datetime import date, datetime, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from even_sieve.core.criteria.operands import NamedPeriod
from even_sieve.core.criteria.operands.period_names import (
    Calendar,
    read_period,
    read_year,
    resolve_period,
)

EPOCH = datetime(1970, 1, 1)
WEDNESDAY = date(2031, 5, 14)

# The text, its first day and its last one.
FIXED = [
    ("2031-05-14", "2031-05-14", "2031-05-14"),
    ("2031-02", "2031-02-01", "2031-02-28"),
    ("2032-02", "2032-02-01", "2032-02-29"),
    ("2031-12", "2031-12-01", "2031-12-31"),
    ("2031-Q1", "2031-01-01", "2031-03-31"),
    ("2031-q4", "2031-10-01", "2031-12-31"),
    ("2031Q2", "2031-04-01", "2031-06-30"),
    ("2031-W01", "2030-12-30", "2031-01-05"),
    ("2032-W53", "2032-12-27", "2033-01-02"),
    ("2031W07", "2031-02-10", "2031-02-16"),
    ("9999-12", "9999-12-01", "9999-12-31"),
]
# The name on Wednesday 14 May 2031, its first day and its last one.
NAMED = [
    ("today", "2031-05-14", "2031-05-14"),
    ("yesterday", "2031-05-13", "2031-05-13"),
    ("tomorrow", "2031-05-15", "2031-05-15"),
    ("this week", "2031-05-12", "2031-05-18"),
    ("previous week", "2031-05-05", "2031-05-11"),
    ("next week", "2031-05-19", "2031-05-25"),
    ("this month", "2031-05-01", "2031-05-31"),
    ("previous month", "2031-04-01", "2031-04-30"),
    ("next month", "2031-06-01", "2031-06-30"),
    ("this quarter", "2031-04-01", "2031-06-30"),
    ("previous quarter", "2031-01-01", "2031-03-31"),
    ("this year", "2031-01-01", "2031-12-31"),
    ("previous year", "2030-01-01", "2030-12-31"),
    ("week to date", "2031-05-12", "2031-05-14"),
    ("month to date", "2031-05-01", "2031-05-14"),
    ("year to date", "2031-01-01", "2031-05-14"),
    ("last 1 day", "2031-05-14", "2031-05-14"),
    ("last 30 days", "2031-04-15", "2031-05-14"),
    ("last 2 weeks", "2031-05-01", "2031-05-14"),
    ("last 3 months", "2031-02-15", "2031-05-14"),
    ("last 1 year", "2030-05-15", "2031-05-14"),
    ("next 7 days", "2031-05-15", "2031-05-21"),
    ("next 1 quarter", "2031-05-15", "2031-08-14"),
]
# The name where the fiscal year begins in October.
FISCAL = [
    ("FY2031", "2030-10-01", "2031-09-30"),
    ("FY2031-Q1", "2030-10-01", "2030-12-31"),
    ("fy 2031q4", "2031-07-01", "2031-09-30"),
    ("this fiscal year", "2030-10-01", "2031-09-30"),
    ("previous fiscal year", "2029-10-01", "2030-09-30"),
    ("this fiscal quarter", "2031-04-01", "2031-06-30"),
    ("fiscal year to date", "2030-10-01", "2031-05-14"),
]
NOT_PERIODS = [
    "2031-13", "2031-Q5", "2031-W54", "2031-W00", "2031-02-30", "2031", "soon", "last days",
    "previous", "this decade", "2031-1", "31-01-2031", "month", "FY31", "",
]  # fmt: skip


def days(period):
    first = EPOCH + timedelta(microseconds=period.start)
    last = EPOCH + timedelta(microseconds=period.end - 1)
    return first.date().isoformat(), last.date().isoformat()


@pytest.mark.parametrize(("text", "first", "last"), FIXED)
def test_a_calendar_name_is_a_span_of_days(text, first, last):
    if text.startswith("9999"):
        assert read_period(text).start < read_period(text).end
    else:
        assert days(read_period(text)) == (first, last)


@pytest.mark.parametrize(("name", "first", "last"), NAMED)
def test_a_named_period_hangs_on_the_as_of_date(name, first, last):
    assert days(resolve_period(read_period(name), Calendar(WEDNESDAY))) == (first, last)


@pytest.mark.parametrize(("name", "first", "last"), FISCAL)
def test_a_fiscal_period_hangs_on_the_first_month_of_the_fiscal_year(name, first, last):
    assert days(resolve_period(read_period(name), Calendar(WEDNESDAY, 10))) == (first, last)


@pytest.mark.parametrize("text", NOT_PERIODS)
def test_what_is_no_period_is_not_read_as_one(text):
    assert read_period(text) is None


def test_a_fiscal_year_from_january_is_the_calendar_year():
    span = resolve_period(NamedPeriod("FY2031"), Calendar(WEDNESDAY))
    assert span == read_year("2031")


def test_a_moment_is_one_microsecond_and_an_offset_is_taken_off():
    moment = read_period("2031-01-05T12:00+02:00")
    assert moment.end - moment.start == 1
    assert moment == read_period("2031-01-05 10:00")
    assert read_period("2031-01-05T10:00:00.5").start == moment.start + 500_000


def test_months_back_from_the_end_of_a_long_month_stop_at_the_end_of_a_short_one():
    span = resolve_period(NamedPeriod("last 1 month"), Calendar(date(2031, 3, 31)))
    assert days(span) == ("2031-03-01", "2031-03-31")


@given(st.dates(date(1980, 1, 1), date(2080, 12, 31)), st.integers(1, 12))
def test_quarters_part_the_year_and_previous_this_and_next_touch(today, start):
    calendar = Calendar(today, start)
    for unit in ("week", "month", "quarter", "year", "fiscal quarter", "fiscal year"):
        before, now, after = (
            resolve_period(NamedPeriod(f"{which} {unit}"), calendar)
            for which in ("previous", "this", "next")
        )
        assert before.end == now.start
        assert now.end == after.start
        noon = (datetime(today.year, today.month, today.day, 12) - EPOCH) / timedelta(
            microseconds=1
        )
        assert now.start <= noon < now.end
