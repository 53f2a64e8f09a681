"""Passes over rows that stay with the workers that read them: the same bits as here."""

import gc
import os
import pickle
import shutil
import time
from dataclasses import replace
from datetime import date

import numpy as np
import pyarrow as pa
import pyarrow.parquet as parquet
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from even_sieve import Table, read_table, table_from
from even_sieve.core.errors import CallError, SourceError
from even_sieve.core.table import far_arrays
from even_sieve.sources import cluster, far_rows, files, several
from even_sieve.sources.source_options import SourceOptions
from everything import facts
from killing import kill_workers, settle, two_workers
from strategies import rows, table_of

distributed = pytest.importorskip("distributed")


@pytest.fixture(scope="module")
def client():
    with two_workers(distributed) as found:
        yield found


@pytest.fixture
def far(monkeypatch):
    """Rows stay, however few; `ran` says of each pass whether it went to them."""
    ran, run = [], far_rows.FarRows.run
    monkeypatch.setattr(cluster, "_STAY", 1)
    monkeypatch.setattr(files, "_LONG", 1)

    def spy(self, *given):
        found = run(self, *given)
        ran.append(found is not None)
        return found

    monkeypatch.setattr(far_rows.FarRows, "run", spy)
    return ran


@settings(
    max_examples=5,
    deadline=None,
    suppress_health_check=[HealthCheck.function_scoped_fixture, HealthCheck.too_slow],
)
@given(
    rows(least=3, most=14),
    st.tuples(*[st.sampled_from(["parquet", "jsonl", "xlsx"])] * 3) | st.just(("csv",) * 3),
)
def test_every_command_gives_the_same_as_here(client, far, tmp_path, plain, endings):
    shutil.rmtree(tmp_path, ignore_errors=True)
    tmp_path.mkdir()
    cuts = [0, len(plain) // 3, len(plain) // 2, len(plain)]
    for number, ending in enumerate(endings):
        part = plain[cuts[number] : cuts[number + 1]]
        if part:
            Table(table_of(part)).write(tmp_path / f"calls-{number}.{ending}")
    here, there = read_table(tmp_path), read_table(tmp_path, cluster=client)
    assert there.core.elsewhere is not None
    for one, other in zip(facts(here), facts(there), strict=True):
        assert one == other
    for name in here.names:
        assert there.column(name) == here.column(name)
    assert any(far)


#: What a row of a CSV has in each column: all of the ways in which strings are read.
SHAPES = {
    "dues": lambda i: f"{i * 37 % 4001}.{i % 4}5",
    "zone": lambda i: ("Outer", "Inner ", "", "#N/A", "roads")[i % 5],
    "ship": lambda i: f"ship {i * 7919 % 100_003}" if i % 90 else "03.04.2031",
    "fee": lambda i: f"€ {i % 11}.50",
    "paid": lambda i: f"€ {i}.50" if i % 2 else f"$ {i}.50",
    "arrived": lambda i: f"2031-0{i % 9 + 1}-01T08:{i % 60:02d}" + ("Z" if i > 1500 else ""),
    "note": lambda i: f"{i % 3}" if i < 1000 else f"note {i}",
    "day": lambda i: ("03.04.2031", "04.04.2031 ")[i % 2],
    "size": lambda i: f"{i / 7!r}",
}


@pytest.mark.parametrize("blank_line", [0, 900])
def test_one_long_csv_is_cut_and_its_rows_stay(client, far, tmp_path, monkeypatch, blank_line):
    monkeypatch.setattr(cluster, "_ROWS", 400)
    lines = [",".join(shape(i) for shape in SHAPES.values()) for i in range(2000)]
    lines[blank_line:blank_line] = [""] * (blank_line > 0)
    path = tmp_path / "calls.csv"
    path.write_text("\n".join([",".join(SHAPES), *lines]), encoding="utf-8")
    here, there = read_table(path), read_table(path, cluster=client)
    assert there.core.elsewhere.count == 5
    far_ones = [each.name for each in there.core.columns if is_far(each)]
    assert far_ones == [each for each in SHAPES if each not in ("paid", "size")]
    for one, other in zip(here.core.columns, there.core.columns, strict=True):
        for fact in ("counts", "notices", "trimmed", "conventions", "shown", "decimals"):
            assert getattr(one, fact) == getattr(other, fact)
    asked = ("sum of dues", "median of size", "distinct of ship", "max of arrived", "mode of note")
    kill_workers(client, 1)
    for by in ("zone", "fee", "arrived by month"):
        found = [
            [(line.key, line.tallies) for line in table.tally(*asked, by=by, where="ship = *7*")]
            for table in (here, there)
        ]
        assert found[0] == found[1]
    assert far
    settle(client)
    assert there.row_numbers == here.row_numbers
    assert there.column("note") == here.column("note")


def is_far(column):
    return any(isinstance(lane.values, far_arrays.FarArray) for lane in column.lanes.values())


#: So many rows a file has; of fewer in all no pass is taken over pieces.
EACH = 12_000


@pytest.fixture
def long(tmp_path):
    """Files whose rows stay with the workers; some columns hold cells of several kinds."""
    for number in range(6):
        calls = {
            "dues": [i * 7 % 900 / 4 for i in range(EACH)],
            "zone": [None if i % 50 == 0 else f"Zone {(i + number) % 7}" for i in range(EACH)],
            "ship": [f"ship {number}-{i % 1_600}" for i in range(EACH)],
            "arrived": np.datetime64("2031-01-01") + np.arange(EACH) // 40,
        }
        parquet.write_table(pa.table(calls), tmp_path / f"calls-{number}.parquet")
    return tmp_path


ASKED = ("sum of dues", "median of dues", "distinct of ship", "max of dues", "first of zone")


def told(table):
    found = table.tally(*ASKED, where="ship = *-1?7 or zone is blank")
    by = [table.tally("sum of dues", "rows", by=axis) for axis in ("zone", "arrived by month")]
    nested = table.tally("sum of dues", by=["zone", "arrived by quarter"], where="dues < 200")
    return found, [[line.tallies for line in each] for each in (*by, nested)], found.notices


def test_rows_stay_where_they_were_read(client, far, long, monkeypatch):
    brought = []
    here = far_arrays.FarArray.here

    def spy(self):
        brought.append(self)
        return here(self)

    there = read_table(long, cluster=client)
    monkeypatch.setattr(far_arrays.FarArray, "here", spy)
    assert told(there) == told(read_table(long))
    assert far
    assert all(far)
    assert not brought
    assert there.column("zone")[EACH - 1 : EACH + 2] == ["Zone 1", None, "Zone 2"]
    assert len({id(each) for each in brought}) == 2  # how texts and blanks are told apart


MADE = ("double = dues * 2", "part = dues / 7", "stay = day - arrived", 'label = "{ship} ({zone})"',
        "size = small if dues < 10 and zone = *1, 7 if zone is blank, else large",
        "half = max(double, part) / 2", "month = arrived by month", "tall = upper of pier")  # fmt: skip


BY = (("size", "half > 20"), ("pier", "label = *7*"), (["month", "size"], None))


def made_ready(table, questions):
    piers = {"zone": [f"zone {i}" for i in range(7)], "pier": [*"Eastend"], "day": [None] * 7}
    days = table_from({"pier": [*"eatdns"], "day": [date(2031, 2, 1 + i) for i in range(6)]})
    priced = table.look_up(table_from(piers), on="zone", bring="pier").look_up(days, on="pier")
    asked = ("sum of part", "max of label", "median of stay", "mode of tall", "errors of pier")
    found = [
        [(line.key, line.tallies) for line in priced.tally(*asked, by=by, derive=MADE, where=where)]
        for by, where in questions
    ]
    rows = priced.derive(*MADE).listing("ship = *-17")
    return found, rows.numbers, rows.rows


def test_derived_and_looked_up_columns_are_made_where_the_rows_are(client, far, long, monkeypatch):
    def brought(self):
        raise AssertionError("rows were brought here")

    none = parquet.read_table(long / "calls-0.parquet").slice(0, 0)
    parquet.write_table(none, long / "calls-6.parquet")
    here, there = made_ready(read_table(long), BY), read_table(long, cluster=client)
    with monkeypatch.context() as patched:
        patched.setattr(far_arrays.FarArray, "here", brought)
        assert made_ready(there, BY) == here
        kill_workers(client, 1)
        assert made_ready(there, BY[1:2]) == (here[0][1:2], *here[1:])
    gc.collect()
    assert not there.core.elsewhere._made  # nobody holds them any more


def test_a_worker_that_is_killed_between_and_in_passes_changes_nothing(client, far, long):
    here, there = told(read_table(long)), read_table(long, cluster=client)
    for _ in range(2):
        kill_workers(client, 1)
        assert told(there) == here
        assert all(far)


def test_rows_that_are_lost_and_cannot_be_read_again_give_no_figure(far, long):
    with two_workers(distributed) as client:
        there = read_table(long, cluster=client)
        there.tally("rows")
        with (long / "calls-3.parquet").open("ab") as stream:
            stream.write(b" ")
        kill_workers(client, 2)
        with pytest.raises(
            SourceError, match=r"calls-3\.parquet: worker \S+ cannot read it again\n.*changed"
        ):
            there.tally("sum of dues", by="ship")


def test_a_table_that_travels_has_its_rows_with_it(client, far, long):
    there = pickle.loads(pickle.dumps(read_table(long, cluster=client).core))
    assert there.elsewhere is None
    assert told(Table(there)) == told(read_table(long))


def test_workers_that_were_begun_here_are_ended_with_the_table(far, long):
    there = read_table(long, cluster="here")
    workers = there.core.elsewhere._workers
    pids = [*workers._client.run(os.getpid).values()]
    found = there.tally("sum of dues")
    del there, workers
    gc.collect()
    deadline = time.monotonic() + 30
    while any(map(is_running, pids)) and time.monotonic() < deadline:
        time.sleep(0.1)
    assert not any(map(is_running, pids))
    assert found[0].value == read_table(long).tally("sum of dues")[0].value


def is_running(pid):
    try:
        os.kill(pid, 0)
    except ProcessLookupError:
        return False
    return True


def test_names_of_columns_are_told_before_rows_are_read(client, far, long):
    def refuse(names, _notices):
        raise CallError(f"there is no berth among {', '.join(names)}")

    options = SourceOptions.of(cluster=client)
    places = several.places_of([str(long)])
    with pytest.raises(CallError, match=r"no berth among dues, zone, ship, arrived\Z"):
        several.read_places(places, replace(options, named=refuse))
    (long / "calls-9.parquet").write_bytes(b"none")
    with pytest.raises(SourceError, match=r"calls-9\.parquet: worker \S+ cannot read it"):
        several.read_places(several.places_of([str(long)]), replace(options, named=refuse))


@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "cp1252"])
def test_text_under_a_mark_and_titles_is_cut_and_read_as_here(
    tmp_path, client, far, monkeypatch, encoding
):
    monkeypatch.setattr(cluster, "_ROWS", 40)
    lines = ["Dues of the year,,", "", "call,zone,dues"]
    lines += [f"{number},Ærø {number % 7},{number}.25" for number in range(200)]
    (tmp_path / "calls.csv").write_bytes("\n".join(lines).encode(encoding))
    asked = {"where": "zone = Ærø 3 or call > 150", "by": "zone"}
    here = read_table(tmp_path / "calls.csv").tally("sum of dues", **asked)
    there = read_table(tmp_path / "calls.csv", cluster=client).tally("sum of dues", **asked)
    assert [(line.key, line.tallies) for line in there] == [
        (line.key, line.tallies) for line in here
    ]
    assert there.notices == here.notices
    assert any(far) == (encoding != "cp1252")  # what is to be written anew is read whole here
