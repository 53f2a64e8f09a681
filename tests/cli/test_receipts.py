"""Receipts: an answer is worked out again, and what differs or has changed is named."""

import hashlib
import json
import os
import shlex
from pathlib import Path

import pytest
import simplejson
from click.testing import CliRunner
from hypothesis import given
from hypothesis import strategies as st

from even_sieve.cli.main import main
from even_sieve.core import tally as core
from even_sieve.demo.make import write_files
from even_sieve.receipts import with_receipt
from even_sieve.renderers.formats.json import dump

CALLS = [
    'tally calls.csv "sum of dues" rows --where "zone = Outer" --explain --recheck',
    'tally calls.csv "average of dues" --by zone --across "arrived by quarter" --hidden "status = withdrawn"',
    'tally harbour.ods rows --criteria wanted.csv --set "limit=5" --sheet calls --locale de_DE --to out.csv',
    'tally months.xlsx!* "sum of dues" --look-up "tariff.csv on class" --derive "twice = dues * 2"',
    'tally calls.csv rows --where "arrived in last 30 days" --as-of 2031-06-30',
    'tally calls.csv --and more.csv "max of arrived" --keep hidden --subtotal-rows "5-9 of more.csv"',
]


@pytest.fixture
def call(tmp_path, monkeypatch):
    """Run a call in a folder with the demo's files."""
    write_files(tmp_path)
    text = (tmp_path / "calls.csv").read_text()
    (tmp_path / "more.csv").write_text("\n".join(text.split("\n")[:40]) + "\n")
    monkeypatch.chdir(tmp_path)
    return lambda words: CliRunner().invoke(main, shlex.split(words))


def receipt(call, words, name="r.json"):
    found = call(f"{words} --format json")
    assert found.exit_code == 0, found.output
    with open(name, "w", encoding="utf-8") as out:
        out.write(found.stdout)
    return json.loads(found.stdout)


@pytest.mark.parametrize("words", CALLS)
def test_a_call_is_worked_out_again_from_any_folder(call, words, monkeypatch, tmp_path):
    made = receipt(call, words)
    assert made["receipt"]["read"]
    if "out.csv" in words:
        os.remove("out.csv")
    assert call("verify r.json").stdout.startswith("the same figures: ")
    assert not os.path.exists("out.csv")
    (tmp_path / "letters").mkdir()
    monkeypatch.chdir(tmp_path / "letters")
    assert call("verify ../r.json").exit_code == 0


def test_what_differs_and_what_has_changed_is_named(call, tmp_path):
    receipt(call, 'tally calls.csv "sum of dues" --by zone --criteria wanted.csv')
    path = tmp_path / "calls.csv"
    path.write_text(path.read_text().replace(",359.70,", ",360.70,"))
    wanted = tmp_path / "wanted.csv"
    wanted.write_text("zone\nOuter\n")
    found = call("verify r.json")
    assert found.exit_code == 1
    assert "changed: calls.csv is another file" in found.stdout
    assert "changed: wanted.csv is another file" in found.stdout
    assert "changed: criteria: was " in found.stdout
    assert "differs: total, sum of dues: was 19,126.89, is 59,068.21\n" in found.stdout


def test_a_report_is_worked_out_again_with_its_parameters(call):
    assert call("run harbour.toml --set quarter=2031-Q2 --to out").exit_code == 0
    assert "the same figures" in call("verify out/harbour.json").stdout
    made = json.loads(Path("out/harbour.json").read_text())
    assert made["receipt"]["parameters"]["quarter"] == "2031-Q2"
    assert made["receipt"]["read"]["harbour.toml"]["bytes"]
    assert call("run harbour.toml --as-of 2031-01-31 --to later").exit_code == 0
    later = json.loads(Path("later/harbour.json").read_text())
    assert later["receipt"]["as of"] == "2031-01-31"


def test_a_report_finds_its_files_wherever_they_are(call, tmp_path):
    (tmp_path / "reports").mkdir()
    text = (tmp_path / "harbour.toml").read_text()
    text = text.replace('"harbour.ods"', '"../harbour.ods"').replace(
        '"tariff.csv"', '"../tariff.csv"'
    )
    (tmp_path / "reports" / "quarter.toml").write_text(text)
    assert call("run reports/quarter.toml --to reports/out").exit_code == 0
    assert "the same figures" in call("verify reports/out/harbour.json").stdout


@pytest.mark.parametrize(
    ("change", "said"),
    [
        (lambda made: made["measures"][0].update(value=1), "seal does not fit"),
        (lambda made: made["receipt"].update(words=["calls.csv"]), "seal does not fit"),
        (lambda made: made["receipt"].pop("seal"), "seal does not fit"),
        (lambda made: made["receipt"].update(form=9), "another form"),
        (lambda made: made.pop("receipt"), "no receipt"),
    ],
)
def test_a_receipt_that_was_changed_is_refused(call, change, said):
    made = receipt(call, "tally calls.csv rows")
    with open("r.json", "w", encoding="utf-8") as out:
        json.dump(made, out)  # laid out otherwise, which changes nothing
    assert call("verify r.json").exit_code == 0
    change(made)
    with open("r.json", "w", encoding="utf-8") as out:
        json.dump(made, out)
    found = call("verify r.json")
    assert (found.exit_code, said in found.stderr) == (1, True), found.output


def test_what_is_gone_is_named(call):
    receipt(call, "tally calls.csv rows")
    os.remove("calls.csv")
    assert "'calls.csv', which it was made from, is not there" in call("verify r.json").stderr
    assert call("verify nothing.json").exit_code == 2
    assert "no receipt" in call("verify tariff.csv").stderr
    piped = CliRunner().invoke(main, ["tally", "-", "rows", "--format", "json"], input="a,b\n1,2\n")
    with open("p.json", "w", encoding="utf-8") as out:
        out.write(piped.stdout)
    assert "standard input" in call("verify p.json").stderr


def test_a_run_says_what_moved_since_an_earlier_one(call):
    assert call("run harbour.toml --to first").exit_code == 0
    again = call("run harbour.toml --to again --against first/harbour.json")
    assert "nothing moved" in again.stdout
    later = call("run harbour.toml --set quarter=2031-Q2 --to later --against first/harbour.json")
    shown = " ".join(later.stdout.split())
    assert "The quarter at a glance, rows 96 105 +9" in shown
    assert "changed: criteria: was arrived in 2031-Q1, is arrived in 2031-Q2" in shown
    made = json.loads(Path("later/harbour.json").read_text())["since"]
    assert {"figure": "The quarter at a glance, rows", "was": 96, "is": 105, "by": 9} in made[
        "moved"
    ]
    assert "Since harbour.json" in Path("later/harbour.html").read_text()
    assert call("verify later/harbour.json").exit_code == 0
    assert call("run harbour.toml --against calls.csv").exit_code == 1


def test_a_file_that_changes_while_it_is_asked_gives_no_receipt(call, monkeypatch, tmp_path):
    whole = core.tally_or_break_down

    def changing(*given, **named):
        with (tmp_path / "calls.csv").open("a") as out:
            out.write("\n")
        return whole(*given, **named)

    monkeypatch.setattr(core, "tally_or_break_down", changing)
    found = call("tally calls.csv rows --format json")
    assert (found.exit_code, found.stdout) == (2, "")
    assert "changed meanwhile" in found.stderr


LEAVES = st.one_of(
    st.none(), st.booleans(), st.integers(), st.floats(allow_nan=False, allow_infinity=False),
    st.text(), st.sampled_from(["1e5", "x 3e-7 y"]), st.decimals(allow_nan=False, allow_infinity=False),
)  # fmt: skip
INNER = st.text(max_size=3)


@given(
    st.recursive(
        LEAVES, lambda one: st.one_of(st.lists(one, max_size=4), st.dictionaries(INNER, one))
    )
)
def test_what_is_read_back_has_the_same_seal(value):
    receipt = {"command": "tally"}
    whole = simplejson.loads(dump(with_receipt({"a": value}, receipt)), use_decimal=True)
    seal = whole.pop("receipt").pop("seal")
    assert seal == with_receipt(whole, receipt)["receipt"]["seal"]


def test_receipts_of_the_first_form_still_hold(call):
    made = receipt(call, "tally calls.csv rows 'average of dues'")
    del made["receipt"]["seal"]
    made["receipt"]["form"] = 1
    answer = {key: value for key, value in made.items() if key != "receipt"}
    text = json.dumps([answer, made["receipt"]], sort_keys=True)
    made["receipt"]["seal"] = hashlib.sha256(text.encode()).hexdigest()
    Path("r.json").write_text(json.dumps(made), encoding="utf-8")
    assert call("verify r.json").exit_code == 0
    Path("r.json").write_text(json.dumps(made).replace('form": 1', 'form": 2'), encoding="utf-8")
    assert "seal does not fit" in call("verify r.json").stderr
