"""Parameters and settings: values go in as values."""

from datetime import UTC, date, datetime
from decimal import Decimal

import pytest

from conftest import mask
from even_sieve.core.criteria import (
    EVERYTHING,
    Settings,
    parameter_from_text,
    parse_criteria,
    prepare,
    write_criteria,
)
from even_sieve.core.criteria.operands import NamedPeriod, Number, Period, Text, YesNo
from even_sieve.core.errors import ParameterError
from even_sieve.core.table import table_from_columns

# Criteria, parameters, the criteria with these put in.
PUT_IN = [
    ("dues >= {floor}", {"floor": 500}, "dues >= 500"),
    ("dues >= {floor}", {"FLOOR ": Decimal("0.5")}, "dues >= 0.5"),
    ("dues >= { floor }", {"floor": 0.1}, "dues >= 0.1"),
    ("zone = {z}", {"z": "Outer | Inner"}, 'zone = "Outer | Inner"'),
    ("zone = {z}", {"z": "B*"}, 'zone = "B*"'),
    ("zone = {z}", {"z": '" or dues > 0'}, 'zone = """ or dues > 0"'),
    ("zone = {z}", {"z": "1996"}, "zone = 1996"),
    ("zone = {z}", {"z": ["Outer", "Inner"]}, "zone = Outer | Inner"),
    ("zone = {z} | North", {"z": ["Outer", ""]}, "zone = Outer | North"),
    ("zone != {z}", {"z": ["Outer", "Inner"]}, "zone != Outer | Inner"),
    ("vessel = {begin}*", {"begin": "B*"}, "vessel = B\\**"),
    ("vessel = Berth {n}", {"n": 7}, 'vessel = "Berth 7"'),
    ("paid = {p}", {"p": True}, "paid = yes"),
    ("arrived = {d}", {"d": date(2031, 1, 5)}, "arrived = 2031-01-05"),
    ("arrived > {d}", {"d": datetime(2031, 1, 5, 14, 30)}, "arrived > 2031-01-05T14:30"),
    ("dues in {a}..{b}", {"a": 1, "b": 2}, "dues in 1..2"),
    ("dues in {a}..{b}", {"a": 1, "b": None}, "dues in 1.."),
    ("zone = {z} and dues > 5", {"z": ""}, "dues > 5"),
    ("zone = {z} or dues > 5", {"z": None}, "dues > 5"),
    ("not (zone = {z} or dues > 5)", {"z": " "}, "not dues > 5"),
    ("dues in {a}..{b} and zone = x", {"a": None, "b": ""}, "zone = x"),
]
REFUSED = [
    ("dues > {flor}", {"floor": 5}, "parameter 'flor': it has no value\nDid you mean 'floor'?"),
    ("dues > {x}", {}, "parameter 'x': it has no value\nSet it: x=VALUE"),
    ("dues > {x}", {"x": [1, 2]}, "parameter 'x': '>' takes one value, not 2"),
    ("dues in {x}..", {"x": "a"}, "parameter 'x': the end of a window is one number or date"),
    ("zone = {x}*", {"x": ["a", "b"]}, "parameter 'x': a list cannot stand inside a text"),
    ("dues > {x}", {"x": float("inf")}, "parameter 'value': inf is no number to compare with"),
]
FROM_TEXT = [
    ("500", Number(Decimal(500))),
    ("0500", Text("0500")),
    ("2031-01-05", Period(1925337600000000, 1925424000000000)),
    ("2031-Q1", Period(1924992000000000, 1932768000000000)),
    ("last 30 days", NamedPeriod("last 30 days")),
    ("yes", YesNo(True)),
    ("B*", Text("B*")),
    ("a | b", Text("a | b")),
    ('"5"', Text('"5"')),
    ("  Outer ", Text("Outer")),
    ("", None),
]


@pytest.mark.parametrize(("text", "parameters", "wanted"), PUT_IN)
def test_a_parameter_is_put_in_as_a_value(text, parameters, wanted):
    found = prepare(parse_criteria(text), Settings(parameters)).criteria
    assert found == parse_criteria(wanted)


@pytest.mark.parametrize(("text", "parameters", "message"), REFUSED)
def test_a_parameter_that_does_not_fit_is_refused(text, parameters, message):
    with pytest.raises(ParameterError) as caught:
        prepare(parse_criteria(text), Settings(parameters))
    assert str(caught.value) == message


@pytest.mark.parametrize(("text", "value"), FROM_TEXT)
def test_a_parameter_written_as_text_is_read_as_one_value(text, value):
    assert parameter_from_text(text) == value


def test_a_moment_with_a_zone_is_brought_to_utc():
    zoned = datetime(2031, 1, 5, 14, 30, tzinfo=UTC)
    found = prepare(parse_criteria("arrived = {d}"), Settings({"d": zoned})).criteria
    assert found == parse_criteria("arrived = 2031-01-05T14:30")


def test_criteria_left_without_a_condition_match_everything_and_say_so():
    found = prepare(parse_criteria("zone = {z}"), Settings({"z": ""}))
    assert found.criteria == EVERYTHING
    assert write_criteria(found.criteria) == ""
    assert [notice.code for notice in found.notices] == ["blank-parameter", "no-condition"]


def test_only_periods_that_hang_on_the_date_are_told_to():
    for text, hangs in (
        ("arrived in last 30 days", True),
        ("arrived in {p}", True),
        ("arrived in FY2031", False),
        ("arrived in 2031-Q1", False),
        ("arrived in today..", True),
    ):
        settings = Settings({"p": NamedPeriod("this month")}, as_of=date(2031, 5, 14))
        assert prepare(parse_criteria(text), settings).hangs_on_date is hangs


def test_a_fiscal_year_begins_in_a_month():
    with pytest.raises(ParameterError, match="13 is no month"):
        Settings(fiscal_start=13)


def test_a_period_that_a_column_of_text_holds_is_text_there():
    table = table_from_columns({"quarter": ["2031-Q1", "2031-Q2", "this month"]})
    assert mask(table, "quarter = 2031-Q1 | this month") == [True, False, True]
