"""Exact sums: equal to fractions, whatever the order, the blocks and the groups."""

from fractions import Fraction

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from even_sieve.core.measures.exact import add_fixed, add_floats, start_sums
from even_sieve.core.table.lanes import FixedLane, FloatLane

doubles = st.floats(allow_nan=False, allow_infinity=False)
hard = st.one_of(
    doubles,
    st.sampled_from([0.1, 1e308, -1e308, 1.7e308, 5e-324, -5e-324, 2.0**53, 1.0, 1e-300, -0.0]),
)
whole = st.integers(-(2**63) + 1, 2**63 - 1)


def sum_floats(values, pieces=1, groups=None, count=1):
    array = np.array(values, dtype=np.float64)
    sums = start_sums(FloatLane(array), count)
    for part in np.array_split(np.arange(len(array)), pieces):
        add_floats(sums, array[part], None if groups is None else groups[part])
    return sums


@given(st.lists(hard, max_size=40), st.integers(1, 5))
def test_sums_of_doubles_are_exact_in_any_pieces(values, pieces):
    true = sum(map(Fraction, values), Fraction(0))
    assert sum_floats(values, pieces).total(0) == true


@given(st.lists(hard, max_size=30), st.randoms())
def test_the_order_of_doubles_does_not_matter(values, chance):
    shuffled = chance.sample(values, len(values))
    assert sum_floats(values).totals == sum_floats(shuffled).totals


@given(st.lists(st.tuples(hard, st.integers(0, 3)), max_size=30), st.integers(1, 3))
def test_sums_of_doubles_by_group_are_exact(pairs, pieces):
    groups = np.array([group for _, group in pairs], dtype=np.uint8)
    sums = sum_floats([value for value, _ in pairs], pieces, groups, 4)
    for group in range(4):
        true = sum((Fraction(value) for value, own in pairs if own == group), Fraction(0))
        assert sums.total(group) == true


@given(st.lists(whole, max_size=40), st.integers(0, 18))
def test_sums_of_fixed_point_are_exact_beyond_64_bits(values, scale):
    lane = FixedLane(np.array(values, dtype=np.int64), scale)
    sums = start_sums(lane, 1)
    add_fixed(sums, lane, lane.values, None)
    assert sums.total(0) == Fraction(sum(values), 10**scale)


@given(st.lists(st.tuples(whole, st.integers(0, 3)), max_size=40))
def test_sums_of_fixed_point_by_group_are_exact(pairs):
    lane = FixedLane(np.array([value for value, _ in pairs], dtype=np.int64), 0)
    groups = np.array([group for _, group in pairs], dtype=np.uint8)
    sums = start_sums(lane, 4)
    add_fixed(sums, lane, lane.values, groups)
    for group in range(4):
        assert sums.total(group) == sum(value for value, own in pairs if own == group)


@given(st.lists(hard, max_size=20), st.lists(hard, max_size=20), st.lists(hard, max_size=20))
def test_merging_is_associative_and_starts_from_nothing(a, b, c):
    left, right, nothing = sum_floats(a), sum_floats(b), sum_floats([])
    left.merge(right)
    left.merge(sum_floats(c))
    right.merge(sum_floats(c))
    other = sum_floats(a)
    other.merge(right)
    other.merge(nothing)
    assert left.totals == other.totals == sum_floats(a + b + c).totals


def test_a_long_block_of_doubles_is_exact():
    rng = np.random.default_rng(7)
    values = rng.standard_normal(200_000) * 10.0 ** rng.integers(-200, 200, 200_000)
    true = sum(map(Fraction, values.tolist()))
    assert sum_floats(values, 3).total(0) == true
