"""What people pass by mistake: understood, or refused in one line with what is accepted."""

import pickle
from datetime import date

import numpy as np
import pandas as pd
import pyarrow as pa
import pytest

import even_sieve as es
from even_sieve import LookUp, Report, SieveError, field, read_table, table_from

CALLS = table_from({
    "zone": ["Outer", "Inner", "Outer"], "dues": [120.5, 80, "waived"],
    "arrived": [date(2031, 1, 5), None, date(2031, 2, 1)],
})  # fmt: skip
FRAME = pd.DataFrame({"zone": ["Outer", "Inner"], "rate": [1.0, 2.0]})
LINES = CALLS.tally("rows", "sum of dues", by="zone")
TARIFF = table_from(FRAME)


@pytest.mark.parametrize(("call", "message"), [
    (lambda: CALLS.tally(None), "a measure is a text such as 'sum of zone', not None"),
    (lambda: CALLS.tally({1: "rows"}), "the name of a measure must be a text, not an int"),
    (lambda: CALLS.tally("rows", by=5), "by must be an axis as text, or several of them, not an int"),
    (lambda: CALLS.tally("rows", by="zone", across=["zone"]), "across must be one axis as text, not a list"),
    (lambda: CALLS.tally("rows", by="zone", top="2"), "top must be a whole number from 1 on, not a str"),
    (lambda: CALLS.tally("rows", by="zone", top=0), "top must be a whole number from 1 on, not 0"),
    (lambda: CALLS.tally("rows", by="zone", sort=1), "sort must be a measure's name, or label, as text, not an int"),
    (lambda: CALLS.tally("rows", where=FRAME), "where is criteria, a mask or row numbers; of a criteria range"),
    (lambda: CALLS.tally("rows", where=CALLS), "criteria cannot be made from Table"),
    (lambda: CALLS.tally("rows", where=[True, False]), "a mask of 2 does not fit a table of 3 rows"),
    (lambda: CALLS.tally("rows", where=np.array([9])), "no row has the number 9"),
    (lambda: CALLS.tally("rows", keep=3), "keep must be words such as hidden"),
    (lambda: CALLS.tally("rows", parameters=["a"]), "parameters must be a mapping of names to values, not a list"),
    (lambda: CALLS.tally("rows", parameters={"z": FRAME}), "parameter 'z' must be a number, a date"),
    (lambda: CALLS.tally("rows", as_of=pd.NaT), "as_of 'NaT' is no date"),
    (lambda: CALLS.tally("rows", fiscal_start="4"), "fiscal_start must be a whole number from 1 on, not a str"),
    (lambda: CALLS.tally("rows", look_ups=CALLS), "a look-up must be what LookUp.of(table, on) gives"),
    (lambda: CALLS.tally("rows", derive=5), "derive must be texts such as 'per ton = dues / tonnage'"),
    (lambda: CALLS.tally("rows", strict="no"), "strict must be True or False, not a str"),
    (lambda: CALLS.tally("rows", threads=-1), "threads must be a whole number from 0 on, not -1"),
    (lambda: CALLS.tally("rows", wher="x"), "there is no keyword 'wher'; did you mean 'where'?"),
    (lambda: CALLS.mark(hidden=True), "hidden must be criteria, a mask or row numbers, not a bool"),
    (lambda: CALLS.mark(hidden=pd.Series([0.5, 1, 2])), "hidden must be criteria, a mask or row numbers, not a Series of float64"),
    (lambda: CALLS.mark(hidden=np.array([True])), "a mask of 1 does not fit a table of 3 rows"),
    (lambda: CALLS.mark(by=5), "by must be the name of a column, not an int"),
    (lambda: CALLS.column(1), "a column's name must be a text, not an int"),
    (lambda: CALLS.look_up(TARIFF, on=None), "look up needs a key column"),
    (lambda: CALLS.lines("rows", entries="zone = Outer"), "entries must be Heading, LineRows, Together"),
    (lambda: CALLS.lines("rows", entries=[5]), "an entry of lines must be Heading"),
    (lambda: CALLS.bridge(["rows"]), "the measure of a bridge must be a text such as 'sum of dues', not a list"),
    (lambda: CALLS.rows(LINES.total), "the figure must be one tally, such as found[0], not a Tallies"),
    (lambda: CALLS.explain("rows"), "an answer must be what `tally`, `lines` or `bridge` gave, not a str"),
    (lambda: CALLS.write(None), "what is written must be a path, not None"),
    (lambda: LINES.write(5), "what is written must be a path, not an int"),
    (lambda: LINES.plot(axes="x"), "axes must be those of Matplotlib, not a str"),
    (lambda: LINES.plot(5), "the measure must be a text, not an int"),
    (lambda: LINES[0], "no line '0'; by position: found.lines[0]"),
    (lambda: LINES["Outr"], "no line 'Outr'; did you mean 'Outer'?"),
    (lambda: LINES[0:1], "what finds a line must be its key (by position: found.lines[0]), not a slice"),
    (lambda: LINES.total["sum of due"], "no tally 'sum of due'; did you mean 'sum of dues'?"),
    (lambda: LINES.total[9], "there is no tally 9: there are 2, from 0 on"),
    (lambda: LINES.head(-1), "the number of lines must be a whole number from 0 on, not -1"),
    (lambda: LINES.select("row"), "no measure 'row'; did you mean 'rows'?"),
    (lambda: LINES.select(), "no measure is named"),
    (lambda: LINES.rename(["rows"]), "names must be a mapping of names to new ones, not a list"),
    (lambda: LINES.rename({"rows": "sum of dues"}), "two measures would be called 'sum of dues'"),
    (lambda: LINES.sort("dues"), "there is no measure 'dues' to sort by"),
    (lambda: table_from("calls.csv"), "a table is made from data, not from a path: read_table('calls.csv')"),
    (lambda: table_from([]), "an empty list has no columns"),
    (lambda: table_from({"a": 5}), "column 'a' must be a list or an array of cells, not an int"),
    (lambda: table_from({"a": "abc"}), "column 'a' must be a list or an array of cells, not a str"),
    (lambda: table_from([[1, 2]]), "what a table is made from must be a mapping of names"),
    (lambda: table_from({"a": [{}]}), "column 'a': a dict cannot be a cell"),
    (lambda: read_table(None), "what a table is read from must be a path or a list of paths, not None"),
    (lambda: read_table(FRAME), "what a table is read from must be a path or a list of paths; of data give"),
    (lambda: read_table("a.csv", delimeter=";"), "there is no keyword 'delimeter'; did you mean 'delimiter'?"),
    (lambda: read_table("a.csv", progress=5), "progress must be a function that takes the share done, not an int"),
    (lambda: read_table("a.csv", asks=["dues"]), "asks must be one text, of all names that will be asked for"),
    (lambda: read_table("a.csv", as_number=5), "as_number must be a text or several, not an int"),
    (lambda: read_table("a.csv", blank_as=[1]), "blank_as must be a text or several, not an int"),
    (lambda: read_table("a.csv", header="x"), "header must be a whole number, not a str"),
    (lambda: es.combine(CALLS), "several tables are combined: give a list of them"),
    (lambda: es.read_criteria(None), "a criteria range must be a path, a data frame"),
    (lambda: es.read_parameters(None), "what holds parameters must be a path, not None"),
    (lambda: Report.from_file({}), "a report file must be a path, not a dict"),
    (lambda: LookUp.of(None, "zone"), "what is looked up in must be a table, not None"),
    (lambda: es.shown_as(["EUR"]).__enter__(), "looks must be a mapping of names to words, not a list"),
    (lambda: es.shown_as({"dues": 5}).__enter__(), "a look must be words such as 'EUR' or 'percent 1', not an int"),
    (lambda: es.parse_criteria(5), "criteria must be a text such as 'zone = Outer', not an int"),
    (lambda: es.describe("zone = Outer"), "criteria must be what parse_criteria gives"),
    (lambda: es.write_criteria(None), "criteria must be what parse_criteria gives"),
    (lambda: es.write_range("zone"), "criteria must be what parse_criteria gives"),
    (lambda: field(None), "the name of a column must be a text, not None"),
    (lambda: field("zone") == ["a"], "what field 'zone' is compared with must be one value"),
    (lambda: es.parameter(5), "the name of a parameter must be a text, not an int"),
    (lambda: es.Session(None), "what is tried on must be a table, not None"),
])  # fmt: skip
def test_a_mistake_is_refused_with_what_is_accepted(call, message):
    with pytest.raises((TypeError, SieveError, IndexError)) as caught:
        call()
    assert str(caught.value).startswith(message)
    assert len(str(caught.value).splitlines()) <= 2


@pytest.mark.parametrize("rows", [
    [True, False, True], np.array([True, False, True]), pd.Series([True, False, True], index=[5, 6, 7]),
    pd.Series([True, False, True], dtype="boolean"), pa.array([True, False, True]),
    [1, 3], (1, 3), {1, 3}, range(1, 4, 2), np.array([1, 3]), pd.Index([1, 3]), pa.array([1, 3]),
])  # fmt: skip
def test_rows_are_chosen_by_masks_and_numbers(rows):
    found = CALLS.tally("rows", "sum of dues", by="zone", where=rows)
    assert [line.tallies[0].value for line in found] == [2]
    assert all("agrees" in each.words() for each in CALLS.recheck(found))
    assert CALLS.rows(found.total[0]) == (1, 3)
    assert CALLS.sift(rows).names == CALLS.names
    assert len(CALLS.sift(rows)) == 2
    assert CALLS.listing(rows).names == CALLS.names
    assert CALLS.mark(hidden=rows).tally("rows")[0].value == 1
    assert pickle.loads(pickle.dumps(found)) == found
    both = CALLS.tally(
        "rows", where=rows, derive={"double": "dues * 2"}, look_ups=LookUp.of(TARIFF, "zone")
    )
    assert both[0].value == 2


def test_no_rows_are_chosen_by_an_empty_array():
    for rows in (np.array([]), np.array([], dtype=int), pd.Series([], dtype=bool)):
        if len(rows) == 0 and rows.dtype == bool:
            with pytest.raises(SieveError, match="a mask of 0 does not fit"):
                CALLS.tally("rows", where=rows)
        else:
            assert CALLS.tally("rows", where=rows)[0].value == 0


def test_words_in_other_wrappings_are_understood():
    measures = ["rows", "sum of dues"]
    plain = CALLS.tally(*measures)
    for given in (measures, tuple(measures), (each for each in measures)):
        assert CALLS.tally(given) == plain
    named = CALLS.tally({"calls": "rows", "total": "sum of dues"})
    assert [(each.name, each.value) for each in named] == [("calls", 3), ("total", 200.5)]
    lines = CALLS.lines(measures, entries={"outer": "zone = Outer", "inner": "zone = Inner"})
    assert lines["outer"].tallies[0].value == 2
    assert CALLS.derive(["a = dues * 2", "b = a + 1"]).names[-2:] == ("a", "b")
    assert CALLS.look_up(FRAME, on="zone").column("rate") == [1, 2, 1]
    assert table_from(pd.Series([1, 2], name="dues")).names == ("dues",)
    assert table_from(CALLS) is CALLS
    assert CALLS.tally("rows", as_of=np.datetime64("2031-03-01"), keep=["hidden"], derive=None)


def test_answers_take_other_shapes():
    found = CALLS.tally("rows", "sum of dues", by=["zone", "arrived"])
    small = found.select("sum of dues").rename({"sum of dues": "dues"})
    assert [tally.name for tally in small.total] == ["dues"]
    assert small.to_frame(totals=False)["dues"].tolist() == [80, 120.5, 0]
    assert small.lines[1].tallies["dues"].value == 120.5
    first = LINES.sort("sum of dues desc").head(1)
    assert [line.key for line in first] == [("Outer",)]
    assert first.total == LINES.total
    assert "the first 1 of 2 lines; the total is that of all" in str(first)
    assert LINES.head(2) is LINES
    assert [(zone, [line.key[1] for line in lines]) for zone, lines in found.groups()] == [
        ("Inner", [None]), ("Outer", [date(2031, 1, 5), date(2031, 2, 1)])
    ]  # fmt: skip
    for answer in (small, first, found, LINES.total.select("rows"), CALLS.bridge("rows"),
                   CALLS.lines("rows", entries={"a": "zone = Outer"}), CALLS.explain(found)):  # fmt: skip
        assert pickle.loads(pickle.dumps(answer)) == answer
    assert LINES.total[-1:] == (LINES.total["sum of dues"],)


@pytest.mark.parametrize("mistake", [
    lambda: CALLS.tally("sum of due"), lambda: CALLS.tally("rows", where="dues > > 3"), lambda: read_table("none.csv"),
    lambda: CALLS.tally("only of dues"), lambda: CALLS.tally("rows", by="zone")["none"],
])  # fmt: skip
def test_an_error_travels_between_processes_whole(mistake):
    with pytest.raises(SieveError) as caught:
        mistake()
    there = pickle.loads(pickle.dumps(caught.value))
    assert (type(there), str(there), vars(there)) == (
        type(caught.value), str(caught.value), vars(caught.value),
    )  # fmt: skip
