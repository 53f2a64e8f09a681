"""Tables longer than memory: the same figures, accounts and notices as in memory."""

import errno
import gc
import gzip
import sys
import tempfile
from io import BytesIO
from pathlib import Path
from types import SimpleNamespace

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from even_sieve import Table, read_table
from even_sieve.core.errors import CallError, MemoryShort, SourceError
from even_sieve.core.table import arrays
from even_sieve.sources import (
    arrow_file,
    files,
    json_lines,
    long_csv_file,
    parquet,
    shelf,
    unpacking,
)
from everything import facts
from strategies import rows, table_of


@pytest.fixture
def small(monkeypatch):
    """Everything in pieces of a few rows, and every array on disk."""
    monkeypatch.setattr(files, "_LONG", 1)
    monkeypatch.setattr(shelf, "_TIMES_KEPT", 1 << 60)
    monkeypatch.setattr(arrays.spans, "__defaults__", (4, 0))
    for module in (parquet, arrow_file):
        monkeypatch.setattr(module, "PIECE", 3)
    monkeypatch.setattr(json_lines, "_PIECE", 3)
    monkeypatch.setattr(json_lines, "_UNFOLDED", 1 << 60)
    monkeypatch.setattr(long_csv_file, "_PIECE", 200)
    monkeypatch.setattr(shelf, "_SHARE", 1 << 60)
    if Path("/dev/shm").is_dir():  # thousands of small files: many times as fast there
        monkeypatch.setattr(tempfile, "tempdir", "/dev/shm")
    yield
    arrays.keep_in(arrays.InMemory())


@settings(
    max_examples=25,
    suppress_health_check=[HealthCheck.function_scoped_fixture, HealthCheck.too_slow],
)
@given(
    rows(least=2, most=14),
    st.sampled_from([".parquet", ".arrow", ".jsonl", ".csv", ".csv.gz", ".jsonl.gz"]),
)
def test_every_command_gives_the_same_as_in_memory(tmp_path, small, plain, ending):
    path = tmp_path / f"calls{ending.removesuffix('.gz')}"
    Table(table_of(plain)).write(path)
    if ending.endswith(".gz"):
        path = path.with_name(f"{path.name}.gz")
        path.write_bytes(gzip.compress((tmp_path / path.stem).read_bytes()))
    arrays.keep_in(arrays.InMemory())
    whole = read_table_whole(path)
    known = list(facts(whole))
    long = read_table(path, memory="64MiB")
    assert isinstance(arrays._Chosen.store, shelf.Shelf)
    for one, other in zip(known, facts(long), strict=True):
        assert one == other
    for name in whole.names:
        assert long.column(name) == whole.column(name)


def read_table_whole(path):
    """The table of a file that is read at once."""
    from even_sieve.public.reading import table_from_bytes

    return table_from_bytes(path.read_bytes(), str(path))


def test_what_does_not_go_into_memory_stands_on_disk(tmp_path):
    store = shelf.Shelf(shelf.LEAST)
    held, mapped = store.zeros(1000, np.dtype(np.int64)), store.zeros(1 << 19, np.dtype(np.int64))
    assert (held.base, type(mapped.base)) == (None, type(mapped.base))
    assert len(store._maps) == 1
    mapped[-1] = 7
    store.let_go()
    assert int(mapped[-1]) == 7


@pytest.mark.parametrize(
    ("words", "error", "message"),
    [("2 GB", CallError, "'2 GB' is no size"), ("1MiB", MemoryShort, "1MiB is too little"),
     ("", CallError, "is no size")],
)  # fmt: skip
def test_a_size_that_is_none_or_too_small_is_refused(harbour, words, error, message):
    with pytest.raises(error, match=message):
        read_table(harbour / "calls.csv", memory=words)


def test_a_disk_without_room_is_one_clear_error(monkeypatch):
    def full(*_):
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr(shelf.os, "posix_fallocate", full)
    with pytest.raises(MemoryShort, match="no room on disk for 8,000,000 bytes"):
        shelf.Shelf(shelf.LEAST).zeros(1_000_000, np.dtype(np.int64))


@pytest.mark.parametrize("ending", [".parquet", ".csv"])
def test_a_file_that_changes_while_it_is_read_gives_no_figure(tmp_path, small, monkeypatch, ending):
    path = tmp_path / f"calls{ending}"
    table = Table(table_of([{"zone": "Outer", "dues": n, "tons": n, "arrived": None, "departed": None,
                             "paid": True, "remarks": f"no {n}"} for n in range(40)]))  # fmt: skip
    table.write(path)
    left = read_table(path, asks="dues")
    assert left.column("dues") == list(range(40))
    table.sift("tons < 20").write(path)
    with pytest.raises(SourceError, match="changed while it was read"):
        left.column("tons")


def test_a_packed_file_is_unpacked_on_disk_while_its_table_is_there(tmp_path, small, monkeypatch):
    room = tmp_path / "room"
    room.mkdir()
    monkeypatch.setattr(tempfile, "tempdir", str(room))
    path, told = tmp_path / "calls.csv.gz", []
    lines = "".join(f"B{row},{row}\n" for row in range(3000))
    path.write_bytes(gzip.compress(f"berth,dues\n{lines}".encode()))
    table = read_table(path, asks="sum of dues", progress=told.append)
    assert len(list(room.iterdir())) == 1
    assert (table.tally("sum of dues")[0].value, table.core.source) == (4498500, str(path))
    assert told == sorted(told)
    assert (0 < told[0] <= 0.4, 0.9 < told[-1] <= 1) == (True, True)
    assert table.tally("rows", where="berth = B7")[0].value == 1  # made only now
    del table
    gc.collect()
    assert list(room.iterdir()) == []


@settings(
    deadline=None,
    max_examples=12,
    suppress_health_check=[HealthCheck.function_scoped_fixture, HealthCheck.too_slow],
)
@given(
    rows(least=2, most=14),
    st.sampled_from([".parquet", ".arrow", ".jsonl", ".csv", ".csv.gz", ".xlsx"]),
)
def test_what_comes_through_a_pipe_gives_what_its_file_gives(
    tmp_path, small, monkeypatch, plain, ending
):
    path = tmp_path / f"calls{ending.removesuffix('.gz')}"
    Table(table_of(plain)).write(path)
    content = path.read_bytes()
    packed = gzip.compress(content) if ending.endswith(".gz") else content
    monkeypatch.setattr(sys, "stdin", SimpleNamespace(buffer=BytesIO(packed)))
    before = set(Path(tempfile.gettempdir()).iterdir())
    piped = read_table("-")
    assert list(facts(piped)) == list(facts(read_table(path)))
    del piped
    gc.collect()
    assert not {e for e in Path(tempfile.gettempdir()).iterdir() if e.suffix == ending} - before


@pytest.mark.parametrize(("change", "how", "said"), [
    (lambda packed: packed[:-9], {}, "the gzip file is broken"),
    (lambda packed: packed, {"at_most": ["unpacked=9999"]}, "unpacks to more than 9,999 bytes"),
    (lambda packed: packed, {"at_most": ["ratio=2"]}, "unpacks to more than 2 times its size"),
])  # fmt: skip
def test_a_packed_file_that_cannot_be_unpacked_is_one_error(
    tmp_path, small, monkeypatch, change, how, said
):
    monkeypatch.setattr(unpacking, "_ALWAYS", 1 << 10)
    path = tmp_path / "calls.csv.gz"
    packed = gzip.compress(("berth,dues\n" + "B1,5\n" * 3000).encode())
    path.write_bytes(change(packed))
    with pytest.raises(SourceError, match=said) as caught:
        read_table(path, **how)
    assert str(caught.value).startswith(str(path))
