"""Databases: the figures of a table are those of the same records in a file."""

import os
import shutil
import socket
import sqlite3
import subprocess
import threading
import time
from contextlib import closing
from decimal import Decimal
from glob import glob
from pathlib import Path

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from even_sieve import read_table
from even_sieve.core.errors import CallError, NotInstalled, SourceError, UnsuitableColumn
from even_sieve.sources import databases, long_typed
from even_sieve.sources.ahead import Ahead

adbc = pytest.importorskip("adbc_driver_sqlite")
CELLS = st.one_of(
    st.none(),
    st.integers(-(2**63) + 1, 2**63 - 1) | st.integers(-9, 9),
    st.floats(allow_nan=False, allow_infinity=False, width=32)
    | st.sampled_from([0.1, 120.5, 1e300]),
    st.sampled_from(
        ["waived", "12", "2031-04-01", "2031-04-01 10:30", "#N/A", " ", "ÖSTER", "true"]
    ),
)
MEASURES = (
    "rows",
    "sum of dues",
    "max of dues",
    "blanks of dues",
    "distinct of dues",
    "errors of dues",
    "first of dues",
)


def database(path, cells, more="", kind=""):
    with closing(sqlite3.connect(path)) as base:
        base.execute(f'CREATE TABLE calls (dues {kind}, "the ""zone""" TEXT) {more}')
        base.executemany(
            "INSERT INTO calls VALUES (?, ?)", [(cell, f"z{i % 3}") for i, cell in enumerate(cells)]
        )
        base.commit()
    return path


def told(table):
    found = []
    for measure in MEASURES:
        try:
            answer = table.tally(measure)[0]
            figure = answer.value if answer.exact is None else answer.exact
            figure = float(figure) if isinstance(figure, int) else figure
            found.append((figure, answer.account, answer.found_at))
        except UnsuitableColumn as error:  # dates do not add up
            found.append(str(error))
    return found, table.profile().columns[0].kinds


@settings(
    max_examples=60, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture]
)
@given(
    st.lists(CELLS, max_size=30), st.sampled_from(["", "DECIMAL(10,2)", "REAL", "INTEGER", "TEXT"])
)
def test_a_table_gives_what_its_cells_give(tmp_path, cells, kind):
    path = tmp_path / "harbour.sqlite"
    path.unlink(missing_ok=True)
    database(path, cells, kind=kind)
    with closing(sqlite3.connect(path)) as base:  # as the database keeps them
        kept = [row for (row,) in base.execute("SELECT dues FROM calls ORDER BY rowid")]
    from even_sieve import table_from

    read = [databases_cell(cell) for cell in kept]
    expected = table_from({"dues": read, 'the "zone"': [f"z{i % 3}" for i in range(len(kept))]})
    assert told(read_table(path)) == told(expected)


def databases_cell(cell):
    from even_sieve.sources.sqlite_tables import _cell_of_text
    from even_sieve.sources.tokens import TokenReader

    return _cell_of_text(cell, TokenReader()) if isinstance(cell, str) else cell


def test_columns_come_later_in_the_same_order_from_the_same_moment(tmp_path, monkeypatch):
    monkeypatch.setattr(databases, "PIECE", 3)
    path = database(tmp_path / "harbour.db", range(20))
    with closing(sqlite3.connect(path)) as base:
        base.execute("PRAGMA journal_mode = WAL")
        base.execute("CREATE INDEX narrow ON calls (dues DESC)")
        base.commit()
        table = read_table(path, asks="dues")
        base.execute('UPDATE calls SET "the ""zone""" = \'changed\'')
        base.commit()
        assert len(table.profile().columns) == 2  # it asks for all columns
        found = table.tally("first of dues", "last of dues", where='"the ""zone""" = z1')
        assert [each.value for each in found] == [1, 19]
        assert read_table(path).tally("rows", where='"the ""zone""" = changed')[0].value == 20
    del table


@pytest.mark.parametrize(
    "columns",
    [
        "x, y",
        "_rowid_ TEXT, x, y",
        "k PRIMARY KEY /* without rowid */, x, y",
        '"_rowid_", "rowid", "oid", x, y',
    ],
)
def test_columns_that_come_one_by_one_stand_beside_each_other(tmp_path, columns):
    with closing(sqlite3.connect(tmp_path / "harbour.db")) as base:
        base.execute(f"CREATE TABLE calls ({columns})")
        base.execute("CREATE INDEX narrow ON calls (x DESC)")
        base.executemany(
            "INSERT INTO calls (x, y) VALUES (?, ?)", [(i * 7 % 50, i * 7 % 50) for i in range(50)]
        )
        base.execute("CREATE TRIGGER calls_2 AFTER INSERT ON calls BEGIN SELECT 1; END")
        base.commit()
    table = read_table(tmp_path / "harbour.db", asks="x")
    assert table.column("x") == table.column("y") == [i * 7 % 50 for i in range(50)]


def test_tables_are_named_chosen_by_pattern_and_asked_for_by_a_query(tmp_path):
    path = database(tmp_path / "harbour.sqlite", [120, 80.5])
    with closing(sqlite3.connect(path)) as base:
        base.execute('CREATE TABLE calls_2 (dues, "the ""zone""") ')
        base.execute("INSERT INTO calls_2 VALUES ('waived', x'00ff')")
        base.execute("CREATE TABLE keyed (berth TEXT PRIMARY KEY, dues) WITHOUT ROWID")
        base.executemany("INSERT INTO keyed VALUES (?, ?)", [("b", 2), ("a", 1)])
        base.execute("CREATE VIEW dear AS SELECT * FROM calls WHERE dues > 100")
        base.commit()
    both = read_table(f"{path}!CALLS*", origin="table")
    assert [
        (line.key, line.tallies[0].value) for line in both.tally("sum of dues", by="table")
    ] == [
        (("calls",), 200.5),
        (("calls_2",), 0),
    ]
    assert str(both.tally("last of dues")[0].found_at[0]) == "1 of calls_2"
    assert read_table(f"{path}!dear").tally("sum of dues")[0].value == 120
    assert read_table(f"{path}!keyed").tally("first of berth")[0].value == "a"
    assert (
        read_table(path, sql="select sum(dues) as all_dues from calls;")
        .tally("sum of all_dues")[0]
        .value
        == 200.5
    )
    for wrong, how, fact in (
        (path, {}, "there are 4 tables, and none is named"),
        (f"{path}!call", {}, "no table 'call'\nDid you mean 'calls'"),
        (path, {"sql": "delete from calls"}, "syntax error"),
        (path, {"sql": "select nix from calls"}, "no such column: nix"),
    ):
        with pytest.raises(SourceError, match=fact):
            read_table(wrong, **how)
    for wrong, how in (
        (path, {"sql": " ;"}),
        (f"{path}!calls", {"sql": "select 1"}),
        (path, {"decimal": ","}),
        ("mysql://quay/calls", {}),
    ):
        with pytest.raises(CallError):
            read_table(wrong, **how)


def test_what_is_no_database_says_so(tmp_path, monkeypatch):
    (tmp_path / "calls.sqlite").write_text("berth,dues\n1,2\n")
    with pytest.raises(SourceError, match="this is no SQLite database"):
        read_table(tmp_path / "calls.sqlite")
    (tmp_path / "cut.sqlite").write_bytes(b"SQLite format 3\0" + b"junk" * 40)
    with pytest.raises(SourceError, match="not a database"):
        read_table(tmp_path / "cut.sqlite")
    monkeypatch.setattr(databases.Sqlite, "driver", "no_such_driver")
    with pytest.raises(NotInstalled, match=r"even-sieve\[sql\]"):
        read_table(database(tmp_path / "harbour.sqlite", [1]))


@pytest.mark.parametrize(
    "address", ["postgresql://quay:tide@h/calls", "postgres://h/calls?password=tide"]
)
def test_a_password_is_not_taken_from_an_address_nor_shown(address):
    with pytest.raises(CallError, match="PGPASSWORD") as caught:
        read_table(address)
    assert "tide" not in str(caught.value)


@pytest.fixture(scope="module")
def server(tmp_path_factory):
    """A server on the loopback address alone, with the harbour's calls in it."""
    found = [*glob("/usr/lib/postgresql/*/bin/pg_ctl"), *filter(None, [shutil.which("pg_ctl")])]
    if not found:
        pytest.skip("no PostgreSQL server is installed")
    programs, folder = Path(found[-1]).parent, Path("/tmp") / f"harbour-{os.getpid()}"
    folder.mkdir(mode=0o777)
    folder.chmod(0o777)
    (folder / "pw").write_text("tide\n")
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    own = {"user": "postgres"} if os.getuid() == 0 else {}  # it refuses to run as root

    def run(program, *words):
        subprocess.run(
            [programs / program, *words], check=True, capture_output=True, cwd=folder, **own
        )

    run(
        "initdb",
        "-D",
        folder / "data",
        "-U",
        "quay",
        f"--pwfile={folder / 'pw'}",
        "-A",
        "scram-sha-256",
    )
    serving = f"-p {port} -k {folder} -c listen_addresses=127.0.0.1 -c fsync=off"
    run("pg_ctl", "-D", folder / "data", "-w", "-l", folder / "log", "-o", serving, "start")
    yield f"postgresql://quay@127.0.0.1:{port}/postgres"
    run("pg_ctl", "-D", folder / "data", "-m", "immediate", "stop")
    shutil.rmtree(folder, ignore_errors=True)


def test_a_server_gives_each_type_as_what_it_is(server, monkeypatch):
    monkeypatch.setenv("PGPASSWORD", "tide")
    monkeypatch.setattr(long_typed, "PIECE", 2)
    import adbc_driver_postgresql.dbapi as driver

    with driver.connect(server) as base, base.cursor() as cursor:
        cursor.execute(
            "CREATE TABLE calls (id int PRIMARY KEY, dues numeric, paid money, hours float4, arrived date, "
            "berthed timestamptz, done bool, code uuid, open date)"
        )
        cursor.execute(
            "INSERT INTO calls SELECT 9 - i, 12345678901.25 + i, 12.5, 0.1, date '2031-04-01' + i, "
            "timestamptz '2031-04-01 10:00+02', i > 3, '38c111c7-154a-48b2-965b-3572711d2403', 'infinity' "
            "FROM generate_series(0, 5) AS i"
        )
        cursor.execute("INSERT INTO calls (id, dues) VALUES (100, 'NaN')")
        cursor.execute("CREATE TABLE former () INHERITS (calls)")  # its keys come twice
        cursor.execute("INSERT INTO former (id, dues) SELECT id, -1 FROM calls")
        cursor.execute("CREATE SCHEMA old")
        cursor.execute('CREATE TABLE old."Odd Name" AS SELECT 7 AS tons')
        base.commit()
    both = read_table(f"{server}!calls", asks="id").tally("sum of dues", where="code is blank")[0]
    assert (both.value, both.account.used, both.account.blank) == (-7, 7, 1)
    table = read_table(server, sql="SELECT * FROM ONLY calls ORDER BY id")
    found = table.tally(
        "sum of dues", "sum of paid", "sum of hours", "min of arrived", "max of berthed", "first of id",
        "errors of open", "blanks of dues", "filled of code",
    )  # fmt: skip
    assert [str(each.value) for each in found] == [
        "74074073422.5", "75.0", "0.6", "2031-04-01", "2031-04-01 08:00:00", "4", "6", "1", "6"
    ]  # fmt: skip
    assert found[0].exact == Decimal("74074073422.5")
    assert read_table(f"{server}!old.odd*").tally("sum of tons")[0].value == 7
    assert (
        read_table(server, sql="select dues from only calls where id < 6 -- those").core.length == 2
    )
    for sql, fact in (("delete from calls returning *", "syntax error"), ("select id/0 from calls", "division by zero"),
                      ("select 1 as a, 2 as a", "two columns are called 'a'")):  # fmt: skip
        with pytest.raises(SourceError, match=fact):
            read_table(server, sql=sql)
    with pytest.raises(SourceError, match="there are 3 tables"):
        read_table(server)
    monkeypatch.setenv("PGPASSWORD", "ebb-and-flow")
    with pytest.raises(SourceError, match="password authentication failed") as caught:
        read_table(server)
    assert "ebb-and-flow" not in str(caught.value)


def test_who_waits_for_a_database_can_be_interrupted():
    go_on, cancelled = threading.Event(), []

    def slow():
        yield "first"
        go_on.wait(30)
        yield "second"

    begun = time.monotonic()

    def interrupted():
        with Ahead(slow, lambda: cancelled.append(go_on.set())) as answer:
            assert next(answer) == "first"
            raise KeyboardInterrupt

    with pytest.raises(KeyboardInterrupt):
        interrupted()
    assert cancelled == [None]
    assert time.monotonic() - begun < 20
    with pytest.raises(ZeroDivisionError), Ahead(lambda: (1 / each for each in (1, 0))) as answer:
        assert [next(answer), next(answer)]


def test_an_infinite_number_is_an_error_whatever_stands_beside_it(tmp_path):
    for number, cells in enumerate(([1.5, float("inf")], [1.5, float("-inf"), "waived"])):
        table = read_table(database(tmp_path / f"{number}.sqlite", cells))
        found = table.tally("sum of dues", "errors of dues")
        assert [each.value for each in found] == [1.5, 1]
