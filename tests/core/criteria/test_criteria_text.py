"""Criteria read from text: what is accepted, how it is written back and said, what is refused."""

import re

import pytest
from hypothesis import given
from hypothesis import strategies as st

from even_sieve.core.criteria import describe, parse_cell, parse_criteria, write_criteria
from even_sieve.core.criteria.conditions import value
from even_sieve.core.errors import CriteriaError

# The text, the same written back, the same in words.
ACCEPTED = [
    ("zone = Outer", "zone = Outer", "zone is Outer"),
    ("zone=Outer", "zone = Outer", "zone is Outer"),
    (
        "ZONE = outer and zone = Inner",
        "ZONE = outer and zone = Inner",
        "ZONE is outer, and zone is Inner",
    ),
    ("zone != Outer", "zone != Outer", "zone is not Outer"),
    ("zone <> Outer", "zone != Outer", "zone is not Outer"),
    ("zone ≠ Outer", "zone != Outer", "zone is not Outer"),
    ("dues > 500", "dues > 500", "dues is above 500"),
    ("dues >= 500.50", "dues >= 500.50", "dues is at least 500.50"),
    ("dues < -3", "dues < -3", "dues is below -3"),
    ("dues <= .5", "dues <= .5", "dues is at most 0.5"),
    ("dues ≥ 1e3", "dues >= 1e3", "dues is at least 1000"),
    ("dues ≤ 2", "dues <= 2", "dues is at most 2"),
    ("vessel = B*", "vessel = B*", "vessel begins with B"),
    ("vessel = *ship", "vessel = *ship", "vessel ends with ship"),
    ("vessel = *ship*", "vessel = *ship*", "vessel contains ship"),
    ("vessel = *", "vessel = *", "vessel is any text"),
    ("berth = ?-12", "berth = ?-12", "berth reads ?-12 (* is any run of characters, ? is one)"),
    ("berth = \\*\\?", 'berth = "*?"', 'berth is "*?"'),
    ("berth = a\\|b", 'berth = "a|b"', 'berth is "a|b"'),
    (
        "zone = Outer | Inner | B*",
        "zone = Outer | Inner | B*",
        "zone is Outer, Inner or begins with B",
    ),
    ("zone != Outer | Inner", "zone != Outer | Inner", "zone is not Outer or Inner"),
    ("zone in Outer | Inner", "zone = Outer | Inner", "zone is Outer or Inner"),
    ("dues in 100..500", "dues in 100..500", "dues is from 100 to 500, both included"),
    ("dues in 100..", "dues in 100..", "dues is at least 100"),
    ("dues in ..500", "dues in ..500", "dues is at most 500"),
    (
        "dues = 1 | 5..7 | 9..",
        "dues in 1 | 5..7 | 9..",
        "dues is 1, from 5 to 7, both included or at least 9",
    ),
    (
        "arrived in 2031-01-01..2031-03-31",
        "arrived in 2031-01-01..2031-03-31",
        "arrived from 1 January 2031 to 31 March 2031, both days included",
    ),
    (
        "arrived in 2031-01-01/2031-03-31",
        "arrived in 2031-01-01..2031-03-31",
        "arrived from 1 January 2031 to 31 March 2031, both days included",
    ),
    (
        "arrived in 2031-Q1",
        "arrived in 2031-Q1",
        "arrived from 1 January 2031 to 31 March 2031, both days included",
    ),
    (
        "arrived in 2031Q2",
        "arrived in 2031Q2",
        "arrived from 1 April 2031 to 30 June 2031, both days included",
    ),
    (
        "arrived in 2031-03",
        "arrived in 2031-03",
        "arrived from 1 March 2031 to 31 March 2031, both days included",
    ),
    (
        "arrived in 2031-W07",
        "arrived in 2031-W07",
        "arrived from 10 February 2031 to 16 February 2031, both days included",
    ),
    ("arrived in 2031", "arrived = 2031", "arrived is 2031"),
    (
        "arrived in 2031-01..2031-Q2",
        "arrived in 2031-01..2031-Q2",
        "arrived from 1 January 2031 to 30 June 2031, both days included",
    ),
    ("arrived = 2031-03-31", "arrived = 2031-03-31", "arrived on 31 March 2031"),
    (
        "arrived <= 2031-03-31",
        "arrived <= 2031-03-31",
        "arrived is no later than the end of 31 March 2031",
    ),
    (
        "arrived > 2031-03-31T14:30",
        "arrived > 2031-03-31T14:30",
        "arrived is after 31 March 2031 14:30",
    ),
    (
        "arrived > 2031-03-31 14:30:05",
        "arrived > 2031-03-31 14:30:05",
        "arrived is after 31 March 2031 14:30:05",
    ),
    (
        "arrived = 2031-03-31T14:30Z",
        "arrived = 2031-03-31T14:30Z",
        "arrived on 31 March 2031 14:30",
    ),
    ("arrived in last 30 days", "arrived in last 30 days", "arrived in the period 'last 30 days'"),
    ("arrived in This  Month", "arrived in this month", "arrived in the period 'this month'"),
    ("arrived in year to date", "arrived in year to date", "arrived in the period 'year to date'"),
    ("arrived in FY2031", "arrived in FY2031", "arrived in the period 'FY2031'"),
    ("arrived in fy2031-q2", "arrived in FY2031-Q2", "arrived in the period 'FY2031-Q2'"),
    (
        "arrived in ..2031-06",
        "arrived in ..2031-06",
        "arrived up to 30 June 2031, that day included",
    ),
    ("remarks is blank", "remarks is blank", "remarks is blank"),
    ("remarks is not blank", "remarks is not blank", "remarks is not blank"),
    ("remarks is filled", "remarks is filled", "remarks is filled"),
    ("dues is error", "dues is error", "dues is an error"),
    ("dues is a number", "dues is number", "dues is a number"),
    ("dues is text", "dues is text", "dues is text"),
    ("arrived is date", "arrived is date", "arrived is a date"),
    ("paid is yes/no", "paid is yes/no", "paid is a yes/no"),
    ("paid = yes", "paid = yes", "paid is yes"),
    ("paid = FALSE", "paid = FALSE", "paid is FALSE"),
    ('vessel = "B*"', 'vessel = "B*"', 'vessel is "B*"'),
    ('year = "1996"', 'year = "1996"', 'year is "1996"'),
    ('vessel = "Red ""Knot"""', 'vessel = Red "Knot"', 'vessel is "Red "Knot""'),
    ('vessel = "a and b"', 'vessel = "a and b"', "vessel is a and b"),
    ("dues >= {floor}", "dues >= {floor}", "dues is at least the value of {floor}"),
    (
        "dues in {low}..{high}",
        "dues in {low}..{high}",
        "dues is from the value of {low} to the value of {high}, both included",
    ),
    ("zone = {zone}", "zone = {zone}", "zone is the value of {zone}"),
    ("vessel = {begin}*", "vessel = {begin}*", "vessel begins with the value of {begin}"),
    ("vessel = Berth {n}", "vessel = Berth {n}", "vessel is Berth {n}"),
    ("departed < @arrived", "departed < @arrived", "departed is below the arrived of the same row"),
    (
        'departed >= @"time of day"',
        "departed >= @time of day",
        "departed is at least the time of day of the same row",
    ),
    ("zone = @other", "zone = @other", "zone is the other of the same row"),
    ("not zone = Outer", "zone != Outer", "zone is not Outer"),
    (
        "not (zone = Outer or dues > 5)",
        "not (zone = Outer or dues > 5)",
        "it is not so that (zone is Outer, or dues is above 5)",
    ),
    ("not not zone = Outer", "zone = Outer", "zone is Outer"),
    ("(zone = Outer)", "zone = Outer", "zone is Outer"),
    (
        "zone = Outer and (dues > 5 or hours < 2)",
        "zone = Outer and (dues > 5 or hours < 2)",
        "zone is Outer, and (dues is above 5, or hours is below 2)",
    ),
    (
        "zone = Outer or vessel = B* and dues > 5",
        "zone = Outer or vessel = B* and dues > 5",
        "zone is Outer; or vessel begins with B, and dues is above 5",
    ),
    (
        "(zone = Outer or vessel = B*) and dues > 5",
        "(zone = Outer or vessel = B*) and dues > 5",
        "(zone is Outer, or vessel begins with B), and dues is above 5",
    ),
    ("dues > 10 & < 20", "dues > 10 and dues < 20", "dues is above 10, and dues is below 20"),
    (
        "dues > 10 & < 20 | is blank",
        "dues > 10 and dues < 20 or dues is blank",
        "dues is above 10, and dues is below 20; or dues is blank",
    ),
    ("dues < 10 | > 20", "dues < 10 or dues > 20", "dues is below 10, or dues is above 20"),
    (
        "dues is number & > 5",
        "dues is number and dues > 5",
        "dues is a number, and dues is above 5",
    ),
    ("hours alongside > 5", "hours alongside > 5", "hours alongside is above 5"),
    ('"hours in port" > 5', '"hours in port" > 5', "hours in port is above 5"),
    ("#5 = x", "#5 = x", "#5 is x"),
    ("vessel = Smith & Sons", "vessel = Smith & Sons", "vessel is Smith & Sons"),
    (
        "vessel = Sand (fine) and zone = x",
        "vessel = Sand (fine) and zone = x",
        'vessel is "Sand (fine)", and zone is x',
    ),
    (
        "vessel = Or-well or zone = x",
        "vessel = Or-well or zone = x",
        "vessel is Or-well, or zone is x",
    ),
    ("vessel = notable", "vessel = notable", "vessel is notable"),
    ("note = 3..x", "note = 3..x", "note is 3..x"),
    ("vessel > M", "vessel > M", "vessel comes after M"),
    (
        "zone = Outer AND dues > 5 OR dues < 2",
        "zone = Outer and dues > 5 or dues < 2",
        "zone is Outer, and dues is above 5; or dues is below 2",
    ),
]

# The text, the position of the error, the fact, the hint.
REFUSED = [
    ("", 1, "there are no criteria", "Write for example: zone is filled"),
    ("   ", 1, "there are no criteria", "Write for example: zone is filled"),
    (
        "zone",
        1,
        "no comparison after 'zone'",
        "Accepted are =, !=, <, <=, >, >=, in, is; for example: zone is filled",
    ),
    (
        "zone Outer",
        1,
        "no comparison after 'zone'",
        "Accepted are =, !=, <, <=, >, >=, in, is; for example: zone = Outer",
    ),
    ("zone =", 7, "a value is missing after '='", "For cells without a value write: is blank"),
    ("zone = ", 8, "a value is missing after '='", "For cells without a value write: is blank"),
    (
        "zone = | Inner",
        8,
        "a value is missing after '='",
        "For cells without a value write: is blank",
    ),
    ("zone == 3", 6, "'==' is not a comparison", "Write ="),
    ("dues => 3", 6, "'=>' is not a comparison", "Write >="),
    ("dues =< 3", 6, "'=<' is not a comparison", "Write <="),
    ("vessel begins with B", 8, "'begins with' is not a comparison here", "Write: vessel = B*"),
    ("vessel starts with B", 8, "'starts with' is not a comparison here", "Write: vessel = B*"),
    ("arrived since 2031-03", 9, "'since' is not a comparison here", "Write: arrived >= 2031-03"),
    ("dues more than 5", 6, "'more than' is not a comparison here", "Write: dues > 5"),
    (
        "zone not in Outer | Inner",
        1,
        "'not' stands before a condition here",
        "Write: not zone in Outer | Inner",
    ),
    (
        "zone != Outer or Inner",
        18,
        "no comparison after 'Inner'",
        "For several values of one column write: zone != Outer | Inner",
    ),
    ("vessel ends with ship", 8, "'ends with' is not a comparison here", "Write: vessel = *ship"),
    ("vessel contains ship", 8, "'contains' is not a comparison here", "Write: vessel = *ship*"),
    (
        "vessel does not contain ship",
        8,
        "'does not contain' is not a comparison here",
        "Write: vessel != *ship*",
    ),
    ("dues between 1 and 5", 6, "'between' is not a comparison here", "Write: dues in 1..5"),
    ("vessel like B*", 8, "'like' is not a comparison here", "Write: vessel = B*"),
    ("zone equals Outer", 6, "'equals' is not a comparison here", "Write: zone = Outer"),
    ("zone = a)", 9, "this bracket closes nothing", ""),
    ("(zone = a", 1, "the bracket that opens here is not closed", ""),
    ("zone = a and", 13, "a condition is missing here", "Write for example: zone is filled"),
    ("and zone = a", 1, "a condition is missing before 'and'", ""),
    ("zone = a and or b = 1", 14, "a condition is missing before 'or'", ""),
    ("or", 1, "a condition is missing before 'or'", ""),
    ("= 5", 1, "a column name is missing before the operator", ""),
    (
        "x is blnk",
        6,
        "'is blnk' is not known",
        "Did you mean 'blank'? Accepted are is blank, filled, error, number, text, date, yes/no, each with not; to compare, write: x = blnk",
    ),
    (
        "x is",
        5,
        "'is' needs a kind after it",
        "Accepted are is blank, filled, error, number, text, date, yes/no, each with not; to compare, write: x = Outer",
    ),
    (
        "x is not",
        9,
        "'is' needs a kind after it",
        "Accepted are is blank, filled, error, number, text, date, yes/no, each with not; to compare, write: x != Outer",
    ),
    ("zone in (a, b)", 9, "a list is written with bars and without brackets", "Write: a | b"),
    ('zone = "a', 8, "the quotes that open here are not closed", ""),
    (
        'zone = "a" b',
        12,
        "the value goes on after its closing quotes",
        "Quote the whole value, or none",
    ),
    ("x = > 5", 5, "two comparisons in a row", 'Quote a value that begins so: "=5"'),
    (
        "x > 5 | 6",
        7,
        "'>' takes one value",
        "Write the comparison again after the bar: … | > value",
    ),
    ("x > 1..5", 5, "'>' takes one value, not a window", ""),
    (
        "x > B*",
        5,
        "a wildcard cannot follow '>'",
        "Wildcards go with = and !=; write \\* for a real star",
    ),
    (
        "x = 1 y = 2",
        9,
        "'=' stands inside the value '1 y = 2'",
        "Is an 'and' or 'or' missing before it? If not, put the value in quotes; so too a column name with 'in' or 'is' in it",
    ),
    ("x = {a", 5, "the brace that opens here is not closed", "Write for example: {floor}"),
    ("x = {}", 5, "a parameter needs a name in its braces", ""),
    (
        "x in a..b",
        6,
        "'a..b' is no window of numbers or dates",
        "Write for example: 100..500, 100.., 2031-01-01..2031-03-31",
    ),
    (
        "x in 2031-01-01..b",
        6,
        "'2031-01-01..b' is no window of numbers or dates",
        "Write for example: 100..500, 100.., 2031-01-01..2031-03-31",
    ),
    ("x = @", 6, "a column name is missing after '@'", "Write the name of a column after it"),
    (
        "hours in port = 3",
        15,
        "'=' stands inside the value 'port = 3'",
        "Is an 'and' or 'or' missing before it? If not, put the value in quotes; so too a column name with 'in' or 'is' in it",
    ),
    ("not", 4, "a condition is missing here", "Write for example: zone is filled"),
    ("not (zone = a", 5, "the bracket that opens here is not closed", ""),
    ("(zone = a) zone = b", 12, "'zone = b' is one too many", "Join conditions with and, or"),
    (
        "zone = a | ",
        12,
        "a value is missing after '='",
        "For cells without a value write: is blank",
    ),
    (
        "zone = a & > ",
        14,
        "a value is missing after '>'",
        "For cells without a value write: is blank",
    ),
]

# A cell of a criteria range under the column x, and the same as text.
CELLS = [
    ("Outer", "x = Outer"),
    ("= Outer", "x = Outer"),
    (">= 500", "x >= 500"),
    (">= 10 & < 20", "x >= 10 and x < 20"),
    ("< 10 | > 20", "x < 10 or x > 20"),
    (">= 10 & < 20 | is blank", "x >= 10 and x < 20 or x is blank"),
    ("Outer | Inner | B*", "x = Outer | Inner | B*"),
    ("!= Outer | Inner", "x != Outer | Inner"),
    ("not B*", "x != B*"),
    ("not not B*", "x = B*"),
    ("not > 5", "not x > 5"),
    ("Outer | not B*", "x = Outer or x != B*"),
    ("2031-Q1", "x in 2031-Q1"),
    ("in 2031-Q1", "x in 2031-Q1"),
    ("100..500", "x in 100..500"),
    ("last 30 days", "x in last 30 days"),
    ("is blank", "x is blank"),
    ("is not blank", "x is not blank"),
    ("{floor}", "x = {floor}"),
    (">= {floor}", "x >= {floor}"),
    ("@other", "x = @other"),
    ("sand and gravel", 'x = "sand and gravel"'),
    ("a = b", 'x = "a = b"'),
    ("left)", 'x = "left)"'),
    ("Smith & Sons", "x = Smith & Sons"),
    ('"not paid"', 'x = "not paid"'),
    ('"B*"', 'x = "B*"'),
    ("  Outer  ", "x = Outer"),
]
REFUSED_CELLS = [
    ("= ", 3, "a value is missing after '='"),
    ("> 5 6 | 7", 7, "'>' takes one value"),
    ("is blnk", 4, "'is blnk' is not known"),
    ('"a" b', 5, "the value goes on after its closing quotes"),
    ("== 5", 1, "'==' is not a comparison"),
]


@pytest.mark.parametrize(("text", "written", "words"), ACCEPTED)
def test_criteria_are_read_written_back_and_said(text, written, words):
    nodes = parse_criteria(text)
    assert write_criteria(nodes) == written
    assert parse_criteria(written) == nodes
    assert describe(nodes) == words


@pytest.mark.parametrize(("text", "position", "fact", "hint"), REFUSED)
def test_what_cannot_be_read_is_refused_at_its_position(text, position, fact, hint):
    with pytest.raises(CriteriaError) as caught:
        parse_criteria(text, ("zone", "dues"))
    error = caught.value
    assert (error.position, error.fact, error.hint) == (position, fact, hint)
    where = f"criteria '{text}', position {position}: {fact}"
    assert str(error) == (f"{where}\n{hint}" if hint else where)


@pytest.mark.parametrize(("cell", "text"), CELLS)
def test_a_cell_of_a_range_is_the_text_after_the_column(cell, text):
    assert parse_cell(cell, "x") == parse_criteria(text)


@pytest.mark.parametrize(("cell", "position", "fact"), REFUSED_CELLS)
def test_a_cell_that_cannot_be_read_is_refused(cell, position, fact):
    with pytest.raises(CriteriaError) as caught:
        parse_cell(cell, "x", "wanted.csv, row 2, column 'x':")
    assert (caught.value.position, caught.value.fact) == (position, fact)
    assert str(caught.value).startswith(f"wanted.csv, row 2, column 'x': '{cell}', position")


def test_a_blank_cell_sets_no_condition():
    assert parse_cell("", "x") is None
    assert parse_cell("  ", "x") is None


def test_known_column_names_may_hold_any_word():
    names = ("hours in port", "is late", "dues", "not billed", "a = b", "and")
    for text, column in (
        ("hours in port > 5", "hours in port"),
        ("Hours In Port in 1..2", "hours in port"),
        ("is late = yes", "is late"),
        ("not billed is blank", "not billed"),
        ("a = b = 5", "a = b"),
        ("and = 5", "and"),
        ("dues > 5", "dues"),
    ):
        assert parse_criteria(text, names).column == column


def test_conditions_know_where_they_stood():
    nodes = parse_criteria("zone = Outer and (dues > 5 or not hours < 2)")
    assert [part.position for part in (nodes.parts[0], *nodes.parts[1].parts)] == [1, 19, 35]


_PIECES = ["Pier", "and", "OR", "or_9", "ör", "a", "2031-Q1", "7..9", ".", "-", "|", " | ", "b = 2", "(", ")", "not", "  ", "*", "is blank", '"c"', "\\\\", "{x}", "x,y"]  # fmt: skip


@given(st.lists(st.sampled_from(_PIECES), min_size=1, max_size=7), st.sampled_from(["", " "]))
def test_words_are_read_at_once_as_letter_by_letter(pieces, between):
    text = f"zone = {between.join(pieces)}"
    found = [_read(text), _read_cell(text[7:])]
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(value, "_WORDS", re.compile(r"((?i:and|or))\s*(?=\||\Z)"))
        assert found == [_read(text), _read_cell(text[7:])]


def _read(text, parse=parse_criteria):
    try:
        return parse(text)
    except CriteriaError as error:
        return str(error)


def _read_cell(text):
    return _read(text, lambda cell: parse_cell(cell, "zone"))
