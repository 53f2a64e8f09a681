"""Columns brought from another table: as a plain dictionary brings them, errors where none is."""

from datetime import date, datetime

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

import oracle
import strategies as make
from even_sieve.core.cells import CellError
from even_sieve.core.errors import LookUpError, UnknownColumn
from even_sieve.core.measures import parse_measure
from even_sieve.core.query import Query
from even_sieve.core.table import Mark, table_from_columns
from even_sieve.core.table.lookup import look_up
from even_sieve.core.tally import tally

LOST = CellError("#N/A", "no berth")
CALLS = table_from_columns(
    {
        "class": ["barge", "FERRY", "raft", None, LOST, "barge"],
        "berth": [1, 2.0, 1, 1, 2, 3],
        "arrived": [date(2031, 1, 1), None, None, None, None, datetime(2031, 1, 1, 6)],
        "tons": [100, 20, 3, 4, 5, 6],
    }
)
TARIFF = table_from_columns(
    {
        "kind": ["Ferry", "barge", None, "barge"],
        "berth": [2, 1, 9, 3],
        "a ton": [0.045, LOST, 7, None],
        "note": ["x", "y", "z", "w"],
    }
)
REFUSED = [
    ({"class": "kind"}, {"note": "note"}, LookUpError, "look up: the other table: the key kind = barge stands in "
     "rows 2, 4\nA key must lead to one row: mark or take out the others"),
    ({"class": "kind", "berth": "berth"}, {"note": "tons"}, LookUpError,
     "look up: there is a column 'tons' already\nGive it another name: … as …"),
    ({"clas": "kind"}, {}, UnknownColumn, "look up: no column 'clas'\nDid you mean 'class'?"),
    ({"class": "kid"}, {}, UnknownColumn, "look up in the other table: no column 'kid'\n"
     "Did you mean 'kind'?"),
    ({"berth": "berth"}, {"not": "n"}, UnknownColumn, "look up: no column 'not'\n"
     "Did you mean 'note'?"),
]  # fmt: skip


def test_columns_follow_a_key_of_two_columns_and_errors_say_why():
    found = look_up(CALLS, TARIFF, {"class": "kind", "berth": "berth"}, {})
    assert found.names == ("class", "berth", "arrived", "tons", "a ton", "note")
    cells = list(found.column("a ton").cells())
    assert cells[:2] == [LOST, 0.045]
    assert cells[5] is None
    assert [cell.reason for cell in cells[2:5]] == [
        "the other table has no row with kind = raft, berth = 1",
        "the key in 'class' is blank",
        "the key in 'class' is the error #N/A",
    ]
    assert list(found.column("note").cells())[:2] == ["y", "x"]


@pytest.mark.parametrize(("keys", "bring", "error", "message"), REFUSED)
def test_a_look_up_that_cannot_be_is_refused(keys, bring, error, message):
    with pytest.raises(error) as caught:
        look_up(CALLS, TARIFF, keys, bring)
    assert str(caught.value) == message


def test_rows_marked_as_subtotals_are_no_keys():
    marked = TARIFF.marked(Mark.SUBTOTAL, np.array([False, False, False, True]))
    found = look_up(CALLS, marked, {"class": "kind"}, {"a ton": "a ton"})
    assert list(found.column("a ton").cells())[:2] == [LOST, 0.045]


def test_look_ups_chain():
    once = look_up(CALLS, TARIFF, {"berth": "berth"}, {"note": "letter"})
    letters = table_from_columns({"letter": ["X", "y"], "weight": [10, 20]})
    twice = look_up(once, letters, {"letter": "letter"}, {})
    assert list(twice.column("weight").cells())[:3] == [20, 10, 20]
    assert tally(Query(), twice, [parse_measure("sum of weight")])[0].value == 80
    assert twice.column("weight").cell(5).reason == "the other table has no row with letter = w"


def test_an_empty_table_finds_nothing():
    empty = table_from_columns({"kind": [], "a ton": []})
    found = look_up(CALLS, empty, {"class": "kind"}, {})
    assert all(isinstance(cell, CellError) for cell in found.column("a ton").cells())


@given(
    make.rows(),
    make.rows(),
    st.sampled_from(["zone", "remarks", "arrived", "dues", "tons", "paid"]),
    st.sampled_from(["dues", "departed", "remarks", "paid"]),
)
def test_a_look_up_is_what_a_dictionary_gives(rows, others, key, brought):
    seen, kept = set(), []
    for row in others:  # each key once
        mark = same(row[key])
        if mark is None or mark not in seen:
            kept.append(row)
            seen.add(mark)
    by_key = {same(row[key]): row[brought] for row in kept if same(row[key]) is not None}
    found = look_up(make.table_of(rows), make.table_of(kept), {key: key}, {brought: "got"})
    cells = list(found.column("got").cells())
    for row, cell in zip(rows, cells, strict=True):
        mark = same(row[key])
        if mark is None or mark not in by_key:
            assert cell.token == "not found"
        elif isinstance(by_key[mark], oracle.Wrong):
            assert cell.token == "#N/A"
        else:
            assert (type(cell) is bool, same(cell)) == (
                type(by_key[mark]) is bool, same(by_key[mark])
            )  # fmt: skip


def same(cell):
    """What equal cells have in common; None for what is no key."""
    kind = oracle.kind(cell)
    if kind in ("blank", "error"):
        return None
    value = {"text": oracle.same, "date": oracle.moment, "number": oracle.exact}.get(kind, bool)
    return kind, value(cell)
