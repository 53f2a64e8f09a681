"""Exact sums: equal to fractions, whatever the order, the blocks and the groups."""

from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from even_sieve.core.measures.exact import DecimalSums, ExactSums, add_integers
from even_sieve.core.table.lanes import FloatLane
from even_sieve.core.table.shortest import shortest_decimals

doubles = st.floats(allow_nan=False, allow_infinity=False)
hard = st.one_of(
    doubles,
    st.sampled_from([0.1, 1e308, -1e308, 1.7e308, 5e-324, -5e-324, 2.0**53, 1.0, 1e-300, -0.0]),
)
whole = st.integers(-(2**63) + 1, 2**63 - 1)


def as_printed(value):
    return Fraction(repr(value))


def sum_floats(values, pieces=1, groups=None, count=1):
    array = np.array(values, dtype=np.float64)
    digits, places = FloatLane(array).decimals
    sums = DecimalSums(count)
    for part in np.array_split(np.arange(len(array)), pieces):
        sums.add(digits[part], places[part], None if groups is None else groups[part])
    return sums


def sum_whole(values, groups=None, count=1, scale=0):
    sums = ExactSums(count, Fraction(1, 10**scale))
    array = np.array(values, dtype=np.int64)
    add_integers(sums, array, max(map(abs, values), default=0), groups)
    return sums


@given(st.lists(hard, max_size=40), st.integers(1, 5))
def test_sums_of_doubles_are_exact_in_any_pieces(values, pieces):
    true = sum(map(as_printed, values), Fraction(0))
    assert sum_floats(values, pieces).total(0) == true


@given(st.lists(hard, max_size=30), st.randoms())
def test_the_order_of_doubles_does_not_matter(values, chance):
    shuffled = chance.sample(values, len(values))
    assert sum_floats(values).total(0) == sum_floats(shuffled).total(0)


@given(st.lists(st.tuples(hard, st.integers(0, 3)), max_size=30), st.integers(1, 3))
def test_sums_of_doubles_by_group_are_exact(pairs, pieces):
    groups = np.array([group for _, group in pairs], dtype=np.uint8)
    sums = sum_floats([value for value, _ in pairs], pieces, groups, 4)
    for group in range(4):
        true = sum((as_printed(value) for value, own in pairs if own == group), Fraction(0))
        assert sums.total(group) == true


@given(st.lists(whole, max_size=40), st.integers(0, 18))
def test_sums_of_fixed_point_are_exact_beyond_64_bits(values, scale):
    assert sum_whole(values, scale=scale).total(0) == Fraction(sum(values), 10**scale)


@given(st.lists(st.tuples(whole, st.integers(0, 3)), max_size=40))
def test_sums_of_fixed_point_by_group_are_exact(pairs):
    groups = np.array([group for _, group in pairs], dtype=np.uint8)
    sums = sum_whole([value for value, _ in pairs], groups, 4)
    assert sums.together() == sum(value for value, _ in pairs)
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
    assert left.total(0) == other.total(0) == sum_floats(a + b + c).total(0)
    assert left.together() == left.total(0)


def test_a_long_block_of_doubles_is_exact():
    rng = np.random.default_rng(7)
    values = rng.standard_normal(200_000) * 10.0 ** rng.integers(-200, 200, 200_000)
    true = sum(map(as_printed, values.tolist()))
    assert sum_floats(values, 3).total(0) == true


@pytest.mark.parametrize("seed", range(3))
def test_a_double_is_the_decimal_that_it_prints(seed):
    rng = np.random.default_rng([seed, *map(ord, str(seed))])
    many = 400
    values = np.concatenate([
        rng.random(many), np.arange(many) / 3, rng.integers(-(10**7), 10**7, many) / 100,
        rng.integers(0, 2**63, many).view(np.float64), 2.0 ** rng.integers(-1074, 1023, many),
        np.nextafter(10.0 ** rng.integers(-20, 22, many), rng.choice([-np.inf, np.inf], many)),
        rng.integers(10**15, 10**17, many) / 10.0 ** rng.integers(0, 22, many),
        rng.integers(0, 2**62, many).astype(float), [0.0, -0.0, 5e-324, 1.7e308, 2.0**53 + 2],
    ])  # fmt: skip
    values = values[np.isfinite(values)]
    digits, places = shortest_decimals(values)
    for value, whole_number, scale in zip(
        values.tolist(), digits.tolist(), places.tolist(), strict=True
    ):
        assert Fraction(whole_number) / Fraction(10) ** scale == as_printed(value)
