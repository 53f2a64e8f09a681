"""The value of a number is fixed by its own cell, in every source, whatever the caller's context."""

import json
from decimal import Decimal, localcontext
from fractions import Fraction

import numpy as np
import pandas as pd
import pytest
from hypothesis import given
from hypothesis import strategies as st

from even_sieve import read_table, table_from
from even_sieve.core.table.build import column_from_cells
from even_sieve.core.table.from_arrays import fixed_from_floats

FAR_APART = [1000000000.1, -1000000000.0, 0.0000001]


def tables(cells, folder):
    """The same cells from every source of numbers."""
    frame = pd.DataFrame({"v": cells})
    frame.to_parquet(folder / "a.parquet")
    (folder / "a.csv").write_text("v\n" + "".join(f"{Decimal(repr(cell)):f}\n" for cell in cells))
    (folder / "a.jsonl").write_text("".join(json.dumps({"v": cell}) + "\n" for cell in cells))
    table_from({"v": cells}).write(folder / "a.xlsx")
    table_from({"v": cells}).write(folder / "a.ods")
    yield from (table_from({"v": cells}), table_from({"v": np.array(cells)}), table_from(frame))
    yield from (
        read_table(folder / f"a.{end}") for end in ("parquet", "csv", "jsonl", "xlsx", "ods")
    )


def test_numbers_far_apart_add_up_as_they_are_written_from_every_source(tmp_path):
    for table in tables(FAR_APART, tmp_path):
        assert table.tally("sum of v")[0].value == 0.1000001
        assert table.column("v") == FAR_APART


@given(
    st.lists(st.tuples(st.integers(-(10**6), 10**6), st.integers(0, 9)), min_size=1, max_size=40)
)
def test_short_decimals_are_told_in_lists_and_arrays_alike(numbers):
    cells = [float(Decimal(n).scaleb(-s)) for n, s in numbers]
    exact = sum((Fraction(Decimal(repr(cell))) for cell in cells), Fraction(0))
    for table in (table_from({"v": cells}), table_from({"v": np.array(cells)})):
        assert table.tally("sum of v")[0].exact == exact
        assert table.column("v") == cells


def test_long_doubles_stay_binary_and_singles_count_as_they_print():
    assert fixed_from_floats(np.array([1 / 3, 0.5])) is None
    singles = table_from({"v": np.array([0.1, 0.2, -0.3], dtype=np.float32)})
    assert singles.tally("sum of v")[0].value == 0


def test_the_callers_decimal_context_changes_nothing(tmp_path):
    (tmp_path / "a.csv").write_text("v;w\n1.234.567,89;12,345%\n0,11;1%\n2.000;2%\n")
    ask = {"where": "v > 0,1 and w < 50%"}
    with localcontext() as context:
        context.prec = 2
        table = read_table(tmp_path / "a.csv", decimal=",")
        found = table.tally("sum of v", "sum of w", "percentile 12.5 of v", **ask)
        cell = column_from_cells("x", [Decimal("1234567.891")]).cell(0)
        assert table.recheck(found)[0].value == 1236568
    assert [found[0].value, found[1].value, cell] == [1236568, 0.15345, 1234567.891]


@pytest.mark.parametrize("cell", [Decimal("12345678901234.5678"), Decimal("-0.000000000000000001")])
def test_long_decimals_come_back_whole(cell):
    assert column_from_cells("x", [cell]).cell(0) in (cell, float(cell))
