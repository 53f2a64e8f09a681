"""Every example runs, and prints what it is there to show."""

import re
import subprocess
import sys
from pathlib import Path

import nbformat
import pytest
from nbclient import NotebookClient

import even_sieve
from even_sieve import Report

EXAMPLES = Path(__file__).parent.parent / "examples"
PRINTED = {
    "every_name.py": "sum of dues = 200.5 [3 rows = 1 error + 2 used]\n",
    "first_figures.py": "sum of dues: 14703.15, from 39 of 438 rows\nexactly: 294063/20\n",
    "criteria_in_python.py": "the same: True\n"
    "as text:  zone = Outer and dues > 500 or vessel = D*\n",
    "criteria_laid_out.py": " note: criteria range, row 3: the row is blank and was passed over\n",
    "why_nothing.py": " nothing is left after 'tonnage < 1000'\n",
    "certified_digits.py": "NumAcc4: average 10000000.2, deviation 0.1; certified 0.1\n",
    "defended_figure.py": "from 351,352.70 to 14,703.15, exactly 6732991/20 apart\n",
    "from_a_data_frame.py": " sum of dues     0.3\n",
}


def test_every_example_is_run():
    assert {file.name for file in EXAMPLES.glob("*.py")} == set(PRINTED)


@pytest.mark.parametrize("name", PRINTED)
def test_an_example_prints_what_it_shows(name):
    run = subprocess.run(
        [sys.executable, EXAMPLES / name], capture_output=True, text=True, check=True
    )
    assert PRINTED[name] in run.stdout
    assert run.stderr == ""


# A figure of each report, and how many files it writes.
REPORTS = {
    "berth-use.toml": ("share of long stays", 30 / 134, 4),
    "dues-forgone.toml": (None, None, 8),
}


def test_every_report_is_run():
    assert {file.name for file in EXAMPLES.glob("reports/*.toml")} == set(REPORTS)


@pytest.mark.parametrize("name", REPORTS)
def test_an_example_of_a_report_writes_what_it_says(tmp_path, name):
    figure, value, files = REPORTS[name]
    report = Report.from_file(EXAMPLES / "reports" / name)
    results = report.run()
    assert len(report.write(results, tmp_path)) == files == len(list(tmp_path.iterdir()))
    if figure is None:
        lines = results.blocks[0].result
        asked, charged = lines["all calls"].amounts[1:]
        assert (asked - charged, lines["as the tariff asks"].tallies[0].value) == (
            lines["not charged in all"].amounts[1], 385
        )  # fmt: skip
    else:
        assert results.figures()[figure] == value


def test_a_checked_program_uses_every_public_name():
    text = (EXAMPLES / "every_name.py").read_text()
    assert [name for name in even_sieve.__all__ if not re.search(rf"\bes\.{name}\b", text)] == []


def test_the_notebook_runs_and_shows_what_it_keeps():
    kept = nbformat.read(EXAMPLES / "five-jobs.ipynb", as_version=4)
    shown = [cell.outputs for cell in kept.cells if cell.cell_type == "code"]
    NotebookClient(kept, timeout=120, record_timing=False).execute()
    again = [cell.outputs for cell in kept.cells if cell.cell_type == "code"]
    for before, after in zip(shown, again, strict=True):
        told = [
            [each["data"].get("text/html", each["data"]["text/plain"]) for each in outputs]
            for outputs in (before, after)
        ]
        assert told[0] == told[1]
        assert [sorted(each["data"]) for each in before] == [sorted(each["data"]) for each in after]
    assert sum("image/png" in each["data"] for outputs in shown for each in outputs) == 2


def test_what_holds_each_promise_is_there():
    root = EXAMPLES.parent
    table = (root / "docs" / "reliability.md").read_text().partition("## ")[0]
    for promise, holders in re.findall(r"^\| ([^|]+) \| ([^|]+) \|$", table, re.M)[1:]:
        named = re.findall(r"`((?:tests|fuzz)/[\w/.]+)`", holders)
        assert named or "every fenced" in holders or "recheck" in holders, promise
        assert all((root / each).exists() for each in named), promise
