"""Rows that are followed from run to run: new, gone, and values that are others."""

import json

import pytest

from even_sieve import Report, SieveError

REPORT = """title = "Dues"
as_of = 2031-12-31
[source]
file = "calls.csv"
marks = "mark"
[follow]
key = ["call", "zone"]
[[blocks]]
kind = "figures"
title = "All"
measures = ["rows", "ratio of sum of dues to sum of tons"]
[outputs]
json = "now.json"
"""
FIRST = ["C1,Outer,100.5,10,", "C2,Inner,80,20,", "C1,Inner,5,1,", "total,,185.5,31,subtotal"]
SECOND = ["C1,Outer,110.5,10,", "C1,Inner,5,,", "C4,Outer,7.25,3,", ",,9,,", "x,,132,1,subtotal"]


@pytest.fixture
def follow(tmp_path):
    def run(lines, more=""):
        rows = "\n".join(["call,zone,dues,tons,mark", *lines])
        (tmp_path / "calls.csv").write_text(rows + "\n")
        file = tmp_path / "r.toml"
        text = REPORT.replace('marks = "mark"\n', "").replace(
            "[follow]", '[marks]\nby = "mark"\n[follow]'
        )
        file.write_text(text.replace('"zone"]\n', f'"zone"]\n{more}\n'))
        report = Report.from_file(file)
        return report, report.run()

    return run


def test_rows_are_followed_by_their_key(follow, tmp_path):
    report, before = follow(FIRST)
    (last,) = report.write(before)
    last = last.rename(tmp_path / "last.json")
    assert json.loads(last.read_text())["receipt"]["followed"]["columns"] == ["dues", "tons"]
    found = follow(SECOND)[1].against(last)
    rows = json.loads(found.to_json())["since"]["rows"]
    assert (rows["new"], rows["gone"]) == (["C4 / Outer"], ["C2 / Inner"])
    assert rows["values"] == [
        {"value": "dues of C1 / Outer", "was": 100.5, "is": 110.5, "by": 10},
        {"value": "tons of C1 / Inner", "was": 1, "is": None, "by": None},
    ]
    page = found.to_markdown()
    for told in ("1 row new: C4 / Outer", "1 row gone: C2 / Inner", "1 row without a key"):
        assert told in page
    assert "2 values changed of rows that stayed" in page


def test_what_cannot_be_followed_is_told(follow, tmp_path):
    report, before = follow(FIRST, 'columns = ["zone"]')
    last = report.write(before)[0].rename(tmp_path / "last.json")
    assert follow(FIRST)[1].against(last).moved.rows.values == ()
    with pytest.raises(
        SieveError, match=r"r\.toml: follow: the key 'C1 / Outer' stands on 2 rows\n"
    ):
        follow([*FIRST, "C1,Outer,1,1,"])
    with pytest.raises(SieveError, match="no column 'zon'"):
        follow(FIRST, 'columns = ["zon"]')
    long = [f"C{number},Outer,1,1," for number in range(50_001)]
    told = follow(long)[1].against(last).moved.changed
    assert "50,001 rows are too many to be followed one by one" in told
