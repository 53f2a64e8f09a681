"""Columns that a question does not name are read when they are asked for, and are then the same."""

import pickle

import pytest

from even_sieve.core.errors import SourceError
from even_sieve.core.query import Query
from even_sieve.core.table import Column, column_from_cells
from even_sieve.core.tally import tally
from even_sieve.sinks.files import write_file
from even_sieve.sources import files
from even_sieve.sources.files import read_file
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
