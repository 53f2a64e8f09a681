"""Measures: how they are written, and what each one is."""

from datetime import date, datetime

import pytest
from hypothesis import given
from hypothesis import strategies as st

import oracle
import strategies as make
from even_sieve.core.cells import CellError
from even_sieve.core.criteria import parse_criteria
from even_sieve.core.errors import CriteriaError, MeasureError, UnknownColumn, UnsuitableColumn
from even_sieve.core.measures import KINDS, MEASURES, Keep, parse_measure
from even_sieve.core.table import table_from_columns
from even_sieve.core.tally import Options, tally

LOST = CellError("#N/A", "not found")

# The text, its kind, its column, its own criteria, what it keeps, its name.
ACCEPTED = [
    ("rows", "rows", None, None, "", "rows"),
    ("sum of dues", "sum", "dues", None, "", "sum of dues"),
    ("SUM of dues", "sum", "dues", None, "", "sum of dues"),
    ("sum  of  hours in port", "sum", "hours in port", None, "", "sum of hours in port"),
    ('sum of "dues"', "sum", "dues", None, "", "sum of dues"),
    ("max of #5", "max", "#5", None, "", "max of #5"),
    ("sum of dues where zone = Outer", "sum", "dues", "zone = Outer", "",
     "sum of dues where zone = Outer"),
    ("rows where zone = Outer or dues > 5", "rows", None, "zone = Outer or dues > 5", "",
     "rows where zone = Outer or dues > 5"),
    ("late = sum of dues where status = late", "sum", "dues", "status = late", "", "late"),
    ("late dues=sum of dues", "sum", "dues", None, "", "late dues"),
    ("sum of dues keep hidden", "sum", "dues", None, "hidden", "sum of dues"),
    ("sum of dues keep hidden, errors", "sum", "dues", None, "errors hidden", "sum of dues"),
    ("sum of dues keep hidden and blank", "sum", "dues", None, "blanks hidden", "sum of dues"),
    ("n = rows where zone = a keep subtotals", "rows", None, "zone = a", "subtotals", "n"),
    ("rows where remarks = to keep dry", "rows", None, "remarks = to keep dry", "",
     "rows where remarks = to keep dry"),
]  # fmt: skip
REFUSED = [
    ("", "measure '': a measure is missing\nThe measures are: " + ", ".join(KINDS)),
    ("smu of dues", "measure 'smu of dues': no measure 'smu'\nDid you mean 'sum'?"),
    ("total of dues", "measure 'total of dues': no measure 'total'\n"
     "The measures are: " + ", ".join(KINDS)),
    ("sum", "measure 'sum': 'sum' needs a column\nWrite for example: sum of dues"),
    ("sum of ", "measure 'sum of ': 'sum' needs a column\nWrite for example: sum of dues"),
    ("rows of dues", "measure 'rows of dues': 'rows' takes no column\n"
     "Write filled of … to count cells"),
    ("= sum of dues", "measure '= sum of dues': a name is missing before '='\n"
     "Write: NAME = sum of dues"),
    ("sum of dues keep all", "measure 'sum of dues keep all': cannot keep 'all'\n"
     "Accepted are subtotals, hidden, filtered, blanks, errors"),
]  # fmt: skip

TABLE = table_from_columns(
    {
        "dues": [500, 100.25, "waived", None, LOST, 100.25],
        "arrived": [date(2031, 3, 31), None, date(2030, 1, 5), date(2030, 1, 5), None, None],
        "berthed": [datetime(2031, 3, 31, 8)] * 6,
        "zone": ["Outer", "inner", "OUTER", None, "Inner", "outer"],
        "paid": [True, False, None, True, True, True],
        "lost": [LOST, LOST, None, None, None, LOST],
        "nothing": [None] * 6,
    }
)
# The measure, its value, the rows that gave it, the reason.
FIGURES = [
    ("rows", 6, (), None),
    ("numbers of dues", 3, (), None),
    ("filled of dues", 4, (), None),
    ("blanks of dues", 1, (), None),
    ("errors of dues", 1, (), None),
    ("distinct of dues", 3, (), None),
    ("sum of dues", 700.5, (), None),
    ("average of dues", 233.5, (), None),
    ("min of dues", 100.25, (2, 6), None),
    ("max of dues", 500.0, (1,), None),
    ("min of arrived", date(2030, 1, 5), (3, 4), None),
    ("max of arrived", date(2031, 3, 31), (1,), None),
    ("max of berthed", datetime(2031, 3, 31, 8), (1, 2, 3, 4, 5, 6), None),
    ("min of zone", "inner", (2, 5), None),
    ("max of zone", "Outer", (1, 3, 6), None),
    ("distinct of zone", 2, (), None),
    ("distinct of arrived", 2, (), None),
    ("distinct of paid", 2, (), None),
    ("distinct of lost", 0, (), None),
    ("filled of zone", 5, (), None),
    ("numbers of zone", 0, (), None),
    ("sum of zone", 0, (), None),
    ("average of zone", None, (), "no number was used"),
    ("min of nothing", None, (), "no number was used"),
    ("max of lost", None, (), "no number was used"),
    ("sum of nothing", 0, (), None),
    ("average of dues keep blanks", 175.125, (), None),
    ("min of dues keep blanks", 0.0, (4,), None),
    ("sum of dues keep blanks", 700.5, (), None),
    ("distinct of dues keep blanks", 4, (), None),
    ("sum of dues keep errors", LOST, (5,), "the error #N/A was kept"),
    ("min of dues keep errors", LOST, (5,), "the error #N/A was kept"),
    ("distinct of dues keep errors", LOST, (5,), "the error #N/A was kept"),
    ("filled of dues keep errors", 5, (), None),
    ("numbers of dues keep errors", 3, (), None),
    ("sum of dues where dues > 9999", 0, (), None),
    ("average of dues where dues > 9999", None, (), "no row matched"),
    ("min of dues where zone = inner", 100.25, (2,), None),
    ("max of dues where dues = waived", None, (), "no number was used"),
]
UNSUITABLE = [
    ("sum of arrived", "measure 'sum of arrived': column 'arrived' holds dates, and dates do not "
     "add up\nAsk for min or max of arrived"),
    ("average of arrived", "measure 'average of arrived': column 'arrived' holds dates, and dates "
     "do not add up\nAsk for min or max of arrived"),
    ("min of paid", "measure 'min of paid': column 'paid' holds yes/no, which have no order"),
]  # fmt: skip


def one(table, text, **options):
    return tally(table, [parse_measure(text, table.names)], options=Options(**options))[0]


@pytest.mark.parametrize(("text", "kind", "column", "where", "keep", "name"), ACCEPTED)
def test_a_measure_is_read(text, kind, column, where, keep, name):
    read = parse_measure(text)
    assert (read.kind, read.column, read.name) == (kind, column, name)
    assert read.where == (None if where is None else parse_criteria(where))
    assert sorted(read.keep) == keep.split()


@pytest.mark.parametrize(("text", "message"), REFUSED)
def test_a_measure_that_cannot_be_read_is_refused(text, message):
    with pytest.raises(MeasureError) as caught:
        parse_measure(text)
    assert str(caught.value) == message


def test_a_measures_own_criteria_are_refused_as_criteria_are():
    with pytest.raises(CriteriaError, match="no comparison after 'zone'"):
        parse_measure("sum of dues where zone")


@pytest.mark.parametrize(("text", "value", "rows", "reason"), FIGURES)
def test_a_measure_gives_its_figure(text, value, rows, reason):
    found = one(TABLE, text)
    assert found.value == value
    assert type(found.value) is type(value) or value == 0
    assert found.found_at == rows
    assert found.reason == reason


@pytest.mark.parametrize(("text", "message"), UNSUITABLE)
def test_a_measure_that_a_column_cannot_give_is_refused_with_the_reason(text, message):
    with pytest.raises(UnsuitableColumn) as caught:
        one(TABLE, text)
    assert str(caught.value) == message


def test_an_unknown_column_is_refused_with_the_closest():
    with pytest.raises(UnknownColumn) as caught:
        one(TABLE, "sum of duse")
    assert str(caught.value) == "measure 'sum of duse': no column 'duse'\nDid you mean 'dues'?"
    assert caught.value.candidates == ("dues",)


@given(make.rows(), st.sampled_from(["dues", "remarks", "tons"]), make.criteria)
def test_figures_are_what_a_plain_loop_over_fractions_gives(rows, column, criteria):
    chosen = [row[column] for row in rows if oracle.holds(criteria, row)]
    true = oracle.figures(chosen)
    table = make.table_of(rows)
    numeric = any(oracle.kind(row[column]) == "number" for row in rows)
    where = parse_criteria(oracle.spell(criteria))
    for kind in (
        "numbers",
        "filled",
        "blanks",
        "errors",
        "distinct",
        "sum",
        "average",
        "min",
        "max",
    ):
        if kind in ("sum", "average", "min", "max") and not numeric:
            continue
        found = tally(table, [parse_measure(f"{kind} of {column}")], where)[0]
        wanted = true[kind]
        assert found.value == (None if wanted is None else _rounded(wanted)), kind
        if kind in ("min", "max") and wanted is not None:
            every = [i for i, row in enumerate(rows, 1) if oracle.holds(criteria, row)]
            at = [i for i in every if oracle.kind(rows[i - 1][column]) == "number"]
            assert list(found.found_at) == [
                i for i in at if oracle.exact(rows[i - 1][column]) == wanted
            ]


def _rounded(value):
    return value if isinstance(value, int) else value.numerator / value.denominator


def test_a_sum_is_rounded_once_and_decimals_add_up_as_decimals():
    assert one(table_from_columns({"x": [0.1] * 10}), "sum of x").value == 1.0
    assert one(table_from_columns({"x": [1e16, 1.0, -1e16]}), "sum of x").value == 1.0
    assert one(table_from_columns({"x": [0.1, 0.2]}), "sum of x").value == 0.3
    assert one(table_from_columns({"x": [2**62, 2**62, 2**62]}), "sum of x").value == 3 * 2**62
    assert one(table_from_columns({"x": [1, 2, 2]}), "average of x").value == 5 / 3


def test_a_sum_beyond_the_largest_double_has_no_value_and_says_so():
    found = one(table_from_columns({"x": [1.7e308, 1.7e308]}), "sum of x")
    assert found.value is None
    assert found.reason == "the figure is beyond the largest double, about 1.8e308"


def test_an_extreme_on_very_many_rows_lists_the_first_and_counts_the_rest():
    found = one(table_from_columns({"x": [7] * 250}), "min of x")
    assert found.found_at == tuple(range(1, 101))
    (notice,) = found.notices
    assert (notice.code, notice.counts) == ("extreme-on-many-rows", {"rows": 250})


def test_every_kind_of_the_grammar_has_a_measure():
    assert set(KINDS) == set(MEASURES)
    assert {word.value for word in Keep} == {"subtotals", "hidden", "filtered", "blanks", "errors"}
