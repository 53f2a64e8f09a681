"""The bridge: it adds up, to the last digit, on every table, or it raises."""

from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

import oracle
import strategies as make
from even_sieve.core.cells import CellError
from even_sieve.core.criteria import EVERYTHING, parse_criteria
from even_sieve.core.errors import AccountError, CallError
from even_sieve.core.measures import parse_measure
from even_sieve.core.query import Query
from even_sieve.core.table import Mark, table_from_columns
from even_sieve.core.tally import Bridge, make_bridge, tally

CALLS = table_from_columns(
    {
        "zone": ["Outer", "Inner", "Outer", "Outer", "Outer", None, "Outer"],
        "dues": [100.5, 80, "waived", None, CellError("#N/A"), 180.5, 20],
    }
)
CALLS = CALLS.marked(Mark.SUBTOTAL, np.arange(7) == 5).marked(Mark.HIDDEN, np.arange(7) == 6)
# The measure, the criteria, and each step: reason, rows, amount.
BRIDGES = [
    ("sum of dues", "zone = Outer", [
        ("start", 7, "381"), ("subtotal", -1, "-180.5"), ("hidden", -1, "-20"),
        ("unmatched", -1, "-80"), ("blank", -1, "0"), ("error", -1, "0"),
        ("not_a_number", -1, "0"), ("figure", 1, "100.5")]),
    ("sum of dues keep subtotals, hidden", "zone = Inner or dues > 100", [
        ("start", 7, "381"), ("unmatched", -4, "-20"), ("figure", 3, "361")]),
    ("rows where dues is filled", "zone is filled", [
        ("start", 7, "7"), ("subtotal", -1, "-1"), ("hidden", -1, "-1"), ("unmatched", 0, "0"),
        ("unmatched", -1, "-1"), ("figure", 4, "4")]),
    ("numbers of dues", None, [
        ("start", 7, "4"), ("subtotal", -1, "-1"), ("hidden", -1, "-1"), ("blank", -1, "0"),
        ("error", -1, "0"), ("not_a_number", -1, "0"), ("figure", 2, "2")]),
]  # fmt: skip
REFUSED = [
    ("average of dues", "'average of dues' has no bridge: its parts do not add up\n"
     "Ask for one of: sum, rows, numbers, filled"),
    ("sum of dues keep errors", "'sum of dues' has no bridge: the error #N/A was kept"),
]  # fmt: skip


def bridge(table, text, where=None):
    criteria = EVERYTHING if where is None else parse_criteria(where)
    return make_bridge(Query.of(where=criteria), table, parse_measure(text, table.names))


@pytest.mark.parametrize(("text", "where", "steps"), BRIDGES)
def test_each_reason_is_a_step_in_rows_and_in_amount(text, where, steps):
    found = bridge(CALLS, text, where)
    assert [(s.reason, s.rows, s.amount) for s in found] == [
        (reason, rows, Fraction(amount)) for reason, rows, amount in steps
    ]


@pytest.mark.parametrize(("text", "message"), REFUSED)
def test_what_does_not_add_up_has_no_bridge(text, message):
    with pytest.raises(CallError) as caught:
        bridge(CALLS, text)
    assert str(caught.value) == message


@given(
    make.rows(),
    make.criteria,
    st.one_of(st.just(""), make.criteria.map(lambda own: f" where {oracle.spell(own)}")),
    st.lists(st.integers(0, 7), min_size=12, max_size=12),
    st.sampled_from(["", " keep subtotals", " keep hidden, filtered", " keep blanks"]),
)
def test_a_bridge_of_any_table_leads_from_the_bare_total_to_the_figure(
    rows, criteria, own, bits, keep
):
    table, where = make.table_of(rows), parse_criteria(oracle.spell(criteria))
    for mark in Mark:
        chosen = np.array([bool(each & mark) for each in bits[: len(rows)]], dtype=bool)
        table = table.marked(mark, chosen)
    request = parse_measure(f"sum of tons{own}{keep}", table.names)
    found = make_bridge(Query.of(where=where), table, request)
    figure = tally(Query.of(where=where), table, [request])[0]
    assert found.steps[0].amount == sum(row["tons"] for row in rows)
    assert found.steps[-1].amount == figure.exact
    assert found.steps[0].rows + sum(step.rows for step in found.steps[1:-1]) == figure.account.used
    for bucket in ("subtotal", "hidden", "filtered"):
        taken = -sum(step.rows for step in found if step.reason == bucket)
        assert taken == getattr(figure.account, bucket)


def test_a_bridge_that_does_not_add_up_cannot_be_made():
    found = bridge(CALLS, "sum of dues", "zone = Outer")
    step = found.steps[1]
    wrong = (found.steps[0], replace(step, amount=step.amount + 1), *found.steps[2:])
    with pytest.raises(AccountError, match="the bridge does not add up at 'subtotal rows'"):
        Bridge(found.tally, wrong)
    with pytest.raises(AccountError, match="the bridge does not end at the figure"):
        Bridge(found.tally, (*found.steps[:-1], replace(found.steps[-1], rows=9)))
