"""Times with offsets are brought to UTC, and that is told, whatever they come from."""

import sqlite3
from datetime import UTC, datetime, timedelta, timezone
from zipfile import ZipFile

import numpy as np
import openpyxl
import pandas as pd
import pytest

from even_sieve import Code, read_table, table_from

pytestmark = pytest.mark.usefixtures("each_way")

TIMES = ["2031-03-05T00:30:00+02:00", "2031-03-05T08:00:00Z"]
EAST = timezone(timedelta(hours=2))


def of_json(path, times):
    path.write_text("".join(f'{{"at": "{each}", "n": 1}}\n' for each in times))
    return read_table(path)


def of_csv(path, times):
    path.write_text("at\n" + "".join(f"{each}\n" for each in times))
    return read_table(path)


def of_database(path, times):
    with sqlite3.connect(path) as made:
        made.execute("create table calls (at timestamp)")
        made.executemany("insert into calls values (?)", [(each,) for each in times])
    return read_table(path)


def of_workbook(path, times):
    book = openpyxl.Workbook()
    for row in (["at"], *([901 + number] for number in range(len(times)))):
        book.active.append(row)
    book.save(path)
    with ZipFile(path) as archive:
        parts = {name: archive.read(name) for name in archive.namelist()}
    with ZipFile(path, "w") as archive:
        for name, part in parts.items():
            for number, each in enumerate(times, 901):
                part = part.replace(f't="n"><v>{number}<'.encode(), f't="d"><v>{each}<'.encode())
            archive.writestr(name, part)
    return read_table(path)


def of_values(path, times):
    known = {
        TIMES[0]: datetime(2031, 3, 5, 0, 30, tzinfo=EAST),
        TIMES[1]: datetime(2031, 3, 5, 8, tzinfo=UTC),
    }
    return table_from({"at": [known[each] for each in times]})


def as_said(path, times):
    path.write_text("at\nsoon\n" + "".join(f"{each}\n" for each in times))
    return read_table(path, as_date="at")


def derived(path, times):
    return table_from({"text": times}).derive("at = date of text")


@pytest.mark.parametrize(
    ("read", "name"),
    [(of_json, "c.jsonl"), (of_csv, "c.csv"), (of_database, "c.sqlite"), (of_values, ""), (as_said, "c.csv"),
     (derived, ""), (of_workbook, "c.xlsx")],
)  # fmt: skip
def test_what_is_brought_to_utc_is_told(tmp_path, read, name):
    for times, code in (
        (TIMES, Code.MIXED_OFFSETS),
        (TIMES[:1], Code.OFFSET_TO_UTC),
        (TIMES[1:], None),
    ):
        folder = tmp_path / f"{len(times)}{times[0][-1]}"
        folder.mkdir()
        tally = read(folder / name, times).tally("min of at")
        assert tally[0].value.isoformat() in ("2031-03-04T22:30:00", "2031-03-05T08:00:00")
        codes = {n.code for n in tally.notices} & {Code.MIXED_OFFSETS, Code.OFFSET_TO_UTC}
        assert codes == ({code} if code else set())


def test_cut_decimals_of_json_are_told(tmp_path):
    table = of_json(tmp_path / "c.jsonl", ["2031-03-05T00:30:00.1234567"])
    assert Code.TIMES_CUT in {notice.code for notice in table.tally("max of at").notices}


@pytest.mark.parametrize(
    "stamp", ["2031-03-05T00:30:00.123456789", "2031-03-05T00:30:00.123456000"]
)
@pytest.mark.parametrize("gaps", [[], ["NaT"]])
def test_cut_decimals_of_arrays_frames_and_files_are_told(tmp_path, stamp, gaps):
    times = np.array([stamp, *gaps], dtype="datetime64[ns]")
    frame = pd.DataFrame({"at": times})
    frame.to_parquet(tmp_path / "calls.parquet")
    for table in (
        table_from({"at": times}),
        table_from(frame),
        read_table(tmp_path / "calls.parquet"),
    ):
        found = table.tally("max of at")
        assert found[0].value.isoformat() == "2031-03-05T00:30:00.123456"
        told = Code.TIMES_CUT in {notice.code for notice in found.notices}
        assert told == stamp.endswith("9")
