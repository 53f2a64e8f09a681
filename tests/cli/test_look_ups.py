"""Columns from another file on the command line: read as the call says texts are written."""

import json

import pytest
from click.testing import CliRunner

from even_sieve import Report, read_table, table_from
from even_sieve.cli.main import main
from even_sieve.core.table import arrays
from even_sieve.sources import shelf

CALLS = {"vessel": ["Gull", "Tern", "Skua"], "berth": ["N1", "N1", "N2"], "dues": ["5", "6", "7"]}
DUE = ("--derive", "due = dues * rate")


@pytest.fixture
def place(tmp_path, monkeypatch):
    """A folder with calls, and tariffs of several offices; what is granted is as before after it."""
    monkeypatch.setattr(shelf._Granted, "shelf", None)
    monkeypatch.setattr(arrays._Chosen, "store", arrays.InMemory())
    monkeypatch.chdir(tmp_path)
    (tmp_path / "commas.csv").write_text(
        "berth;rate;since\nN1;0,5;03.04.2031\nN2;0,25;04.04.2031\n"
    )
    (tmp_path / "points.csv").write_text("berth,rate\nN1,0.5\nN2,0.25\n")
    read_table(tmp_path / "points.csv").write(tmp_path / "points.parquet")
    rows = zip(*CALLS.values(), strict=True)
    (tmp_path / "calls.csv").write_text("\n".join(map(",".join, [tuple(CALLS), *rows])))
    table_from(CALLS | {"dues": [5, 6, 7]}).write(tmp_path / "calls.xlsx")
    return tmp_path


def run(*words):
    return CliRunner().invoke(main, ["tally", *words, "--format", "json"])


def values(*words):
    found = run(*words)
    assert found.exit_code == 0, found.stderr
    return [each["value"] for each in json.loads(found.stdout)["measures"]]


@pytest.mark.parametrize(
    ("file", "look_up", "said"),
    [
        ("calls.csv", "points.csv on berth", []),
        ("calls.csv", "commas.csv on berth", ["--decimal", ","]),
        ("calls.xlsx", "commas.csv on berth", ["--decimal", ","]),
        ("calls.csv", "commas.csv on berth", ["--decimal", ",", "--as-number", "RATE"]),
        ("calls.csv", "points.parquet on berth", ["--decimal", ","]),
    ],
)
def test_a_tariff_is_read_as_the_call_says(place, file, look_up, said):
    assert values(file, "sum of due", "--look-up", look_up, *DUE, *said) == [7.25]


def test_what_is_said_of_a_tariff_is_said_of_the_calls_as_well(place):
    tariff = ("--look-up", "commas.csv on berth", *DUE, "--decimal", ",")
    calls = "vessel;berth;dues\nGull;N1;5,5\n"
    (place / "more.csv").write_text(calls)
    words = ["tally", "-", "sum of due", *tariff, "--format", "json"]
    found = CliRunner().invoke(main, words, input=calls)  # its name does not tell what it is
    assert json.loads(found.stdout)["measures"][0]["value"] == 2.75
    mixed = run("calls.xlsx", "--and", "more.csv", "sum of due", *tariff)
    assert "--decimal has no effect on a .xlsx file" in mixed.stderr
    table_from({"berth": ["N1", "N2"], "rate": ["0,5", "0,25"]}).write(place / "texts.xlsx")
    read_table(place / "calls.csv").write(place / "calls.parquet")
    for file in ("calls.csv", "calls.xlsx", "calls.parquet"):
        look_up = ("--look-up", "texts.xlsx on berth", "--as-number", "rate", "--decimal", ",")
        assert values(file, "sum of due", *look_up, *DUE) == [7.25]
    assert values("calls.parquet", "sum of due", *tariff) == [7.25]


def test_columns_go_by_their_new_names_and_keys_by_those_of_the_first_file(place):
    words = ["calls.csv", "sum of price", "max of begun", "--look-up"]
    words += ["commas.csv on berth bring rate as price, since as begun"]
    words += ["--as-number", "price", "--decimal", ",", "--as-date", "begun"]
    words += ["--date-order", "day-month-year"]
    assert values(*words) == [1.25, "2031-04-04"]
    unknown = run("calls.csv", "rows", "--look-up", "commas.csv on berth", "--as-number", "price")
    assert unknown.exit_code == 1
    assert "no column 'price'" in unknown.stderr
    alone = run("calls.xlsx", "rows", "--look-up", "points.parquet on berth", "--decimal", ",")
    assert "calls.xlsx: --decimal has no effect on a .xlsx file" in alone.stderr


def test_text_that_looks_like_numbers_is_told_where_it_is_worked_with(place):
    for file, said, example, mark in (("commas", ".", "0,25", ","), ("points", ",", "0.25", ".")):
        look_up = ("--look-up", f"{file}.csv on berth", "--decimal", said)
        found = run("calls.csv", "sum of due", *look_up, *DUE)
        assert json.loads(found.stdout)["measures"][0]["account"]["error"] == 3
        assert (
            f"derive 'due': column 'rate' holds text that looks like a number, such as '{example}';"
            f" text is not worked with: read it with --as-number rate --decimal {mark}"
        ) in found.stdout


def test_a_look_up_of_a_report_says_how_its_file_is_read(place):
    report = place / "due.toml"
    report.write_text(
        'title = "Due"\nsource = {file = "calls.csv"}\nderived = {due = "dues * rate"}\n'
        '[[look_ups]]\nfile = "commas.csv"\non = ["berth"]\ndecimal = ","\n'
        '[[blocks]]\nkind = "figures"\nmeasures = ["sum of due"]\n'
    )
    assert Report.from_file(report).run().figures() == {"sum of due": 7.25}
    report.write_text(report.read_text().replace('calls.csv"', 'calls.csv", memory = "64MiB"'))
    Report.from_file(report).run()
    assert shelf.granted() == 64 << 20
