"""Figures as people read them: what they are by themselves, what is said of them, in a locale."""

from datetime import date
from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from even_sieve import table_from
from even_sieve.core.errors import CallError
from even_sieve.documents.looks import Presentation, look_of, shown_as
from even_sieve.documents.shown import show_cell, show_figure

CALLS = table_from(
    {
        "zone": ["Outer", "Inner", "Roads"],
        "dues": [1000.5, 2000.25, 0.25],
        "hours": [1, 1, 1],
        "arrived": [date(2031, 1, 5), date(2031, 2, 6), date(2031, 3, 7)],
        "tiny": [0.00012, 0.00013, None],
    }
)


def shown(measure, looks=None, locale=None, **asked):
    with shown_as(looks, locale=locale):
        return (
            show_figure(CALLS.tally(measure, **asked)[0])
            .replace("\xa0", " ")
            .replace("\u202f", " ")
        )


@pytest.mark.parametrize(
    ("measure", "text"),
    [
        ("sum of dues", "3,001.00"),
        ("average of dues", "1,000.3333"),
        ("average of hours", "1"),
        ("average of tiny", "0.000125"),
        ("share of dues where zone = Inner", "66.7 %"),
        ("share of dues where zone = Roads", "0.00833 %"),
        ("ratio of sum of dues to rows", "1,000.33"),
        (
            "difference of share of dues where zone = Inner and share of dues where zone = Outer",
            "33.3 %",
        ),
        ("difference of sum of hours and sum of dues", "-2,998.00"),
        ("rows", "3"),
        ("max of zone", "Roads"),
    ],
)
def test_a_figure_is_shown_as_what_it_is(measure, text):
    assert shown(measure) == text


@pytest.mark.parametrize(
    ("measure", "looks", "locale", "text"),
    [
        ("sum of dues", {"dues": "EUR"}, "de_DE", "3.001,00 €"),
        ("sum of dues", {"sum of dues": "EUR 0"}, None, "€3,001"),
        ("sum of dues", {"dues": "JPY"}, "ja_JP", "￥3,001"),
        ("sum of dues", {"all": "1 decimals"}, "sv_SE", "3 001,0"),
        ("sum of dues", {"dues": 'unit "t" ungrouped'}, None, "3001.00 t"),
        ("sum of dues", {}, "en_IN", "3,001.00"),
        ("rows", {"dues": "EUR"}, None, "3"),
        ("distinct of dues", {"dues": "EUR"}, None, "3"),
        ("share of dues where zone = Inner", {"dues": "EUR"}, None, "66.7 %"),
        ("share of dues where zone = Inner", {"all": "percent 0"}, "fr_FR", "67 %"),
        ("ratio of rows to rows", {"ratio of rows to rows": "percent"}, None, "100.0 %"),
        ("max of arrived", {"arrived": "date long"}, "de_DE", "7. März 2031"),
        ("max of arrived", {"arrived": 'date "d MMM"'}, None, "7 Mar"),
        ("max of arrived", {}, "de_DE", "07.03.2031"),
    ],
)
def test_a_figure_is_shown_as_is_said(measure, looks, locale, text):
    assert shown(measure, looks, locale) == text


@pytest.mark.parametrize(
    ("looks", "locale", "said"),
    [
        ({"dues": "EUX"}, None, "Did you mean"), ({"dues": "perzent"}, None, "says no way"), ({"dues": ""}, None, "percent 1"),
        ({"arrived": 'date "!!"'}, None, "no pattern"), ({}, "xx_YY", "no locale"), ({"dues": "unit"}, None, "says no way"),
        ({"dues": "date long"}, None, "not shown as date"),
    ],
)  # fmt: skip
def test_looks_that_do_not_exist_or_fit_are_refused(looks, locale, said):
    with pytest.raises(CallError, match=said):
        shown("sum of dues", looks, locale)
    with pytest.raises(CallError, match="not shown as percent"):
        shown("max of zone", {"zone": "percent"})


def test_lines_that_do_not_add_up_as_they_are_shown_say_so():
    thirds = table_from({"zone": ["a", "b", "c"], "dues": [1, 1, 1]})
    printed = " ".join(str(thirds.tally("share of dues", "rows", by="zone")).split())
    assert "they add up to 99.9 %, and the total is 100.0 %" in printed
    assert "rows: the lines are rounded" not in printed


def test_what_programs_read_stays_as_it_is():
    found = CALLS.tally("sum of dues", "share of dues", by="zone")
    plain = found.to_json(), found.to_frame().to_csv()
    with shown_as({"all": "EUR 0"}, locale="de_DE"):
        assert (found.to_json(), found.to_frame().to_csv()) == plain


@given(
    st.floats(allow_nan=False), st.sampled_from(["", "percent", "EUR", "3 decimals", "ungrouped"])
)
def test_every_number_is_shown_with_one_minus_and_no_dots(number, words):
    table = table_from({"dues": [number]})
    looks = {"dues": words} if words else {}
    with shown_as(looks, locale="en"):
        text = show_figure(table.tally("sum of dues")[0])
    assert "…" not in text
    assert "\u2212" not in text
    assert text
    assert Presentation.of(looks).unused() == list(looks)
    assert look_of("percent 2").decimals == 2


def test_decimals_that_are_no_doubles_are_shown_too():
    assert show_cell(Decimal("1234.250"), "dues") == "1,234.250"
    with shown_as({"dues": "EUR"}, locale="en"):
        assert show_cell(Decimal("1234.250"), "dues") == "€1,234.25"


def test_a_look_of_all_passes_over_what_it_does_not_fit():
    table = table_from({"dues": [1250.5, 20], "arrived": [date(2031, 1, 5), None]})
    found = table.tally(
        "rows", "sum of dues", "share of dues", "max of arrived", "ratio of sum of dues to rows"
    )
    with shown_as({"all": "EUR"}):
        shown = str(found)
    assert ["rows", "2"] in [line.split() for line in shown.splitlines()]
    for part in (
        "€1,270.50",
        "100.0 %",
        "2031-01-05",
        "€635.25",
    ):
        assert part in shown
    with shown_as({"all": "date long"}):
        assert "January 5, 2031" in str(found)
    with (
        pytest.raises(CallError, match="max of arrived is a date, which is not shown as currency"),
        shown_as({"arrived": "EUR"}),
    ):
        str(found)


@given(st.integers(-(10**16), 10**16))
def test_a_large_amount_shows_its_own_decimals_and_no_others(cents):
    amount = Decimal(cents) / 100
    shown = (
        str(table_from({"dues": [amount]}).tally("sum of dues")).split("sum of dues")[1].split()[0]
    )
    close = Decimal(repr(float(amount)))  # 17 digits are more than a double holds
    assert Decimal(shown.replace(",", "")) in (amount, close)
