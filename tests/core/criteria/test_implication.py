"""When one condition holds, another does: sure answers only."""

import pytest
from hypothesis import given

import oracle
import strategies as make
from even_sieve.core.criteria import parse_criteria
from even_sieve.core.criteria.implication import implies

SURE = [
    ("zone = Outer", "zone = outer | Inner"),
    ("zone = Outer", "zone = O*"),
    ("zone = Outer", "zone != Inner"),
    ("zone != Outer | Inner", "zone != Outer"),
    ("dues > 10", "dues > 5"),
    ("dues > 10", "dues >= 10"),
    ("dues = 10", "dues in 5..15"),
    ("dues in 5..10", "dues in 5..10 | 20"),
    ("dues < 5", "dues <= 5"),
    ("arrived in 2031-02", "arrived in 2031-Q1"),
    ("arrived = 2031-02-03", "arrived >= 2031-02-03"),
    ("arrived in 2031-01..2031-02", "arrived in 2031-Q1"),
    ("zone = Outer and dues > 10", "dues > 5"),
    ("zone is blank", "zone is blank"),
    ("dues = 5", "dues != 7"),
]
NOT_SURE = [
    ("zone = O*", "zone = Outer"),
    ("zone = Outer | North", "zone = Outer | Inner"),
    ("dues >= 10", "dues > 10"),
    ("dues > 5", "dues > 10"),
    ("dues in 5..", "dues in 5..9"),
    ("dues = 5", "zone = 5"),
    ("arrived in 2031-Q1", "arrived in 2031-02"),
    ("zone != Outer", "zone = Inner"),
    ("zone != Outer", "zone != Outer | Inner"),
    ("dues > 5", "zone = Outer and dues > 5"),
    ("zone = Outer", "zone != O*"),
]


@pytest.mark.parametrize(("first", "second"), SURE)
def test_a_narrower_condition_implies_a_wider_one(first, second):
    assert implies(parse_criteria(first), parse_criteria(second))


@pytest.mark.parametrize(("first", "second"), NOT_SURE)
def test_nothing_is_implied_that_is_not_sure(first, second):
    assert not implies(parse_criteria(first), parse_criteria(second))


@given(make.rows(), make.criteria, make.criteria)
def test_what_is_implied_holds_on_every_row(rows, first, second):
    if implies(parse_criteria(oracle.spell(first)), parse_criteria(oracle.spell(second))):
        assert all(oracle.holds(second, row) for row in rows if oracle.holds(first, row))
