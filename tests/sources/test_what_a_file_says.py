"""Files say what they are: quotes that do not close, titles, blank lines, options, encodings."""

import pytest
from click.testing import CliRunner
from hypothesis import given
from hypothesis import strategies as st

from even_sieve import read_table
from even_sieve.cli.main import main
from even_sieve.core.errors import CallError, SourceError
from even_sieve.core.notices import Code
from even_sieve.sources import files
from even_sieve.sources.dialect import Dialect
from even_sieve.sources.quotes import pair_up, refuse_by_lines

OPEN = [
    ('a,b\n1,"x\n2,y\n', 'row 2: the quotes that open at "x are not closed'),
    ('a,b\n1,"x\n2,y"z\n3,w\n', 'row 2: the quotes that open at "x close in line 3, and text follows them'),
    ('a,b\n"1"2,x\n', 'row 2: the quotes that open at "1"2,x close in line 2, and text follows them'),
    ('a,b\n1,"x""\n2,y\n', 'row 2: the quotes that open at "x"" are not closed'),
]  # fmt: skip


@pytest.mark.parametrize("long", [False, True])
@pytest.mark.parametrize(("text", "message"), OPEN)
def test_quotes_that_do_not_close_name_the_line_where_they_open(
    text, message, long, tmp_path, monkeypatch
):
    path = tmp_path / "calls.csv"
    path.write_text(text + "7,v\n" * 50)
    if long:
        monkeypatch.setattr(files, "_LONG", 1)
    with pytest.raises(SourceError) as caught:
        read_table(path)
    assert message in str(caught.value)


def test_quotes_that_are_letters_are_left(tmp_path):
    path = tmp_path / "calls.csv"
    path.write_text('pipe,b\n5" pipe,1\n"a ""b"", c",2\n3" wide,"x\ny"\n')
    assert read_table(path).column("pipe") == ['5" pipe', 'a "b", c', '3" wide']


_FIELDS = st.lists(
    st.lists(st.text(st.sampled_from('ab" ,\n'), max_size=5), min_size=2, max_size=2), min_size=1
)


@given(_FIELDS)
def test_what_is_written_by_the_standard_is_never_refused(rows):
    text = "".join(",".join('"' + f.replace('"', '""') + '"' for f in row) + "\n" for row in rows)
    assert pair_up(text.encode(), Dialect())
    refuse_by_lines(text.encode(), "x", Dialect())


CHOICES = [
    (b"Harbour dues\n\nvessel,dues\nHeron,5\nEider,6\n", {}, ("vessel", "dues"), (4, 5), "header-found"),
    (b"Harbour dues,,\n,,\nvessel,dues,x\nHeron,5,1\n", {}, ("vessel", "dues", "x"), (4,), "header-found"),
    (b"junk;1\nvessel,dues\nHeron,5\nsum,5\n", {"header": 2, "leave_out_foot": 1}, ("vessel", "dues"), (3,), None),
    (b"junk;1\nvessel,dues\nHeron,5\n", {"leave_out_top": 1}, ("vessel", "dues"), (3,), None),
    (b"vessel,dues\n\nHeron,5\n\nEider,6\n\n", {}, ("vessel", "dues"), (3, 5), "blank-lines-passed-over"),
    (b"a\n1\n\n3\n", {}, ("a",), (2, 3, 4), None),
    (b"x,y,z\n,vessel,dues\n,Heron,5\n", {"cells": "B2:C3"}, ("vessel", "dues"), (3,), None),
    (b"vessel,Heron,Eider\ndues,5,6\n", {"sideways": True}, ("vessel", "dues"), (2, 3), None),
    (b"a,b\n1,2,\n", {"header": 1, "cells": "A1:B2"}, ("a", "b"), (2,), None),
]  # fmt: skip


@pytest.mark.parametrize(("content", "how", "names", "numbers", "code"), CHOICES)
def test_the_place_of_the_table_is_found_or_given_and_told(
    content, how, names, numbers, code, tmp_path
):
    path = tmp_path / "calls.csv"
    path.write_bytes(content)
    table = read_table(path, **how)
    assert (table.names, table.row_numbers) == (names, numbers)
    codes = [str(each.code) for each in table.notices]
    assert codes == ([] if code is None else [code])
    assert len(table.column(names[-1])) == len(numbers)


def test_an_option_without_effect_or_given_twice_is_refused(harbour, monkeypatch):
    monkeypatch.chdir(harbour)
    with pytest.raises(CallError, match=r"calls.csv: --sheet has no effect on a .csv file"):
        read_table("calls.csv", sheet="2")
    with pytest.raises(CallError, match=r"--decimal has no effect on a \.ods file"):
        read_table("harbour.ods", decimal=",")
    run = CliRunner().invoke(main, ["tally", "harbour.ods", "rows", "--sheet", "a", "--sheet", "b"])
    assert run.exit_code == 2
    assert "--sheet is given 2 times: say it once" in run.output
    twice = ["tally", "calls.csv", "rows", "--where", "zone = Outer", "--where", "dues > 5"]
    assert CliRunner().invoke(main, twice).exit_code == 0


def test_a_token_for_a_blank_counts_in_workbooks_too(tmp_path):
    from even_sieve import table_from

    table_from({"dues": ["na", 5, "x"]}).write(tmp_path / "a.xlsx")
    assert read_table(tmp_path / "a.xlsx", blank_as="NA").column("dues") == [None, 5, "x"]


def test_an_offset_that_can_move_a_day_is_named(tmp_path):
    import pandas as pd

    from even_sieve import table_from

    (tmp_path / "a.csv").write_text("at\n2031-01-05T23:30-05:00\n2031-01-06T01:00-05:00\n")
    times = pd.to_datetime(["2031-01-05 23:30"]).tz_localize("America/New_York")
    frame = pd.DataFrame({"at": times})
    frame.to_parquet(tmp_path / "a.parquet")
    for table, offset in (
        (read_table(tmp_path / "a.csv"), "-05:00"),
        (read_table(tmp_path / "a.parquet"), "America/New_York"),
        (table_from(frame), "America/New_York"),
        (table_from(frame.astype("category")), "America/New_York"),
    ):
        found = table.tally("rows", by="at by day")
        assert found.lines[0].key == ("2031-01-06",)
        assert [n.text for n in found.notices if n.code == "offset-brought-to-utc"] == [
            f"column 'at': times with the offset {offset} were brought to UTC, where some may fall on another day"
        ]


@pytest.mark.parametrize(
    ("cells", "told"),
    [
        (["1.200", "3.400"], True),
        (["1.200", "", "120", "-3.400", "N/A"], True),
        (["1.200", "3.400.000"], True),
        (["1.200", "3.40"], False),
        (["0.125", "1.250"], False),
        (["1.200", "1234.500"], False),
    ],
)
@pytest.mark.parametrize("rows", [1, 3000])
def test_points_that_may_part_thousands_are_told(tmp_path, cells, told, rows):
    path = tmp_path / "a.csv"
    lines = [f"{number};{cell};x" for number, cell in enumerate(cells * rows)]
    path.write_text("\n".join(["call;dues;zone", *lines]), encoding="utf-8")
    codes = [each.code for each in read_table(path).tally("sum of dues").notices]
    assert (Code.MAYBE_THOUSANDS in codes) is told
    block = read_table(path, cells=f"A1:C{len(lines) + 1}").tally("sum of dues").notices
    assert (Code.MAYBE_THOUSANDS in [each.code for each in block]) is told
    assert not read_table(path).tally("rows", strict=True).notices
    for quiet in ({"decimal": "."}, {"decimal": ","}):
        again = read_table(path, **quiet).tally("sum of dues").notices
        assert Code.MAYBE_THOUSANDS not in [each.code for each in again]
