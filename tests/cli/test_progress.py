"""What is told of long work: shares that only grow up to the end, whatever is asked."""

import pytest

from even_sieve import read_table
from even_sieve.core.progress import Steps, heard_by, steps, tell

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
