"""Breakdowns by any axes: every row in one line, lines that add up, each line rechecked."""

from datetime import date, datetime
from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

import oracle
import strategies as make
from even_sieve.core.cells import CellError
from even_sieve.core.criteria import parse_criteria
from even_sieve.core.errors import CallError, UnknownColumn
from even_sieve.core.measures import parse_measure
from even_sieve.core.query import Query
from even_sieve.core.table import Mark, table_from_columns
from even_sieve.core.tally import ALL_VALUES, Defence, Layout, break_down

LOST = CellError("#N/A", "not found")
CALLS = table_from_columns(
    {
        "zone": ["Outer", "Inner", "outer", None, "Inner", "Outer"],
        "vessel": ["Heron", "Barnacle", "Brant", "Eider", "heron", "a|b"],
        "arrived": [date(2030, 12, 30), date(2031, 1, 4), date(2031, 3, 31), None,
                    date(2031, 3, 31), date(2032, 2, 29)],
        "berthed": [datetime(2031, 1, 1, 23, 59), datetime(2031, 2, 1), None, LOST,
                    datetime(2031, 1, 31, 12), datetime(2031, 1, 1)],
        "dues": [99.99, 100, 500, "waived", -5, 1200],
        "depth": np.array([0.1 + 0.2, 1 / 3, 2.5, 2.5, 1e-9, 4.75]),
    }
)  # fmt: skip
# The axis, and the key of each line with its rows; the rest last where labels are given.
AXES = [
    ("zone", {"Inner": (2, 5), "Outer": (1, 3, 6), None: (4,)}),
    ("ZONE", {"Inner": (2, 5), "Outer": (1, 3, 6), None: (4,)}),
    ("arrived by year", {"2030": (1,), "2031": (2, 3, 5), "2032": (6,), None: (4,)}),
    ("arrived by quarter", {"2030-Q4": (1,), "2031-Q1": (2, 3, 5), "2032-Q1": (6,), None: (4,)}),
    ("arrived by month", {"2030-12": (1,), "2031-01": (2,), "2031-03": (3, 5), "2032-02": (6,),
                          None: (4,)}),
    ("arrived by week", {"2031-W01": (1, 2), "2031-W14": (3, 5), "2032-W09": (6,), None: (4,)}),
    ("arrived by day", {"2030-12-30": (1,), "2031-01-04": (2,), "2031-03-31": (3, 5),
                        "2032-02-29": (6,), None: (4,)}),
    ("berthed by month", {"2031-01": (1, 5, 6), "2031-02": (2,), LOST: (4,), None: (3,)}),
    ("dues in bands 0, 100, 500", {"below 0": (5,), "0 to below 100": (1,),
                                   "100 to below 500": (2,), "500 and above": (3, 6),
                                   "waived": (4,)}),
    ("depth in bands 0.3, 2.5", {"below 0.3": (5,), "0.3 to below 2.5": (1, 2),
                                 "2.5 and above": (3, 4, 6)}),
    ("dues in bands 99.995", {"below 99.995": (1, 5), "99.995 and above": (2, 3, 6),
                              "waived": (4,)}),
    ("vessel as Heron | B* | Nobody", {"Heron": (1, 5), "B*": (2, 3), "Nobody": (),
                                       "rest": (4, 6)}),
    ('vessel as "a|b" | *', {"a|b": (6,), "*": (1, 2, 3, 4, 5)}),
]  # fmt: skip
REFUSED = [
    ("zoen", UnknownColumn, "by: no column 'zoen'\nDid you mean 'zone'?"),
    ("zoen by month", UnknownColumn, "by: no column 'zoen by month'"),
    ("zone by month", CallError, "by 'zone by month': column 'zone' holds text and blanks and no date"),
    ("zone in bands 1", CallError, "by 'zone in bands 1': column 'zone' holds text and blanks and no number"),
    ("dues in bands 5, 3", CallError, "by 'dues in bands 5, 3': the ends of bands are numbers that ascend\n"
     "Write for example: dues in bands 0, 100, 500"),
    ("dues in bands few", CallError, "by 'dues in bands few': the ends of bands are numbers that ascend"),
    ("vessel as B* || C*", CallError, "by 'vessel as B* || C*': a label is missing\n"
     "Write for example: vessel as B* | C*"),
]  # fmt: skip
ROWS = [parse_measure("rows")]
FIGURES = [parse_measure(text) for text in
           ("sum of dues", "rows", "median of tons", "share of tons", "distinct of remarks")]  # fmt: skip
axes = st.sampled_from(
    ["zone", "remarks", "paid", "dues", "arrived", "arrived by month", "departed by week",
     "departed by year", "tons in bands 2, 5", "dues in bands -5, 0, 12.25",
     "zone as Outer | a* | inner", 'remarks as "B-12" | *t*'],
)  # fmt: skip


def lines(table, text, requests=ROWS):
    found = break_down(Query(), table, requests, Layout((text,)))
    return [*found.lines, *([] if found.rest is None else [found.rest])]


@pytest.mark.parametrize(("text", "wanted"), AXES)
def test_an_axis_puts_every_row_into_one_group(text, wanted):
    found = {
        line.key[0]: Defence(Query(), CALLS).rows(line.tallies[0]) for line in lines(CALLS, text)
    }
    assert found == wanted
    assert list(found) == list(wanted)


@pytest.mark.parametrize(("text", "error", "message"), REFUSED)
def test_an_axis_that_cannot_be_is_refused(text, error, message):
    with pytest.raises(error) as caught:
        break_down(Query(), CALLS, ROWS, Layout((text,)))
    assert str(caught.value).startswith(message)


@given(
    make.rows(least=1),
    make.criteria,
    st.lists(axes, min_size=1, max_size=2, unique=True),
    st.one_of(st.none(), axes),
    st.lists(st.integers(0, 7), min_size=12, max_size=12),
)
def test_lines_and_subtotals_add_up_and_each_is_rechecked(rows, criteria, by, across, bits):
    table, where = make.table_of(rows), parse_criteria(oracle.spell(criteria))
    chosen = np.array([each == 7 for each in bits[: len(rows)]], dtype=bool)
    table = table.marked(Mark.HIDDEN, chosen)
    try:
        found = break_down(Query.of(where=where), table, FIGURES, Layout(tuple(by), across))
    except CallError:  # a column without dates has no months, one without numbers no bands
        return
    every = [*found.lines, *([] if found.rest is None else [found.rest])]
    depth = len(by) + (across is not None)
    by_level = {}
    defence = Defence(Query(), table)
    for line in (*every, *found.subtotals):
        level = tuple(key is ALL_VALUES for key in line.key)
        by_level.setdefault(level, []).append(line)
        assert len(line.key) == depth
        for each in line.tallies:
            defence.recheck(each)
    for level in by_level.values():
        for position, whole in enumerate(found.total):
            parts = [line.tallies[position] for line in level]
            assert sum(part.account.used for part in parts) == whole.account.used
            if whole.request.kind == "sum":
                together = sum((part.exact for part in parts), Fraction(0))
                assert together == whole.exact


def test_subtotals_stand_for_the_outer_groups():
    found = break_down(Query(), CALLS, ROWS, Layout(("zone", "arrived by year")))
    assert [line.key for line in found] == [
        ("Inner", "2031"), ("Outer", "2030"), ("Outer", "2031"), ("Outer", "2032"), (None, None),
    ]  # fmt: skip
    assert found["Outer", ALL_VALUES][0].value == 3
    assert found["Outer", "2030"][0].value == 1
    assert found.get(("Inner", "2030")) is None


def test_across_sets_an_axis_side_by_side_with_totals_of_rows_and_columns():
    found = break_down(Query(), CALLS, ROWS, Layout(("zone",), "arrived by year"))
    assert (found.by, found.across) == (("zone",), "arrived by year")
    assert found["Outer", ALL_VALUES][0].value == 3
    assert found[ALL_VALUES, "2031"][0].value == 3
    assert found.total[0].value == 6


# The criteria, the measure, and its value for the place (Outer, 2031) and in all.
CONTEXT = [
    ("dues > 0", "rows regardless of zone", 2, 4),
    ("dues > 0", "rows regardless of arrived", 3, 4),
    ("dues > 0", "rows regardless of ZONE, arrived", 4, 4),
    ("dues > 0", "rows regardless of everything", 6, 6),
    ("dues > 0", "rows regardless of dues", 1, 6),
    ("dues > 0 and zone = Outer", "rows regardless of zone", 2, 4),
    ("dues > 0 and not (zone = Inner)", "rows regardless of zone", 2, 4),
    ("dues > 500 or zone = Outer", "rows regardless of zone", 3, 6),
    ("(dues > 0 and zone = Outer) or (dues < 0 and zone = Inner)", "rows regardless of zone", 3, 5),
    ("dues > 0", "rows regardless of arrived where arrived in 2032", 1, 1),
    ("dues > 0", "sum of dues regardless of zone", 600.0, 1899.99),
]


@pytest.mark.parametrize(("where", "text", "here", "in_all"), CONTEXT)
def test_a_measure_can_disregard_what_the_context_says_of_columns(where, text, here, in_all):
    layout = Layout(("zone", "arrived by year"))
    requests = [*ROWS, parse_measure(text)]
    found = break_down(Query.of(where=parse_criteria(where)), CALLS, requests, layout)
    assert found["Outer", "2031"][1].value == here
    assert found.total[1].value == in_all
    for line in (*found.lines, *found.subtotals):
        assert line.tallies[0].value > 0
        for each in line.tallies:
            Defence(Query(), CALLS).recheck(each)
    assert f"regardless of {', '.join(requests[1].regardless)}" in str(
        Defence(Query(), CALLS).explain(found.total[1])
    )


def test_a_column_that_is_disregarded_is_there():
    with pytest.raises(UnknownColumn) as caught:
        break_down(Query(), CALLS, [parse_measure("rows regardless of zoen")], Layout(("zone",)))
    assert str(caught.value) == (
        "measure 'rows', regardless of: no column 'zoen'\nDid you mean 'zone'?"
    )


SORTED = [
    (Layout(("zone",), sort="rows"), ["Outer", "Inner", None], None),
    (Layout(("zone",), sort="rows asc"), [None, "Inner", "Outer"], None),
    (Layout(("zone",), sort="label desc"), [None, "Outer", "Inner"], None),
    (Layout(("zone",), sort="label"), ["Inner", "Outer", None], None),
    (Layout(("zone",), sort="max of dues asc"), ["Inner", "Outer", None], None),
    (Layout(("zone",), sort="min of vessel desc"), ["Outer", None, "Inner"], None),
    (Layout(("zone",), top=1), ["Outer"], ("2 others", 3)),
    (Layout(("zone",), sort="rows asc", top=2), [None, "Inner"], ("1 other", 3)),
    (Layout(("zone",), sort="label desc", top=2), [None, "Outer"], ("1 other", 2)),
    (Layout(("zone",), top=3), ["Outer", "Inner", None], None),
]


@pytest.mark.parametrize(("layout", "keys", "rest"), SORTED)
def test_lines_are_sorted_and_the_first_chosen(layout, keys, rest):
    requests = [*ROWS, parse_measure("max of dues"), parse_measure("min of vessel")]
    found = break_down(Query(), CALLS, requests, layout)
    assert [line.key[0] for line in found] == keys
    if rest is None:
        assert found.rest is None
    else:
        assert (found.rest.key[0], found.rest.tallies[0].value) == rest
        for each in found.rest.tallies:
            Defence(Query(), CALLS).recheck(each)
    assert found.total[0].value == 6


@pytest.mark.parametrize(
    ("layout", "message"),
    [
        (Layout(("zone",), sort="rwos"), "there is no measure 'rwos' to sort by\nDid you mean 'rows'?"),
        (Layout(("zone",), sort="sum"), "there is no measure 'sum' to sort by\nSort by label or 'rows'"),
        (Layout(("zone",), top=0), "at least one line is chosen\nWrite for example: --top 10"),
        (Layout(("zone", "vessel"), top=1), "the first lines can be chosen along one axis alone\n"
         "Leave out --top"),
    ],
)  # fmt: skip
def test_a_layout_that_cannot_be_is_refused(layout, message):
    with pytest.raises(CallError) as caught:
        break_down(Query(), CALLS, ROWS, layout)
    assert str(caught.value) == message


@pytest.mark.parametrize(
    ("sort", "keys"), [("first of x asc", "daebc"), ("first of x desc", "adbec")]
)
def test_lines_of_numbers_and_texts_are_sorted(sort, keys):
    table = table_from_columns({"berth": list("abcde"), "x": [12, "mole", None, 3.5, "Pier"]})
    found = break_down(Query(), table, ["first of x"], Layout(("berth",), sort=sort))
    assert "".join(line.key[0] for line in found.lines) == keys


def test_inner_lines_are_sorted_within_their_outer_group():
    found = break_down(Query(), CALLS, ROWS, Layout(("zone", "arrived by year"), sort="rows desc"))
    assert [line.key for line in found][:3] == [
        ("Outer", "2030"), ("Outer", "2031"), ("Outer", "2032")
    ]  # fmt: skip


_WRONG = st.builds(CellError, st.sampled_from(["not found", "#N/A"]), st.sampled_from("abc"))


@given(st.lists(_WRONG | st.sampled_from([None, 2, 7.5]), min_size=1, max_size=12))
def test_errors_of_one_token_are_one_line_whatever_their_reasons(cells):
    table = table_from_columns({"rate": cells, "dues": [*range(len(cells))]})
    for axis in ("rate", "rate in bands 5"):
        if axis != "rate" and not any(isinstance(each, float | int) for each in cells):
            continue
        found = break_down(
            Query(), table, [parse_measure("sum of dues", table.names)], Layout((axis,))
        )
        defence = Defence(Query(), table)
        wrong = [line for line in found.lines if isinstance(line.key[0], CellError)]
        for (key,), (tally,) in ((line.key, line.tallies) for line in wrong):
            rows = [i for i, each in enumerate(cells) if str(each) == key.token]
            assert tally.value == sum(rows)
            assert defence.rows(tally) == tuple(i + 1 for i in rows)
            defence.recheck(tally)  # raises where it disagrees
            reasons = {cells[i].reason for i in rows}
            assert key.reason == (reasons.pop() if len(reasons) == 1 else "")
        assert len(wrong) == len({line.key[0].token for line in wrong})
