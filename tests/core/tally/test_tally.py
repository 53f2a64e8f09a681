"""Tallies: accounts that add up, breakdowns that add up, the same bits in any pieces."""

from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

import oracle
import strategies as make
from even_sieve.core.cells import CellError
from even_sieve.core.criteria import parse_criteria
from even_sieve.core.errors import AccountError, UnknownColumn
from even_sieve.core.measures import Keep, parse_measure
from even_sieve.core.query import Query
from even_sieve.core.table import Mark, table_from_columns
from even_sieve.core.tally import Account, Layout, break_down, matching_rows, passes, tally

KINDS = ["rows", "numbers of dues", "filled of dues", "blanks of dues", "errors of dues",
         "distinct of dues", "sum of dues", "average of dues", "min of dues", "max of dues",
         "distinct of zone", "max of zone", "min of tons", "sum of tons"]  # fmt: skip
REQUESTS = [parse_measure(text) for text in KINDS]
marks = st.lists(st.integers(0, 7), min_size=12, max_size=12)
keeps = st.sets(st.sampled_from([Keep.HIDDEN, Keep.SUBTOTALS, Keep.FILTERED])).map(frozenset)


def marked(rows, bits):
    table = make.table_of(rows)
    for mark in Mark:
        chosen = np.array([bool(each & mark) for each in bits[: len(rows)]], dtype=bool)
        table = table.marked(mark, chosen)
    return table


def read(criteria):
    return parse_criteria(oracle.spell(criteria))


def bucket_of(row, bits, criteria, keep):
    """The first bucket that a row fits, for a measure of the numbers of dues."""
    for mark, word in ((Mark.SUBTOTAL, Keep.SUBTOTALS), (Mark.HIDDEN, Keep.HIDDEN),
                       (Mark.FILTERED, Keep.FILTERED)):  # fmt: skip
        if bits & mark and word not in keep:
            return mark.name.lower()
    if not oracle.holds(criteria, row):
        return "unmatched"
    kind = oracle.kind(row["dues"])
    return {"blank": "blank", "error": "error", "number": "used"}.get(kind, "not_a_number")


@given(make.rows(), marks, make.criteria, keeps)
def test_every_row_stands_in_the_first_bucket_that_it_fits(rows, bits, criteria, keep):
    found = tally(Query.of(where=read(criteria), keep=keep), marked(rows, bits), [parse_measure("numbers of dues")])[0]  # fmt: skip
    buckets = [bucket_of(row, bits[i], criteria, keep) for i, row in enumerate(rows)]
    counts = found.account.as_dict()
    assert counts.pop("rows") == len(rows)
    assert counts == {name: buckets.count(name) for name in counts}


@given(make.rows(), marks, make.criteria, st.integers(1, 6), st.integers(1, 3))
def test_figures_are_the_same_in_any_blocks_on_any_threads(rows, bits, criteria, block, threads):
    table, where = marked(rows, bits), read(criteria)
    requests = [each for each in REQUESTS if _suits(each, table)]
    whole = tally(Query.of(where=where), table, requests)
    usual, passes.BLOCK = passes.BLOCK, block
    try:
        pieces = tally(Query.of(where=where, threads=threads), table, requests)
    finally:
        passes.BLOCK = usual
    assert whole == pieces


def _suits(request, table):
    return request.column != "dues" or "NUMBER" in {k.name for k in table.column("dues").counts}


@given(
    make.rows(least=1),
    marks,
    make.criteria,
    st.sampled_from(["zone", "remarks", "arrived", "paid", "dues"]),
)
def test_a_breakdown_gives_each_value_its_own_rows_and_adds_up(rows, bits, criteria, by):
    table, where = marked(rows, bits), read(criteria)
    requests = [each for each in REQUESTS if _suits(each, table)]
    found = break_down(Query.of(where=where), table, requests, Layout((by,)))
    assert [each.value for each in found.total] == [
        each.value for each in tally(Query.of(where=where), table, requests)
    ]
    for line in found.lines:
        group = line.tallies
        assert group[0].value > 0
        assert all(each.account.rows == len(rows) for each in group)
    for position, request in enumerate(requests):
        used = sum(line.tallies[position].account.used for line in found.lines)
        assert used == found.total[position].account.used
        if request.kind == "sum":
            parts = sum((line.tallies[position].exact for line in found.lines), Fraction(0))
            assert parts == found.total[position].exact


@given(make.rows(least=1), make.criteria, st.sampled_from(["zone", "tons", "paid"]))
def test_a_line_of_a_breakdown_is_the_tally_of_its_value(rows, criteria, by):
    table, where = make.table_of(rows), read(criteria)
    requests = [each for each in REQUESTS if _suits(each, table)]
    for line in break_down(Query.of(where=where), table, requests, Layout((by,))).lines:
        (value,) = line.key
        own = ("is", by, "blank") if value is None else ("=", by, [value])
        alone = tally(Query.of(where=read(("and", criteria, own))), table, requests)
        assert [each.value for each in line.tallies] == [each.value for each in alone]
        assert [each.account for each in line.tallies] == [each.account for each in alone]
        assert [each.found_at for each in line.tallies] == [each.found_at for each in alone]


@given(make.rows(), marks, make.criteria)
def test_matching_rows_are_those_that_rows_counts(rows, bits, criteria):
    table = marked(rows, bits)
    found, _ = matching_rows(Query.of(where=read(criteria)), table)
    assert found.tolist() == [
        i for i, row in enumerate(rows) if not bits[i] and oracle.holds(criteria, row)
    ]
    assert tally(Query.of(where=read(criteria)), table, [parse_measure("rows")])[0].value == len(
        found
    )


def test_many_groups_and_many_rows_agree_with_a_plain_loop():
    rng = np.random.default_rng(11)
    keys, values = rng.integers(0, 300, 5000), rng.standard_normal(5000) * 1e6
    table = table_from_columns({"key": keys, "x": values})
    found = break_down(
        Query(), table, [parse_measure("sum of x"), parse_measure("min of x")], Layout(("key",))
    )
    assert len(found) == len(set(keys.tolist()))
    for line in found.lines:
        own = values[keys == line.key[0]]
        assert line.tallies[0].exact == sum(Fraction(repr(each)) for each in own.tolist())
        assert line.tallies[1].value == own.min()


def test_a_condition_that_ten_measures_share_is_evaluated_once(monkeypatch):
    from even_sieve.core.criteria.probes import Between

    calls = []
    usual = Between.evaluate
    monkeypatch.setattr(Between, "evaluate", lambda self, b: calls.append(1) or usual(self, b))
    table = table_from_columns({"tons": list(range(9)), "dues": list(range(9))})
    requests = [parse_measure(f"{kind} of dues where tons > 3")
                for kind in ("sum", "min", "max", "average", "numbers", "filled", "blanks",
                             "errors", "distinct")]  # fmt: skip
    found = tally(Query(), table, [parse_measure("rows where tons > 3"), *requests])
    assert found[0].value == 5
    assert len(calls) == 1


def test_a_table_without_rows_has_counts_and_no_extremes():
    table = table_from_columns({"dues": [], "zone": []})
    found = tally(Query(), table, [parse_measure("rows"), parse_measure("sum of dues"),
                          parse_measure("max of dues")])  # fmt: skip
    assert [each.value for each in found] == [0, 0, None]
    assert found[2].reason == "no row matched"
    assert found[0].account == Account(0)


def test_blanks_and_errors_have_lines_of_their_own_in_a_breakdown():
    lost = CellError("#N/A", "not found")
    table = table_from_columns({"zone": ["b", None, lost, "A", "a", 5], "x": [1, 2, 3, 4, 5, 6]})
    found = break_down(Query(), table, [parse_measure("sum of x")], Layout(("zone",)))
    assert [(line.key[0], line.tallies[0].value) for line in found] == [
        (5, 6), ("A", 9), ("b", 1), (lost, 3), (None, 2)
    ]  # fmt: skip
    assert found["A"][0].value == 9
    with pytest.raises(KeyError, match="no line 'c'"):
        found["c"]


def test_an_account_that_does_not_add_up_is_a_bug_and_raises():
    with pytest.raises(AccountError) as caught:
        Account(rows=5, unmatched=3, used=1)
    assert str(caught.value).startswith("the account does not add up: 5 rows, but its buckets are")
    assert str(caught.value).endswith("please report it with the call.")
    with pytest.raises(AccountError):
        Account(rows=1, unmatched=2, used=-1)


def test_tallies_are_found_by_position_and_by_name():
    table = table_from_columns({"dues": [1, 2]})
    found = tally(Query(), table, [parse_measure("late = sum of dues"), parse_measure("rows")])
    assert (found[0].value, found["late"].value, found["rows"].value) == (3, 3, 2)
    assert str(found["late"]) == "late = 3 [2 rows = 2 used]"
    with pytest.raises(KeyError, match="did you mean 'late'"):
        found["lat"]


def test_an_unknown_column_to_break_down_by_is_refused():
    with pytest.raises(UnknownColumn, match="by: no column 'zoen'"):
        break_down(
            Query(), table_from_columns({"zone": ["a"]}), [parse_measure("rows")], Layout(("zoen",))
        )


def test_a_figure_is_a_number_where_it_is_one():
    table = table_from_columns({"dues": [1.5, 2], "zone": ["Outer", "Inner"]})
    found = tally(Query(), table, ["sum of dues", "max of zone", "average of dues where dues > 9"])
    assert (float(found[0]), int(found[0])) == (3.5, 3)
    with pytest.raises(TypeError, match="max of zone is 'Outer'"):
        float(found[1])
    with pytest.raises(TypeError, match="has no value: no row matched"):
        int(found[2])
