"""Measures: how they are written, and what each one is."""

from dataclasses import replace
from datetime import date, datetime
from decimal import Decimal

import numpy as np
import pytest

from even_sieve.core.cells import CellError
from even_sieve.core.criteria import parse_criteria
from even_sieve.core.errors import (
    CriteriaError,
    MeasureError,
    NotOneValue,
    UnknownColumn,
    UnsuitableColumn,
)
from even_sieve.core.measures import KINDS, MEASURES, Keep, parse_measure
from even_sieve.core.query import Query
from even_sieve.core.table import table_from_columns
from even_sieve.core.tally import Layout, break_down, tally

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
    ("distinct or blank of berth", "distinct or blank", "berth", None, "",
     "distinct or blank of berth"),
]  # fmt: skip
# The text, and its kind, number, way and weight.
IN_FULL = [
    ("largest 2 of dues", "largest", "2", "", None),
    ("Smallest 10 of dues keep hidden", "smallest", "10", "", None),
    ("percentile 90 of dues", "percentile", "90", "", None),
    ("percentile 99.5% exclusive of dues", "percentile", "99.5", "exclusive", None),
    ("percentile 50 inclusive of dues", "percentile", "50", "", None),
    ("quartile 3 of dues where zone = Outer", "quartile", "3", "", None),
    ("deviation of dues", "deviation", None, "", None),
    ("variance population of dues", "variance", None, "population", None),
    ("deviation sample of dues", "deviation", None, "", None),
    ("weighted average of dues by tonnage", "weighted average", None, "", "tonnage"),
    ('weighted average of "dues by day" by "gross by net"', "weighted average", None, "",
     "gross by net"),
    ("all of dues", "all", None, "", None),
    ("sum of dues regardless of zone", "sum", None, "", None),
]  # fmt: skip
REFUSED = [
    ("", "measure '': a measure is missing\nThe measures are: " + ", ".join(KINDS)),
    ("smu of dues", "measure 'smu of dues': no measure 'smu'\nDid you mean 'sum'?"),
    ("heap of dues", "measure 'heap of dues': no measure 'heap'\n"
     "The measures are: " + ", ".join(KINDS)),
    ("sum", "measure 'sum': 'sum' needs a column\nWrite for example: sum of dues"),
    ("sum of ", "measure 'sum of ': 'sum' needs a column\nWrite for example: sum of dues"),
    ("rows of dues", "measure 'rows of dues': 'rows' takes no column\n"
     "Write filled of … to count cells"),
    ("= sum of dues", "measure '= sum of dues': a name is missing before '='\n"
     "Write for example: total = sum of dues"),
    ("blanks of dues keep blanks", "measure 'blanks of dues keep blanks': 'keep blanks' does nothing "
     "for blanks\nIt counts blanks as zeros among numbers, as a value among different ones; to count "
     "them write: blanks of a column"),
    ("sum of dues keep all", "measure 'sum of dues keep all': cannot keep 'all'\n"
     "Accepted are subtotals, hidden, filtered, blanks, errors"),
    ("largest of dues", "measure 'largest of dues': 'largest' needs a whole number from 1 on\n"
     "Write for example: largest 2 of dues"),
    ("smallest 0 of dues", "measure 'smallest 0 of dues': 'smallest' needs a whole number from 1 "
     "on, not '0'\nWrite for example: smallest 2 of dues"),
    ("percentile 101 of dues", "measure 'percentile 101 of dues': 'percentile' needs a percentage "
     "from 0 to 100, not '101'\nWrite for example: percentile 90 of dues"),
    ("quartile 1.5 of dues", "measure 'quartile 1.5 of dues': 'quartile' needs 0, 1, 2, 3 or 4, "
     "not '1.5'\nWrite for example: quartile 1 of dues"),
    ("percentile 9 exclusiv of x", "measure 'percentile 9 exclusiv of x': 'percentile' does not "
     "take 'exclusiv'\nDid you mean 'exclusive' or 'inclusive'?"),
    ("deviation wide of dues", "measure 'deviation wide of dues': 'deviation' does not take 'wide'"
     "\nIt can be sample or population"),
    ("sum up of dues", "measure 'sum up of dues': 'sum' does not take 'up'\n"
     "Write for example: sum of dues"),
    ("weighted average of dues", "measure 'weighted average of dues': 'weighted average' needs a "
     "column of weights\nWrite for example: weighted average of dues by tonnage"),
    ("all", "measure 'all': 'all' needs a column\nWrite for example: all of dues"),
]  # fmt: skip

TABLE = table_from_columns(
    {
        "dues": [500, 100.25, "waived", None, LOST, 100.25],
        "arrived": [date(2031, 3, 31), None, date(2030, 1, 5), date(2030, 1, 5), None, None],
        "berthed": [datetime(2031, 3, 31, 8)] * 6,
        "zone": ["Outer", "inner", "OUTER", None, "Inner", "outer"],
        "paid": [True, False, None, True, True, True],
        "lost": [LOST, LOST, None, None, None, LOST],
        "tons": [3, 4, 5, 6, 3, 3],
        "zero": [0] * 6,
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
    ("product of dues", 5025031.25, (), None),
    ("product of zone", None, (), "no number was used"),
    ("range of dues", 399.75, (1, 2, 6), None),
    ("largest 2 of dues", 100.25, (2, 6), None),
    ("largest 4 of dues", None, (), "only 3 numbers were used"),
    ("smallest 2 of arrived", date(2030, 1, 5), (3, 4), None),
    ("largest 1 of zone", "Outer", (1, 3, 6), None),
    ("median of dues", 100.25, (2, 6), None),
    ("median of dues keep blanks", 100.25, (2, 6), None),
    ("median of zone", "Outer", (1, 3, 6), None),
    ("median of berthed where zone is filled", datetime(2031, 3, 31, 8), (1, 2, 3, 5, 6), None),
    ("mode of dues", 100.25, (2, 6), None),
    ("mode of zone", "Outer", (1, 3, 6), None),
    ("mode of paid", True, (1, 4, 5, 6), None),
    ("mode of dues where dues > 200", None, (), "no value occurs twice"),
    ("percentile 25 of dues keep blanks", 75.1875, (2, 4, 6), None),
    ("quartile 2 exclusive of dues", 100.25, (2, 6), None),
    ("percentile 10 exclusive of dues", None, (), "3 numbers used: an exclusive percentile lies "
     "from 25 to 75 percent"),
    ("variance of dues where dues > 200", None, (), "one number was used: a sample of one has no "
     "spread"),
    ("deviation population of dues where dues > 200", 0.0, (), None),
    ("variance of nothing", None, (), "no number was used"),
    ("weighted average of dues by tons", 220.175, (), None),
    ("weighted average of dues by tons keep errors", LOST, (5,), "the error #N/A was kept"),
    ("weighted average of tons by lost", None, (), "no number was used"),
    ("weighted average of dues by zero", None, (), "the weights add up to 0"),
    ("distinct or blank of zone", 3, (), None),
    ("distinct or blank of dues", 4, (), None),
    ("distinct or blank of tons", 4, (), None),
    ("first of dues where zone = inner", 100.25, (2,), None),
    ("last of dues", 100.25, (6,), None),
    ("first of lost keep errors", LOST, (1,), "the error #N/A was kept"),
    ("last of nothing", None, (), "no cell that holds anything was used"),
    ("only of arrived where dues = 500", date(2031, 3, 31), (1,), None),
    ("share of dues where zone = inner", 100.25 / 700.5, (), None),
    ("share of zero", None, (), "the whole is 0"),
    ("share of zone", None, (), "no number stands in the whole"),
]  # fmt: skip
UNSUITABLE = [
    ("sum of arrived", "measure 'sum of arrived': column 'arrived' holds dates, and dates do not "
     "add up\nAsk for min or max of arrived"),
    ("average of arrived", "measure 'average of arrived': column 'arrived' holds dates, and dates "
     "do not add up\nAsk for min or max of arrived"),
    ("min of paid", "measure 'min of paid': column 'paid' holds yes/no, which have no order"),
    ("median of paid", "measure 'median of paid': column 'paid' holds yes/no, which have no order"),
    ("range of arrived", "measure 'range of arrived': column 'arrived' holds dates, and a range is "
     "a difference of numbers\nAsk for min or max of arrived"),
    ("percentile 50 of arrived", "measure 'percentile 50 of arrived': column 'arrived' holds dates, "
     "and a percentile lies between numbers\nAsk for min or max of arrived"),
    ("product of arrived", "measure 'product of arrived': column 'arrived' holds dates, and dates "
     "cannot be multiplied\nAsk for min or max of arrived"),
]  # fmt: skip
# A measure that asks for one value, and what is said where there is none or more.
NOT_ONE = [
    ("only of zone", "measure 'only of zone': 5 values where one was expected\nRows: 1, 2, 3, 5, 6\n"
     "Narrow the criteria, or ask for first, last or mode"),
    ("only of zone where zone = outer", "measure 'only of zone': 3 values where one was expected\n"
     "Rows: 1, 3, 6\nNarrow the criteria, or ask for first, last or mode"),
    ("only of dues where dues = 100.25", "measure 'only of dues': 2 values where one was expected, "
     "all 100.25\nRows: 2, 6\nNarrow the criteria, or ask for first, last or mode"),
    ("only of dues where dues > 9999", "measure 'only of dues': no row matched"),
    ("only of nothing where dues = 500", "measure 'only of nothing': 1 row matched, and none holds "
     "a value"),
]  # fmt: skip


def one(table, text, **options):
    return tally(Query.of(**options), table, [parse_measure(text, table.names)])[0]


@pytest.mark.parametrize(("text", "kind", "column", "where", "keep", "name"), ACCEPTED)
def test_a_measure_is_read(text, kind, column, where, keep, name):
    read = parse_measure(text)
    assert (read.kind, read.column, read.name) == (kind, column, name)
    assert read.where == (None if where is None else parse_criteria(where))
    assert sorted(read.keep) == keep.split()


@pytest.mark.parametrize(("text", "kind", "number", "way", "weight"), IN_FULL)
def test_a_measure_is_read_in_full(text, kind, number, way, weight):
    read = parse_measure(text)
    assert (read.kind, read.way, read.weight) == (kind, way, weight)
    assert read.number == (None if number is None else Decimal(number))
    plain = replace(read, where=None, keep=frozenset(), name=read.words, regardless=())
    assert parse_measure(read.words) == plain


@pytest.mark.parametrize(
    ("text", "names", "where", "keep"),
    [
        ("sum of dues regardless of zone", ("zone",), None, ""),
        ("sum of dues regardless of zone, hours in port", ("zone", "hours in port"), None, ""),
        ("sum of dues regardless of zone where tons > 3 keep hidden", ("zone",), "tons > 3",
         "hidden"),
        ("rows where tons > 3 keep errors regardless of Everything", ("Everything",), "tons > 3",
         "errors"),
    ],
)  # fmt: skip
def test_what_a_measure_disregards_is_read(text, names, where, keep):
    read = parse_measure(text)
    assert (read.regardless, sorted(read.keep)) == (names, keep.split())
    assert read.where == (None if where is None else parse_criteria(where))


@pytest.mark.parametrize(("text", "message"), NOT_ONE)
def test_only_refuses_none_and_several(text, message):
    with pytest.raises(NotOneValue) as caught:
        one(TABLE, text)
    assert str(caught.value) == message


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


def test_a_sum_is_rounded_once_and_decimals_add_up_as_decimals():
    assert one(table_from_columns({"x": [0.1] * 10}), "sum of x").value == 1.0
    assert one(table_from_columns({"x": [1e16, 1.0, -1e16]}), "sum of x").value == 1.0
    assert one(table_from_columns({"x": [0.1, 0.2]}), "sum of x").value == 0.3
    assert one(table_from_columns({"x": [2**62, 2**62, 2**62]}), "sum of x").value == 3 * 2**62
    assert one(table_from_columns({"x": [1, 2, 2]}), "average of x").value == 5 / 3


def test_in_a_breakdown_only_is_an_error_cell_and_its_total_no_value():
    found = break_down(Query(), TABLE, [parse_measure("only of arrived")], Layout(("tons",)))
    values = {line.key[0]: line.tallies[0].value for line in found}
    assert values[4].reason == "1 row matched, and none holds a value"
    assert values[5] == date(2030, 1, 5)
    assert found.total[0].value is None
    assert found.total[0].reason == "3 values where one was expected"


def test_all_of_a_column_is_the_usual_set_for_what_leads_it():
    def names(text):
        return [each.name for each in tally(Query(), TABLE, [parse_measure(text, TABLE.names)])]

    assert names("all of tons") == [
        f"{stem} of tons"
        for stem in ("numbers", "blanks", "errors", "distinct", "sum", "average", "deviation",
                     "min", "quartile 1", "median", "quartile 3", "max")
    ]  # fmt: skip
    assert names("all of paid")[-1] == "last of paid"
    assert names("all of zone where tons = 3")[-1] == "max of zone where tons = 3"
    assert names("late = all of arrived")[0] == "late, filled"
    with pytest.raises(UnknownColumn, match="measure 'all of ton': no column 'ton'"):
        names("all of ton")


def test_middle_values_and_ties_are_told():
    (between,) = one(TABLE, "median of arrived where tons != 5").notices
    assert between.code == "median-between-two"
    assert between.text.endswith("this is the lower one, the upper one is 2031-03-31")
    (tied,) = one(table_from_columns({"x": [3, 1, 1, 3]}), "mode of x").notices
    assert (tied.code, tied.counts) == ("mode-ties", {"values": 2, "times": 2})


OTHERS = table_from_columns({
    "day": [date(2031, 5, 9), 20310509, date(2031, 5, 10), "open"],
    "code": ["Pier", "Quay", 7, None],
    "dues": [120, 80, "waived", "waived"],
    "paid": [date(2031, 5, 9), "open", "open", None],
})  # fmt: skip


@pytest.mark.parametrize(
    ("measure", "told"),
    [
        ("max of day", "only 1 row of column 'day' with numbers, which come before other kinds; 3 rows with"),
        ("sum of day", ""), ("numbers of day", ""), ("filled of day", ""), ("max of dues", ""),
        ("max of code", "with numbers, which come before other kinds; 2 rows"), ("sum of code", ""),
        ("min of paid", "only 1 row of column 'paid' with dates"), ("median of dues where dues = waived", ""),
    ],
)  # fmt: skip
def test_a_few_cells_that_lead_a_column_of_others_are_told(measure, told):
    texts = [
        each.text for each in one(OTHERS, measure).notices if each.code == "other-kinds-left-out"
    ]
    assert len(texts) == bool(told)
    assert told in "".join(texts)


@pytest.mark.parametrize(
    ("values", "reason"),
    [
        ([1.5e200, 1.5e200], "the figure is beyond the largest double, about 1.8e308"),
        ([1e-200, 1e-200], "the figure is nearer to 0 than any double, about 5e-324"),
    ],
)
def test_a_product_beyond_the_doubles_has_no_value_and_says_so(values, reason):
    found = one(table_from_columns({"x": np.array(values)}), "product of x")
    assert (found.value, found.reason) == (None, reason)


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
