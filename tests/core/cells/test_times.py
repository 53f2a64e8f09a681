"""Texts that look like times: told where letters put them in another order."""

from datetime import datetime, timedelta
from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from even_sieve import Code, table_from
from even_sieve.core.cells import fold, out_of_order, seconds_said
from even_sieve.core.cells.said import number_said

ENGLISH = st.times().map(lambda each: f"{each:%I:%M %p}")
SHORT = st.times().map(lambda each: f"{each.hour}:{each:%M}")
FULL = st.times().map(lambda each: f"{each:%H:%M:%S}")


def told(column, criteria="", measure="max of at"):
    found = table_from({"at": column}).tally(measure, where=criteria or None)
    notices = (*found.notices, *found[0].notices)
    return [each.text for each in notices if each.code is Code.COMPARED_AS_TEXT]


@given(st.lists(st.one_of(SHORT, FULL, ENGLISH), min_size=1, max_size=6))
def test_they_are_out_of_order_where_clocks_say_so(times):
    def clock(text):
        forms = ["%I:%M %p"] if "M" in text else ["%H:%M:%S"] if text.count(":") > 1 else ["%H:%M"]
        return datetime.strptime(text, forms[0])

    inlet = sorted(times, key=fold)
    read = [clock(each) for each in inlet]
    assert (out_of_order(inlet) is None) == (read == sorted(read))


@pytest.mark.parametrize(
    ("column", "criteria", "said"),
    [
        (["9:30", "10:30", None], "", "'10:30' stands before '9:30'"),
        (["9:30", "8:15"], "", None),
        (["09:30", "10:30"], "", None),
        (["09:30", "10:30"], "at >= 9:00", "'10:30' stands before '9:00'"),
        (["09:30", "10:30"], 'at < "12:00"', None),
        (["09:30 PM", "10:00 am"], "", "'09:30 PM' stands before '10:00 am'"),
        (["2 days, 0:05:00", "10 days, 0:00:00"], "", "'10 days, 0:00:00' stands before '2 days"),
        (["9:30", "10:30", "Berth 7"], "at > Berth", None),
        ([9.5, 10.5], "", None),
    ],
)
def test_a_figure_by_the_order_of_letters_says_so(column, criteria, said):
    found = told(column, criteria, "rows" if criteria else "max of at")
    assert (said is None) == (not found), found
    assert said is None or said in found[0]


def test_what_does_not_hang_on_order_says_nothing():
    assert not told(["9:30", "10:30", "9:30"], measure="mode of at")
    assert told(["9:30", "10:30", "9:30"], measure="median of at")


@pytest.mark.parametrize(
    ("column", "told_of"),
    [(["28-May-2031", "03-Jun-2031"], "see --as-date at"), (["2031-05-28", "2031-06-03"], None),
     (["5.6.2031", "12.1.2031"], "see --as-date at --date-order"), (["2031-5-28", "2031-12-03"], "'2031-12-03'")],
)  # fmt: skip
def test_dates_by_letters_are_told(column, told_of):
    found = told(column)
    assert (told_of is None) == (not found)
    assert told_of is None or told_of in found[0] or "'2031-5-28'" in found[0]


def test_check_tells_of_it():
    found = table_from({"at": ["9:30", "10:30"]}).profile().findings
    assert [each.code for each in found] == ["times-out-of-order"]


@pytest.mark.parametrize(
    ("text", "decimal", "number"),
    [
        ("980,00-", ",", -980), ("12 -", ".", -12), ("980.5 EUR-", ".", -980.5), ("5%-", ".", -0.05),
        ("−980.5", ".", -980.5), ("–7", ".", -7), ("1,00,000.5", ".", 100000.5), ("１２", ".", 12),
        ("١٢٣٫٥", ".", 123.5), ("1.2.3-", ".", "1.2.3-"), ("(5)-", ".", "(5)-"), ("-5-", ".", "-5-"),
        ("1234円", ".", 1234), ("12 руб.", ".", 12), ("US$ -5", ".", -5), ("BUS$ 5", ".", "BUS$ 5"),
        ("12.–", ".", 12), ("5.-- CHF", ".", 5), ("kr 1.250,-", ",", 1250), ("-5,—", ",", -5),
        ("(5.-)", ".", -5), ("5,-", ".", "5,-"), ("5.-7", ".", "5.-7"), ("5.---", ".", "5.---"),
        ("-", ".", "-"), ("--5", ".", "--5"), ("1,0,000", ".", "1,0,000"), ("1,00,000", ",", "1,00,000"),
    ],
)  # fmt: skip
def test_what_is_said_to_be_a_number(text, decimal, number):
    found = number_said(text, decimal)
    assert found == number if isinstance(number, str) else float(found) == number


@given(st.timedeltas(timedelta(days=-999), timedelta(days=999)))
def test_lengths_of_time_as_seconds(length):
    exact = Decimal(length // timedelta(microseconds=1)) / 10**6
    assert seconds_said(str(length)) == exact


@pytest.mark.parametrize(
    ("text", "seconds"),
    [
        ("1:30", 5400), ("26:00", 93600), ("-0:45:10", -2710), ("12:05 am", 300), ("12:05 p.m.", 43500),
        ("01:00:00,25", Decimal("3600.25")), ("1:75", None), ("90", None), ("1 day", None), ("", None),
    ],
)  # fmt: skip
def test_seconds_of_texts(text, seconds):
    assert seconds_said(text) == seconds


def test_seconds_are_derived_and_what_is_no_time_is_counted():
    table = table_from({"stay": ["1:30", "26:00", "soon", None, "#N/A", 5]})
    derived = table.derive("seconds = seconds of stay")
    found = derived.tally("sum of seconds", "errors of seconds")
    assert (found[0].value, found[1].value) == (99000, 3)
    assert "3 cells of 'stay' cannot be read as a length of time" in str(found[0].notices) + str(
        found.notices
    )


def test_a_sum_of_lengths_of_time_says_how_they_become_numbers():
    told = table_from({"lay time": ["26:15", "2:30"]}).tally("sum of lay time")[0].notices[0].text
    assert told.endswith("to have numbers: --derive 'seconds = seconds of lay time'")
