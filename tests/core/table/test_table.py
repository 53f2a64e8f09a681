"""Tables and columns: made from cells and arrays, asked, cut down."""

from datetime import UTC, date, datetime
from decimal import Decimal

import numpy as np
import pandas as pd
import pyarrow as pa
import pytest
from hypothesis import example, given
from hypothesis import strategies as st

import oracle
import strategies as make
from even_sieve.core.cells import CellError, Kind, read_date, read_number
from even_sieve.core.errors import DuplicateColumn, LengthMismatch, UnknownColumn
from even_sieve.core.table import Mark, column_from, table_from_columns
from even_sieve.core.table.build import kind_of
from even_sieve.core.table.lanes import DateLane, FixedLane, FloatLane

LOST = CellError("#N/A", "not found")
INFINITE = CellError("infinite", "the number is infinite")

# What is given, the cells that come of it.
CELLS = [
    ([1, 2.5, Decimal("3.10")], [1.0, 2.5, 3.1]),
    ([1, 2], [1, 2]),
    (["a ", " ", "", None], ["a", None, None, None]),
    ([True, False, None], [True, False, None]),
    ([date(2031, 1, 5), None], [date(2031, 1, 5), None]),
    ([date(2031, 1, 5), datetime(2031, 1, 5, 9)], [datetime(2031, 1, 5), datetime(2031, 1, 5, 9)]),
    ([datetime(2031, 1, 5, 9, tzinfo=UTC)], [datetime(2031, 1, 5, 9)]),
    ([float("nan"), float("inf"), 1], [None, INFINITE, 1]),
    ([LOST, "x", 5], [LOST, "x", 5]),
    ([np.float64(0.5), np.int32(7), np.str_("x"), np.bool_(True)], [0.5, 7.0, "x", True]),
    (np.array([1, 2], dtype=np.int8), [1, 2]),
    (np.array([2**63], dtype=np.uint64), [float(2**63)]),
    (np.array([0.1, 0.25]), [0.1, 0.25]),
    (np.array([0.1, np.nan, np.inf]), [0.1, None, INFINITE]),
    (np.array([np.nan, np.nan]), [None, None]),
    (np.array([1e300, 1.0]), [1e300, 1.0]),
    (np.array([True, False]), [True, False]),
    (np.array(["b", " a ", "b", ""]), ["b", "a", "b", None]),
    (np.array(["2031-01-05", "NaT"], "datetime64[D]"), [date(2031, 1, 5), None]),
    (np.array(["2031-01-05T10:00"], "datetime64[ns]"), [datetime(2031, 1, 5, 10)]),
    (np.array([1, "a", None], dtype=object), [1, "a", None]),
    ([], []),
]
NUMBERS = [
    ("12", "12"), ("-12.50", "-12.50"), ("+3", "3"), (".5", "0.5"), ("5.", "5"), ("0", "0"),
    ("-0", "-0"), ("1e5", "1E+5"), ("1.5E-3", "0.0015"), ("0.007", "0.007"),
    ("007", None), ("1,200", None), ("1 200", None), ("12%", None), ("", None), (".", None),
    ("--5", None), ("0x1F", None), ("nan", None), ("inf", None), ("1_000", None), ("١٢", None),
    ("123456789012345678", "123456789012345678"), ("1234567890123456789", None),
    ("0.1234567890123456789", "0.1234567890123456789"),
]  # fmt: skip
DATES = [
    ("2031-01-05", "2031-01-05T00:00:00", False, None),
    ("2031-01-05T10:30", "2031-01-05T10:30:00", True, None),
    ("2031-01-05 10:30:05.25", "2031-01-05T10:30:05.250000", True, None),
    ("2031-01-05T10:30Z", "2031-01-05T10:30:00", True, 0),
    ("2031-01-05T10:30-02:30", "2031-01-05T13:00:00", True, -150),
    ("2031-01-05T00:30+01", "2031-01-04T23:30:00", True, 60),
    ("0001-01-01", "0001-01-01T00:00:00", False, None),
    ("9999-12-31", "9999-12-31T00:00:00", False, None),
]
NOT_DATES = ["05/01/2031", "2031-1-5", "2031-02-30", "2031-01-05T25:00", "20310105", "2031-01",
             "2031-01-05T", "0000-01-01", "0001-01-01T00:00+02:00"]  # fmt: skip


@pytest.mark.parametrize(("given_cells", "wanted"), CELLS)
def test_a_column_keeps_each_cell_and_its_kind(given_cells, wanted):
    found = list(column_from("x", given_cells).cells())
    assert found == wanted
    assert [type(cell) for cell in found] == [type(cell) for cell in wanted]


@pytest.mark.parametrize(("token", "wanted"), NUMBERS)
def test_a_number_is_read_exactly_or_not_at_all(token, wanted):
    found = read_number(token)
    assert found == (None if wanted is None else Decimal(wanted))


@pytest.mark.parametrize(("token", "iso", "has_time", "offset"), DATES)
def test_an_iso_date_is_read(token, iso, has_time, offset):
    found = read_date(token)
    assert (found.has_time, found.offset) == (has_time, offset)
    at = np.datetime64(found.micros, "us").item()
    assert at.isoformat() == iso


@pytest.mark.parametrize("token", NOT_DATES)
def test_what_is_no_iso_date_is_not_guessed(token):
    assert read_date(token) is None


def test_decimals_are_fixed_point_wherever_they_come_from():
    for cells in ([0.1, 2, 3.25], np.array([0.1, 2, 3.25]), [Decimal("0.1"), 2, Decimal("3.25")]):
        lane = column_from("x", cells).lanes[Kind.NUMBER]
        assert isinstance(lane, FixedLane)
        assert (lane.scale, lane.values.tolist()) == (2, [10, 200, 325])
    assert isinstance(column_from("x", [1 / 3, 1e9]).lanes[Kind.NUMBER], FloatLane)
    assert isinstance(column_from("x", [1e-30, 1]).lanes[Kind.NUMBER], FloatLane)
    whole = column_from("x", [date(2031, 1, 5)]).lanes[Kind.DATE]
    assert isinstance(whole, DateLane)
    assert (whole.has_time, whole.values.dtype) == (False, np.int32)


@given(st.lists(st.floats(allow_nan=False, allow_infinity=False), min_size=1, max_size=20))
def test_doubles_come_back_as_they_went_in(values):
    printed = [Decimal(repr(value)) for value in values]
    for column in (column_from("x", np.array(values)), column_from("x", values)):
        assert [Decimal(str(cell)) for cell in column.cells()] == printed


_WRITTEN = st.decimals("-1e14", "1e14", places=3) | st.decimals("-9", "9", places=16)


@example([Decimal("-89999999999999.993"), Decimal("-89999999999999.994"), -9e13])
@given(st.lists(_WRITTEN | st.floats(-1e18, 1e18), min_size=1, max_size=20))
def test_what_was_written_comes_back_among_doubles(values):
    lane = column_from("x", [*values, 1e-30]).lanes[Kind.NUMBER]
    shown = [Decimal(str(lane.cell(row))) for row in range(len(values))]
    assert shown == [Decimal(str(each)) for each in values]
    written = [each for each in values if isinstance(each, Decimal)]
    assert lane.longer == any(Decimal(repr(float(each))) != each for each in written)


@given(make.rows(), st.lists(st.integers(0, 11), max_size=12))
def test_taken_rows_are_the_same_rows(rows, positions):
    chosen = sorted({position for position in positions if position < len(rows)})
    table = make.table_of(rows)
    taken = table.take(np.array(chosen, dtype=np.intp))
    for name in table.names:
        whole = list(table.column(name).cells())
        assert list(taken.column(name).cells()) == [whole[i] for i in chosen]
    assert [taken.number(i) for i in range(len(taken))] == [i + 1 for i in chosen]


@given(make.rows(), st.sampled_from(["zone", "remarks", "dues", "arrived"]))
def test_equal_cells_have_one_identity(rows, column):
    identity = make.table_of(rows).column(column).identity
    for i, first in enumerate(rows):
        for j, second in enumerate(rows):
            a, b = first[column], second[column]
            equal = oracle.ordered("=", a, b) or (
                oracle.kind(a) == oracle.kind(b) and oracle.kind(a) in ("blank", "error")
            )
            assert (identity.codes[i] == identity.codes[j]) == equal


def test_columns_are_found_without_regard_to_case_and_by_number():
    table = table_from_columns({" Zone": ["a"], "dues paid": [1]})
    assert table.column("zone ").name == "Zone"
    assert table.column("DUES PAID").name == "dues paid"
    assert table.column("#2").name == "dues paid"
    assert "#2" in table
    assert "#3" not in table
    with pytest.raises(UnknownColumn) as caught:
        table.column("dues pad")
    assert str(caught.value) == "no column 'dues pad'\nDid you mean 'dues paid'?"
    with pytest.raises(UnknownColumn, match="The columns are: Zone, dues paid"):
        table.column("#3")


def test_tables_that_make_no_sense_are_refused():
    with pytest.raises(LengthMismatch) as lengths:
        table_from_columns({"zone": ["a", "b"], "dues": np.array([1, 2, 3])})
    assert str(lengths.value).startswith("column 'zone' has 2 rows and column 'dues' has 3")
    assert lengths.value.lengths == {"zone": 2, "dues": 3}
    with pytest.raises(DuplicateColumn) as twice:
        table_from_columns({"zone": [1], "x": [1], "ZONE ": [1]})
    assert str(twice.value).startswith("two columns are called 'ZONE' (columns 1 and 3)")
    with pytest.raises(ValueError, match="an array of one dimension"):
        table_from_columns({"x": np.zeros((2, 2))})
    with pytest.raises(TypeError, match="a complex cannot be a cell"):
        table_from_columns({"x": [1j]})


def test_marks_add_up_and_a_row_counts_for_its_first():
    table = table_from_columns({"x": [1, 2, 3]})
    table = table.marked(Mark.HIDDEN, np.array([True, True, False]))
    table = table.marked(Mark.SUBTOTAL, np.array([False, True, False]))
    both = Mark.SUBTOTAL | Mark.HIDDEN | Mark.FILTERED
    assert table.count_marks(both) == {Mark.SUBTOTAL: 1, Mark.HIDDEN: 1, Mark.FILTERED: 0}
    assert table.count_marks(Mark.HIDDEN) == {Mark.SUBTOTAL: 0, Mark.HIDDEN: 2, Mark.FILTERED: 0}
    assert list(table.records()) == [{"x": 1}, {"x": 2}, {"x": 3}]


def test_what_a_column_holds_is_said_in_words():
    for cells, words in (
        ([1], "numbers"),
        ([1, "a", None], "numbers, text and blanks"),
        ([], "nothing"),
        ([date(2031, 1, 1), LOST], "dates and errors"),
        ([True, None], "yes/no values and blanks"),
    ):
        assert column_from("x", cells).words == words


@given(make.rows())
def test_different_values_are_counted_as_their_keys_are(rows):
    for column in make.table_of(rows).columns:
        keys = column.identity.keys
        found = {kind: column.different(kind) for kind in Kind}
        assert sum(count for count, _, _ in found.values()) == sum(key is not None for key in keys)
        for kind, (count, least, most) in found.items():
            if count and kind is not Kind.ERROR:
                own = [key for key in keys if kind_of(key) is kind]
                assert (count, least, most) == (len(own), own[0], own[-1])


def test_missing_cells_and_items_of_arrow_arrays_are_cells_in_a_list():
    given = [1, pd.NA, pa.scalar("Pier"), pa.scalar(None, pa.int64()), pa.scalar(Decimal("1.5"))]
    assert list(column_from("dues", given).cells()) == [1, None, "Pier", None, 1.5]
    with pytest.raises(TypeError, match="a list cannot be a cell"):
        column_from("dues", pa.array([[1]]))
