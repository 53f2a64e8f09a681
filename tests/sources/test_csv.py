"""CSV: what is read, with which row numbers, and what is refused."""

import subprocess
import sys
from datetime import date, datetime
from functools import partial
from unittest.mock import patch

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from even_sieve import read_table
from even_sieve.core.cells import CellError
from even_sieve.core.errors import CallError, SieveError, SourceError, SourceNotFound
from even_sieve.sources import (
    bulk_strings,
    csv_lines,
    csv_records,
    files,
    growing_cells,
    growing_columns,
    long_csv_file,
    side_by_side,
    string_columns,
)
from even_sieve.sources.csv import read
from even_sieve.sources.dialect import Dialect
from even_sieve.sources.limits import Limits
from even_sieve.sources.set_aside import without_blanks
from even_sieve.sources.source_options import SourceOptions

NOT_FOUND = CellError("#N/A", "no value is available, as when a lookup key is not found")
ZERO = CellError("#DIV/0!", "division by zero")

# The file, its columns, the numbers of its rows.
READ = [
    ("a,b\n1,x\n2,y\n", {"a": [1, 2], "b": ["x", "y"]}, (2, 3)),
    ("a,b\r\n1,x\r\n", {"a": [1], "b": ["x"]}, (2,)),
    ("a,b\r1,x\r", {"a": [1], "b": ["x"]}, (2,)),
    ("\ufeffa,b\n1,x", {"a": [1], "b": ["x"]}, (2,)),
    (" a , b\n 1 , x y \n", {"a": [1], "b": ["x y"]}, (2,)),
    ('a,b\n"1","x,y"\n', {"a": [1], "b": ["x,y"]}, (2,)),
    ('a,b\n1,"x ""y"""\n', {"a": [1], "b": ['x "y"']}, (2,)),
    ('a,b\n1,"x\ny"\n2,z\n', {"a": [1, 2], "b": ["x\ny", "z"]}, (2, 4)),
    ("a,b\n\n1,x\n\n\n2,y\n\n", {"a": [1, 2], "b": ["x", "y"]}, (3, 6)),
    ("a,b\n,\n1,\n", {"a": [None, 1], "b": [None, None]}, (2, 3)),
    ("dues\n120.50\nwaived\n\"\"\n#N/A\n#div/0!\n", {"dues": [120.5, "waived", None, NOT_FOUND, ZERO]}, (2, 3, 4, 5, 6)),
    ("a\n2031-01-05\n", {"a": [date(2031, 1, 5)]}, (2,)),
    ("a\n2031-01-05T10:30Z\n2031-01-05 11:30\n", {"a": [datetime(2031, 1, 5, 10, 30), datetime(2031, 1, 5, 11, 30)]}, (2, 3)),
    ("a\n05/01/2031\n2031-02-30\n", {"a": ["05/01/2031", "2031-02-30"]}, (2, 3)),
    ("a\ntrue\nFALSE\nyes\n", {"a": [True, False, "yes"]}, (2, 3, 4)),
    ("a\n007\n1234567890123456789\n#5\n", {"a": ["007", "1234567890123456789", "#5"]}, (2, 3, 4)),
    ("a\nNA\nn/a\n-\n1\n", {"a": ["NA", "n/a", "-", 1]}, (2, 3, 4, 5)),
    ("a,\n1,2\n", {"a": [1], "#2": [2]}, (2,)),
    ("å,é\nß,漢\n", {"å": ["ß"], "é": ["漢"]}, (2,)),
]  # fmt: skip
REFUSED = [
    (b"", 1, "calls.csv: the file is empty\nA header and rows are needed"),
    (b"\n \n", 1, "calls.csv: the file is empty\nA header and rows are needed"),
    (b"a,b\n", 1, "calls.csv: there is a header but no row below it\nNothing to work out"),
    (b"a,b\n1,2\n3,4,5\n", 1, "calls.csv, row 3: 3 fields, too many: the header names 2\n"
     "Put a field that holds a comma in double quotes"),
    (b'a,b\n"1\n2",2\n3\n', 1, "calls.csv, row 4: 1 field, too few: the header names 2\n"
     "Write every comma, also for blank cells"),
    (b"a,b,A \n1,2,3\n", 1, "calls.csv: two columns are called 'A' (columns 1 and 3)\n"
     "Rename one of them: a name must mean one column."),
    (b"a,b\n1,\xff\x81\n", 1, "calls.csv, row 2: the byte 0xff is not UTF-8 text\n"
     "Save the file as CSV in UTF-8, or say how it is with --encoding"),
    (b"a,b\n1,2\n\x00,2\n", 1, "calls.csv, row 3: the byte 0x00 is not UTF-8 text\n"
     "Save the file as CSV in UTF-8, or say how it is with --encoding"),
]  # fmt: skip


@pytest.mark.parametrize(("text", "columns", "numbers"), READ)
def test_a_file_is_read_as_it_is(tmp_path, text, columns, numbers):
    file = tmp_path / "calls.csv"
    file.write_bytes(text.encode())
    table = read_table(file)
    assert {name: table.column(name) for name in table.names} == columns
    assert table.row_numbers == numbers


@pytest.mark.parametrize(("content", "status", "message"), REFUSED)
def test_a_file_that_is_no_table_is_refused(content, status, message):
    with pytest.raises(SieveError) as caught:
        read(content, "calls.csv", SourceOptions())
    assert str(caught.value) == message
    assert caught.value.exit_status == status


def test_a_file_that_is_not_there_is_refused(tmp_path):
    (tmp_path / "calls.csv").write_text("a\n1\n")
    for name, message in (
        ("cals.csv", "there is no such file\nDid you mean 'calls.csv'?"),
        ("none/calls.csv", "there is no such file\nCheck the name and the folder"),
    ):
        with pytest.raises(SourceNotFound) as caught:
            read_table(tmp_path / name)
        assert str(caught.value) == f"{tmp_path / name}: {message}"
        assert caught.value.exit_status == 2
    (tmp_path / "calls.doc").write_text("a")
    with pytest.raises(SieveError, match=r"ends in '.doc' is not read\nRead are: .csv, "):
        read_table(tmp_path / "calls.doc")


def test_tokens_are_blanks_only_where_they_are_said_to_be(tmp_path):
    file = tmp_path / "calls.csv"
    file.write_text("a,b\nNA,999\nna,5\nNAB,-\n")
    table = read_table(file, blank_as=["NA", "999", "-"])
    assert table.column("a") == [None, None, "NAB"]
    assert table.column("b") == [None, 5, None]
    assert read_table(file, blank_as="-").column("b") == [999, 5, None]


def test_what_the_reader_met_is_told():
    text = "a,,c\n2031-01-05T10:00Z,1,05/01/2031\n2031-01-05T10:00,2,x\n2031-01-05T10:00+02:00,3,1/2/31\n"
    table = read(text.encode(), "calls.csv", SourceOptions())
    assert [(notice.code, notice.text) for notice in table.notices] == [
        ("unnamed-column", "column 2 has no name: it is called #2"),
        (
            "mixed-time-offsets",
            "column 'a' mixes times with different offsets from UTC (+00:00, +02:00, none); those "
            "with an offset were brought to UTC, those without were left as they are",
        ),
        (
            "text-that-looks-like-dates",
            "column 'c': 2 cells such as '05/01/2031' look like dates but are not written as "
            "YYYY-MM-DD; left as text",
        ),
    ]


kinds_of_tokens = [
    st.integers(-(10**6), 10**6).map(str),
    st.decimals(-1000, 1000, places=2).map(str),
    st.dates().map(str),
    st.datetimes().map(lambda time: time.strftime("%Y-%m-%d %H:%M:%S").rjust(19, "0")),
    st.sampled_from(["", " 5 ", "waived", "#N/A", "NA", "2031-02-30", "007", "1e5", "true", "-0.10",
                     "2031-01-05T10:30", "2031-01-05T10:30Z", "99999999999999999", "+7", "5.", ".5"]),
    st.text("0159+-./,:T ", max_size=5),
]  # fmt: skip
#: Lists of all kinds of tokens, and lists of one kind alone.
lists_of_tokens = st.one_of(
    st.lists(st.one_of(kinds_of_tokens), min_size=1, max_size=30),
    *(st.lists(tokens, min_size=1, max_size=30) for tokens in kinds_of_tokens),
)


@pytest.mark.parametrize("threads", [1, 3])
@given(found=lists_of_tokens)
def test_many_tokens_read_in_bulk_are_what_they_are_one_by_one(threads, found):
    import pyarrow as pa

    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(side_by_side, "_LEAST", 2)
        patch.setattr(side_by_side, "cpu_count", lambda: threads)
        _compare_with_one_by_one(pa, found)


def _compare_with_one_by_one(pa, found):
    array = pa.array(found, pa.string())
    coded = array.dictionary_encode()
    tokens, codes = coded.dictionary.to_pylist(), coded.indices.to_numpy()
    slow = string_columns.column_of_tokens("x", tokens, codes, SourceOptions(blank_as=("NA",)))
    trimmed, count = bulk_strings.trim(array)
    column = growing_cells.read_in_bulk("x", without_blanks(trimmed, ("NA",)))
    if column is None or string_columns.is_written(column):
        column = slow
    assert list(column.cells()) == list(slow.cells())
    assert (column.counts, count) == (slow.counts, slow.trimmed)


@given(lists_of_tokens, st.integers(1, 12), st.booleans())
def test_tokens_that_come_in_pieces_are_what_they_are_as_a_whole(found, size, many):
    import pyarrow as pa

    options = SourceOptions(blank_as=("NA",))
    gathering = growing_columns.Gathering(len(found) + 3, options)
    gathering._kept = growing_cells.Cells(len(found) + 3, ("NA",)) if many else None
    for start in range(0, len(found), size):
        gathering.add(pa.array(found[start : start + size], pa.string()))
    whole = string_columns.column_from_strings("x", pa.array(found, pa.string()), options)
    column = gathering.column("x") or whole
    assert list(column.cells()) == list(whole.cells())
    assert (column.counts, column.trimmed, column.notices) == (
        whole.counts,
        whole.trimmed,
        whole.notices,
    )


_LONG_LINES = [
    f"C{i},{i / 4},{'Outer' if i % 3 else 'inner'},{i % 700},2031-01-{i % 28 + 1:02}"
    for i in range(9000)
]


@pytest.mark.parametrize(
    ("row", "text"),
    [
        (None, ""),
        (8000, 'C1,"1,5",Outer,waived,2031-01-05T10:30'),
        (8000, 'C1,1,"Ou\nter",7,"1 ""x"""'),
        (8000, "C1,1e300,Oüter,#N/A,"),
        (8000, "C1,1,2"),
        (8000, "\n"),
        (20, "C1,0.1234567890123456,x,12345678901234567,1-2"),
    ],
)
def test_a_long_file_is_read_in_pieces_to_the_same_table(tmp_path, monkeypatch, row, text):
    monkeypatch.setattr(files, "_LONG", 1 << 10)
    monkeypatch.setattr(long_csv_file, "_PIECE", 1 << 13)
    lines = [text if i == row else line for i, line in enumerate(_LONG_LINES)]
    path = tmp_path / "calls.csv"
    path.write_text("call,dues,zone,berth,arrived\n" + "\n".join(lines) + "\n", encoding="utf-8")
    if text == "C1,1,2":
        with pytest.raises(SourceError, match="row 8002: 3 fields, too few"):
            files.read_file(path, SourceOptions())
        return
    whole = read(path.read_bytes(), str(path), SourceOptions())
    in_pieces = files.read_file(path, SourceOptions())
    assert [list(c.cells()) for c in in_pieces.columns] == [list(c.cells()) for c in whole.columns]
    assert in_pieces.number(8500) == whole.number(8500)
    assert (in_pieces.notices, in_pieces.source) == (whole.notices, whole.source)


def test_a_cell_without_an_end_is_refused_before_it_is_held_whole(tmp_path):
    path = tmp_path / "calls.csv"
    path.write_text("a,b\n1," + "x" * 6_000_000)
    with pytest.raises(SourceError, match="row 2: a cell has more than 500,000 bytes"):
        files.read_file(path, SourceOptions(limits=Limits(cell=500_000)))


def test_a_long_column_of_different_tokens_is_read_in_bulk():
    lines = [
        f"{i}.25,2031-01-{i % 28 + 1:02}T{i % 24:02}:{i % 60:02}:{i % 59:02},{i}"
        for i in range(20_000)
    ]
    lines[7] = "waived,,#N/A"
    table = read(("a,b,c\n" + "\n".join(lines)).encode(), "calls.csv", SourceOptions())
    assert table.column("a").cell(9) == 9.25
    assert table.column("a").cell(7) == "waived"
    assert table.column("b").cell(9) == datetime(2031, 1, 10, 9, 9, 9)
    assert table.column("c").cell(7) == NOT_FOUND
    assert table.column("b").cell(7) is None


def test_switches_of_other_libraries_are_left_as_they_were(harbour):
    code = (
        "import csv, os; from even_sieve import read_table; from even_sieve.public.criteria import *\n"
        f"os.chdir({str(harbour)!r}); limit = csv.field_size_limit(); before = dict(os.environ)\n"
        "read_table('harbour.xlsx'); read_table('calls.csv'); read_criteria('wanted.csv')\n"
        "print(limit == csv.field_size_limit(), before == dict(os.environ))"
    )
    run = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert run.stdout.split() == ["True", "True"]


def test_lines_left_out_of_a_sideways_file_are_left_out():
    content = b"a;b;c\nx;1;2\nTotal;4;6\n"
    table = read(content, "x", SourceOptions.of(sideways=True, leave_out_foot=1))
    assert list(table.names) == ["a", "x"]
    assert list(table.column("x").cells()) == [1, 2]


def test_lines_left_out_beside_a_block_are_refused():
    with pytest.raises(CallError, match="has no effect"):
        read(b"a,b\n1,2\n", "x", SourceOptions.of(cells="A1:B2", leave_out_top=1))


@settings(max_examples=200, deadline=None)
@given(
    st.lists(
        st.sampled_from(["", "x,y", '1,"x\ny"', '"a ""q"" b",2', '"\n\n",""', " ", '"\r\n",1'])
    ),
    st.sampled_from(["\n", "\r\n"]),
    st.sampled_from([1, 3, 7, 1 << 20]),
)
def test_lines_of_records_are_told_by_bytes_as_by_the_standard_reader(records, end, stretch):
    content, dialect = end.join(["a,b", *records]).rstrip("\r\n").encode(), Dialect(",", '"')
    found = list(csv_records.records_of(content, dialect))
    begins = [number for number, record in found if record][1:]
    tell = partial(csv_lines._told_by_bytes, paired=False, alone=False)
    with patch.object(csv_lines, "_BLOCK", stretch):
        for size, wanted in ((len(begins), begins), (len(begins) + 1, None)):
            told = tell(content, len(content), size, dialect)
            assert (told and list(told[0])) == wanted
        blank = tell(content, len(content), len(begins), dialect)[1]
        assert blank == sum(not record for _, record in found)
        odd = content + b'\nx,5" pipe'
        begins = [number for number, record in csv_records.records_of(odd, dialect) if record][1:]
        assert list(tell(odd, len(odd), len(begins), dialect)[0]) == begins
