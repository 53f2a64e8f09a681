"""What a person's words are taken to mean: synonyms, quotes, wildcards, what is disregarded, keys."""

import shlex
from datetime import date
from decimal import Decimal
from functools import partial
from unicodedata import normalize

import pytest

from even_sieve import read_table, table_from
from even_sieve.core.cells import CellError
from even_sieve.core.errors import CallError, SieveError
from even_sieve.core.measures import parse_measure
from even_sieve.core.notices import Code

CALLS = table_from(
    {
        "zone": ["a", "b", "c", None],
        "vessel": ["d", "Straße", "STRASSE", "'x'"],
        "dues": [1, 2, 4, 8],
    }
)
SYNONYMS = [
    ("mean of dues", "average of dues"), ("total of dues", "sum of dues"), ("count", "rows"),
    ("unique of zone", "distinct of zone"), ("standard deviation of dues", "deviation of dues"),
    ("second largest of dues", "largest 2 of dues"), ("third smallest of dues", "smallest 3 of dues"),
    ("maximum of dues", "max of dues"), ("weighted mean of dues by dues", "weighted average of dues by dues"),
]  # fmt: skip


@pytest.mark.parametrize(("words", "usual"), SYNONYMS)
def test_words_of_the_trade_are_understood(words, usual):
    assert parse_measure(words).words == usual


def test_words_that_could_mean_two_things_are_answered_with_the_right_ones():
    with pytest.raises(
        CallError, match="Write numbers of dues for cells with a number, filled of dues"
    ):
        parse_measure("count of dues")
    with pytest.raises(CallError, match=r"to compare, write: zone != Abo"):
        CALLS.tally("rows", where="zone is not Abo")
    (notice,) = CALLS.tally("percentile 0.9 of dues")[0].notices[:1]
    assert notice.text.endswith("for 0.9 of all write percentile 90")


MATCHED = [
    ("zone = 'a'", (1,)), ("vessel = 'x'", (4,)), ("zone != 'a'", (2, 3, 4)), ("vessel = Stra?e", (2,)),
    ("vessel = STRA??E", (3,)), ("vessel = *?SE", (3,)), ("vessel = stra*", (2, 3)), ("vessel = ?tra?e", (2,)),
]  # fmt: skip


@pytest.mark.parametrize(("where", "rows"), MATCHED)
def test_single_quotes_and_question_marks_are_taken_as_written(where, rows):
    assert CALLS.sift(where).row_numbers == rows
    assert CALLS.recheck(CALLS.tally("rows", where=where))[0].value == len(rows)


@pytest.mark.parametrize("where", ["zone != a and vessel != d", "not (zone = a or vessel = d)",
                                   "not (not (zone != a) or not (vessel != d))"])  # fmt: skip
def test_what_is_disregarded_means_one_thing_however_it_is_written(where):
    found = CALLS.tally("rows regardless of zone", "rows regardless of vessel", where=where)
    assert [each.value for each in found] == [3, 3]


def test_keys_are_told_apart_and_labels_collide_with_nothing():
    table = table_from({"v": [1, True, "1"], "x": [1, 2, 4]})
    found = table.tally("sum of x", "running total of sum of x", by="v")
    assert [found[key][0].value for key in (1, True, "1")] == [1, 2, 4]
    top = table.tally("sum of x", by="v", top=2)
    assert (sorted(line.tallies[0].value for line in top), top.rest.tallies[0].value) == ([2, 4], 1)
    rest = table_from({"v": ["rest", "a", "b", "total"], "x": [1, 2, 4, 8]}).tally(
        "sum of x", by="v as rest | a"
    )
    assert ([line.tallies[0].value for line in rest], rest.rest.tallies[0].value) == ([1, 2], 12)
    with pytest.raises(CallError, match="the label 'A' stands there twice"):
        table.tally("rows", by="v as a | A")


def test_the_first_periods_keep_their_order():
    days = [f"2031-{month:02}-01" for month in (1, 2, 3, 4)]
    lines = "\n".join(f"{day},{dues}" for day, dues in zip(days, (1, 9, 2, 5), strict=True))
    from even_sieve.public.table import Table
    from even_sieve.sources.csv import read
    from even_sieve.sources.source_options import SourceOptions

    table = Table(read(f"day,dues\n{lines}\n".encode(), "x.csv", SourceOptions()))
    found = table.tally("sum of dues", by="day by month", top=2)
    assert [line.key[0] for line in found] == ["2031-02", "2031-04"]
    sorted_ = table.tally("sum of dues", by="day by month", top=2, sort="sum of dues")
    assert [line.key[0] for line in sorted_] == ["2031-02", "2031-04"]
    assert [line.key[0] for line in table.tally("sum of dues", by="day by month", top=3)] == [
        "2031-02", "2031-03", "2031-04"
    ]  # fmt: skip


def test_numbers_beyond_a_double_are_error_cells_in_every_source(tmp_path):
    (tmp_path / "a.csv").write_text("a,b\n1e400,1\n-inf,2\nInfinity,3\n1.5,4\n")
    (tmp_path / "a.jsonl").write_text('{"a":1e400}\n{"a":Infinity}\n{"a":-1e999}\n{"a":1.5}\n')
    memory = table_from({"a": [Decimal("1e400"), float("inf"), -(10**400), 1.5]})
    for table in (read_table(tmp_path / "a.csv"), read_table(tmp_path / "a.jsonl"), memory):
        column = table.column("a")
        assert [isinstance(cell, CellError) and cell.token for cell in column] == [
            "infinite"
        ] * 3 + [False]
        assert table.tally("sum of a")[0].value == 1.5


def test_look_ups_along_many_large_keys_join_right():
    names = [f"k{i}" for i in range(9)]
    size = 300
    left = table_from({name: [f"{j * 7 % size}" for j in range(size)] for name in names})
    right = table_from(
        {**{name: [f"{j}" for j in range(size)] for name in names}, "dues": list(range(size))}
    )
    found = left.look_up(right, on=names).column("dues")
    assert found == [j * 7 % size for j in range(size)]


def test_strict_gives_no_figure_where_a_notice_casts_doubt(harbour, monkeypatch):
    from click.testing import CliRunner

    from even_sieve.cli.main import main

    monkeypatch.chdir(harbour)
    for ask in (
        lambda: CALLS.tally("rows", where="zone = q", strict=True),
        lambda: CALLS.tally("rows", by="zone", where="zone = q", strict=True),
        lambda: CALLS.bridge("rows", where="zone = q", strict=True),
        lambda: CALLS.listing("zone = q", strict=True),
    ):
        with pytest.raises(
            SieveError, match=r"strict: .* of doubt, and no figure is given\n.*no row holds 'q'"
        ):
            ask()
    assert CALLS.tally("median of dues", "rows", strict=True)[1].value == 4
    for command, status in (("tally calls.csv rows", 0), ('tally calls.csv "sum of dues"', 1),
                            ("rows calls.csv --where zone=q", 1), ("run harbour.toml --check-only", 1)):  # fmt: skip
        found = CliRunner().invoke(main, [*shlex.split(command), "--strict"])
        assert (found.exit_code, "of doubt" in found.output) == (status, bool(status)), command


def test_lines_of_periods_tell_what_they_hold_besides_their_rows():
    days = [date(2031, 1, 5), date(2031, 2, 5), date(2031, 3, 5)]
    table = table_from({"zone": ["a", "b", "a"], "dues": [1, 2, 4], "arrived": days})
    for words in ("arrived", "everything"):
        found = table.tally(f"sum of dues regardless of {words}", by="arrived by month")
        assert [line.tallies[0].value for line in found.lines] == [7, 7, 7]
        assert Code.BEYOND_THE_LINE in [notice.code for notice in found.notices]
    found = table.tally("sum of dues regardless of zone", by="arrived by month")
    assert Code.BEYOND_THE_LINE not in [notice.code for notice in found.notices]
    found = table.tally("change of sum of dues", by="arrived by month", top=2)
    assert [line.tallies[0].value for line in found.lines] == [None, 2]
    assert Code.BEFORE_IS_AMONG_OTHERS in [notice.code for notice in found.notices]
    assert not table.tally("change of sum of dues", by="arrived by month").notices


@pytest.mark.parametrize("header", ["NFC", "NFD"])
@pytest.mark.parametrize("asked", ["NFC", "NFD"])
def test_names_are_the_same_however_their_letters_are_composed(header, asked):
    spelt = partial(normalize, header)
    table = table_from({spelt("Größe netto"): [3, 4], spelt("Gebühr"): [5, 6]})
    measure, where, by = (
        normalize(asked, each) for each in ("sum of gebühr", "größe netto > 3", "Größe netto")
    )
    found = table.tally(measure, where=where)
    assert found[0].value == 6
    assert all("agrees" in each.words() for each in table.recheck(found))
    assert len(table.tally(measure, by=by)) == 2
    limit = {normalize(header, "Höchst"): 3}
    settled = table.tally(
        measure, where=normalize(asked, "größe netto > {höchst}"), parameters=limit
    )
    assert all("agrees" in each.words() for each in table.recheck(settled))
    assert settled[0].value == 6
    with pytest.raises(SieveError, match="no comparison after"):
        table.tally("rows", where=normalize(asked, "größe netto beyond"))
    with pytest.raises(SieveError, match="two columns are called"):
        table_from({"Gebühr": [1], normalize("NFD", "gebühr"): [2]})


def test_reckoning_among_measures_is_told_how_to_be_written():
    with pytest.raises(SieveError, match="ratio of … to …"):
        CALLS.tally("sum of dues / rows")
    with pytest.raises(SieveError, match="Did you mean 'tons/day'"):
        table_from({"tons/day": [1]}).tally("sum of ton/day")
