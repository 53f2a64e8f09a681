"""Rows that hold the names of their columns are told, as long as they count."""

import pytest

from even_sieve import read_table, table_from
from even_sieve.core.notices import Code

LINES = "call,zone,dues\n1,Outer,10\n2,Inner,20\n"


def told(result):
    return [notice.text for notice in result.notices if notice.code is Code.HEADER_AGAIN]


@pytest.mark.parametrize(("content", "words"), [
    (LINES + LINES, "row 4 holds the names of the columns again"),
    (LINES * 3, "2 rows (first 4) hold the names of the columns again"),
    (LINES + "call,zone,dues\r\n3,Mole,7\r\n", "row 4 holds"),
    (LINES + "3,zone,7\n4,Zone,8\n", ""),  # a zone may be called so
    (LINES + "3,Outer,dues\n", "row 4 holds"),  # no sum of numbers is
    ("dues\n1\ndues\n", "row 3 holds"),
    ("zone\nOuter\nzone\n", ""),
])  # fmt: skip
def test_a_header_among_the_rows_is_told(tmp_path, content, words):
    (tmp_path / "calls.csv").write_text(content)
    table = read_table(tmp_path / "calls.csv")
    for asked in ("count", "filled of dues" if "dues" in content else "filled of zone"):
        found = told(table.tally(asked))
        assert bool(found) == bool(words)
        assert all(text.startswith(words) for text in found)
    seen = [each for each in table.profile().findings if each.code == Code.HEADER_AGAIN]
    assert [each.rows for each in seen] == ([(4, 7)] if "2 rows" in words else
                                            [(int(words.split()[1]),)] if words else [])  # fmt: skip


def test_one_that_a_condition_leaves_out_is_not(tmp_path):
    (tmp_path / "calls.csv").write_text(LINES * 2)
    table = read_table(tmp_path / "calls.csv")
    assert told(table.tally("sum of dues", by="zone"))
    assert not told(table.tally("count", where="zone != zone"))
    assert not told(table.tally("count", hidden=[4]))


def test_of_very_many_texts_too():
    rows = 20_000
    columns = {"call": [f"B-{row}" for row in range(rows)], "dues": list(range(rows))}
    for name, cells in columns.items():
        cells[777] = name
    (text,) = told(table_from(columns).tally("sum of dues", where="call = B-7* | call"))
    assert text.startswith("row 778 holds")
