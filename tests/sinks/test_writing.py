"""Writing: what is written reads back as the same cells, and gives the same tallies."""

import json
import zipfile
from dataclasses import replace
from datetime import date, datetime

import numpy as np
import pytest
from click.testing import CliRunner
from hypothesis import given
from hypothesis import strategies as st

import strategies as make
from even_sieve import CellError, Table, read_table, table_from
from even_sieve.cli.main import main
from even_sieve.core.cells import Kind
from even_sieve.core.errors import CallError, SourceError
from even_sieve.core.table import Column, Mark
from even_sieve.core.table import Table as CoreTable
from even_sieve.core.table.lanes import TextLane
from even_sieve.demo.make import demo_path
from even_sieve.demo.walk import FIVE, HIDDEN, QUESTION, SUBTOTAL, demo_table
from even_sieve.sinks import arrow_file, arrow_tokens, csv, parquet
from even_sieve.sinks.files import SINKS, with_marks, write_file
from even_sieve.sources.arrow_buffers import strings_of
from even_sieve.sources.arrow_strings import Strings

NOT_FOUND = CellError("#N/A", "no value is available, as when a lookup key is not found")
ENDINGS = list(SINKS)


def calls():
    return demo_table().mark(subtotal=SUBTOTAL, hidden=HIDDEN, filtered="berth = R-01")


@pytest.mark.parametrize("ending", ENDINGS)
def test_the_harbour_written_and_read_again_gives_the_same_tallies(tmp_path, ending):
    file = tmp_path / f"calls{ending}"
    calls().write(file)
    again = read_table(file).mark(by="mark")
    measures = (*FIVE, "distinct of vessel", "errors of dues", "sum of hours", "max of departed",
                "blanks of remarks", "filled of dues")  # fmt: skip
    for where in (None, QUESTION, "dues = waived or dues is error or remarks is filled"):
        first, second = calls().tally(*measures, where=where), again.tally(*measures, where=where)
        assert [each.value for each in first] == [each.value for each in second]
        assert [each.account for each in first] == [each.account for each in second]
    assert again.names == (*calls().names, "mark")


@given(st.lists(st.one_of(st.floats(allow_nan=False, allow_infinity=False), st.integers(-(10**17), 10**17)),
                min_size=1, max_size=20))  # fmt: skip
@pytest.mark.parametrize("ending", [".xlsx", ".ods", ".csv"])
def test_numbers_come_back_to_the_last_bit(tmp_path_factory, ending, numbers):
    file = tmp_path_factory.mktemp("out") / f"a{ending}"
    table_from({"dues": numbers}).write(file)
    again = map(float, read_table(file).column("dues"))
    assert list(again) == list(map(float, table_from({"dues": numbers}).column("dues")))


@given(rows=make.rows(least=1, most=6), bits=st.lists(st.integers(0, 7), min_size=6, max_size=6))
@pytest.mark.parametrize("sink", [parquet, arrow_file])
def test_cells_of_any_mixture_come_back_typed(tmp_path_factory, sink, rows, bits):
    table = make.table_of([{**row, "remarks": None} for row in rows])
    for mark in Mark:
        table = table.marked(mark, np.array([bool(b & mark) for b in bits[: len(rows)]]))
    file = tmp_path_factory.mktemp("out") / f"a.{'parquet' if sink is parquet else 'arrow'}"
    sink.write(with_marks(table), file, False)
    again = read_table(file)
    for name in ("zone", "tons", "arrived", "departed", "paid"):
        assert list(table.column(name).cells()) == again.column(name)
    marked = again.mark(by="mark").core if "mark" in again.names else again.core
    assert (marked.marks if marked.marks is not None else np.zeros(len(rows))).tolist() == bits[
        : len(rows)
    ]


CELLS = {
    "text": ["=1+1", "+5", "-x", "@y", "'z", 'a,"b"\nc', "007"],
    "numbers": [1, -2.5, 0.1, 12345678901.25, None, 3, 1e-3],
    "days": [date(2031, 1, 5), None, date(1999, 12, 31), None, None, None, None],
    "times": [datetime(2031, 1, 5, 10, 30), None, datetime(2031, 1, 5), None, None, None, None],
    "yes": [True, False, None, True, None, None, None],
    "mixed": [1.5, "waived", NOT_FOUND, None, date(2031, 1, 5), True, 7],
}


@pytest.mark.parametrize("ending", ENDINGS)
def test_every_kind_of_cell_comes_back(tmp_path, ending):
    file = tmp_path / f"a{ending}"
    table_from(CELLS).write(file, leave_formulas=True)
    again = read_table(file)
    for name in CELLS:
        if name == "text" and ending in (".csv", ".jsonl", ".xlsx"):
            continue
        assert again.column(name) == table_from(CELLS).column(name), name


@pytest.mark.parametrize("ending", [".xlsx", ".ods"])
@pytest.mark.parametrize(
    ("text", "fact"),
    [
        ("x" * 32_768, "32,768 letters is longer than the 32,767"),
        ("fog\x01", r"U\+0001"),
        ("\ud800", r"U\+D800"),
    ],
)
def test_what_no_workbook_holds_is_refused(tmp_path, ending, text, fact):
    path = tmp_path / f"calls{ending}"
    path.write_text("the old one")
    with pytest.raises(SourceError, match=fact):
        table_from({"remarks": ["calm", text]}).write(path)
    assert path.read_text() == "the old one"


@pytest.mark.parametrize("columns", [{"remarks": ["calm", "a\0b"]}, {"re\0marks": [1]}])
def test_a_text_that_no_csv_holds_is_refused(tmp_path, columns):
    with pytest.raises(SourceError, match=r"the sign U\+0000, which no text file holds"):
        table_from(columns).write(tmp_path / "calls.csv")


@pytest.mark.parametrize("cells", [["x;y", "z;w"], ["a|b", None], [2031, 5]])
def test_a_table_of_one_column_is_not_taken_for_one_of_two(tmp_path, cells):
    for name in ("a", "a;b", "a|b"):
        table_from({name: cells}).write(tmp_path / "calls.csv")
        again = read_table(tmp_path / "calls.csv")
        assert (list(again.names), again.column(name)) == ([name], cells)


@pytest.mark.parametrize("ending", [".xlsx", ".ods"])
def test_a_date_among_amounts_is_written_as_a_date(tmp_path, ending):
    table = table_from({"x": [5, date(2031, 1, 27)]}).core
    shown = replace(table.columns[0], shown="$")  # as a file of amounts shows it
    Table(replace(table, columns=(shown,))).write(tmp_path / f"calls{ending}")
    assert read_table(tmp_path / f"calls{ending}").column("x") == [5, date(2031, 1, 27)]


@pytest.mark.parametrize("ending", [".xlsx", ".ods"])
def test_more_rows_than_a_sheet_has_are_refused(tmp_path, ending):
    with pytest.raises(SourceError, match=r"1,048,576 rows and a header are more"):
        table_from({"call": np.arange(1_048_576)}).write(tmp_path / f"calls{ending}")


def test_the_longest_text_of_a_cell_comes_back(tmp_path):
    table_from({"remarks": ["x" * 32_767, "a\tb\nc"]}).write(tmp_path / "calls.xlsx")
    assert list(read_table(tmp_path / "calls.xlsx").column("remarks")) == ["x" * 32_767, "a\tb\nc"]


def test_names_of_columns_are_made_harmless_too(tmp_path):
    calls = table_from({"zone": ["Outer", "Outer"], "side": ["=1+1", "b"], "=dues": [5, 6]})
    calls.write(tmp_path / "a.csv")
    assert (tmp_path / "a.csv").read_text().splitlines()[0] == "zone,side,'=dues"
    calls.write(tmp_path / "b.csv", leave_formulas=True)
    assert read_table(tmp_path / "b.csv").names == calls.names


def test_text_that_would_run_as_a_formula_is_made_harmless(tmp_path):
    table = table_from(
        {"text": ["=1+1", "+5 t", "-x", "@y", "plain", "a=b"], "n": [-1, 2, 3, 4, 5, 6]}
    )
    table.write(tmp_path / "a.csv")
    assert (tmp_path / "a.csv").read_text() == (
        "text,n\n'=1+1,-1\n'+5 t,2\n'-x,3\n'@y,4\nplain,5\na=b,6\n"
    )
    table.write(tmp_path / "b.csv", leave_formulas=True)
    assert read_table(tmp_path / "b.csv").column("text")[:2] == ["=1+1", "+5 t"]
    table.write(tmp_path / "a.xlsx")
    sheet = zipfile.ZipFile(tmp_path / "a.xlsx").read("xl/worksheets/sheet1.xml")
    assert b"<f>" not in sheet
    assert read_table(tmp_path / "a.xlsx").column("text")[0] == "=1+1"
    table.write(tmp_path / "c.xlsx", leave_formulas=True)
    assert b"<f>" in zipfile.ZipFile(tmp_path / "c.xlsx").read("xl/worksheets/sheet1.xml")
    table.write(tmp_path / "a.ods")
    assert b"table:formula" not in zipfile.ZipFile(tmp_path / "a.ods").read("content.xml")


def test_hidden_rows_stay_hidden_on_a_sheet(tmp_path):
    for name in ("a.ods", "a.xlsx"):
        calls().write(tmp_path / name)
        table = read_table(tmp_path / name)
        assert table.tally("rows")[0].account.hidden == 18


def test_a_failure_leaves_the_old_file_whole(tmp_path, monkeypatch):
    file = tmp_path / "a.csv"
    file.write_text("old")

    def broken(table, path, leave):
        path.write_text("half")
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(csv, "write", broken)
    with pytest.raises(SourceError, match="the file cannot be written: No space left on device"):
        table_from({"x": [1]}).write(file)
    assert file.read_text() == "old"
    assert [each.name for each in tmp_path.iterdir()] == ["a.csv"]
    with pytest.raises(CallError, match=r"ends in '.doc' is not written"):
        table_from({"x": [1]}).write(tmp_path / "a.doc")
    with pytest.raises(SourceError, match="No such file or directory"):
        table_from({"x": [1]}).write(tmp_path / "none" / "a.csv")


def test_a_file_has_the_rights_of_any_new_file_or_of_the_old_one(tmp_path):
    plain, written = tmp_path / "plain.txt", tmp_path / "calls.csv"
    plain.touch()
    table_from({"dues": [1]}).write(written)
    assert written.stat().st_mode == plain.stat().st_mode
    written.chmod(0o640)
    table_from({"dues": [2]}).write(written)
    assert written.stat().st_mode & 0o777 == 0o640


def test_a_breakdown_is_written_with_its_total_marked(tmp_path):
    found = calls().tally("rows", "sum of dues", by="zone")
    for ending in ENDINGS:
        found.write(tmp_path / f"by{ending}")
        again = read_table(tmp_path / f"by{ending}").mark(by="mark")
        total = again.tally("sum of rows", "sum of sum of dues")
        assert [each.value for each in total] == [each.value for each in found.total]
        assert total[0].account.subtotal == 1


def test_subtotals_of_a_breakdown_are_written_marked(tmp_path):
    lines = demo_table().tally("sum of tonnage", by=["zone", "class"], across="arrived by quarter")
    lines.write(tmp_path / "lines.ods")
    found = read_table(tmp_path / "lines.ods").mark(by="mark")
    tons = found.tally("sum of sum of tonnage")[0]
    assert tons.value == lines.total[0].value
    assert tons.account.subtotal == len(lines.subtotals) + 1


def test_a_bridge_is_written_with_its_figure_marked(tmp_path):
    bridge = demo_table().bridge("sum of dues", where="zone = Outer")
    bridge.write(tmp_path / "bridge.xlsx")
    found = read_table(tmp_path / "bridge.xlsx").mark(by="mark")
    assert found.tally("last of step")[0].value == "cells of another kind"
    amounts = found.tally("sum of amount")[0]
    assert amounts.value == bridge.tally.value
    assert amounts.account.subtotal == 1


def test_tallies_are_written_with_their_accounts(tmp_path):
    found = calls().tally("rows", "max of dues", "average of dues where dues > 99999")
    found.write(tmp_path / "a.jsonl")
    lines = [json.loads(line) for line in (tmp_path / "a.jsonl").read_text().splitlines()]
    assert [line["measure"] for line in lines] == [each.name for each in found]
    assert (lines[1]["found_at"], lines[1]["used"]) == (
        str(found[1].found_at[0]),
        found[1].account.used,
    )
    assert ("value" in lines[2], lines[2]["reason"]) == (False, "no row matched")


def test_the_command_line_writes_rows_and_answers(tmp_path):
    call = CliRunner().invoke
    source, out = str(demo_path("harbour.ods")), str(tmp_path / "outer.xlsx")
    assert (
        call(
            main, ["rows", source, "--where", "zone = Outer", "--limit", "1", "--to", out]
        ).exit_code
        == 0
    )
    outer = read_table(out)
    whole = read_table(source).tally("rows", "sum of dues", where="zone = Outer")
    again = outer.mark(by="mark").tally("rows", "sum of dues")
    assert [each.value for each in again] == [each.value for each in whole]
    to = str(tmp_path / "by.csv")
    assert call(main, ["tally", source, "rows", "--by", "zone", "--to", to]).exit_code == 0
    assert (tmp_path / "by.csv").read_text().splitlines()[-1] == "total,408,subtotal"
    refused = call(main, ["tally", source, "rows", "--to", str(tmp_path / "x.doc")])
    assert refused.exit_code == 2


def test_dates_about_the_day_that_never_was_come_back_from_xlsx(tmp_path):
    days = [
        date(1, 1, 1),
        date(1899, 12, 29),
        date(1900, 1, 1),
        date(1900, 2, 28),
        date(1900, 3, 1),
    ]
    moments = [datetime(1900, 2, 28, 12), datetime(1900, 3, 1, 12), datetime(9999, 12, 31, 6)]
    for each in (days, moments):
        table_from({"arrived": each}).write(tmp_path / "days.xlsx")
        assert list(read_table(tmp_path / "days.xlsx").column("arrived")) == each


@pytest.mark.parametrize("text", ["a\rb", "a\r\nb", "a\nb", "\rb"])
def test_line_ends_in_a_text_are_no_ends_of_rows(tmp_path, text):
    calls = table_from({"vessel": [f"Gull{text}", "Tern", None], "dues": [12.5, None, 7]})
    calls.write(tmp_path / "calls.csv")
    again = read_table(tmp_path / "calls.csv")
    assert [list(again.column(name)) for name in again.names] == [
        [f"Gull{text}", "Tern", None],
        [12.5, None, 7],
    ]


@pytest.mark.parametrize("quoted", ["", "\r"])
def test_many_different_texts_are_written_as_few_are(tmp_path, monkeypatch, quoted):
    monkeypatch.setattr(csv, "ROWS", 100)
    monkeypatch.setattr(arrow_tokens, "_FEW", 50)
    words = [f"{mark}{at}" for at in range(5000) for mark in ("=", "B-", "ü, ")]
    words[7] = f"B{quoted}-2"
    many, few = (tmp_path / name for name in ("many.csv", "few.csv"))
    different = {each: place for place, each in enumerate(sorted(words))}
    long = Strings(strings_of(list(different)))
    lane = TextLane(np.array([different[each] for each in words]), long, long)
    for path, own in ((many, lane), (few, replace(lane, spellings=tuple(long)))):
        write_file(
            CoreTable((Column("mark", len(words), {Kind.TEXT: own}, None),), len(words)), path
        )
    assert many.read_bytes() == few.read_bytes()
    assert read_table(many).column("mark")[4:8] == words[4:8]
