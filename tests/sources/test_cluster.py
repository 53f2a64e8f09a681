"""Files read on a cluster: the same figures as here, whatever happens to its workers."""

import itertools
import os
import shutil
import signal
import subprocess
import sys
import time

import pyarrow as pa
import pyarrow.parquet as parquet
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from even_sieve import Report, Table, read_table
from even_sieve.core.errors import CallError, NoRows, NotInstalled, SourceError
from even_sieve.demo.make import demo_path, write_files
from even_sieve.sources import cluster, files, schedulers
from killing import kill_workers, settle, two_workers
from strategies import rows, table_of

distributed = pytest.importorskip("distributed")
MEASURES = (
    "rows",
    "sum of dues",
    "median of tons",
    "max of dues",
    "distinct of remarks",
    "mode of zone",
    "first of dues",
)
ENDINGS = ("csv", "parquet", "jsonl", "xlsx")


@pytest.fixture(scope="module")
def client():
    """A scheduler and two workers, processes of their own, on the loopback address alone."""
    with two_workers(distributed) as found:
        yield found


def told(table):
    found = table.tally(*MEASURES, where="tons > 2 or zone = Outer")
    lines = table.tally("sum of dues", by="zone")
    return (
        [(t.value, t.exact, t.account, [(n.__class__, str(n)) for n in t.found_at]) for t in found],
        found.notices,
        [(line.key, line.tallies[0].value, line.tallies[0].account) for line in lines.with_rest],
        table.core.own_notices,
        table.profile(),
        list(map(str, table.row_numbers)),
    )


@settings(
    max_examples=20, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture]
)
@given(
    rows(least=2, most=12),
    st.integers(1, 11),
    st.sampled_from([*itertools.product(ENDINGS, ENDINGS), *[("csv", "csv")] * 9]),
)
def test_files_give_the_same_read_on_a_cluster(client, tmp_path, monkeypatch, plain, at, endings):
    one, two = endings
    monkeypatch.setattr(files, "_LONG", 1)  # as long ones
    shutil.rmtree(tmp_path, ignore_errors=True)
    tmp_path.mkdir()
    for name, part in ((f"calls-1.{one}", plain[:at]), (f"calls-2.{two}", plain[at:])):
        if part:
            Table(table_of(part)).write(tmp_path / name)
    try:
        here = told(read_table(tmp_path))
    except Exception as error:  # what is refused is refused there too
        with pytest.raises(type(error)):
            told(read_table(tmp_path, cluster=client))
        return
    assert told(read_table(tmp_path, cluster=client)) == here


def test_sheets_a_report_and_one_file_are_read_there_too(client, tmp_path, monkeypatch):
    write_files(tmp_path)
    for name in (
        f"{tmp_path}/months.xlsx!2031-*",
        tmp_path / "calls.csv",
        tmp_path / "harbour.ods",
    ):
        here, there = read_table(name), read_table(name, cluster=client)
        asked = ("sum of dues", "max of dues", "errors of dues")
        assert [(t.value, t.account, t.found_at) for t in there.tally(*asked)] == [
            (t.value, t.account, t.found_at) for t in here.tally(*asked)
        ]
    (tmp_path / "year.toml").write_text(
        f'title = "Year"\n[source]\nfiles = ["months"]\ncluster = "{client.scheduler.address}"\n[[blocks]]\nkind = "figures"\nmeasures = ["sum of dues"]\n'
    )
    found = Report.from_file(tmp_path / "year.toml").run()
    assert found.blocks[0].result[0].account.rows == 438


def test_a_file_without_rows_is_refused_there_too(client, tmp_path):
    (tmp_path / "calls.csv").write_text("zone,dues\n")
    for how in ({}, {"cluster": client}):
        with pytest.raises(NoRows, match="a header but no row below it\nNothing to work out"):
            read_table(tmp_path / "calls.csv", **how)


def test_a_long_file_is_cut_by_its_groups_of_rows_and_columns_come_later(
    client, tmp_path, monkeypatch
):
    monkeypatch.setattr(cluster, "_ROWS", 40)
    calls = {
        "dues": [i * 7 % 90 / 2 for i in range(300)],
        "zone": [f"z{i % 4}" for i in range(300)],
        "id": range(300),
    }
    parquet.write_table(pa.table(calls), tmp_path / "calls.parquet", row_group_size=30)
    asked = {"asks": "dues"}
    here, there = (
        read_table(tmp_path / "calls.parquet", **asked, **how) for how in ({}, {"cluster": client})
    )
    done = []
    read_table(tmp_path / "calls.parquet", cluster=client, progress=done.append)
    assert done == [0.2, 0.4, 0.6, 0.8, 1]
    told = []
    for table in (here, there):
        found = table.tally("sum of dues", "max of dues", "last of id", where="zone = z2")
        assert (found[2].value, found[2].found_at) == (298, (299,))
        lines = table.tally("sum of dues", "median of id", by="zone")
        told.append(([line.tallies for line in lines], found, list(table.row_numbers)))
    assert told[0] == told[1]


def test_a_worker_that_is_killed_on_the_way_changes_nothing(client, tmp_path):
    lines = "".join(f"{i},{i % 7}.5,zone {i % 5}\n" for i in range(60_000))
    for number in range(12):
        (tmp_path / f"calls-{number}.csv").write_text("id,dues,zone\n" + lines)
    here = read_table(tmp_path).tally("sum of dues", "distinct of zone", by="zone")
    killed = []

    def kill(_share):
        if not killed:
            killed.extend(kill_workers(client, 1))

    there = read_table(tmp_path, cluster=client, progress=kill).tally(
        "sum of dues", "distinct of zone", by="zone"
    )
    assert [line.tallies for line in there] == [line.tallies for line in here]
    assert killed
    settle(client)
    assert killed[0] not in client.run(os.getpid).values()


def test_what_a_worker_cannot_read_names_the_file_and_the_worker(client, tmp_path):
    read_table(demo_path("calls.csv")).write(tmp_path / "a.parquet")
    (tmp_path / "b.parquet").write_bytes(b"PAR1 this is none PAR1")
    with pytest.raises(
        SourceError, match=r"b\.parquet: worker tcp://127\.0\.0\.1:\d+ cannot read it\n.*no Parquet"
    ):
        read_table(tmp_path, cluster=client)


def test_one_that_is_interrupted_leaves_no_work_behind(client, tmp_path):
    for number in range(8):
        shutil.copy(demo_path("calls.csv"), tmp_path / f"calls-{number}.csv")

    def interrupt(_share):
        raise KeyboardInterrupt

    with pytest.raises(KeyboardInterrupt):
        read_table(tmp_path, cluster=client, progress=interrupt)
    deadline = time.monotonic() + 30
    while any(client.processing().values()) and time.monotonic() < deadline:
        time.sleep(0.1)
    assert not any(client.processing().values())


def test_workers_begun_here_leave_an_interrupt_to_the_one_who_reads():
    with schedulers.client_of("here") as own:
        pids = own.run(os.getpid)
        for pid in pids.values():
            os.kill(pid, signal.SIGINT)  # as a terminal does, to all processes
        time.sleep(0.5)
        assert own.run(os.getpid) == pids


def test_clusters_that_do_not_serve_say_why(client, tmp_path, monkeypatch):
    path = demo_path("calls.csv")
    monkeypatch.setattr(schedulers, "_PATIENCE", "1s")
    with pytest.raises(CallError, match=r"no cluster answers at 127\.0\.0\.1:9"):
        read_table(path, cluster="127.0.0.1:9")
    monkeypatch.setattr(schedulers.platform, "python_version_tuple", lambda: ("2", "7", "0"))
    with pytest.raises(CallError, match=r"worker tcp://\S+ has Python 3\.\d+ and not 2\.7"):
        read_table(path, cluster=client)
    monkeypatch.setattr(
        schedulers, "import_module", lambda name: (_ for _ in ()).throw(ImportError(name))
    )
    with pytest.raises(NotInstalled, match=r"even-sieve\[cluster\]"):
        read_table(path, cluster=client)


def test_without_the_packages_of_the_extra_it_is_told_how_to_install_them():
    missing = "import sys; sys.modules |= dict.fromkeys(['cloudpickle', 'distributed', 'dask'])"
    run = f"{missing}; from even_sieve.cli.entry import run; run()"
    words = ["tally", str(demo_path("calls.csv")), "rows", "--cluster", "here"]
    done = subprocess.run([sys.executable, "-c", run, *words], capture_output=True, text=True)
    assert "fault" not in done.stderr
    assert 'pip install "even-sieve[cluster]"' in done.stderr
