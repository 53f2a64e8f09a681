"""Cells right below, or beside, what is read of a sheet: told, never lost in silence."""

import openpyxl
import pytest
from openpyxl.workbook.defined_name import DefinedName
from openpyxl.worksheet.table import Table

from even_sieve import Code, SieveError, read_criteria, read_parameters, read_table
from even_sieve.core.notices import Notice
from even_sieve.sources import csv_grid

ROWS = [["call", "dues"], [1, 10], [2, 20], [3, 30], [4, 40]]
BELOW = "row 5 stands right below A1:B4, holds cells too, and was not read; see --cells"


def workbook(path, rows, table=None, **names):
    book = openpyxl.Workbook()
    sheet = book.active
    for row in rows:
        sheet.append(row)
    if table:
        sheet.add_table(Table(displayName="Calls", ref=table))
    for name, block in names.items():
        book.defined_names[name] = DefinedName(name, attr_text=f"{sheet.title}!{block}")
    book.save(path)
    return path


def text_file(path, rows):
    path.write_text("\n".join(",".join("" if c is None else str(c) for c in row) for row in rows))
    return path


def told(path, code=Code.GOES_ON, **options) -> list[str]:
    notices: tuple[Notice, ...] = read_table(path, **options).core.notices
    return [each.text for each in notices if each.code is code]


@pytest.mark.parametrize(
    ("below", "expected"),
    [
        ([4, 40], [BELOW]), ([None, 40], [BELOW]), (["East", "x"], [BELOW]), ([None, None], []),
        (["Total", 60], []), (["a note", None], []),
    ],
)  # fmt: skip
def test_a_block_that_is_one_row_too_short_is_told(below, expected, tmp_path, monkeypatch):
    rows = [*ROWS[:4], below, [], ["far", 1]]
    book, text = workbook(tmp_path / "c.xlsx", rows), text_file(tmp_path / "c.csv", rows)
    assert told(book, cells="A1:B4") == told(text, cells="A1:B4") == expected
    monkeypatch.setattr(csv_grid, "_LONG", 0)
    assert told(text, cells="A1:B4") == expected
    assert told(book, cells="A:B") == told(text, cells="A:B") == []


def test_a_table_of_the_sheet_that_ends_too_early_is_told_and_casts_doubt(tmp_path):
    short = workbook(tmp_path / "c.xlsx", ROWS, "A1:B4")
    assert told(short) == [BELOW]
    found = read_table(short).tally("sum of dues")
    assert (found[0].value, [each.text for each in found.notices]) == (60, [BELOW])
    assert told(workbook(tmp_path / "c.xlsx", ROWS, "A1:B5")) == []


def test_a_small_table_of_the_sheet_tells_of_the_rows_around_it(tmp_path):
    rows = [
        [*row, None, *more]
        for row, more in zip(ROWS, [["zone", "rate"], ["Outer", 2], [], [], []], strict=True)
    ]
    book = workbook(tmp_path / "c.xlsx", rows, "D1:E2")
    assert told(book, Code.OUTSIDE_TABLE) == [
        "10 cells (first A1) stand outside of the table and were not read; see --cells"
    ]


def test_records_side_by_side_go_on_to_the_right(tmp_path):
    rows = [list(row) for row in zip(*ROWS, strict=True)]
    told_of = "column E stands right beside A1:D2, holds cells too, and was not read; see --cells"
    for path in (workbook(tmp_path / "c.xlsx", rows), text_file(tmp_path / "c.csv", rows)):
        assert told(path, cells="A1:D2", sideways=True) == [told_of]
        assert told(path, cells="A1:E2", sideways=True) == []


def test_a_criteria_range_that_is_one_row_too_short_is_told(tmp_path):
    book = workbook(tmp_path / "c.xlsx", [["zone", "dues"], ["Outer", ">5"], ["Inner", None]])
    short = "criteria range: row 3 stands right below A1:B2, holds cells too, and was not read"
    assert [each.text for each in read_criteria(f"{book}!A1:B2").notices] == [short]
    assert read_criteria(f"{book}!A1:B3").notices == ()


def test_a_block_of_parameters_that_is_one_row_too_short_is_refused(tmp_path):
    rows = [["name", "value"], ["zone", "Outer"], ["zone", "Inner"]]
    book = workbook(tmp_path / "c.xlsx", rows)
    with pytest.raises(SieveError, match=r"row 3 stands right below A1:B2.*too short"):
        read_parameters(f"{book}!A1:B2")
    assert [each.text for each in read_parameters(f"{book}!A1:B3")["zone"]] == ["Outer", "Inner"]


def test_cells_beside_the_table_are_told_but_for_those_that_have_a_name(tmp_path):
    rows = [*ROWS, [5, 50, None, "zone", "x"], [6, 60, None, "Outer"]]
    beside = "{} outside of the table and {} not read; see --cells"
    book = workbook(tmp_path / "c.xlsx", rows, wanted="$D$6:$D$7")
    assert told(book, Code.OUTSIDE_TABLE) == [beside.format("E6 stands", "was")]
    assert read_table(book).tally("sum of dues")[0].value == 210
    book = workbook(tmp_path / "c.xlsx", [[None, *row] for row in rows] + [["x"]])
    three = beside.format("4 cells (first E6) stand", "were")
    assert told(book, Code.OUTSIDE_TABLE) == [three]
    assert told(book, Code.OUTSIDE_TABLE, cells="B1:C6") == []


def test_a_cell_far_away_takes_no_memory_for_those_between(tmp_path):
    path = workbook(tmp_path / "c.xlsx", [["call"]])
    book = openpyxl.load_workbook(path)
    book.active["XFD1"], book.active["A2"], book.active["XFD1048576"] = "z", 7, 4
    book.save(path)
    assert read_table(path).tally("sum of call")[0].value == 7
    assert told(path, Code.OUTSIDE_TABLE) == [
        "2 cells (first XFD1) stand outside of the table and were not read; see --cells"
    ]
    with pytest.raises(SieveError, match="1,048,575 rows of 16,384 columns are too many cells"):
        read_table(path, cells="A1:XFD1048576")
