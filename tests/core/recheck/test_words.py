"""The recheck's own reading of words: the same as the first one, by other code, or a loud fault."""

from datetime import date

import pytest
from hypothesis import given
from hypothesis import strategies as st

import oracle
import strategies as make
from even_sieve.core.criteria import (
    EVERYTHING,
    Settings,
    criteria_from_range,
    parse_criteria,
    prepare,
)
from even_sieve.core.criteria.operands import bare
from even_sieve.core.errors import RecheckError
from even_sieve.core.query import Query
from even_sieve.core.recheck import read_again, read_given_again
from even_sieve.core.table import table_from_columns
from even_sieve.core.tally import Defence, tally

NAMES = (*make.COLUMNS, "hours in port", "not paid", "5 > 3")
SET = Settings(
    {"floor": 500, "zones": ["Outer", None, "R*"], "none": None, "q": "2031-Q1",
     "late": parse_criteria("dues > {floor}")},
    date(2031, 5, 31), 4,
)  # fmt: skip
WORDS = [
    "zone = a | B* | 5..7 & != ?x or not (zone is not a number and dues < 1e3)",
    'hours in port > 5 and not paid = yes and "5 > 3" = 2 or #2 = "a ""b"" c"',
    r"zone = Red\ and\ blue or zone = say \"hi\" | a\*b* and zone = sand&gravel",
    "zone = or? | this (big) | x(y) and (zone = a(b))",
    "zone = {zones} and dues >= {floor} and not {late} or zone = x{floor}*",
    "zone = {none} or dues in {none}..{floor} or (zone = a and not zone = {none})",
    "dues in {none}..{none} or dues = {none} | 5",
    "arrived = {q} | 2031-W07 | 2031q3 | 20310105T1430 | 2031-01-05 14:30:15,5+02:00",
    "arrived in 2031-02..2031-Q2 | 2031-01-01/2031-03-31 | ..today | FY2031-Q2..",
    "departed <> @arrived and departed ≥ @\"arrived\" or zone=@zone&is filled",
    "dues < 100 | > 600 | is error & not 7 | 8",
    "dues in 1.234,56..5% | EUR 5..EUR 7 | 007 | -.5 | 12345678901234567890",
    "zone = ' a ' and zone = 'b' and zone=c",
]  # fmt: skip
PERIODS = [
    f"arrived in {which} {unit}"
    for which in ("this", "previous", "next", "last 3", "next 2", "last 9999")
    for unit in ("week", "month", "quarter", "year", "fiscal quarter", "fiscal year", "days")
    if unit != "days" or which[-1].isdigit()
    if not (unit.startswith("fiscal") and which[-1].isdigit())
] + [f"arrived in {unit} to date" for unit in ("week", "month", "fiscal quarter", "fiscal year")]


@pytest.mark.parametrize("text", [*WORDS, *PERIODS])
def test_both_readers_make_the_same_of_words(text):
    assert read_again(text, NAMES, SET) == prepare(parse_criteria(text, NAMES), SET).criteria


@given(make.criteria.map(oracle.spell), st.dates(), st.integers(1, 12))
def test_both_readers_make_the_same_of_random_words(text, today, month):
    settings = Settings({}, today, month)
    fast = prepare(parse_criteria(text, NAMES), settings).criteria
    assert read_again(text, NAMES, settings) == fast


def test_ranges_mappings_and_nodes_are_read_again():
    cells = [["a | b*", ">= 5 & < 7", "not 6"], ["x and y", None, ""], [None, " ", ""]]
    read = criteria_from_range(["zone", "dues", "dues"], cells)
    given = [read, {"zone": ["a", "> b"], "dues": 5}, read.criteria, None]
    fast = prepare(Query.of(where=given).criteria(table_from_columns({"zone": []})).criteria, SET)
    assert read_given_again(given, NAMES, SET) == fast.criteria
    assert read_given_again(["zone = {none}", None], NAMES, SET) == EVERYTHING


def test_words_that_were_misread_at_first_are_found_out(monkeypatch):
    table = table_from_columns({"dues": [30, 40, 50]})
    right = bare.read_number
    monkeypatch.setattr(bare, "read_number", lambda text: right(text.removesuffix("0")))
    for where, measure in (("dues < 50", "rows"), (None, "rows where dues > 40")):
        query = Query.of(where=where)
        (found,) = tally(query, table, [measure])
        with pytest.raises(RecheckError, match="row 1"):
            Defence(query, table).recheck(found)


def test_words_that_only_one_reader_understands_are_told(monkeypatch):
    table = table_from_columns({"dues": [5, 40, 50]})
    query = Query.of(where="dues < 50")
    (found,) = tally(query, table, ["rows"])
    monkeypatch.setattr("even_sieve.core.recheck.value_words.ValueWords.value", None)
    monkeypatch.setattr(
        "even_sieve.core.recheck.words._Words.clauses", lambda self, column: EVERYTHING
    )
    with pytest.raises(RecheckError, match="could not be read a second time"):
        Defence(query, table).recheck(found)
