"""What is told of long work: shares that only grow up to the end, whatever is asked."""

import os
import pty
import subprocess
import sys

import pytest

from even_sieve import read_table
from even_sieve.core.progress import Steps, heard_by, steps, tell
from even_sieve.demo.make import write_files

ROWS = 3_000


def heard(work):
    """Return what was told of the work: the shares, by what was being done."""
    told = {}
    with heard_by(lambda what, share: told.setdefault(what, []).append(share)):
        work()
    return told


@pytest.mark.parametrize(
    ("what", "work"),
    [
        ("checking", lambda table, _: table.profile()),
        ("going through the rows", lambda table, _: table.tally("average of dues")),
        ("rechecking", lambda table, _: table.recheck(table.tally("sum of dues"))),
        ("rechecking: reading dues", lambda table, _: table.recheck(table.tally("sum of dues"))),
        ("working out the lines", lambda table, _: table.tally("rows", by=["vessel"]).to_json()),
        ("writing", lambda table, to: table.write(to / "calls.csv")),
        ("writing", lambda table, to: table.write(to / "calls.jsonl")),
        ("writing", lambda table, to: table.write(to / "calls.ods")),
        ("writing", lambda table, to: table.write(to / "calls.xlsx")),
    ],
)
def test_the_share_done_grows_to_the_end(what, work, tmp_path):
    lines = "".join(f"ship {i},{i}\n" for i in range(ROWS))
    (tmp_path / "in.csv").write_text(f"vessel,dues\n{lines}")
    table = read_table(tmp_path / "in.csv")
    shares = heard(lambda: work(table, tmp_path))[what]
    assert shares == sorted(shares)
    assert shares[-1] == 1
    assert len(shares) <= 210


def test_steps_are_the_items_whoever_listens():
    assert list(steps("abc", "spelling")) == ["a", "b", "c"]
    told = heard(lambda: list(steps(iter("abcd"), "spelling", 4)))
    assert told == {"spelling": [0.0, 0.25, 0.5, 0.75, 1.0]}


def test_threads_tell_the_same_work():
    def work():
        told = Steps("sounding", 3)
        told.took(2)
        told.took()

    assert heard(work) == {"sounding": [2 / 3, 1.0]}
    assert heard(lambda: tell("waiting")) == {"waiting": [None]}


def test_steps_that_there_are_none_of_tell_nothing():
    assert heard(lambda: list(steps([], "looking"))) == {}


PROGRAM = """
import sys
from even_sieve.cli import progress
progress._PATIENCE = -1
from even_sieve.cli.entry import run
run(sys.argv[1:])
"""


@pytest.mark.parametrize("words", [
    ["run", "harbour.toml"], ["check", "calls.csv"],
    ["tally", "calls.csv", "rows", "--by", "vessel", "--format", "csv"],
    ["tally", "calls.csv", "rows", "--by", "vessel", "--format", "json", "--recheck"],
])  # fmt: skip
def test_an_answer_goes_where_it_is_sent_while_a_bar_is_shown(words, tmp_path):
    write_files(tmp_path)
    plain = subprocess.run(
        [sys.executable, "-m", "even_sieve", *words], cwd=tmp_path, capture_output=True, check=True
    )
    screen, end = pty.openpty()
    shown = subprocess.run(
        [sys.executable, "-c", PROGRAM, *words],
        cwd=tmp_path,
        stdout=subprocess.PIPE,
        stderr=end,
        check=True,
    )
    os.close(end)
    assert shown.stdout == plain.stdout
    if words[-1] != "csv":  # which has no piece of work that is told
        assert b"left" in os.read(screen, 1 << 16)


def test_what_is_printed_beside_a_bar_stays_off_the_screen():
    screen, end = pty.openpty()
    text = "from even_sieve.cli import progress; progress._BAR.told('working', None); print('the answer')"
    done = subprocess.run(
        [sys.executable, "-c", text], stdout=subprocess.PIPE, stderr=end, check=True
    )
    os.close(end)
    assert done.stdout == b"the answer\n"
    assert b"the answer" not in os.read(screen, 1 << 16)
