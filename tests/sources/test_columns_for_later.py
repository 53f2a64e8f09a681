"""Columns that a question does not name are read when they are asked for, and are then the same."""

import pickle
import random

import pytest

from even_sieve import read_table
from even_sieve.core.errors import SourceError
from even_sieve.core.notices import Code
from even_sieve.core.query import Query
from even_sieve.core.table import Column, column_from_cells
from even_sieve.core.tally import tally
from even_sieve.sinks.files import write_file
from even_sieve.sources import files, shelf, text_table
from even_sieve.sources.files import read_file
from even_sieve.sources.several import read_named
from even_sieve.sources.source_options import SourceOptions

ROWS = 200_000


@pytest.fixture
def path(tmp_path):
    file = tmp_path / "calls.csv"
    with file.open("w") as out:
        out.write('call;zone;dues;"say ""hi""";remark\n')
        out.writelines(
            f"{n};z{n % 7};1.{n % 900 + 100};{n % 5};'=x {n % 9000}\n" for n in range(ROWS)
        )
    return file


@pytest.mark.parametrize("ending", ["csv", "parquet"])
def test_they_are_the_same_as_if_all_were_read(path, ending):
    whole = read_file(path, SourceOptions())
    if ending == "parquet":
        path = path.with_suffix(".parquet")
        write_file(whole, path)
        whole = read_file(path, SourceOptions())
    some = read_file(path, SourceOptions.of(asks="sum of call where zone = z1"))
    assert [column.is_made for column in some.columns] == [True, True, False, True, False]
    assert some.names == whole.names
    query = Query.of(where="remark = \\=x*")  # not named before: made now
    (found,) = tally(query, some, ["sum of dues"])
    (again,) = tally(query, whole, ["sum of dues"])
    assert (found.value, found.account) == (again.value, again.account)
    assert all(column.is_made for column in some.columns)
    for one, other in zip(some.columns, whole.columns, strict=True):
        assert list(one.cells(range(0, ROWS, 997))) == list(other.cells(range(0, ROWS, 997)))
        assert (one.notices, one.conventions, one.trimmed) == (
            other.notices, other.conventions, other.trimmed,
        )  # fmt: skip


@pytest.mark.parametrize("ending", ["csv", "parquet"])
def test_a_file_that_is_gone_meanwhile_is_told(path, ending, monkeypatch):
    monkeypatch.setattr(files, "_LONG", 1)
    if ending == "parquet":
        write_file(read_file(path, SourceOptions()), path.with_suffix(".parquet"))
        path = path.with_suffix(".parquet")
    table = read_file(path, SourceOptions.of(asks="zone"))
    path.unlink()
    assert tally(Query(), table, ["filled of zone"])[0].value == ROWS
    with pytest.raises(SourceError, match=rf"calls\.{ending}: the file is gone"):
        tally(Query(), table, ["sum of dues"])


def test_a_file_that_changed_meanwhile_is_told(path):
    table = read_file(path, SourceOptions.of(asks="zone"))
    path.write_text(path.read_text() + "5;z1;1;2;x\n")
    assert tally(Query(), table, ["filled of zone"])[0].value == ROWS
    with pytest.raises(SourceError, match="the file changed while it was read"):
        tally(Query(), table, ["sum of dues"])


def test_one_for_later_travels_with_its_cells_and_names_what_it_lacks():
    made = column_from_cells("dues", [1, None, 2])
    column = Column.later("dues", 3, lambda: made)
    assert (column.name, column.length, column.is_made) == ("dues", 3, False)
    with pytest.raises(AttributeError):
        column.__missing__  # noqa: B018
    copy = pickle.loads(pickle.dumps(column))
    assert list(copy.cells()) == [1, None, 2]
    with pytest.raises(AttributeError, match="a column has no 'lane'"):
        column.lane  # noqa: B018


CELLS = {
    "call": lambda n, _: f"{n:06}",
    "zone": lambda _, chance: chance.choice(["Outer", " Inner", "", "#N/A", "ne\u0301e"]),
    "dues": lambda _, chance: f"{chance.randrange(10**6) / 100}",
    "left": lambda _, chance: chance.choice(["2031-01-05", "2031-02-30", "5.1.2031", "open"]),
    "tons": lambda _, chance: chance.choice(["1,200", "$5", "12", "'=1"]),
    "note": lambda n, chance: f"note {n} {chance.randrange(10**6)}",
}


@pytest.fixture(params=range(3))
def folder(request, tmp_path):
    """A folder with two text files of random cells, and with the same table in typed files."""
    chance = random.Random(request.param or None)
    for name in ("1", "2"):
        rows = [[make(n, chance) for make in CELLS.values()] for n in range(9000)]
        lines = [",".join(CELLS), *(",".join(f'"{cell}"' for cell in row) for row in rows)]
        (tmp_path / f"{name}.csv").write_text("\n".join(lines) + "\n")
        table = read_file(tmp_path / f"{name}.csv", SourceOptions())
        for ending in ("parquet", "arrow"):
            write_file(table, tmp_path / f"{name}.{ending}")
    return tmp_path


@pytest.mark.parametrize("ending", ["csv", "parquet", "arrow"])
def test_what_waits_is_what_was_there_when_the_table_was_read(folder, ending, monkeypatch):
    monkeypatch.setattr(files, "_LONG", 1)
    monkeypatch.setattr(text_table, "_FEW_CELLS", 0)
    paths = [folder / f"{name}.{ending}" for name in "12"]
    for some in (paths[:1], paths):
        now = read_named(some, SourceOptions())
        later = read_table(some).core
        assert all(column.is_made for column in now.columns)
        # Of an Arrow file whose cells are spelt out all are made.
        made = sum(column.is_made for column in later.columns)
        assert ending == "arrow" or made == 0 or (some == paths and made < len(CELLS))
        assert (later.names, len(later), later.number(70)) == (now.names, len(now), now.number(70))
        if some == paths:
            for each in paths:
                each.unlink()
        names = list(now.names)
        random.shuffle(names)
        for name in names:
            one, other = later.column(name), now.column(name)
            assert list(one.cells()) == list(other.cells())
            assert (one.counts, one.notices, one.conventions, one.trimmed) == (
                other.counts, other.notices, other.conventions, other.trimmed,
            )  # fmt: skip
        assert later.notices == now.notices


def test_one_of_little_memory_and_one_that_says_what_is_asked_do_not_wait(path, monkeypatch):
    monkeypatch.setattr(shelf, "_TIMES_KEPT", 16)
    query = Query.of(where="zone = z1")
    for how in ({"memory": "64MiB"}, {"asks": "zone dues"}):
        table = read_table(path, **how).core
        assert table.column("zone").is_made
        assert table.column("dues").is_made
        assert tally(query, table, ["rows"])[0].value == len(range(1, ROWS, 7))
    told: list[float] = []
    assert not read_table(path, memory="1GiB", progress=told.append).core.column("zone").is_made
    assert told == sorted(told)
    assert told[-1] == 1


@pytest.mark.parametrize("how", [{}, {"asks": "sum of dues"}, {"memory": "64MiB"}])
def test_files_of_the_same_rows_are_told_whatever_waits(folder, how, monkeypatch):
    monkeypatch.setattr(files, "_LONG", 1)
    monkeypatch.setattr(text_table, "_FEW_CELLS", 1)
    text = (folder / "1.csv").read_text()
    (folder / "again.csv").write_text(text.replace('"000007"', "000007"))
    (folder / "other.csv").write_text(text.replace('"000007"', '"000008"'))
    twins = read_table([folder / "1.csv", folder / "again.csv"], **how)
    told = [each.text for each in twins.tally("sum of dues").notices]
    assert "again.csv holds the same as 1.csv: its rows may count twice" in told
    for other in ("2.csv", "other.csv"):
        table = read_table([folder / "1.csv", folder / other], **how)
        assert not any(each.code is Code.TWIN_FILES for each in table.core.own_notices)
