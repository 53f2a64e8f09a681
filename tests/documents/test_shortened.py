"""What is shown at a prompt and in a notebook is never longer than one reads; print shows all."""

import pytest

from even_sieve import table_from
from even_sieve.core.answer import MOST_LINES

COUNT = 5_000
CALLS = table_from(
    {"vessel": [f"ship {i:05}" for i in range(COUNT)], "zone": ["Outer", "Inner"] * (COUNT // 2),
     "dues": [i / 4 for i in range(COUNT)]}
)  # fmt: skip


@pytest.mark.parametrize("by", ["vessel", ["zone", "vessel"], ["vessel", "zone"]])
def test_a_breakdown_is_cut_and_its_total_stays(by):
    found = CALLS.tally("sum of dues", "share of dues", by=by)
    for shown in (repr(found), found._repr_html_()):
        assert f"the first {MOST_LINES} of " in shown
        assert "3,124,375.00" in shown
        assert "rounded one by one" not in shown
        assert shown.count("\n") < 400
    assert str(found).count("ship ") >= COUNT
    assert found.to_json().count('"ship ') >= COUNT


def test_rows_and_columns_side_by_side_are_cut_too():
    wide = CALLS.tally("rows", by="vessel", across="zone")
    assert f"the first {MOST_LINES} of 5,000; print it to see all" in repr(wide)
    few = CALLS.tally("rows", by="zone")
    assert repr(few) == str(few)
    assert len(repr(CALLS.profile())) == len(str(CALLS.profile()))
