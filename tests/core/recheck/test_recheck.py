"""The recheck: slow and separate code agrees with every figure, and says where it does not."""

import math
import random
from dataclasses import replace
from decimal import Decimal
from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

import oracle
import strategies as make
from even_sieve import table_from
from even_sieve.core.cells import CellError
from even_sieve.core.criteria import parse_criteria
from even_sieve.core.errors import CallError, NotOneValue, RecheckError, UnsuitableColumn
from even_sieve.core.measures import KINDS, parse_measure
from even_sieve.core.query import Query
from even_sieve.core.recheck import Question, RowByRow, figures, held_rows
from even_sieve.core.table import Mark, table_from_columns
from even_sieve.core.tally import BUCKETS, Defence, Layout, break_down, tally
from even_sieve.core.tally.agreement import compare, numbered

NAMES = list(make.COLUMNS)
TABLE = table_from_columns(
    {
        "zone": ["Outer", "Inner", "outer", None, "North"],
        "dues": [500, 100.25, "waived", None, CellError("#N/A")],
    }
)
DEFENCE = Defence(Query(), TABLE)


@st.composite
def measures(draw):
    """Any measure of any column, with anything kept."""
    kind = draw(st.sampled_from(sorted(KINDS)))
    form = KINDS[kind]
    numbers = {"K": st.integers(1, 4), "P": st.sampled_from([0, 10, 33.3, 90, 100])}
    number = draw(numbers.get(form.number, st.integers(0, 4))) if form.number else ""
    way = draw(st.sampled_from(form.ways)) if form.ways else ""
    of = f"of {draw(st.sampled_from(NAMES))}" if form.column else ""
    by = f"by {draw(st.sampled_from(NAMES))}" if form.weight else ""
    own = draw(st.one_of(st.just(""), make.criteria.map(lambda c: f"where {oracle.spell(c)}")))
    keep = draw(st.sampled_from(["", "keep blanks", "keep errors", "keep hidden, blanks, errors"]))
    if kind in (
        "rows",
        "numbers",
        "filled",
        "blanks",
        "errors",
        "distinct or blank",
        "first",
        "last",
    ):
        keep = keep.replace("hidden, blanks", "hidden").replace("keep blanks", "")
    return " ".join(filter(None, (kind, str(number), way, of, by, own, keep)))


@given(
    make.rows(),
    measures(),
    make.criteria,
    st.lists(st.integers(0, 7), min_size=12, max_size=12),
    st.one_of(st.none(), st.sampled_from(NAMES)),
)
def test_the_recheck_agrees_with_every_figure_of_every_table(rows, text, criteria, bits, by):
    table, where = make.table_of(rows), parse_criteria(oracle.spell(criteria))
    for mark in Mark:
        chosen = np.array([bool(each & mark) for each in bits[: len(rows)]], dtype=bool)
        table = table.marked(mark, chosen)
    request = parse_measure(text, table.names)
    try:
        if by is None:
            found = list(tally(Query.of(where=where), table, [request]))
        else:
            found = [
                line.tallies[0]
                for line in break_down(Query.of(where=where), table, [request], Layout((by,)))
            ]
    except (UnsuitableColumn, NotOneValue):
        return
    defence = Defence(Query(), table)
    for each in found:
        again = defence.recheck(each)
        assert again.rows == each.account.rows
        counts = {bucket: len(defence.rows(each, bucket)) for bucket in BUCKETS}
        assert each.account.as_dict() == {"rows": len(rows), **counts}
        assert sum(part.rows for part in defence.explain(each).buckets) == len(rows)


def test_a_recheck_shows_both_figures():
    found = tally(Query(), TABLE, [parse_measure("sum of dues")])[0]
    assert str(DEFENCE.recheck(found)) == (
        "sum of dues: agrees: 600.25, row by row 600.25; all 5 rows in the same buckets"
    )


def test_a_wrong_figure_is_told_with_both():
    found = replace(tally(Query(), TABLE, [parse_measure("sum of dues")])[0], value=600.5)
    with pytest.raises(
        RecheckError, match=r"the figure is 600\.5, but row by row 600\.25; all rows"
    ):
        DEFENCE.recheck(found)


def test_a_row_in_another_bucket_is_named():
    found = tally(Query(), TABLE, [parse_measure("sum of dues")])[0]
    again = RowByRow(TABLE).work_out(Question(found.request))
    wrong = numbered(again.buckets)
    shown = [list(BUCKETS)[each] for each in wrong]
    assert shown == ["used", "used", "not_a_number", "blank", "error"]
    wrong[3] = list(BUCKETS).index("used")
    with pytest.raises(RecheckError) as caught:
        compare(found, again, wrong, None, TABLE)
    assert caught.value.row == 4
    assert "row 4: the row counts as used, but row by row as blank" in str(caught.value)


def test_a_wrong_account_is_told():
    found = tally(Query(), TABLE, [parse_measure("sum of dues")])[0]
    wrong = replace(found, account=replace(found.account, used=3, blank=0))
    with pytest.raises(RecheckError, match="the account has 0 rows blank, but row by row 1"):
        DEFENCE.recheck(wrong)


def test_a_question_can_be_asked_by_itself():
    question = Question(parse_measure("max of dues"), parse_criteria("zone = outer"))
    assert RowByRow(TABLE).work_out(question).answer == 500


def test_the_rows_of_a_bucket_are_listed_by_their_numbers():
    found = tally(
        Query.of(where=parse_criteria("zone is filled")), TABLE, [parse_measure("sum of dues")]
    )[0]
    assert [DEFENCE.rows(found, each) for each in ("used", "error", "not a number", "unmatched")] == [
        (1, 2), (5,), (3,), (4,)
    ]  # fmt: skip
    with pytest.raises(CallError, match="no bucket 'eror'\nDid you mean 'error'"):
        DEFENCE.rows(found, "eror")


def test_an_explanation_says_what_why_and_where():
    found = tally(Query(), TABLE, [parse_measure("largest 2 of dues where zone != North")])[0]
    assert str(DEFENCE.explain(found)).splitlines() == [
        "largest 2 of dues where zone != North:",
        "  the value that stands 2nd from the largest, equal ones each in a place, in column 'dues'",
        "  rows that match: zone is not North",
        "  of 5 rows:",
        "    1 does not match (row 5)",
        "    1 matched, but 'dues' is blank (row 4)",
        "    1 matched, but 'dues' holds another kind of value (row 3)",
        "    2 used (rows 1, 2)",
    ]
    average = DEFENCE.explain(tally(Query(), TABLE, ["average of dues"])[0])
    assert average.lines()[-1] == "before rounding: 2401/8"


def test_one_and_yes_are_two_keys_in_the_recheck_too():
    table = table_from_columns({"paid": [1, True, "1", 1], "dues": [5, 7, 9, 11]})
    query = Query()
    found = break_down(query, table, ["sum of dues"], Layout(("paid",)))
    assert [Defence(query, table).recheck(each).again for each in found.tallies] == [16, 9, 7, 32]


def test_what_a_question_marks_and_derives_is_known_to_all_that_backs_its_figures():
    calls = table_from({"zone": ["A", "B", "A"], "dues": [1, 2, 4]})
    asked = {"hidden": "zone = A", "derive": "double = dues * 2", "subtotal": [2]}
    _, found = calls.tally("rows", "sum of double", keep="subtotals", **asked)
    assert (found.value, calls.rows(found), calls.rows(found, "hidden")) == (4, (2,), (1, 3))
    assert calls.recheck(found)[0].again == 4
    assert "hidden by a person (rows 1, 3)" in str(calls.explain(found))
    lines = calls.tally("sum of double", by="zone", **asked)
    assert len(calls.recheck(lines)) == len(list(lines.tallies))


def test_a_kept_error_is_used_whatever_its_weight():
    table = table_from({"w": [2, "a"], "x": [5, CellError("#N/A")]})
    found = table.tally("weighted average of x by w keep errors")
    assert (str(found[0].value), found[0].account.used) == ("#N/A", 2)
    assert str(table.recheck(found)[0].again) == "#N/A"


LONG = [
    10**17, 10**17 + 1, 10**17 + 2, Decimal("12345678901234567.25"), Decimal("12345678901234567.5"), 1e300,
    -1e300, 5e-324, 0.1, Decimal("0.30"), 0.30000000000000004, 1, 2.5, -5, 0, None, "waived",
]  # fmt: skip
OF_LONG = (
    "rows", "min of n", "max of n", "median of n", "mode of n", "largest 2 of n", "smallest 2 of n",
    "percentile 30 of n", "quartile 3 of n", "distinct of n", "sum of n", "average of n", "range of n",
)  # fmt: skip


def test_numbers_longer_than_doubles_agree_row_by_row():
    for case in range(80):
        g = random.Random(case)
        some = g.sample(LONG, g.randint(1, 9))
        calls = table_from({"n": [g.choice(some) for _ in range(g.randint(1, 30))]})
        for measure in OF_LONG:
            try:
                found = calls.tally(measure)
            except UnsuitableColumn:
                continue
            assert calls.recheck(found), (case, measure)


def test_the_rows_of_a_text_are_the_same_however_often_it_is_asked(monkeypatch):
    chance = random.Random()
    zones = [chance.choice(["Outer", "outer", "Inner", None, 7]) for _ in range(50)]
    table = table_from_columns({"zone": zones})
    question = Question(parse_measure("rows"), parse_criteria("zone = Outer | Inner"))
    found = []
    for few in (0, 8):
        monkeypatch.setattr(held_rows, "_FEW", few)
        found.append(RowByRow(table).work_out(question))
    assert found[0] == found[1]
    assert found[0].answer == sum(str(each).lower() in ("outer", "inner") for each in zones)


@pytest.mark.parametrize("bits", [16, 64, 512])
def test_products_of_many_numbers_agree_and_the_nearest_double_is_certain(bits, monkeypatch):
    monkeypatch.setattr(figures, "_BITS", bits)
    monkeypatch.setattr(figures, "_WHOLE", 0)
    for case in range(60):
        g = random.Random(case)
        numbers = [g.choice([g.randrange(-999, 1000) / 100, 1.25, -0.8, 7]) for _ in range(90)]
        numbers += g.choice([[0], [2**53 + 1, 0.5], []])  # between two doubles, where all else is 1
        numbers = g.choice([numbers, [1.25, 0.8] * 400 + [2**53 + 1, 0.5]])
        calls = table_from({"n": [Decimal(str(each)) for each in numbers]})
        (again,) = calls.recheck(found := calls.tally("product of n"))
        assert again, (case, found)
        exact = math.prod(Fraction(str(each)) for each in numbers)
        assert again.again == float(exact) == found[0].value
