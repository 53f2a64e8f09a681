"""Data frames: in, out, and the same figures from either."""

from datetime import date, datetime, time, timedelta

import numpy as np
import pandas as pd
import pyarrow as pa
import pytest
from hypothesis import given
from hypothesis import strategies as st

from even_sieve import read_criteria, read_table, table_from
from even_sieve.core.cells import CellError
from even_sieve.core.errors import DuplicateColumn

COLUMNS = {
    "int": (pd.Series([1, 2, 3]), [1, 2, 3]),
    "float": (pd.Series([0.5, np.nan, 3]), [0.5, None, 3.0]),
    "Int64": (pd.Series([1, None, 3], dtype="Int64"), [1, None, 3]),
    "Float64": (pd.Series([0.5, None, 1], dtype="Float64"), [0.5, None, 1.0]),
    "whole Int64": (pd.Series([1, 2, 3], dtype="Int64"), [1, 2, 3]),
    "bool": (pd.Series([True, False, True]), [True, False, True]),
    "boolean": (pd.Series([True, None, False], dtype="boolean"), [True, None, False]),
    "text": (pd.Series(["a", None, " b "]), ["a", None, "b"]),
    "category": (pd.Series(["x", None, "y"], dtype="category"), ["x", None, "y"]),
    "numbers": (pd.Series([5, 7, 5], dtype="category"), [5, 7, 5]),
    "days": (pd.Series(pd.to_datetime(["2031-01-05", None, "2031-01-06"])),
             [date(2031, 1, 5), None, date(2031, 1, 6)]),
    "times": (pd.Series(pd.to_datetime(["2031-01-05 10:30", None, "2031-01-06 00:00"])),
              [datetime(2031, 1, 5, 10, 30), None, datetime(2031, 1, 6)]),
    "zoned": (pd.Series(pd.to_datetime(["2031-01-05 10:30+02:00"] * 3)),
              [datetime(2031, 1, 5, 8, 30)] * 3),
    "object": (pd.Series([1, "waived", None], dtype=object), [1, "waived", None]),
    "short": (pd.Series([0.1, None], dtype="Float32"), [0.1, None]),
    "arrow": (pd.Series([0.1, None], dtype="float[pyarrow]"), [0.1, None]),
    "sparse": (pd.Series(pd.arrays.SparseArray([0.0, 1.5, np.nan])), [0.0, 1.5, None]),
    "lengths": (pd.Series(pd.to_timedelta(["26:30:00", None, "-1s"])),
                ["1 day, 2:30:00", None, "-1 day, 23:59:59"]),
    "months": (pd.Series(pd.period_range("2031-01", periods=2, freq="M")), ["2031-01", "2031-02"]),
    "spans": (pd.cut(pd.Series([5, np.nan, 50]), [0, 10, 100]), ["(0, 10]", None, "(10, 100]"]),
    "dates": (pd.Series([date(2031, 1, 5), None, datetime(2031, 1, 6, 4)], dtype=object),
              [datetime(2031, 1, 5), None, datetime(2031, 1, 6, 4)]),
    "missing": (pd.Series([pd.NA, pd.NaT, float("nan")], dtype=object), [None, None, None]),
}  # fmt: skip


@pytest.mark.parametrize("name", COLUMNS)
def test_a_column_of_a_frame_keeps_its_cells(name):
    series, cells = COLUMNS[name]
    assert table_from(pd.DataFrame({name: series})).column(name) == cells


def test_categories_that_no_row_has_are_no_values():
    every = ["Mole", "mole", "OUTER", "Outer", "9.5"]
    zones = pd.Categorical(["Outer", None, "OUTER"], categories=every)
    for data in (pd.DataFrame({"zone": zones}), pa.table({"zone": pa.array(zones)})):
        table = table_from(data)
        (found,) = table.profile().columns
        assert (found.distinct, found.least, found.most) == (1, "OUTER", "OUTER")
        assert found.spellings == (("OUTER", "Outer"),)
        assert table.tally("distinct of zone")[0].value == 1


def test_ordered_categories_keep_their_order_on_an_axis():
    sizes = pd.Categorical(
        ["small", "large"], categories=["small", "medium", "large"], ordered=True
    )
    lines = table_from(pd.DataFrame({"size": sizes})).tally("rows", by="size").lines
    assert [line.key for line in lines] == [("small",), ("large",)]


ARROW = {
    pa.decimal128(38, 4): st.decimals(places=4, min_value=-(10**20), max_value=10**20),
    pa.decimal256(76, 30): st.decimals(places=2, min_value=-(10**12), max_value=10**12),
    pa.decimal128(30, 20): st.decimals(places=20, min_value=-9, max_value=9),
    pa.uint64(): st.integers(0, 2**64 - 1),
    pa.int64(): st.integers(-(2**63), 2**63 - 1),
    pa.time64("us"): st.times(),
    pa.time32("s"): st.times().map(lambda each: each.replace(microsecond=0)),
    pa.duration("us"): st.timedeltas(timedelta(-9), timedelta(9)),
}


@pytest.mark.parametrize("kind", ARROW)
@given(st.data())
def test_arrow_of_any_type_is_read_as_its_values_are_one_by_one(kind, data):
    values = data.draw(st.lists(st.none() | ARROW[kind], min_size=1, max_size=6))
    array = pa.array(values, kind)
    said = [str(each) if isinstance(each, time | timedelta) else each for each in values]
    column = table_from({"x": said}).core.column("x")
    for found in (array, pa.array([None, *values], kind).slice(1), array.dictionary_encode()):
        made = table_from(pa.table({"x": found})).core.column("x")
        assert (list(made.cells()), made.counts) == (list(column.cells()), column.counts)


def test_a_file_and_its_frame_give_the_same_figures(harbour):
    table = read_table(harbour / "calls.csv")
    again = table_from(table.to_frame())
    measures = ("rows", "sum of dues", "average of dues", "distinct of vessel", "max of arrived",
                "errors of dues", "sum of hours")  # fmt: skip
    for where in (None, "zone = Outer and arrived in 2031-Q1", "dues > 500 or dues is error"):
        first, second = (each.tally(*measures, where=where) for each in (table, again))
        assert [each.value for each in first] == [each.value for each in second]
        assert [each.account for each in first] == [each.account for each in second]


def test_results_go_to_frames():
    table = table_from({"zone": ["b", "a", "b"], "dues": [1, 2.5, CellError("#N/A")]})
    found = table.tally("rows", "max of dues").to_frame()
    assert found.index.tolist() == ["rows", "max of dues"]
    assert found["value"].tolist() == [3, 2.5]
    assert found["error"].tolist() == [0, 1]
    assert found["found_at"].tolist() == [[], [2]]
    lines = table.tally("rows", "sum of dues", by="zone")
    frame = lines.to_frame()
    assert frame.index.tolist() == ["a", "b", "total"]
    assert frame["sum of dues"].tolist() == [2.5, 1.0, 3.5]
    assert [frame[name].dtype.kind for name in ("rows", "sum of dues")] == ["i", "f"]
    assert frame["mark"].isna().tolist() == [True, True, False]
    assert lines.to_frame(totals=False)["sum of dues"].tolist() == [2.5, 1.0]
    again = table_from(frame.reset_index()).mark(by="mark")
    assert again.tally("sum of sum of dues")[0].value == 3.5


def test_frames_of_dates_have_dates():
    table = table_from({"arrived": [date(2031, 1, 5), None, date(2031, 1, 5)], "dues": [1, 2, 3]})
    frame = table.tally("max of arrived", by="arrived").to_frame(totals=False)
    assert frame.index.dtype.kind == frame["max of arrived"].dtype.kind == "M"
    shares = table.tally("share of dues", by="arrived").to_frame()
    assert shares["share of dues"].tolist() == [4 / 6, 2 / 6, 1.0]


def test_a_frame_holds_a_criteria_range():
    frame = pd.DataFrame(
        [["Outer", ">= 100", None], [None, None, pd.Timestamp("2031-01-05")]],
        columns=["zone", "dues", "arrived"],
    )
    found = table_from(
        {"zone": ["Outer", "x"], "dues": [100, 5], "arrived": [None, date(2031, 1, 5)]}
    )
    assert found.tally("rows", where=read_criteria(frame))[0].value == 2
    records = read_criteria([{"zone": "Outer", "dues": "< 100"}, {"zone": "x"}])
    assert found.tally("rows", where=records)[0].value == 1
    with pytest.raises(TypeError, match="a criteria range must be a path, a data frame"):
        read_criteria(["zone", "dues"])


def test_what_is_no_table_is_refused():
    with pytest.raises(DuplicateColumn, match="two columns are called 'A'"):
        table_from(pd.DataFrame([[1, 2]], columns=["a", "A"]))
    with pytest.raises(TypeError, match="what a table is made from must be a mapping"):
        table_from([1, 2])
