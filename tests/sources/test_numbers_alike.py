"""A number is what its own cell says: whatever stands around it, whatever file it comes from."""

import random
from decimal import Decimal
from fractions import Fraction

import numpy as np
import pandas as pd
import pyarrow as pa
import pyarrow.parquet as pq
import pytest

from even_sieve import read_table, table_from
from even_sieve.core.notices import Code

pytestmark = pytest.mark.usefixtures("each_way")

HARD = [
    [0.1, 0.2, -0.3, 1 / 3],
    [1000000000.1, -1000000000.0, 0.0000001],
    [1e22, 1.5, -1e22, 1e-9, 7.1],
    [0.1 + 0.2, 5e-7, 123456789.123],
    [2.0**60, 0.5, 3.3, -(2.0**60)],
]


def every_source(values, tmp_path):
    """Yield a table of the values from each kind of source."""
    plain = table_from({"group": list(range(len(values))), "x": values})
    yield "list", plain
    yield "frame", table_from(pd.DataFrame({"group": range(len(values)), "x": values}))
    yield "array", table_from({"group": np.arange(len(values)), "x": np.array(values)})
    for ending in ("csv", "jsonl", "xlsx", "ods", "parquet", "arrow"):
        path = tmp_path / f"calls.{ending}"
        plain.write(path)
        yield ending, read_table(path)


@pytest.mark.parametrize("values", HARD)
def test_the_same_cells_give_the_same_bits_from_every_source(values, tmp_path):
    exact = sum(Fraction(repr(value)) for value in values)
    squares = sum(Fraction(repr(value)) ** 2 for value in values)
    for source, table in every_source(values, tmp_path):
        found = table.tally("sum of x", "product of x", "variance population of x", "min of x")
        assert found[0].exact == exact, source
        count = len(values)
        assert found[2].exact == (squares - exact**2 / count) / count, source
        assert found[3].value == min(values), source
        assert [each.again for each in table.recheck(found)] == [each.value for each in found], (
            source
        )
        own = table.tally("sum of x", where="group in 0..2")[0]
        assert own.exact == sum(Fraction(repr(value)) for value in values[:3]), source


@pytest.mark.parametrize("seed", range(2))
def test_sums_by_group_of_any_doubles_are_those_of_the_decimals_they_print(seed):
    chance = random.Random(f"{seed}{random.random()}")
    values = [
        chance.choice([chance.random(), round(chance.uniform(-99, 99), 2), chance.gauss(0, 1e9)])
        * 10.0 ** chance.randrange(-12, 12)
        for _ in range(3000)
    ]
    zones = [chance.choice("abcdefgh") for _ in values]
    table = table_from({"zone": zones, "x": np.array(values), "tons": [3] * len(values)})
    for line in table.tally("sum of x", "weighted average of x by x", by="zone").lines:
        own = [
            Fraction(repr(x)) for x, zone in zip(values, zones, strict=True) if zone == line.key[0]
        ]
        assert line.tallies[0].exact == sum(own)
        assert line.tallies[1].exact == sum(x * x for x in own) / sum(own)


def test_written_digits_are_kept_as_far_as_64_bits_and_told_beyond(tmp_path):
    path = tmp_path / "calls.csv"
    path.write_text("x\n0.1234567890123456789\n1e-30\n5\n")
    table = read_table(path)
    assert table.tally("sum of x")[0].exact == Fraction("5.123456789012345678900000000001")
    assert Code.DIGITS_LOST not in [notice.code for notice in table.tally("rows").notices]
    long = "0.12345678901234567890123"
    path.write_text(f"x\n{long}\n5\n")
    for table in (read_table(path), table_from({"x": [Decimal(long), 5]})):
        found = table.tally("sum of x", where=f"x = {long} or x = 5")
        assert found[0].exact == 5 + Fraction(repr(float(long)))
        (notice,) = [each for each in found.notices if each.code is Code.DIGITS_LOST]
        assert notice.text == (
            f"column 'x' holds numbers with more digits than are kept, such as {long}: "
            "they count as the nearest double"
        )


def test_json_keeps_every_digit_and_reads_back_what_was_written(tmp_path):
    long = Decimal("12345678901234.1234")
    table = table_from({"name": ["quay\u2028one", "b"], "x": [long, Decimal("0.5")]})
    path = tmp_path / "calls.jsonl"
    table.write(path)
    assert "12345678901234.1234" in path.read_text(encoding="utf-8")
    again = read_table(path)
    assert again.to_frame().to_dict() == table.to_frame().to_dict()
    assert '"value": 12345678901234.1234' in again.tally("max of x").to_json()


@pytest.mark.parametrize("rows", [2, 9000])
@pytest.mark.parametrize("decimal", [".", ","])
def test_amounts_in_two_currencies_are_told_few_or_many(rows, decimal, tmp_path):
    path = tmp_path / "dues.csv"
    lines = [f"${n}" if n % 2 else f"{n} €" for n in range(1, rows + 1)]
    path.write_text("dues\n" + "\n".join(lines) + "\n", encoding="utf-8")
    found = read_table(path, decimal=decimal, delimiter=";").tally("sum of dues")
    assert found[0].value == rows * (rows + 1) // 2
    (notice,) = [each for each in found.notices if each.code is Code.MIXED_CURRENCIES]
    assert "$ and €: they count as alike" in notice.text


def test_times_with_digits_beyond_microseconds_are_cut_and_told(tmp_path):
    path = tmp_path / "calls.csv"
    path.write_text("at\n2031-01-05T10:20:30.1234567\n2031-01-05T10:20:30.1234560\n")
    found = read_table(path).tally("distinct of at")
    assert found[0].value == 1
    assert [each.code for each in found.notices] == [Code.TIMES_CUT]


@pytest.mark.parametrize("ending", ["csv", "jsonl", "xlsx", "ods", "parquet", "arrow"])
@pytest.mark.parametrize(
    "cells",
    [
        [-329.7, 1e-15, None, 12.5],
        [Decimal("0.12345678901234567"), 1e300, 3],
        ["=1+2", "@quay", "'t Veer", "＝x", "-5 x"],
        [1 / 3, 0.1, 123456789.123456],
    ],
)
def test_what_is_written_reads_back_the_same(cells, ending, tmp_path):
    path = tmp_path / f"calls.{ending}"
    table_from({"n": list(range(len(cells))), "x": cells}).write(path)
    if ending == "xlsx":  # a number of such a workbook is a double
        cells = [float(cell) if isinstance(cell, Decimal) else cell for cell in cells]
    assert read_table(path).column("x") == cells


def test_every_measure_takes_the_digits_that_were_written():
    cells = [Decimal("0.12345678901234567"), 1e30, 3, Decimal("0.7777777777777777123")]
    table = table_from({"x": cells, "n": [1, 2, 3, 4]})
    asked = [
        "min of x",
        "smallest 2 of x",
        "range of x",
        "median of x",
        "product of x",
        "first of x",
    ]
    found = table.tally(*asked, "weighted average of n by x", "variance of x")
    assert [tally.value for tally in found][:2] == [cells[0], cells[3]]
    least, middle = Fraction(cells[0]), Fraction(cells[3])
    assert found[2].exact == 10**30 - least
    assert found[3].exact == (middle + 3) / 2
    assert found[4].exact == least * middle * 3 * 10**30
    assert len(table.recheck(found)) == len(found)


def test_a_short_double_in_a_list_counts_as_the_decimal_that_it_prints():
    found = table_from({"dues": [np.float32(0.1), np.int8(5), None]}).tally("sum of dues")
    assert found[0].value == 5.1


def test_views_of_strings_are_texts():
    views = pa.table({"zone": pa.array(["Outer", None, "x" * 40], pa.string_view())})
    assert list(table_from(views).column("zone")) == ["Outer", None, "x" * 40]


def test_the_least_whole_number_is_kept_as_a_double_from_every_source(tmp_path):
    values = [-(2**63), 5]
    (tmp_path / "calls.csv").write_text(f"x\n{values[0]}\n5\n")
    arrow = table_from(pa.table({"x": pa.array(values, pa.int64())}))
    for table in (
        table_from({"x": np.array(values)}),
        arrow,
        read_table(tmp_path / "calls.csv"),
        table_from({"x": values}),
    ):
        assert table.column("x")[0] == float(-(2**63))
        assert Code.DIGITS_LOST in {each.code for each in table.tally("sum of x").notices}


@pytest.mark.parametrize("kind", [np.float32, np.float16])
def test_a_short_double_counts_as_the_decimal_that_it_prints_from_every_source(kind, tmp_path):
    draw = np.random.default_rng(7)
    values = np.concatenate(
        [draw.integers(0, 999, 90) / 10, 10.0 ** draw.uniform(-4, 4, 90), [0.1, 60000, 65504]]
    ).astype(kind)
    if kind is np.float32:  # whole numbers are what they are, as doubles are
        values = np.append(values, np.array([123456792, 2**40 + 2**20, 1e30, -(2**53)], kind))
    pq.write_table(pa.table({"x": values}), tmp_path / "calls.parquet")
    printed = [
        Decimal(float(value) if float(value) % 1 == 0 and abs(float(value)) < 2**53 else str(value))
        for value in values
    ]
    alone = [*map(kind, values), "waived"]
    for table in (
        table_from({"x": values}),
        read_table(tmp_path / "calls.parquet"),
        table_from({"x": alone}),
    ):
        numbers = table.column("x")[: len(values)]
        assert [Decimal(repr(cell)) for cell in numbers] == printed
        assert table.tally("sum of x")[0].exact == sum(map(Fraction, printed))


@pytest.mark.parametrize("unit", ["D", "s", "ms", "us"])
def test_a_date_outside_of_the_calendar_is_an_error_that_says_so(unit, tmp_path):
    moments = np.array(
        ["0001-01-01", "9999-12-31", "10000-01-01", "0000-12-31", "250000-01-01", "NaT"],
        f"M8[{unit}]",
    )
    arrow = (
        pa.array(moments)
        if unit != "D"
        else pa.array(moments.astype(np.int32), pa.date32(), mask=np.isnat(moments))
    )
    pq.write_table(pa.table({"x": arrow}), tmp_path / "calls.parquet")
    for table in (table_from({"x": moments}), read_table(tmp_path / "calls.parquet")):
        found = table.tally(
            "min of x where x is date", "max of x where x is date", "errors of x", "blanks of x"
        )
        assert [str(each.value) for each in found] == ["0001-01-01", "9999-12-31", "3", "1"]
        assert "the years 1 to 9999" in table.column("x")[2].reason
