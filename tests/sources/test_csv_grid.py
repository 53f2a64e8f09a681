"""A block of a long file is what it is of a short one, and rows side by side are few."""

import random

import pytest

from even_sieve import SieveError, read_table
from even_sieve.sources import csv_grid

FIELDS = ["12", "1.5", "Quay", "", "#N/A", " x ", '"a,b"', '"a\nb"', 'q"q', '"d""d"']


@pytest.mark.parametrize("turn", range(30))
def test_a_block_of_a_long_file_is_that_of_a_short_one(turn, tmp_path, monkeypatch):
    rng = random.Random(seed := random.randrange(10**9))
    width = rng.randrange(2, 6)
    some = rng.sample(FIELDS, rng.randrange(2, 8))
    rows = [rng.choices(some, k=width) for _ in range(rng.randrange(2, 60))]
    rows[0] = [f"c{at}" for at in range(width)]
    for odd in rng.choice([[], [], [[]], [["z"] * (width + 1)]]):
        rows[rng.randrange(len(rows))] = odd
    rows += rng.choice([[], [[], ["z"]], [["Total", "1"]]])
    text = rng.choice(["\n", "\r\n"]).join(map(",".join, rows)) + rng.choice(["", "\n"])
    (tmp_path / "calls.csv").write_bytes(text.encode())
    first, last = sorted(rng.sample(range(1, len(rows) + 4), 2))
    left, right = sorted(rng.choices("ABCDEFG", k=2))

    def read():
        try:
            table = read_table(tmp_path / "calls.csv", cells=f"{left}{first}:{right}{last}")
        except SieveError as error:
            return str(error)
        cells = {name: table.column(name) for name in table.core.names}
        last_row = table.tally("rows", f"last of {next(iter(cells))}")
        return cells, str(table.core.notices), last_row[1].found_at, last_row[0].value

    short = read()
    monkeypatch.setattr(csv_grid, "_LONG", 0)
    assert read() == short, seed


def test_a_block_of_plain_lines_is_not_gone_through_record_by_record(tmp_path, monkeypatch):
    def records(*given):
        raise AssertionError("record by record")

    lines = [f'{at},"Quay, {at}",{at}.50' for at in range(40)]
    (tmp_path / "calls.csv").write_text("\n".join(["call,berth,dues", *lines]) + "\n")
    monkeypatch.setattr(csv_grid, "_LONG", 0)
    monkeypatch.setattr(csv_grid, "records_of", records)
    table = read_table(tmp_path / "calls.csv", cells="B1:C11")
    assert table.tally("rows", "sum of dues")[1].value == sum(range(10)) + 5


def test_a_line_that_would_be_one_column_too_many_is_refused_at_once(tmp_path):
    (tmp_path / "calls.csv").write_text("call,1\n" + "dues,2\n" * 16_384)
    with pytest.raises(SieveError, match="each of more than 16,384 lines would be a column"):
        read_table(tmp_path / "calls.csv", sideways=True)


@pytest.mark.parametrize("block", ["D1:E3", "A9:B12", "D9"])
def test_a_block_beyond_the_fields_is_refused(block, tmp_path, monkeypatch):
    (tmp_path / "calls.csv").write_text("call,dues\n1,10\n2,20\n")
    for long in (1 << 20, 0):
        monkeypatch.setattr(csv_grid, "_LONG", long)
        with pytest.raises(
            SieveError, match=f"no field in the block {block}\nThere are 3 rows of 2"
        ):
            read_table(tmp_path / "calls.csv", cells=block)
