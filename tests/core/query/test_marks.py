"""Marks are told where they mark nothing or everything, and know the query's settings."""

from datetime import date

import pytest

from even_sieve import table_from

CALLS = table_from(
    {
        "zone": ["Outer", "Inner", None],
        "dues": [1, 2, 3],
        "arrived": [date(2031, m, 1) for m in (1, 2, 3)],
    }
)
BLANK = "a blank among"
MARKS = [
    ({"hidden": "zone = Outr"}, (), "the mark 'hidden: zone = Outr' marks no row"),
    ({"hidden": "zone = Outr"}, (), "the closest is 'Outer'"),
    ({"filtered": "dues > 0"}, (1, 2, 3), "marks every row: nothing is left to count"),
    ({"subtotal": "found"}, (), "the mark 'subtotal: found' marks no row"),
    ({"hidden": []}, (), "the mark 'hidden' marks no row"),
    ({"hidden": {"zone": [None]}}, (), "set no condition"),
    ({"hidden": "zone = {z}", "parameters": {"z": None}}, (), "parameter 'z' is blank"),
    ({"hidden": {"zone": ["Outer", None]}}, (1,), BLANK),
    ({"hidden": "zone = {z}", "parameters": {"z": ["Outer", ""]}}, (1,), BLANK),
    ({"hidden": "arrived in previous month", "as_of": date(2031, 3, 5)}, (2,), ""),
    ({"hidden": "arrived in FY2031", "fiscal_start": 2}, (1,), ""),
    ({"hidden": "dues = {d}", "parameters": {"d": "2"}}, (2,), ""),
]  # fmt: skip


@pytest.mark.parametrize(("asked", "rows", "said"), MARKS)
def test_a_mark_marks_what_it_says_and_tells_when_that_is_nothing_or_all(asked, rows, said):
    marked = CALLS.mark(**asked)
    assert 3 - marked.tally("rows")[0].value == len(rows)
    for notices in (
        marked.notices,
        marked.tally("rows").notices,
        CALLS.tally("rows", **asked).notices,
    ):
        assert any(said in each.text for each in notices) or not said


@pytest.mark.parametrize("where", [[], [None], ["zone = Outer", None], {"zone": ["Outer", None]}])
def test_an_empty_or_blank_list_of_criteria_is_told(where):
    found = CALLS.tally("rows", where=where)
    assert len(found.notices) >= 1
    assert found[0].value == (1 if "Outer" in str(where) else 3)


def test_a_query_without_criteria_tells_nothing():
    assert CALLS.tally("rows").notices == ()
