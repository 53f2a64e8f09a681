"""Lines of a report: criteria of their own, sums of others, what is shared and what is left."""

from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

import oracle
import strategies as make
from even_sieve.core.criteria import parse_criteria
from even_sieve.core.errors import CallError
from even_sieve.core.measures import parse_measure
from even_sieve.core.query import Query
from even_sieve.core.table import Mark, table_from_columns
from even_sieve.core.tally import Added, Counted, Heading, LineRows, Together, make_lines

CALLS = table_from_columns(
    {
        "zone": ["Outer", "Inner", "North", "Outer", "Roads", "Inner"],
        "dues": [100.5, 80, "waived", 20.25, 7, 3],
    }
).marked(Mark.HIDDEN, np.arange(6) == 5)
MEASURES = [parse_measure(text) for text in ("rows", "sum of dues", "median of dues")]


def of(label, where):
    return LineRows(label, parse_criteria(where))


def lines(*wanted, where="dues is filled"):
    return make_lines(Query.of(where=parse_criteria(where)), CALLS, MEASURES, wanted)


def test_lines_come_with_their_tallies_and_sums_of_others():
    found = lines(
        Heading("By zone"), of("Outer", "zone = Outer"), of("Inner", "zone = Inner"),
        Together("both", ("Outer", "Inner")), Together("more", ("both", "- Inner", "-Inner")),
    )  # fmt: skip
    assert [type(each) for each in found] == [Heading, Counted, Counted, Added, Added]
    assert [each.value for each in found["Outer"].tallies] == [2, 120.75, 60.375]
    assert found["both"].amounts == (3, Fraction("200.75"), None)
    assert found["both"].reasons[2] == "lines of 'median of dues' do not add up"
    assert found["more"].amounts[:2] == (1, Fraction("40.75"))
    with pytest.raises(KeyError):
        found["By zone"]


def test_rows_that_lines_share_and_rows_in_no_line_are_told():
    found = lines(of("Outer", "zone = Outer"), of("dear", "dues > 50"), of("all", "dues > 0"))
    told = {(each.code, each.text): each.counts["rows"] for each in found.notices}
    assert told == {
        ("lines-overlap", "lines 'Outer' and 'dear' share 1 row: added up they count twice"): 1,
        ("lines-overlap", "lines 'Outer' and 'all' share 2 rows: added up they count twice"): 2,
        ("lines-overlap", "lines 'dear' and 'all' share 2 rows: added up they count twice"): 2,
        ("in-no-line", "1 row in play is in no line"): 1,
    }


REFUSED = [
    ((of("a", "dues > 0"), of("a", "dues < 0")), "two lines are called 'a'"),
    ((of("Outer", "zone = Outer"), Together("x", ("Outr",))),
     "line 'x': no line 'Outr' before it\nDid you mean 'Outer'?"),
    ((Together("x", ("y",)), of("y", "dues > 0")),
     "line 'x': no line 'y' before it\nParts stand before their sum"),
]  # fmt: skip


@pytest.mark.parametrize(("wanted", "message"), REFUSED)
def test_labels_that_cannot_be_are_refused(wanted, message):
    with pytest.raises(CallError) as caught:
        lines(*wanted)
    assert str(caught.value) == message


@given(make.rows(), st.lists(make.criteria, min_size=1, max_size=3), make.criteria)
def test_what_is_shared_and_left_is_what_a_plain_loop_counts(rows, own, shared):
    wanted = [of(str(i), oracle.spell(each)) for i, each in enumerate(own)]
    where = parse_criteria(oracle.spell(shared))
    found = make_lines(Query.of(where=where), make.table_of(rows), MEASURES[:1], wanted)
    holding = [
        [i for i, each in enumerate(own) if oracle.holds(each, row)]
        for row in rows
        if oracle.holds(shared, row)
    ]
    shares = sum(len(each) * (len(each) - 1) // 2 for each in holding)
    told = [each for each in found.notices if each.code == "lines-overlap"]
    assert sum(each.counts["rows"] for each in told) == shares
    left = [each.counts["rows"] for each in found.notices if each.code == "in-no-line"]
    assert sum(left) == sum(not each for each in holding)
