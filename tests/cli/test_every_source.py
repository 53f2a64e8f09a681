"""The command line asks every kind of source alike, alone and beside another, short and long."""

import gzip
import json
import sqlite3
from contextlib import closing

import pytest
from click.testing import CliRunner

from even_sieve import table_from
from even_sieve.cli.main import main
from even_sieve.sources import files

KINDS = ["csv", "csv.gz", "jsonl", "parquet", "arrow", "xlsx", "ods", "db"]
CALLS = {
    "vessel": ["Heron", "Eider", "Skua"],
    "dues": [5.5, 7, 9],
    "zone": ["Outer", "Inner", "Outer"],
}
LATER = {"vessel": ["Tern"], "tons": [40]}


def write(kind, cells, path):
    if kind == "csv.gz":
        write("csv", cells, path.with_suffix(""))
        path.write_bytes(gzip.compress(path.with_suffix("").read_bytes()))
        return
    if kind != "db":
        table_from(cells).write(path)
        return
    pytest.importorskip("adbc_driver_sqlite")
    with closing(sqlite3.connect(path)) as base:
        base.execute(f"CREATE TABLE calls ({', '.join(cells)})")
        marks = ", ".join("?" for _ in cells)
        base.executemany(f"INSERT INTO calls VALUES ({marks})", zip(*cells.values(), strict=True))
        base.commit()


def asked(*words):
    run = CliRunner().invoke(main, [*map(str, words), "--format", "json"])
    assert run.exit_code == 0, run.stderr
    return [each["value"] for each in json.loads(run.stdout)["measures"]]


@pytest.mark.parametrize("long", [False, True])
@pytest.mark.parametrize("kind", KINDS)
def test_a_figure_of_any_source_by_columns_that_come_one_after_the_other(
    kind, long, tmp_path, monkeypatch
):
    if long:
        monkeypatch.setattr(files, "_LONG", 1)
    path, other = tmp_path / f"calls.{kind}", tmp_path / "later.parquet"
    write(kind, CALLS, path)
    write("parquet", LATER, other)
    assert asked("tally", path, "sum of dues") == [21.5]
    assert asked("tally", path, "rows", "max of dues", "--where", "zone = outer") == [2, 9]
    assert asked("tally", path, "sum of twice", "--derive", "twice = dues * 2") == [43]
    both = ("--and", other, "--lacking", "blank")
    assert asked("tally", path, "sum of tons", "sum of dues", *both) == [40, 21.5]
    assert asked("tally", path, "rows", "--where", "tons is blank", *both) == [3]
    assert asked("tally", path, "rows", "--where", "from = later*", "--origin", "from", *both) == [
        1
    ]
    for words in (["sum of duse"], ["rows", "--where", "duse > 5"], ["sum of duse", *both]):
        run = CliRunner().invoke(main, ["tally", str(path), *map(str, words)])
        assert run.exit_code == 1
        assert "no column 'duse'\nDid you mean 'dues'?" in run.stderr
