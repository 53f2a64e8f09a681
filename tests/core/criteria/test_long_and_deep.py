"""Criteria as long and as deep as a person can make them: read, or refused in words."""

import pytest

from even_sieve import field, table_from
from even_sieve.core.cells.quoting import DEEPEST
from even_sieve.core.errors import CallError, MarkError, UnknownColumn
from even_sieve.core.notices import Code

TABLE = table_from({"zone": ["Outer", "Inner", None], "dues": [1, 20, 3]})


@pytest.mark.parametrize(
    "text",
    ["(" * 3000 + "dues = 1" + ")" * 3000, "not " * 3000 + "dues = 1", {"dues": "not " * 90 + "5"}],
)  # fmt: skip
def test_criteria_nested_too_deep_are_refused(text):
    with pytest.raises(CallError, match=f"nested more than {DEEPEST} deep") as caught:
        TABLE.tally("rows", where=text)
    assert len(str(caught.value)) < 500


@pytest.mark.parametrize("body", ["-" * 900 + "dues", "abs(" * 900 + "dues" + ")" * 900])
def test_expressions_nested_too_deep_are_refused(body):
    with pytest.raises(CallError, match=f"nested more than {DEEPEST} deep"):
        TABLE.derive(f"x = {body}")


def test_nodes_nested_too_deep_are_refused():
    nodes = field("dues") == 1
    for number in range(900):
        nodes = ~((nodes & (field("dues") < number)) | (field("zone") == "x"))
    with pytest.raises(CallError, match="nested more than"):
        TABLE.tally("rows", where=nodes)


def test_as_deep_as_may_be_and_as_long_as_one_likes():
    deep = "(" * DEEPEST + "dues = 1" + ")" * DEEPEST
    assert TABLE.tally("rows", where=deep)[0].value == 1
    assert TABLE.derive("x = " + " + ".join(["dues"] * 3000)).tally("sum of x")[0].value == 72_000
    for joint, found in ((" or ", 3), (" and ", 0)):
        long = joint.join(f"dues = {number}" for number in range(3000))
        answer = TABLE.tally("rows", where=long)
        assert answer[0].value == found
        assert TABLE.recheck(answer)[0].again == found


def test_many_values_that_no_row_holds_are_told_once():
    where = "zone = " + " | ".join(f"quay {number}" for number in range(3000))
    codes = [each.code for each in TABLE.tally("rows", where=where).notices]
    assert codes.count(Code.VALUE_NOT_FOUND) == 11
    last = TABLE.tally("rows", where=where).notices[10].text
    assert last.endswith("…: the same goes for 2,990 more values")
    where = " or ".join(f"zone = quay{number}" for number in range(3000))
    told = TABLE.tally("rows", where=where).notices
    assert len(told) < 60
    assert "the same goes for 2,950 more conditions" in " ".join(each.text for each in told)


def test_a_number_beyond_the_largest_double_is_refused():
    for text in ("dues < 1e400", "dues in 1..9e999", f"dues = {'9' * 310}.5"):
        with pytest.raises(CallError, match="beyond the largest double"):
            TABLE.tally("rows", where=text)


def test_row_numbers_by_the_million_are_refused_or_marked():
    with pytest.raises(MarkError, match="no row has the number 3000000"):
        TABLE.mark(hidden=[1, 3_000_000])


def test_an_error_never_repeats_a_name_of_a_million_letters():
    with pytest.raises(UnknownColumn) as caught:
        table_from({"zone": ["Outer"]}).tally("rows", by="z" * 1_000_000)
    assert len(str(caught.value)) < 2_000
    assert caught.value.column == "z" * 1_000_000
