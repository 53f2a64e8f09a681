"""Every kind of measure against an outside source: statistics, fractions, NumPy, NIST."""

import math
import random
import statistics
from contextlib import contextmanager
from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from even_sieve.core.measures import (
    KINDS,
    best,
    census,
    first_rows,
    parse_measure,
    ranks,
    scattering,
)
from even_sieve.core.measures.factors import Product, product_of
from even_sieve.core.measures.rounding import root_to_double, to_double
from even_sieve.core.query import Query
from even_sieve.core.table import arrays, table_from_columns
from even_sieve.core.table.lanes import FixedLane, FloatLane
from even_sieve.core.tally import Defence, Layout, break_down, gathering, passes, tally

DUES = [640.5, 80, 96.25, 1200, 80, 410, 12.75, 80, 655]
TONS = [900, 120, 300, 4000, 120, 700, 40, 100, 800]
BERTHS = ["O-01", "I-02", "O-01", "o-01", None, "N-04", "I-02", "O-03", "O-01"]
exact = [Fraction(each) for each in DUES]
# The measure, and what an outside source gives for it: the table of docs/measures.md.
OUTSIDE = [
    ("rows", len(DUES)),
    ("numbers of dues", len(DUES)),
    ("filled of berths", sum(berth is not None for berth in BERTHS)),
    ("blanks of berths", BERTHS.count(None)),
    ("errors of dues", sum(math.isnan(each) for each in DUES)),
    ("distinct of berths", len({berth.casefold() for berth in BERTHS if berth})),
    ("distinct or blank of berths", len({berth and berth.casefold() for berth in BERTHS})),
    ("sum of dues", math.fsum(DUES)),
    ("product of dues", float(math.prod(exact))),
    ("average of dues", statistics.fmean(DUES)),
    ("weighted average of dues by tons", statistics.fmean(DUES, weights=TONS)),
    ("min of dues", min(DUES)),
    ("max of dues", max(DUES)),
    ("largest 2 of dues", sorted(DUES)[-2]),
    ("smallest 3 of dues", sorted(DUES)[2]),
    ("range of dues", float(np.ptp(DUES))),
    ("median of dues", statistics.median(DUES)),
    ("mode of dues", statistics.mode(DUES)),
    ("percentile 90 of dues", float(np.percentile(DUES, 90))),
    ("percentile 90 exclusive of dues", float(np.percentile(DUES, 90, method="weibull"))),
    ("quartile 1 of dues", statistics.quantiles(DUES, n=4, method="inclusive")[0]),
    ("quartile 3 exclusive of dues", statistics.quantiles(DUES, n=4)[2]),
    ("variance of dues", float(statistics.variance(exact))),
    ("variance population of dues", float(statistics.pvariance(exact))),
    ("deviation of dues", statistics.stdev(exact)),
    ("deviation population of dues", statistics.pstdev(exact)),
    ("only of dues where tons = 4000", 1200),
    ("first of berths", next(filter(None, BERTHS))),
    ("last of berths", next(filter(None, reversed(BERTHS)))),
    ("share of dues where berths = O-01", float(sum(exact[i] for i in (0, 2, 3, 8)) / sum(exact))),
]
#: NIST Statistical Reference Datasets, univariate, those that can be generated:
#: the data, the certified mean, the certified standard deviation.
NIST = {
    "NumAcc1": (["10000001", "10000003", "10000002"], 10000002, 1),
    "NumAcc2": (["1.2"] + ["1.1", "1.3"] * 500, 1.2, 0.1),
    "NumAcc3": (["1000000.2"] + ["1000000.1", "1000000.3"] * 500, 1000000.2, 0.1),
    "NumAcc4": (["10000000.2"] + ["10000000.1", "10000000.3"] * 500, 10000000.2, 0.1),
}
hard = st.one_of(
    st.floats(allow_nan=False, allow_infinity=False),
    st.sampled_from([0.0, -0.0, 0.1, 1e308, -1.7e308, 5e-324, 2.0**53, 1e-200, 1e200]),
    st.integers(-3, 3).map(float),
)
wide = st.one_of(st.integers(-(2**63) + 1, 2**63 - 1), st.integers(-9, 9))


def value(columns, text, **options):
    table = table_from_columns(columns)
    return tally(Query.of(**options), table, [parse_measure(text, table.names)])[0].value


@pytest.mark.parametrize(("text", "wanted"), OUTSIDE)
def test_a_measure_is_what_an_outside_source_gives(text, wanted):
    found = value({"dues": DUES, "tons": TONS, "berths": BERTHS}, text)
    if isinstance(wanted, float):
        assert math.isclose(found, wanted, rel_tol=2e-16, abs_tol=0)
    else:
        assert found == wanted


def test_every_kind_is_in_the_table():
    assert {parse_measure(text).kind for text, _ in OUTSIDE} == set(KINDS)


def inverse_tangent(inverse, unity):
    """The arc tangent of 1 / inverse, times unity, by its series."""
    power = total = unity // inverse
    for odd in range(3, 8 * len(str(unity)), 2):
        power //= -(inverse**2)
        total += power // odd
    return total


def first_digits_of_pi(count):
    """Machin's formula, with digits to spare."""
    unity = 10 ** (count + 30)
    pi = 4 * (4 * inverse_tangent(5, unity) - inverse_tangent(239, unity))
    return [int(digit) for digit in str(pi)[:count]]


@pytest.mark.parametrize("name", NIST)
def test_all_certified_digits_of_nist_come_out(name):
    written, mean, deviation = NIST[name]
    data = {"x": [float(each) for each in written]}
    assert value(data, "average of x") == mean
    assert value(data, "deviation of x") == deviation


def test_the_digits_of_pi_have_the_spread_that_fractions_give():
    digits = first_digits_of_pi(2000)
    assert digits[:10] == [3, 1, 4, 1, 5, 9, 2, 6, 5, 3]
    data = {"x": digits}
    assert value(data, "average of x") == sum(digits) / 2000
    assert value(data, "deviation of x") == statistics.stdev(map(Fraction, digits))


@given(st.lists(hard, min_size=1, max_size=12), st.integers(1, 3))
def test_figures_of_doubles_are_those_of_fractions_rounded_once(values, threads):
    true = [Fraction(repr(each)) for each in values]
    data, count = {"x": np.array(values)}, len(values)
    mean = sum(true) / count
    spread = sum((each - mean) ** 2 for each in true)
    assert value(data, "average of x", threads=threads) == to_double(mean)
    assert value(data, "variance population of x") == to_double(spread / count)
    assert value(data, "deviation population of x") == root_to_double(spread / count)
    if count > 1:
        assert value(data, "variance of x") == to_double(spread / (count - 1))
    assert value(data, "range of x") == to_double(max(true) - min(true))


@given(st.lists(st.tuples(hard, hard), min_size=1, max_size=8))
def test_a_weighted_average_of_doubles_is_rounded_once(pairs):
    x, w = (np.array(each) for each in zip(*pairs, strict=True))
    table = table_from_columns({"x": x, "w": w})
    found = tally(Query(), table, [parse_measure("weighted average of x by w")])[0]
    again = Defence(Query(), table).recheck(found)
    assert again.value == again.again
    if found.exact is None:
        assert found.reason == "the weights add up to 0"


@given(st.lists(wide, max_size=12), st.integers(0, 5))
def test_whole_numbers_are_multiplied_beyond_64_bits(values, scale):
    lane = FixedLane(np.array(values, dtype=np.int64), scale)
    true = math.prod((Fraction(each, 10**scale) for each in values), start=Fraction(1))
    found = product_of(lane.values, np.full(len(lane.values), lane.scale))
    assert found.exact in (None, true)
    assert found.nearest() == to_double(true)


@given(st.lists(hard, max_size=40), st.randoms())
def test_a_product_is_the_same_in_any_order_and_any_pieces(values, chance):
    true = math.prod((Fraction(repr(each)) for each in values), start=Fraction(1))
    array = np.array(chance.sample(values, len(values)))
    together = Product()
    for part in np.array_split(array, 3):
        together.times(product_of(*FloatLane(part).decimals))
    assert together.nearest() == to_double(true)


def test_a_long_product_is_cut_off_and_still_rounded_once():
    values = np.random.default_rng(3).integers(1, 2**62, 400)
    true = math.prod(Fraction(each, 10**18) for each in values.tolist())
    found = product_of(values, np.full(len(values), 18))
    assert found.cuts > 0
    assert found.nearest() == to_double(true)


@given(st.lists(st.integers(-50, 50), min_size=2, max_size=30), st.integers(1, 99))
def test_percentiles_are_numpys_and_quartiles_those_of_statistics(values, part):
    data = {"x": values}
    for way, method in (("inclusive", "linear"), ("exclusive", "weibull")):
        found = value(data, f"percentile {part} {way} of x")
        place = Fraction(part, 100) * (len(values) + 1)
        if way == "exclusive" and not 1 <= place <= len(values):
            assert found is None
            continue
        wanted = float(np.percentile(values, part, method=method))
        assert math.isclose(found, wanted, rel_tol=1e-13, abs_tol=1e-13)
    wanted = statistics.quantiles(values, n=4, method="inclusive")
    assert [value(data, f"quartile {q} of x") for q in (1, 2, 3)] == wanted
    if len(values) > 2:
        wanted = statistics.quantiles(values, n=4)
        assert [value(data, f"quartile {q} exclusive of x") for q in (1, 2, 3)] == wanted


IN_PASSES = ["median of x", "largest 3 of x", "percentile 12.5 of x", "mode of x", "distinct of x",
             "quartile 3 exclusive of x", "smallest 2 of t", "mode of t", "distinct of t", "min of x",
             "max of t", "range of x", "first of t", "last of x", "sum of x", "variance of x"]  # fmt: skip


@contextmanager
def small_limits(many=False):
    """So little is gathered at once that every search takes several passes.

    With `many` every breakdown counts as one of very many groups.
    """
    with pytest.MonkeyPatch.context() as change:
        for module, limits in (
            (ranks, {"MOST_GATHERED": 6, "_MOST_BINS": 4, "_MOST_BITS": 3, "_FEWEST_BITS": 1}),
            (census, {"MOST_GATHERED": 6, "_AT_ONCE": 1, "_LARGEST_TABLE": 16, "_BITS": 3}),
            (passes, {"BLOCK": 5}),
            (gathering, {"PIECE": 2}),
            (first_rows, {"_WAITING": 3}),
            (best, {"_WAITING": 3}),
            (scattering, {"_MANY": 0} if many else {}),
            (ranks, {"_MANY_GROUPS": 1, "_MOST_GROUPS": 0, "_MOST_TOGETHER": 4} if many else {}),
        ):
            for name, limit in limits.items():
                change.setattr(module, name, limit)
        yield


@given(
    st.lists(
        st.tuples(st.one_of(hard, st.none()), st.text("abAB", min_size=1, max_size=2),
                  st.integers(0, 2)),
        max_size=50,
    ),
    st.sets(st.sampled_from(IN_PASSES), min_size=1, max_size=4),
    st.integers(1, 3),
    st.booleans(),
)  # fmt: skip
def test_order_and_frequency_are_exact_over_many_passes(rows, texts, threads, many):
    x, t, s = zip(*rows, strict=True) if rows else ((), (), ())
    table = table_from_columns({"x": list(x), "t": list(t), "s": list(s)})
    requests = [parse_measure(text) for text in sorted(texts)]
    usual = tally(Query(), table, requests)
    of_groups = break_down(Query(), table, requests, Layout(("s",)))
    with small_limits(many):
        found = tally(Query.of(threads=threads), table, requests)
        lines = break_down(Query.of(threads=threads), table, requests, Layout(("s",)))
    assert found == usual
    assert list(lines) == list(of_groups)
    defence = Defence(Query(), table)
    for each in (*found, *(each for line in lines for each in line.tallies)):
        defence.recheck(each)
        for row in each.found_at:
            assert row in defence.rows(each)


def test_a_large_table_is_searched_by_counting():
    values = np.random.default_rng(9).lognormal(3, 2, (1 << 20) + 999)
    table = table_from_columns({"x": values, "d": np.round(values * 50).astype(np.int64)})
    middle = np.sort(values)[len(values) // 2]
    assert tally(Query(), table, [parse_measure("median of x")])[0].value == middle
    assert tally(Query(), table, [parse_measure("distinct of x")])[0].value == len(
        np.unique(values)
    )
    found, counts = np.unique(np.round(values * 50), return_counts=True)
    mode = tally(Query(), table, [parse_measure("mode of d")])[0]
    assert mode.value == found[counts.argmax()]
    assert mode.account.used == len(values)


def test_stretches_count_alike_whatever_memory_is_granted_where_they_stand(monkeypatch):
    monkeypatch.setattr(passes, "BLOCK", 50)
    monkeypatch.setattr(census, "MOST_GATHERED", 6)
    monkeypatch.setattr(census, "_LARGEST_TABLE", 16)
    grants = iter([1, None] * 50)

    class Elsewhere(arrays.InMemory):
        granted = None

    def arrive():  # as another process would, with memory of its own
        there = Elsewhere()
        there.granted = next(grants)
        arrays.keep_in(there)

    monkeypatch.setattr(passes, "keep_memory", arrive)
    dues = [random.randrange(10**9) for _ in range(400)] * 2
    try:
        table = table_from_columns({"dues": dues})
        asked = [parse_measure("distinct of dues"), parse_measure("mode of dues")]
        found = tally(Query.of(threads=2), table, asked)
    finally:
        arrays.keep_in(arrays.InMemory())
    assert [each.value for each in found] == [len(set(dues)), min(dues)]
