"""`even-sieve try` in a real terminal, and in none; the panel in a notebook that is run."""

import os
import pty
import re
import select
import shlex
import subprocess
import sys
import time
from pathlib import Path

import nbformat
import pytest
from nbclient import NotebookClient

import even_sieve
from even_sieve import read_table
from even_sieve.notebook import panel

DATA = Path(even_sieve.__file__).parent / "demo" / "data"
TRY = [sys.executable, "-m", "even_sieve", "try"]
_PATIENCE = 60


def in_terminal(words, typed, folder):
    """Type into a command that runs in a terminal, each once the one before is shown.

    `typed` are pairs of a pattern that is waited for and what is typed then. Returns what was
    printed, without what a terminal obeys, and the exit status.
    """
    process, terminal = pty.fork()
    if process == 0:
        os.chdir(folder)
        os.environ |= {"TERM": "xterm-256color", "COLUMNS": "120", "LINES": "40"}
        os.execv(words[0], words)
    shown, until = "", time.monotonic() + _PATIENCE
    waiting = list(typed)
    while time.monotonic() < until:
        if not select.select([terminal], [], [], 0.1)[0]:
            continue
        try:
            read = os.read(terminal, 1 << 16)
        except OSError:
            break
        if not read:
            break
        shown += re.sub(
            r"\x1b\[[0-9;?<>=]*[A-Za-z]|\x1b[\]P][^\x07\x1b]*(\x07|\x1b\\)",
            "",
            read.decode("utf-8", "replace"),
        )
        if waiting and re.search(waiting[0][0], shown, re.DOTALL):
            os.write(terminal, waiting.pop(0)[1].encode())
            shown = ""
    _, status = os.waitpid(process, 0)
    assert not waiting, shown[-2000:]
    return shown.replace("\r", ""), os.waitstatus_to_exitcode(status)


def test_what_is_left_behind_is_run_and_gives_the_same_figures(tmp_path):
    (tmp_path / "calls.csv").write_bytes((DATA / "calls.csv").read_bytes())
    words = [*TRY, "calls.csv", "rows", "sum of dues", "--hidden", "status = withdrawn"]
    typed = [("438 rows = .*Leave", "\tOuter"), ("unmatched", "\x1b"), ("", "\x11")]
    shown, status = in_terminal(words, typed, tmp_path)
    assert status == 0
    again = re.sub(r"\n\s*", " ", shown[shown.index("Again: ") + 7 :].strip())
    assert shlex.split(again)[:2] == ["even-sieve", "tally"]
    command = [sys.executable, "-m", *shlex.split(again.replace("even-sieve", "even_sieve", 1))]
    found = subprocess.run(command, cwd=tmp_path, capture_output=True, text=True, check=True).stdout
    figures = re.findall(r"(rows|sum of dues) +([\d,.]+)\n", found)
    assert figures == re.findall(r"(rows|sum of dues) +([\d,.]+) *\n", shown)
    assert figures[0][1] == "134", again


def test_what_is_typed_just_before_leaving_is_not_lost(tmp_path):
    (tmp_path / "calls.csv").write_bytes((DATA / "calls.csv").read_bytes())
    shown, _ = in_terminal(
        [*TRY, "calls.csv", "rows"], [("438 rows = .*Leave", "\tOuter\x11")], tmp_path
    )
    assert "--where 'zone = Outer'" in shown


@pytest.mark.parametrize("term", ["xterm", "dumb"])
def test_without_a_terminal_it_names_what_needs_none(term):
    found = subprocess.run(
        [*TRY, str(DATA / "calls.csv")],
        capture_output=True,
        text=True,
        env=os.environ | {"TERM": term},
    )
    assert found.returncode == 2
    assert "even-sieve tally" in found.stderr


@pytest.mark.parametrize("words", [["nowhere.csv"], [str(DATA / "calls.csv"), "summ of dues"]])
def test_what_cannot_be_begun_is_told_before_the_screen(words, tmp_path):
    shown, status = in_terminal([*TRY, *words], [], tmp_path)
    assert status == 2
    assert shown.startswith("even-sieve: ")


def test_the_panel_is_a_trial_as_the_screen_is():
    table = read_table(DATA / "calls.csv")
    trial = panel(table, "rows", "sum of dues", where="zone = Outer", keep="hidden")
    assert trial.cells[0][0].value == "Outer"
    assert "138" in trial.widget.children[2].value
    trial.cells[0][0].value = "Ou"
    assert "Half typed" in trial.widget.children[2].value
    trial.cells[0][0].value = "> "
    assert "missing" in trial.widget.children[1].children[2].children[0].value
    trial.cells[0][0].value = '<script>"'
    assert "<script" not in str([each.value for each in trial.widget.children[2:]])
    trial.cells[0][0].value = "Inner"
    assert "145" in trial.widget.children[2].value
    assert eval(trial.call, {"table": table})[0].value == 145


def test_the_panel_is_shown_in_a_notebook(tmp_path):
    cells = [
        "from even_sieve import table_from\nfrom even_sieve.notebook import panel",
        'trial = panel(table_from({"zone": ["Outer", "Inner"], "dues": [5, 7]}), "sum of dues")\ntrial',
        'trial.cells[0][0].value = "Outer"\ntrial.session.figures[0].value',
    ]
    book = nbformat.v4.new_notebook(cells=[nbformat.v4.new_code_cell(each) for each in cells])
    NotebookClient(book, timeout=120, kernel_name="python3").execute()
    (shown,) = book.cells[1].outputs
    assert "application/vnd.jupyter.widget-view+json" in shown["data"]
    assert book.cells[2].outputs[0]["data"]["text/plain"] == "5"
