"""Several files, sheets and tables as one table: the same as if one file held them all."""

import gzip
import itertools
import shutil
from unicodedata import normalize

import numpy as np
import openpyxl
import pyarrow as pa
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from pyarrow import parquet

from even_sieve import Table, combine, read_table, table_from
from even_sieve.core.errors import (
    CallError,
    DuplicateColumn,
    MarkError,
    SieveError,
    SourceNotFound,
    UnlikeSources,
)
from even_sieve.core.notices import Code
from even_sieve.core.table.origins import RowNumber
from even_sieve.demo.make import demo_path
from even_sieve.demo.walk import FIVE, HIDDEN, SUBTOTAL
from even_sieve.sources import files, shelf, text_table
from even_sieve.sources.several import read_named
from even_sieve.sources.source_options import SourceOptions
from strategies import rows, table_of

MEASURES = (
    *FIVE, "product of tons", "weighted average of dues by tons", "smallest 2 of dues", "median of dues",
    "percentile 90 of dues", "mode of zone", "distinct of remarks", "min of zone", "max of arrived",
    "variance of dues", "first of dues", "last of zone", "share of dues", "errors of dues",
)  # fmt: skip
TEXTS = [
    "12",
    "1,200",
    "1.5",
    "007",
    "5 €",
    "12%",
    "31/12/2031",
    "2031-02-03",
    "x",
    "",
    "1e3",
    "-3",
]


def figures(table, *measures, **asked):
    found = table.tally(*(measures or MEASURES), **asked)
    return [(each.value, each.exact, each.account, each.reason) for each in found]


def cut(plain, places):
    ends = [0, *sorted(places), len(plain)]
    return [plain[a:b] for a, b in itertools.pairwise(ends) if b > a]


@given(rows(least=1, most=14), st.sets(st.integers(0, 14), max_size=3), st.booleans())
def test_tables_that_are_combined_are_the_table_that_was_cut(plain, places, turned):
    parts = [Table(table_of(each)) for each in cut(plain, [p for p in places if p < len(plain)])]
    if turned:
        parts = [
            table_from({name: part.column(name) for name in part.names[::-1]}) for part in parts
        ]
    whole, joined = Table(table_of(plain)), combine(parts, origin="part")
    assert [joined.column(name) for name in whole.names] == [whole.column(n) for n in whole.names]
    asked = {"where": "tons > 3 or zone = Outer"}
    assert figures(joined) == figures(whole)
    assert figures(joined, **asked) == figures(whole, **asked)
    numbers = [(each.origin, int(each)) for each in joined.row_numbers]
    assert numbers == [
        (f"table {i}", n) for i, p in enumerate(parts, 1) for n in range(1, len(p) + 1)
    ]
    for axis in ("zone", "paid", "departed by month"):
        lines = {
            line.key: [t.value for t in line.tallies]
            for line in joined.tally("sum of dues", by=axis)
        }
        same = {
            line.key: [t.value for t in line.tallies]
            for line in whole.tally("sum of dues", by=axis)
        }
        assert lines == same


@settings(suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    st.lists(st.tuples(st.sampled_from(TEXTS), st.sampled_from(TEXTS)), min_size=2, max_size=9),
    st.integers(1, 8),
    st.sampled_from([(1, 0), (1, 1 << 60), (1 << 30, 0)]),
)
def test_what_a_column_is_all_files_tell_together(tmp_path, monkeypatch, fields, at, how):
    monkeypatch.setattr(files, "_LONG", how[0])
    monkeypatch.setattr(shelf, "_TIMES_KEPT", how[1])
    monkeypatch.setattr(text_table, "_FEW_CELLS", 0)
    lines = [f'{number},"{a}","{b}"' for number, (a, b) in enumerate(fields)]
    for name, own in (("whole", lines), ("1", lines[:at]), ("2", lines[at:])):
        (tmp_path / f"{name}.csv").write_text("\n".join(["n,dues,remarks", *own]) + "\n")
    parts = [tmp_path / f"{name}.csv" for name in "12" if name == "1" or lines[at:]]
    whole, joined = read_table(tmp_path / "whole.csv"), read_table(parts)
    for name in whole.names:
        assert joined.column(name) == whole.column(name)
    assert {n.code for n in joined.notices} == {n.code for n in whole.notices}


def test_the_harbours_months_are_its_year_from_every_way_of_naming_them(harbour):
    year = read_table(harbour / "calls.csv")
    marked = {"subtotal": SUBTOTAL, "hidden": HIDDEN}
    months = sorted((harbour / "months").iterdir())
    for named in (
        harbour / "months",
        f"{harbour}/months/2031-*.csv",
        months,
        f"{harbour}/**/2031-*.csv",
    ):
        joined = read_table(named)
        assert figures(joined, *FIVE, **marked) == figures(year, *FIVE, **marked)
        assert joined.names == year.names
    found = joined.tally("max of dues", **marked)[0]
    assert (
        found.found_at == (RowNumber.of(30, "2031-10.csv"),) != (RowNumber.of(30, "2031-09.csv"),)
    )
    sheets = read_table(demo_path("months.xlsx").with_name("months.xlsx!*"), origin="month")
    assert figures(sheets, *FIVE) == figures(year, *FIVE, **marked)
    lines = sheets.tally("rows", by="month")
    assert [line.key[0] for line in lines][:2] == ["2031-01", "2031-02"]
    assert len(lines) == 12
    with_subtotals = joined.mark(subtotal="found")
    assert figures(with_subtotals, *FIVE, hidden=HIDDEN) == figures(year, *FIVE, **marked)
    with pytest.raises(MarkError, match="Say of which source: 30 of 2031-01"):
        joined.mark(hidden=[30])
    assert joined.mark(hidden=list(found.found_at)).tally("rows")[0].account.hidden == 1
    table, explained = joined.sift("dues > 1600"), joined.tally("sum of dues", where="dues > 1600")
    assert str(table.row_numbers[0]) == "23 of 2031-01.csv"
    assert "agrees" in str(joined.recheck(explained))
    assert list(table.to_frame().index[0]) == ["2031-01.csv", 23]


def test_files_of_every_format_go_together(harbour, tmp_path):
    parts = [read_table(each) for each in sorted((harbour / "months").iterdir())]
    endings = [".csv", ".jsonl", ".parquet", ".arrow", ".ods", ".xlsx", ".csv", ".parquet", ".csv"]
    for number, part in enumerate(parts):
        part.write(tmp_path / f"part-{number}{endings[number % len(endings)]}")
    (tmp_path / "part-0.csv.gz").write_bytes(gzip.compress((tmp_path / "part-0.csv").read_bytes()))
    (tmp_path / "part-0.csv").unlink()
    joined, year = read_table(tmp_path), read_table(harbour / "calls.csv")
    assert figures(joined, *FIVE, subtotal=SUBTOTAL) == figures(year, *FIVE, subtotal=SUBTOTAL)
    assert sorted(map(str, joined.column("zone"))) == sorted(map(str, year.column("zone")))


def test_an_idle_month_a_copy_and_what_is_no_table_are_told(harbour, tmp_path):
    shutil.copytree(harbour / "months", tmp_path / "m")
    first = (tmp_path / "m/2031-01.csv").read_bytes()
    (tmp_path / "m/2031-13.csv").write_bytes(first.split(b"\n")[0] + b"\n")
    (tmp_path / "m/2031-01 (1).csv").write_bytes(first)
    (tmp_path / "m/notes.pdf").write_bytes(b"%PDF")
    (tmp_path / "m/.~lock.2031-01.csv#").write_bytes(b"")
    joined = read_table(tmp_path / "m")
    told = {notice.code: notice.text for notice in joined.notices}
    assert told[Code.NO_ROWS] == "2031-13.csv: there is a header but no row below it"
    assert "2031-01 (1).csv: its rows may count twice" in told[Code.TWIN_FILES]
    assert told[Code.PASSED_OVER].endswith("1 entry passed over, not read as a table: notes.pdf")
    assert len(joined) == 438 + 37
    (tmp_path / "m/2031-01 (2).CSV").write_bytes(first)
    (case,) = [each for each in read_table(f"{tmp_path}/m/*-0*.csv").notices if "case" in each.text]
    assert case.text.endswith("1 entry passed over, unlike it in case: 2031-01 (2).CSV")
    twice = combine([joined, read_table(tmp_path / "m")]).notices
    assert "2031-02.csv holds the same as 2031-02.csv: its rows may count twice" in {
        n.text for n in twice
    }


def test_a_sheet_that_is_hidden_or_blank_is_told(tmp_path):
    book = openpyxl.Workbook()
    book.active.title = "2031-01"
    for name, state in (("2031-02", "hidden"), ("2031-03", "visible"), ("Notes", "visible")):
        book.create_sheet(name).sheet_state = state
    for name in ("2031-01", "2031-02"):
        for row in (["zone", "dues"], ["Outer", 120], ["Inner", 80]):
            book[name].append(row)
    book["Notes"].append(["To be sent to the harbour master"])
    book.save(tmp_path / "year.xlsx")
    joined = read_table(f"{tmp_path}/year.xlsx!2031-*", origin="sheet")
    assert joined.tally("sum of dues")[0].value == 200
    assert joined.column("sheet")[2] == "2031-02"
    assert {Code.HIDDEN_SHEET, Code.PASSED_OVER} <= {each.code for each in joined.notices}
    assert read_table(f"{tmp_path}/year.xlsx!2031-02").tally("sum of dues")[0].value == 200
    with pytest.raises(SieveError, match="Notes"):
        read_table(f"{tmp_path}/year.xlsx!*")


@pytest.mark.parametrize(
    ("second", "keywords", "error", "message"),
    [
        ("zone,due\nOuter,1\n", {}, UnlikeSources,
         "2.csv: there is no column 'dues', which 1.csv has\nIs it 'due' that is meant"),
        ("a,b\n1,2\n", {}, UnlikeSources, "none of its columns is one of 1.csv: a, b"),
        ("zone,dues,more\nOuter,1,2\n", {}, UnlikeSources, "1.csv: there is no column 'more'"),
        ("zone,dues\nOuter,1,2\n", {}, SieveError, "2.csv, row 2: 3 fields, too many"),
        ("", {}, SieveError, "2.csv: the file is empty"),
        ("zone,dues\nOuter,1\n", {"origin": "Zone"}, SieveError, "two columns are called 'Zone'"),
        ("zone,dues\nOuter,1\n", {"sheet": "x"}, CallError, "--sheet has no effect on a .csv file"),
    ],
)  # fmt: skip
def test_a_file_that_does_not_go_with_the_others_is_named(
    tmp_path, second, keywords, error, message
):
    (tmp_path / "1.csv").write_text("zone,dues\nOuter,120\n")
    (tmp_path / "2.csv").write_text(second)
    with pytest.raises(error) as caught:
        read_table(tmp_path, **keywords)
    assert message in str(caught.value)


def test_a_column_that_one_lacks_is_blank_there_if_one_says_so(tmp_path):
    (tmp_path / "1.csv").write_text("zone,dues\nOuter,120\n")
    (tmp_path / "2.csv").write_text("more,ZONE\nx,Inner\n")
    joined = read_table(tmp_path, lacking="blank")
    assert [joined.column(name) for name in joined.names] == [
        ["Outer", "Inner"],
        [120, None],
        [None, "x"],
    ]
    with pytest.raises(CallError, match="is named twice: its rows would count twice"):
        read_named([tmp_path, tmp_path / "1.csv"], SourceOptions())
    (tmp_path / "3.csv").symlink_to("1.csv")
    with pytest.raises(CallError, match=r"3\.csv and .*1\.csv are the same file"):
        read_table(tmp_path)
    (tmp_path / "3.csv").unlink()
    shut = tmp_path / "a b [x]"
    shut.mkdir()
    shutil.copy(tmp_path / "1.csv", shut)
    assert len(read_table(f"{shut}/*.csv")) == 1
    book = demo_path("months.xlsx")
    with pytest.raises(CallError, match="2031-01 is named twice"):
        read_table([f"{book}!2031-01", f"{book}!2031-0[12]"])
    (tmp_path / "none").mkdir()
    with pytest.raises(SourceNotFound, match="there is no file in this folder that is read"):
        read_table(tmp_path / "none")
    (tmp_path / "outer" / "inner").mkdir(parents=True)
    with pytest.raises(SourceNotFound, match=r'a pattern is given, in quotes: ".*outer/\*\*"'):
        read_table(tmp_path / "outer")


@pytest.mark.parametrize("count", [2, 400_000])
@pytest.mark.parametrize("ending", [".arrow", ".parquet"])
def test_two_columns_of_one_name_are_refused_however_long_the_file(tmp_path, ending, count):
    path = tmp_path / f"calls{ending}"
    columns = {normalize(form, "Gebühr"): np.arange(count) for form in ("NFC", "NFD")}
    if ending == ".parquet":
        parquet.write_table(pa.table(columns), path)
    else:
        table = pa.table(columns)
        with pa.OSFile(str(path), "wb") as out, pa.ipc.new_file(out, table.schema) as writer:
            writer.write_table(table)
    with pytest.raises(DuplicateColumn, match="two columns are called"):
        read_table(path)
