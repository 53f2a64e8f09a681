"""The funnel and the verdicts: what each condition holds for, and why each row is out."""

from hypothesis import given
from hypothesis import strategies as st

import oracle
import strategies as make
from even_sieve import table_from
from even_sieve.core.criteria import parse_criteria
from even_sieve.core.query import Query
from even_sieve.core.tally import Plan, make_funnel, verdicts

CALLS = table_from(
    {
        "zone": ["Outer", "Outer", "Inner", "North", "Outer", "Inner"],
        "vessel": ["Bold", "Eider", "Barnacle", "Dunlin", "Brisk", "Petrel"],
        "dues": [500, 20, 700, 900, 800, 10],
    }
).mark(hidden="vessel = Brisk")


def test_each_condition_is_counted_alone_and_in_turn():
    funnel = CALLS.funnel("zone = Outer and dues > 100 and vessel = B*")
    assert (funnel.rows, funnel.in_play, funnel.matching) == (6, 5, 1)
    assert funnel.words == "zone is Outer, and dues is above 100, and vessel begins with B"
    (only,) = funnel.alternatives
    assert [(step.condition, step.alone, step.left) for step in only.steps] == [
        ("zone = Outer", 2, 2),
        ("dues > 100", 3, 1),
        ("vessel = B*", 2, 1),
    ]
    assert (only.alone, only.beyond, only.emptied_by) == (1, 1, None)


def test_each_alternative_is_counted_alone_and_beyond_the_others():
    funnel = CALLS.funnel("zone = Outer or dues > 100 or vessel = Dunlin")
    assert [(each.criteria, each.alone, each.beyond) for each in funnel.alternatives] == [
        ("zone = Outer", 2, 1),
        ("dues > 100", 3, 1),
        ("vessel = Dunlin", 1, 0),
    ]


def test_the_condition_that_empties_the_result_is_named():
    funnel = CALLS.funnel("zone = Outer and dues > 600 and vessel = B*")
    assert funnel.matching == 0
    assert funnel.alternatives[0].emptied_by.condition == "dues > 600"
    assert funnel.as_dict()["alternatives"][0]["emptied_by"] == "dues > 600"
    kept = CALLS.funnel("zone = Outer and dues > 600", keep="hidden")
    assert (kept.in_play, kept.matching) == (6, 1)


def test_a_funnel_without_conditions_has_no_steps():
    funnel = CALLS.funnel(None)
    assert (funnel.matching, funnel.alternatives, funnel.words) == (5, (), "every row")


def test_every_row_has_a_verdict():
    listing = CALLS.listing("zone = Outer and dues > 100 or vessel = Petrel", every_row=True)
    assert listing.verdicts == (
        "",
        "not dues > 100, not vessel = Petrel",
        "not zone = Outer, not vessel = Petrel",
        "not zone = Outer, not vessel = Petrel",
        "hidden",
        "",
    )
    assert listing.counted == "2 of 6 rows match"
    assert CALLS.listing("not (zone = Outer or dues > 5)", every_row=True).verdicts[0] == (
        "not not (zone = Outer or dues > 5)"
    )


@given(
    make.rows(), st.lists(st.lists(make.criteria, min_size=1, max_size=3), min_size=1, max_size=4)
)
def test_counts_are_those_of_a_plain_loop(rows, alternatives):
    whole = ("or", *(("and", *parts) for parts in alternatives))
    funnel = make_funnel(Query.of(where=parse_criteria(oracle.spell(whole))), make.table_of(rows))
    assert funnel.matching == sum(oracle.holds(whole, row) for row in rows)
    assert sum(each.beyond for each in funnel.alternatives) <= funnel.matching
    for alternative in funnel.alternatives:
        left = [step.left for step in alternative.steps]
        assert left == sorted(left, reverse=True)
        assert left[-1] == alternative.alone
        assert all(step.left <= step.alone for step in alternative.steps)


@given(make.rows(), st.lists(make.criteria, min_size=2, max_size=4))
def test_rows_beyond_the_others_are_those_of_one_alternative_alone(rows, parts):
    flat = [part for part in parts if part[0] not in ("or", "and", "not")]
    if len(flat) < 2:
        return
    whole = ("or", *flat)
    funnel = make_funnel(Query.of(where=parse_criteria(oracle.spell(whole))), make.table_of(rows))
    for position, alternative in enumerate(funnel.alternatives):
        others = flat[:position] + flat[position + 1 :]
        assert alternative.alone == sum(oracle.holds(flat[position], row) for row in rows)
        assert alternative.beyond == sum(
            oracle.holds(flat[position], row) and not any(oracle.holds(o, row) for o in others)
            for row in rows
        )


@given(make.rows(), make.criteria)
def test_a_verdict_is_empty_exactly_for_the_rows_that_match(rows, criteria):
    nodes = parse_criteria(oracle.spell(criteria))
    found = verdicts(Plan.of(Query.of(where=nodes), make.table_of(rows)))
    assert [not each for each in found] == [oracle.holds(criteria, row) for row in rows]
