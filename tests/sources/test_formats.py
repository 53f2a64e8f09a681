"""Dialects of text, JSON Lines, Parquet, Arrow, records: read as they are."""

import gzip
from datetime import date, datetime
from decimal import Decimal
from io import BytesIO

import pandas as pd
import pyarrow as pa
import pytest
from click.testing import CliRunner
from pyarrow import parquet

from even_sieve import read_table, table_from
from even_sieve.cli.main import main
from even_sieve.core.cells import CellError
from even_sieve.core.cells.written import DateOrder, read_ordered_date, read_written_number
from even_sieve.core.errors import DuplicateColumn, SieveError, SourceError, UnknownColumn
from even_sieve.demo.make import demo_path
from even_sieve.public.reading import table_from_bytes
from even_sieve.sources import files, shelf
from even_sieve.sources.files import read_content, read_file
from even_sieve.sources.limits import Limits
from even_sieve.sources.source_options import SourceOptions

NOT_FOUND = CellError("#N/A", "no value is available, as when a lookup key is not found")


def cells(name, content, **options):
    table = read_content(content, name, SourceOptions(**options))
    return {column.name: list(column.cells()) for column in table.columns}


# The name, the content, the options, the cells.
READ = [
    ("a.csv", b"a;b\n1;x,y\n2;z\n", {}, {"a": [1, 2], "b": ["x,y", "z"]}),
    ("a.tsv", b"a\tb\n1\tx\n", {}, {"a": [1], "b": ["x"]}),
    ("a.csv", b"sep=;\na;b\n1;x,y\n", {}, {"a": [1], "b": ["x,y"]}),
    ("a.csv", b'\xef\xbb\xbf"SEP=\t"\r\r\rTitle\r\ra\tb\r1\tx;y\r', {}, {"a": [1], "b": ["x;y"]}),
    ("a.csv", b"sep=,\na,b;c\n1,x;y\n", {}, {"a": [1], "b;c": ["x;y"]}),
    ("a.TAB", b"a\tb\n1\tx\n", {}, {"a": [1], "b": ["x"]}),
    ("a.csv", b"a|b\n1|x\n", {}, {"a": [1], "b": ["x"]}),
    ("a.csv", b"a,b;c\n1,x;y\n", {}, {"a": [1], "b;c": ["x;y"]}),
    ("a.csv", b"a:b\n1:x\n", {"delimiter": ":"}, {"a": [1], "b": ["x"]}),
    ("a.csv", b"a,b\n1,'x,y'\n", {"quote": "'"}, {"a": [1], "b": ["x,y"]}),
    ("a.csv", "a\né\n".encode("latin-1"), {}, {"a": ["é"]}),
    ("a.csv", "a\né\n".encode("utf-16"), {}, {"a": ["é"]}),
    ("a.csv", "a\né\n".encode("utf-16-be"), {"encoding": "utf-16-be"}, {"a": ["é"]}),
    ("a.csv", "a\né\n".encode("cp1252"), {"encoding": "cp1252"}, {"a": ["é"]}),
    ("a.csv", b"a;b\n1,5;x\n1.234,50;y\n7;z\n", {"decimal": ","}, {"a": [1.5, 1234.5, 7.0], "b": ["x", "y", "z"]}),
    ("a.csv", b"a;b\n1.5;waived\n2,5;3\n", {"decimal": ","}, {"a": ["1.5", 2.5], "b": ["waived", 3]}),
    ("a.csv", b'a\n"1,200"\n5\n\n#N/A\n', {}, {"a": [1200, 5, None, NOT_FOUND]}),
    ("a.csv", "a\n€ 12.50\n-€3\n".encode(), {}, {"a": [12.5, -3.0]}),
    ("a.csv", b"a\n12%\n(7)\n", {}, {"a": [0.12, -7.0]}),
    ("a.csv", b'a\n"1,200"\nwaived\n', {}, {"a": ["1,200", "waived"]}),
    ("a.csv", b"a\n007\n5\n", {}, {"a": ["007", 5]}),
    ("a.csv", b"a\n03/04/2031\n13/04/2031 10:30\n", {"date_order": DateOrder.DAY_FIRST},
     {"a": [datetime(2031, 4, 3), datetime(2031, 4, 13, 10, 30)]}),
    ("a.csv", b"a\n03/04/2031\nx\n", {"date_order": DateOrder.MONTH_FIRST}, {"a": [date(2031, 3, 4), "x"]}),
    ("a.csv.gz", gzip.compress(b"a\n1\n", mtime=0), {}, {"a": [1]}),
    ("standard input", b"a,b\n1,x\n", {}, {"a": [1], "b": ["x"]}),
    ("standard input", b'{"a": 1}\n', {}, {"a": [1]}),
    ("a.jsonl", b'{"a": 1, "b": "x"}\n\n{"a": 0.10, "c": true}\n{"b": null, "a": "7"}\n', {},
     {"a": [1, 0.1, "7"], "b": ["x", None, None], "c": [None, True, None]}),
    ("a.jsonl", b'{"a": "2031-01-05"}\n{"a": "#N/A"}\n{"a": " x "}\n', {}, {"a": [date(2031, 1, 5), NOT_FOUND, "x"]}),
    ("a.jsonl", b'{"a": "NA"}\n', {"blank_as": ("NA",)}, {"a": [None]}),
    ("a.jsonl", '{"a": 1}\n\ufeff{"a": 2}\n'.encode(), {}, {"a": [1, 2]}),
]  # fmt: skip
REFUSED = [
    ("a.jsonl", b'{"a": 1}\n{"a": \n', "a.jsonl, row 2: this is not JSON: Expecting value"),
    ("a.jsonl", b"[1, 2]\n", 'a.jsonl, row 1: this is not a JSON object\nWrite {"name": value}'),
    ("a.jsonl", b'{"a": 1, "b": 2, "a": 3}\n', "a.jsonl, row 1: the name 'a' stands twice"),
    ("a.jsonl", b"\n", "a.jsonl: the file is empty"),
    ("a.parquet", b"a,b\n1,2\n", "a.parquet: this is no Parquet file"),
    ("a.arrow", b"a,b\n1,2\n", "a.arrow: this is no Arrow file"),
    ("a.csv.gz", gzip.compress(b"a\n1\n", mtime=0)[:-6], "a.csv.gz: the gzip file is broken"),
    ("a.csv", b"a;b\n1;2;3\n", "a.csv, row 2: 3 fields, too many: the header names 2"),
]
WRITTEN = [
    ("1,200.50", ".", "1200.50"), ("1.200,50", ",", "1200.50"), ("1 200", ".", "1200"),
    ("1'200'300", ".", "1200300"), ("$5", ".", "5"), ("5 EUR", ".", None), ("5 €", ".", "5"), ("NOR 5", ".", None),
    ("-£1,000", ".", "-1000"), ("(1,000)", ".", "-1000"), ("50%", ".", "0.5"), ("7", ".", "7"),
    ("1,20", ".", None), ("12,34,567", ".", None), ("1 200,5", ",", "1200.5"), ("1,200 300", ".", None),
    ("1,2e5", ".", None), ("1.2e5", ",", None), ("2e3.456", ",", None), ("1,5e3", ",", "1500"),
    ("$(1,200.50)", ".", "-1200.50"), ("(5) €", ".", "-5"), ("(5)%", ".", "-0.05"), ("$($5)", ".", None),
    ("(-5)", ".", None), ("($-5)", ".", None), ("(5%)%", ".", None), ("()", ".", None), ("-(5)", ".", None),
    ("waived", ".", None), ("", ".", None), ("12 t", ".", None), ("(", ".", None), ("%", ".", None),
]  # fmt: skip


@pytest.mark.parametrize(("name", "content", "options", "wanted"), READ)
def test_a_file_is_read_as_it_is_written(name, content, options, wanted):
    assert cells(name, content, **options) == wanted


@pytest.mark.parametrize(("name", "content", "message"), REFUSED)
def test_what_cannot_be_read_is_refused(name, content, message):
    with pytest.raises(SieveError) as caught:
        read_content(content, name, SourceOptions())
    assert str(caught.value).startswith(message)


@pytest.mark.parametrize(("text", "decimal", "wanted"), WRITTEN)
def test_a_number_as_people_write_it(text, decimal, wanted):
    found = read_written_number(text, decimal)
    assert found == (None if wanted is None else Decimal(wanted))


def test_dates_in_an_order_that_is_named():
    for text, order, wanted in (
        ("3.4.2031", DateOrder.DAY_FIRST, date(2031, 4, 3)),
        ("3/4/2031", DateOrder.MONTH_FIRST, date(2031, 3, 4)),
        ("2031/4/3", DateOrder.YEAR_FIRST, date(2031, 4, 3)),
        ("3/4/31", DateOrder.DAY_FIRST, None),
        ("31/4/2031", DateOrder.DAY_FIRST, None),
        ("3/4.2031", DateOrder.DAY_FIRST, None),
        ("3/4/2031 25:00", DateOrder.DAY_FIRST, None),
    ):
        assert read_ordered_date(text, order) == wanted


def test_what_was_guessed_is_told():
    office = read_content("a\nHafen Straße 5 €\n".encode("cp1252"), "a.csv", SourceOptions())
    assert [(n.code, n.text) for n in office.notices] == [
        ("encoding-guessed", "row 2 is not UTF-8: the file was read as Windows-1252, so that it says "
         "'Straße'; if that is wrong, see --encoding")
    ]  # fmt: skip
    assert office.column("a").cell(0) == "Hafen Straße 5 €"
    money = read_content(b'a\n"1,200"\n', "a.csv", SourceOptions())
    assert [(n.code, n.text) for n in money.notices] == [
        (
            "written-numbers",
            "column 'a': numbers written such as '1,200' were read as numbers, this one as 1200",
        )
    ]


def test_a_gzip_bomb_and_a_million_columns_are_refused():
    bomb = gzip.compress(b"a\n" + b"1\n" * 600_000)
    with pytest.raises(SourceError, match="unpacks to more than 1,000,000 bytes"):
        read_content(bomb, "a.csv.gz", SourceOptions(limits=Limits(unpacked=1_000_000)))
    with pytest.raises(SourceError, match="a cell of column 'b' has 2,000 bytes"):
        read_content(b"a,b\n1," + b"x" * 2000, "a.csv", SourceOptions(limits=Limits(cell=1000)))
    wide = (",".join(f"c{i}" for i in range(20_000)) + "\n").encode()
    with pytest.raises(SourceError, match="20,000 columns: at most 16,384"):
        read_content(wide * 2, "a.csv", SourceOptions())


def test_a_file_beyond_the_limit_is_not_opened(tmp_path):
    (tmp_path / "a.csv").write_text("a\n" + "1\n" * 1000)
    with pytest.raises(SourceError, match="there are 2,002 bytes"):
        read_file(tmp_path / "a.csv", SourceOptions(limits=Limits(unpacked=2000)))


def arrow_table():
    return pa.table(
        {
            "whole": pa.array([1, None, 3], pa.int32()),
            "big": pa.array([2**63, None, 1], pa.uint64()),
            "double": [0.5, None, float("nan")],
            "money": pa.array([Decimal("1.10"), None, Decimal("2.25")], pa.decimal128(10, 2)),
            "text": ["a ", None, "007"],
            "coded": pa.array(["x", None, "y"]).dictionary_encode(),
            "day": pa.array([date(2031, 1, 5), None, None]),
            "midnight": pa.array([datetime(2031, 1, 5), None, None], pa.timestamp("ns")),
            "moment": pa.array([datetime(2031, 1, 5, 10), None, None], pa.timestamp("s", "UTC")),
            "yes": [True, None, False],
            "none": pa.nulls(3),
        }
    )


WANTED = {
    "whole": [1, None, 3],
    "big": [float(2**63), None, 1.0],
    "double": [0.5, None, None],
    "money": [1.1, None, 2.25],
    "text": ["a", None, "007"],
    "coded": ["x", None, "y"],
    "day": [date(2031, 1, 5), None, None],
    "midnight": [date(2031, 1, 5), None, None],
    "moment": [datetime(2031, 1, 5, 10), None, None],
    "yes": [True, None, False],
    "none": [None, None, None],
}


def as_parquet(table):
    out = BytesIO()
    parquet.write_table(table, out)
    return "a.parquet", out.getvalue()


def as_arrow(table, opening):
    out = BytesIO()
    with opening(out, table.schema) as writer:
        writer.write_table(table)
    return "a.arrow", out.getvalue()


def test_parquet_arrow_files_and_arrow_streams_keep_kinds_and_blanks():
    table = arrow_table()
    for name, content in (
        as_parquet(table),
        as_arrow(table, pa.ipc.new_file),
        as_arrow(table, pa.ipc.new_stream),
    ):
        assert cells(name, content) == WANTED
    streamed = table_from(table)
    assert {name: streamed.column(name) for name in streamed.names} == WANTED
    sliced = table_from(table.slice(1, 2))
    assert sliced.column("whole") == [None, 3]
    assert sliced.column("yes") == [None, False]
    with pytest.raises(SourceError, match="column 'x' holds list"):
        table_from(pa.table({"x": [[1], [2]]}))
    with pytest.raises(DuplicateColumn):
        table_from(pa.table([[1], [2]], names=["a", "A"]))


@pytest.mark.parametrize(("least", "kept"), [(0, 1 << 60), (0, 0), (1 << 22, 0)])
def test_pieces_whose_texts_are_coded_apart_are_one_column(tmp_path, monkeypatch, least, kept):
    monkeypatch.setattr(files, "_LONG", least)
    monkeypatch.setattr(shelf, "_TIMES_KEPT", kept)
    codes = pa.array([0, 1, None], pa.int8())
    pieces = [
        pa.record_batch({"ship": pa.DictionaryArray.from_arrays(codes, [f"a{i}", f"b{i}"])})
        for i in range(200)  # more texts than such codes have room for
    ]
    with pa.ipc.new_stream(tmp_path / "calls.arrow", pieces[0].schema) as writer:
        for each in pieces:
            writer.write_batch(each)
    table = read_table(tmp_path / "calls.arrow")
    assert table.column("ship") == [t for i in range(200) for t in (f"a{i}", f"b{i}", None)]
    assert table.tally("max of ship")[0].found_at == (299,)
    parquet.write_table(pa.table({"n": range(50)}), tmp_path / "n.parquet", row_group_size=3)
    numbers = read_table(tmp_path / "n.parquet", prune="n in 7 | 30..31")
    assert numbers.row_numbers == (7, 8, 9, 31, 32, 33)


def test_columns_of_lists_and_records_are_left_out(tmp_path, monkeypatch):
    arrow = pa.table(
        {
            "tags": pa.array([["a"], [], None]),
            "dues": [120.5, None, 80.0],
            "at": pa.array([{"lat": 1}, None, {"lat": 2}]),
            "note": pa.array([b"old", b"\xff\x00", None], pa.binary()),
            "sealed": pa.array([b"ab", b"cd", b"ab"], pa.binary(2)),
            "key": pa.array([None, bytes(range(240, 256)), bytes(16)], pa.uuid()),
        }
    )
    note = CellError("#bytes", "the cell holds bytes that are no text")
    for least, kept in ((1 << 30, 0), (1, 0), (1, 1 << 60)):
        monkeypatch.setattr(files, "_LONG", least)
        monkeypatch.setattr(shelf, "_TIMES_KEPT", kept)
        for name, content in (as_parquet(arrow), as_arrow(arrow, pa.ipc.new_file)):
            (tmp_path / name).write_bytes(content)
            table = read_table(tmp_path / name)
            assert {each: table.column(each) for each in table.names} == {
                "dues": [120.5, None, 80.0],
                "note": ["old", note, None],
                "sealed": ["ab", "cd", "ab"],
                "key": [
                    None,
                    "f0f1f2f3-f4f5-f6f7-f8f9-fafbfcfdfeff",
                    "00000000-0000-0000-0000-000000000000",
                ],
            }
            told = table.tally("sum of dues", where="note is error").notices
            assert [each.text.split(":")[0] for each in told if "left out" in each.text] == [
                "column 'tags' was left out",
                "column 'at' was left out",
            ]
            with pytest.raises(UnknownColumn, match="column 'at' was left out: it holds struct"):
                table.tally("max of At")
            codes = {each.code for each in table.profile().findings}
            assert codes >= {"column-left-out", "errors"}


def test_lists_and_objects_in_json_are_errors():
    table = table_from_bytes(b'{"a": [1], "b": 1}\n{"a": {}, "b": 2}\n{"a": 5}\n', "a.jsonl")
    (total, count) = table.tally("sum of a", "sum of b")
    assert (total.value, total.account.error, count.value) == (5, 2, 3)
    assert str(table.column("a")[0]) == "#nested"


def test_records_are_a_table():
    table = table_from([{"zone": "Outer", "dues": 5}, {"dues": 0.5, "paid": True}])
    assert table.names == ("zone", "dues", "paid")
    assert table.column("dues") == [5.0, 0.5]
    assert table.column("zone") == ["Outer", None]


def test_the_harbour_read_from_a_parquet_file_gives_the_same_figures(tmp_path):
    plain = read_table(demo_path("calls.csv"))
    frame = pd.read_csv(
        demo_path("calls.csv"), parse_dates=["arrived", "departed"], keep_default_na=False
    )
    frame["tonnage"] = frame["tonnage"].astype("float64")
    frame.to_parquet(tmp_path / "calls.parquet")
    other = read_table(tmp_path / "calls.parquet")
    measures = ("rows", "sum of tonnage", "sum of hours", "distinct of vessel", "max of arrived")
    for where in (None, "zone = Outer and arrived in 2031-Q1", "vessel = B* or hours > 80"):
        first, second = (table.tally(*measures, where=where) for table in (plain, other))
        assert [each.value for each in first] == [each.value for each in second]
        assert [each.account for each in first] == [each.account for each in second]


def test_the_command_line_reads_standard_input_and_dialects():
    call = CliRunner().invoke
    found = call(main, ["tally", "-", "sum of a", "--format", "csv"], input="a;b\n1;x\n2;y\n")
    assert found.stdout.splitlines()[1].startswith("sum of a,3,2,")
    words = ["tally", "-", "sum of a", "--format", "csv", "--decimal", ",", "--delimiter", "tab"]
    assert (
        call(main, words, input="a\tb\n1,5\tx\n").stdout.splitlines()[1].startswith("sum of a,1.5,")
    )
    assert call(main, [*words[:3], "--delimiter", "xx"], input="a\n1\n").exit_code == 2
    dated = ["rows", "-", "--date-order", "day-month-year", "--format", "csv"]
    assert call(main, dated, input="a\n03/04/2031\n").stdout == "a\n2031-04-03\n"


def test_a_packed_file_is_called_as_it_is(tmp_path):
    path = tmp_path / "calls.CSV.gz"
    path.write_bytes(gzip.compress(b"zone,dues\nOuter,5\n"))
    assert read_table(path).core.source == str(path)
    path.write_bytes(gzip.compress(b'zone,dues\n"Outer,5\n'))
    with pytest.raises(SourceError, match=r"calls\.CSV\.gz, row 2"):
        read_table(path)
