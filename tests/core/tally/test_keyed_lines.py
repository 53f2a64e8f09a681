"""Keys and values of a breakdown as columns are those of its lines, one by one."""

from datetime import date
from decimal import Decimal

from hypothesis import given
from hypothesis import strategies as st

from even_sieve.core.cells import CellError
from even_sieve.core.errors import UnsuitableColumn
from even_sieve.core.measures.signatures import KINDS
from even_sieve.core.query import Query
from even_sieve.core.table import table_from_columns
from even_sieve.core.tally import Layout, break_down, keys_of, levels, values_of
from even_sieve.core.tally.keyed_lines import picked

CELLS = st.one_of(
    st.none(), st.integers(-50, 50), st.decimals(-99, 99, places=2), st.sampled_from([0.1, 1e15 + 0.5, 1e300, -1e300]),
    st.sampled_from(["waived", "b", "12"]), st.just(CellError("#N/A")), st.booleans(),
    st.dates(date(2030, 1, 1), date(2031, 12, 31)),
)  # fmt: skip
COLUMNS = st.one_of(
    st.lists(st.one_of(st.none(), st.integers(-5, 5))), st.lists(st.decimals(-9, 9, places=2)),
    st.lists(st.dates(date(2031, 1, 1), date(2031, 1, 9))), st.lists(st.sampled_from("abc")), st.lists(CELLS),
)  # fmt: skip
EXAMPLES = [form.example(kind, "x", "w") for kind, form in KINDS.items()]


@given(COLUMNS, st.data())
def test_columns_are_those_of_the_lines(cells, data):
    size = len(cells)
    zones = data.draw(
        st.lists(st.sampled_from(["a", "b", "c", None]), min_size=size, max_size=size)
    )
    weights = data.draw(st.lists(st.integers(-3, 3), min_size=size, max_size=size))
    table = table_from_columns({"zone": zones, "x": cells, "w": weights, "y": weights[::-1]})
    keep = data.draw(st.sampled_from([[], ["errors"], ["blanks"]]))
    measure = data.draw(
        st.sampled_from([*EXAMPLES, "ratio of sum of w to rows", "running total of sum of w"])
    )
    layout = data.draw(st.sampled_from([
        Layout(("zone",)), Layout(("zone", "y")), Layout(("zone",), "y"), Layout(("zone",), sort="label desc"),
        Layout(("zone as a | b",)), Layout(("zone",), top=2), Layout(("zone",), sort="sum of w desc"),
    ]))  # fmt: skip
    measures = ["sum of w", measure, "sum of w regardless of zone"]
    try:
        found = break_down(Query.of(keep=keep), table, dict.fromkeys(measures), layout)
    except UnsuitableColumn:
        return
    for lines in (
        found.lines,
        found.subtotals,
        picked(found.subtotals, range(len(found.subtotals))[::-1]),
    ):
        columns = [values_of(lines, i) for i in range(len(found.total))]
        keys = keys_of(lines)
        assert len(keys) == len(lines)
        for place, line in enumerate(lines):
            assert keys[place] == line.key
            for column, tally in zip(columns, line.tallies, strict=True):
                value = column[place]
                assert (type(value), value) == (type(tally.value), tally.value)
                assert not isinstance(value, Decimal)


def test_more_combinations_than_64_bits_can_number(monkeypatch):
    names = ("a", "b", "c", "d")
    values = [[row * step % 7 for row in range(40)] for step in (1, 2, 3, 5)]
    table = table_from_columns(dict(zip(names, values, strict=True)))
    wanted = break_down(Query(), table, ["sum of d"], Layout(names))
    monkeypatch.setattr(levels, "_MOST_TOGETHER", 8)
    assert break_down(Query(), table, ["sum of d"], Layout(names)) == wanted
    assert sorted(keys_of(wanted.lines)) == sorted(set(zip(*values, strict=True)))
