"""Figures worked out from others: what they are, and what is refused."""

import json
from dataclasses import replace
from datetime import date, datetime
from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from even_sieve import ALL_VALUES, table_from
from even_sieve.core.errors import CallError, RecheckError
from even_sieve.core.tally import composite_figures

CALLS = table_from({
    "zone": ["Outer", "Inner", "Outer", "Inner", "Outer", "Outer"],
    "dues": [0.1, 0.2, 0.7, 4, None, 1],
    "tonnage": [10, 20, 40, 0, 5, 8],
    "huge": [1e300, 1e300, 1, 1, 1, 1],
    "arrived": [date(2031, 1, 5), date(2031, 1, 9), date(2031, 2, 1), date(2031, 4, 2), date(2031, 4, 3), None],
    "departed": [datetime(2031, 1, 5, 12), *[date(2031, 5, 1)] * 5],
})  # fmt: skip

# The measures asked for, and the last one's value.
FIGURES = [
    (["ratio of sum of dues to sum of tonnage"], 6 / 83),
    (["a = sum of dues", "b = sum of tonnage", "ratio of A to b"], 6 / 83),
    (["difference of sum of dues where zone = Inner and sum of dues where zone = Outer"], 2.4),
    (["late = ratio of rows where zone = Inner or dues > 3 to rows"], 1 / 3),
    (["difference of rows and numbers of dues"], 1),
    (["difference of max of departed and min of departed"], 115.5),
    (["r = ratio of rows to rows", "difference of r and rows"], -5),
    (["ratio of rows to sum of dues where zone = North"], None),
    (["ratio of product of huge to product of huge"], 1),  # neither can be shown, both are known
    (["difference of average of dues where zone = North and rows"], None),
]


@pytest.mark.parametrize(("asked", "value"), FIGURES)
def test_a_figure_is_worked_out_from_others(asked, value):
    found = CALLS.tally(*asked)
    assert len(found) == len(asked)
    assert found[len(asked) - 1].value == value
    assert (value is None) == (found[len(asked) - 1].reason is not None)
    if value is not None:
        assert CALLS.recheck(found[len(asked) - 1])[0].again == value


def test_what_has_no_value_says_which_figure_has_none():
    found = CALLS.tally(
        "none = sum of dues where zone = North",
        "ratio of rows to none",
        "difference of average of dues where zone = North and rows",
        "difference of min of zone and rows",
    )
    assert [each.reason for each in found][1:] == [
        "'none' is 0",
        "'average of dues where zone = North' has no value: no row matched",
        "'min of zone' is no number",
    ]
    parts = json.loads(found.to_json())["measures"][1]["parts"]
    assert [(part["name"], part["value"]) for part in parts] == [("rows", 6), ("none", 0)]
    assert str(CALLS.explain(found)[2]).splitlines()[2:4] == [
        "    average of dues where zone = North:",
        "      the exact sum of the numbers over their count, rounded once, in column 'dues'",
    ]
    with pytest.raises(CallError, match="worked out from other figures\nAsk 'rows' or 'none'"):
        CALLS.rows(found[1])


def test_changes_go_from_period_to_period_and_know_what_is_missing():
    found = CALLS.tally("rows", "change of rows", "relative change of rows", by="arrived by month")
    tallies = [(*line.key, line.tallies[1], line.tallies[2]) for line in found.lines]
    assert [(key, one.value, two.value, one.reason) for key, one, two in tallies] == [
        ("2031-01", None, None, "no line for 2030-12, the period before"),
        ("2031-02", -1, -0.5, None),
        ("2031-04", None, None, "no line for 2031-03, the period before"),
        (None, None, None, "this is no period"),
    ]
    assert found.total[1].value is None
    across = CALLS.tally("change of rows", by="zone", across="arrived by quarter")
    assert across["Outer", "2031-Q2"][0].value == -1
    assert CALLS.recheck(across["Outer", "2031-Q2"])[0].name == "change of rows, Outer, 2031-Q2"
    assert across[ALL_VALUES, "2031-Q2"][0].value == -1
    assert across["Outer", ALL_VALUES][0].value is None


@given(st.lists(st.tuples(st.sampled_from("abcd"), st.integers(-50, 50)), min_size=1))
def test_a_running_total_ends_at_the_total_and_steps_by_the_lines(cells):
    table = table_from({"berth": [b for b, _ in cells], "dues": [d / 10 for _, d in cells]})
    found = table.tally(
        "sum of dues", "running total of sum of dues", by="berth", sort="sum of dues desc"
    )
    so_far = Fraction(0)
    for line in found.lines:
        so_far += line.tallies[0].exact
        assert line.tallies[1].exact == so_far
        assert line.tallies[1].value == float(so_far)
    assert so_far == found.total[0].exact


def test_running_totals_begin_anew_in_every_group_and_count_the_others():
    found = CALLS.tally("running total of rows", by=["zone", "arrived by quarter"])
    assert [(line.key, line.tallies[0].value) for line in found.lines] == [
        (("Inner", "2031-Q1"), 1), (("Inner", "2031-Q2"), 2),
        (("Outer", "2031-Q1"), 2), (("Outer", "2031-Q2"), 3), (("Outer", None), 4),
    ]  # fmt: skip
    top = CALLS.tally("rows", "running total of rows", by="dues", top=2)
    assert top.rest.tallies[1].value == top.total[0].value


def test_lines_are_sorted_by_a_figure_worked_out():
    found = CALLS.tally("ratio of sum of dues to sum of tonnage", "running total of rows", by="zone",
                        sort="ratio of sum of dues to sum of tonnage asc")  # fmt: skip
    assert [(line.key[0], line.tallies[1].value) for line in found.lines] == [
        ("Outer", 4),
        ("Inner", 6),
    ]


def test_the_recheck_of_a_combination_is_not_taken_from_it(monkeypatch):
    found = CALLS.tally("ratio of sum of dues to sum of tonnage")[0]
    top, bottom = found.parts
    wrong = replace(top, exact=top.exact + 1)
    for changed in (
        replace(found, value=0.5),
        replace(found, value=float(wrong.exact / bottom.exact), parts=(wrong, bottom)),
    ):
        with pytest.raises(RecheckError, match=r"but worked out again 0\.07228915662650602"):
            CALLS.recheck(changed)
    monkeypatch.setattr(composite_figures, "combine", lambda kind, parts: (Fraction(7), None))
    with pytest.raises(RecheckError, match="the figure is 7, but worked out again"):
        CALLS.recheck(CALLS.tally("difference of rows and numbers of dues"))


REFUSED = [
    (["ratio of rows"], {}, "'ratio' needs two measures with 'to' between them"),
    (["change of rows"], {}, "'change of rows' goes along the lines of a breakdown"),
    (["change of rows"], {"by": "zone"}, "'change of rows' needs a breakdown by periods"),
    (["running total of median of dues"], {"by": "zone"}, "figures of 'median of dues' do not add up along lines"),
    (["ratio of dus to rows", "dues = sum of dues"], {}, "'dus' is no measure, and no name of one\nDid you mean 'dues'?"),
    (["rows", "running total of rows"], {"by": "zone", "sort": "running total of rows"}, "cannot be sorted by"),
    (["ratio of rows to rows"], {"by": "dues", "sort": "ratio of rows to rows", "top": 1}, "cannot be cut by"),
]  # fmt: skip


@pytest.mark.parametrize(("asked", "layout", "message"), REFUSED)
def test_what_cannot_be_worked_out_is_refused(asked, layout, message):
    with pytest.raises(CallError) as raised:
        CALLS.tally(*asked, **layout)
    assert message in str(raised.value)
