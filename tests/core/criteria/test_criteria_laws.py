"""Laws that criteria keep on tables of any mixture of cells."""

from hypothesis import given
from hypothesis import strategies as st

import oracle
import strategies as make
from conftest import mask
from even_sieve.core.criteria import parse_criteria, write_criteria
from even_sieve.core.criteria.nodes import all_of, any_of, negated


def read(criteria):
    return parse_criteria(oracle.spell(criteria))


@given(make.rows(), make.criteria)
def test_a_mask_is_what_a_slow_evaluator_finds(rows, criteria):
    found = mask(make.table_of(rows), read(criteria))
    assert found == [oracle.holds(criteria, row) for row in rows]


@given(make.rows(), make.criteria)
def test_not_parts_the_table(rows, criteria):
    table, nodes = make.table_of(rows), read(criteria)
    opposite = mask(table, negated(nodes))
    assert [not each for each in mask(table, nodes)] == opposite
    assert mask(table, parse_criteria(f"not ({oracle.spell(criteria)})")) == opposite


@given(make.rows(), st.lists(make.texts, min_size=1, max_size=3))
def test_equal_and_unequal_part_the_table(rows, values):
    table = make.table_of(rows)
    equal = mask(table, read(("=", "remarks", values)))
    assert mask(table, read(("!=", "remarks", values))) == [not each for each in equal]


@given(make.rows(), make.criteria, make.criteria)
def test_not_of_or_is_and_of_nots(rows, first, second):
    table, a, b = make.table_of(rows), read(first), read(second)
    assert mask(table, negated(any_of([a, b]))) == mask(table, all_of([negated(a), negated(b)]))
    assert mask(table, negated(all_of([a, b]))) == mask(table, any_of([negated(a), negated(b)]))


@given(make.rows(), st.lists(make.criteria, min_size=2, max_size=4), st.randoms())
def test_the_order_of_alternatives_does_not_matter(rows, parts, chance):
    table, nodes = make.table_of(rows), [read(part) for part in parts]
    shuffled = chance.sample(nodes, len(nodes))
    assert mask(table, any_of(nodes)) == mask(table, any_of(shuffled))


@given(make.criteria)
def test_criteria_written_as_text_read_back_equal(criteria):
    nodes = read(criteria)
    assert parse_criteria(write_criteria(nodes)) == nodes
