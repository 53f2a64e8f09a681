"""Notices: each code, what brings it about, and what it says."""

import pytest

from even_sieve import read_table, table_from
from even_sieve.core.cells import CellError
from even_sieve.core.notices import Code, texts_of
from even_sieve.public.criteria import read_criteria

LOST = CellError("#N/A", "not found")
CALLS = table_from(
    {
        "zone": ["Outer", "Inner", "North", "Outer", None, "Inner"],
        "vessel": ["Bold Curlew", "Eider", "Barnacle", "Eider", "Dunlin", "Petrel"],
        "dues": [500, "waived", 120.5, None, LOST, "1,200"],
        "tons": [10, 20, 30, 40, 50, 60],
        "code": ["007", "12 t", "8", "9", "x", "y"],
        "arrived": ["2031-01-05", "05/01/2031", "2031-02-30", "x", "y", "z"],
    }
)
PRICED = table_from({"dues": [500, 120.5]})
DATED = table_from(
    {"arrived": __import__("numpy").array(["2031-01-05", "2031-02-05"], "datetime64[D]")}
)

# The code, criteria, the text of the notice. More notices may come beside it.
ON_CRITERIA = [
    (Code.NO_ROW_CAN_MATCH, CALLS, "vessel = 5",
     "vessel = 5: no row can match, for 5 is a number and column 'vessel' holds text"),
    (Code.NO_ROW_CAN_MATCH, CALLS, "vessel != 5",
     "vessel != 5: it leaves no row out, for 5 is a number and column 'vessel' holds text"),
    (Code.NO_ROW_CAN_MATCH, CALLS, "code > 5",
     "code > 5: no row can match, for 5 is a number and column 'code' holds text; "
     "3 of its texts look like numbers but are text; to have them as numbers: --as-number code"),
    (Code.NO_ROW_CAN_MATCH, CALLS, "arrived > 2031-01-01",
     "arrived > 2031-01-01: no row can match, for 2031-01-01 is a date and column 'arrived' "
     "holds text; 3 of its texts look like dates but are text"),
    (Code.NO_ROW_CAN_MATCH, CALLS, 'tons = "40"',
     'tons = "40": no row can match, for "40" is text and column \'tons\' holds numbers; '
     "a value in quotes is text: leave the quotes off"),
    (Code.NO_ROW_CAN_MATCH, CALLS, "tons = yes",
     "tons = yes: no row can match, for \"yes\" is text and column 'tons' holds numbers"),
    (Code.NO_ROW_CAN_MATCH, DATED, "arrived = Monday",
     "arrived = Monday: no row can match, for Monday is text and column 'arrived' "
     "holds dates"),
    (Code.NO_ROW_CAN_MATCH, DATED, "arrived in 5..2031-01-01",
     "arrived in 5..2031-01-01: no row can match, for the ends of 5..2031-01-01 are of two kinds"),
    (Code.NO_ROW_CAN_MATCH, CALLS, "tons = @vessel",
     "tons = @vessel: no row can match, for column 'tons' holds numbers and column 'vessel' "
     "holds text"),
    (Code.VALUE_NOT_FOUND, CALLS, "zone = Outre",
     "zone = Outre: no row can match, for no row holds 'Outre' in column 'zone'; "
     "the closest is 'Outer'"),
    (Code.VALUE_NOT_FOUND, CALLS, 'dues = "500"',
     'dues = "500": no row can match, for no row holds \'500\' in column \'dues\'; '
     "a value in quotes is text: leave the quotes off"),
    (Code.VALUE_NOT_FOUND, CALLS, "zone = X*",
     "zone = X*: no row can match, for no text in column 'zone' matches X*"),
    (Code.WILDCARD_ON_NUMBERS, CALLS, "tons = 1*",
     "tons = 1*: no row can match, for wildcards such as 1* match text and column 'tons' holds "
     "numbers; compare numbers with <, > or a window such as 100..199"),
    (Code.WILDCARD_ON_NUMBERS, CALLS, "dues = w*",
     "dues = w*: column 'dues' holds numbers, text, errors and blanks, and w* is compared with "
     "its text alone, never with its numbers"),
    (Code.TEXT_LIKE_NUMBERS, CALLS, "dues > 1000",
     "dues > 1000: 1 cell of column 'dues' holds text that looks like numbers; text is not "
     "compared with them"),
    (Code.WINDOW_REVERSED, CALLS, "tons in 50..10",
     "tons in 50..10: no row can match, for the window 50..10 ends before it starts; "
     "turn its ends round"),
    (Code.WINDOW_REVERSED, DATED, "arrived in 2031-Q2..2031-Q1",
     "arrived in 2031-Q2..2031-Q1: no row can match, for the window 2031-Q2..2031-Q1 ends "
     "before it starts; turn its ends round"),
    (Code.ALTERNATIVE_CONTAINED, CALLS, "zone = Outer or zone = O* | Inner",
     "the alternative 'zone = Outer' brings no row of its own: 'zone = O* | Inner' holds "
     "wherever it does"),
    (Code.ALTERNATIVE_CONTAINED, CALLS, "tons > 10 or zone = Inner and tons in 20..30",
     "the alternative 'zone = Inner and tons in 20..30' brings no row of its own: 'tons > 10' "
     "holds wherever it does"),
    (Code.ALTERNATIVE_CONTAINED, CALLS, "tons > 10 or tons > 10",
     "the alternative 'tons > 10' stands there twice"),
    (Code.EXCLUSION_SWALLOWED, CALLS, "zone != Outer and tons > 20 or vessel = B*",
     "'zone != Outer' leaves rows out of its own alternative only: 1 row of them comes in through "
     "'vessel = B*'; if they are to stay out, repeat the exclusion there"),
    (Code.ERRORS_IN_CRITERIA_COLUMN, CALLS, "dues != 500",
     "1 matching row holds an error in column 'dues', which the criteria ask; to leave them out "
     "add: dues is not error"),
    (Code.EMPTIED_BY, CALLS, "zone = Outer and tons = 60",
     "no row is left after 'tons = 60': it holds for 1 row, but for none of the 2 rows that the "
     "conditions before it leave; the closest is 60 in row 6"),
    (Code.EMPTIED_BY, CALLS, "tons = 44",
     "'tons = 44' holds for no row; the closest is 40 in row 4"),
    (Code.EMPTIED_BY, PRICED, "dues = 1.7e308",
     "'dues = 1.7e308' holds for no row; the closest is 500 in row 1"),
    (Code.EMPTIED_BY, DATED, "arrived = 2031-01-09",
     "'arrived = 2031-01-09' holds for no row; the closest is 2031-01-05 in row 1"),
    (Code.NOTHING_USED, CALLS, "tons > 1000", "no row matched: this 0 stands for nothing found"),
]  # fmt: skip

# Criteria on which nothing is to be said.
SILENT = [
    "zone = Outer", "zone != Outer", "dues = waived", "tons > 10 or zone = Outer",
    "zone != Outer and tons > 20 or zone = Inner", "dues is error", "dues is not error",
    "zone = Outer or zone = Inner", "tons in 10..20 or tons in 15..40", "zone is not blank or tons > 5",
]  # fmt: skip


def told(table, criteria, *measures, **more):
    found = table.tally(*(measures or ("rows",)), where=criteria, **more)
    return [*found.notices, *(notice for each in found for notice in each.notices)]


@pytest.mark.parametrize(("code", "table", "criteria", "text"), ON_CRITERIA)
def test_criteria_bring_a_notice(code, table, criteria, text):
    assert text in [notice.text for notice in told(table, criteria) if notice.code is code]


@pytest.mark.parametrize("criteria", SILENT)
def test_sound_criteria_bring_none(criteria):
    assert told(CALLS, criteria) == []


def test_parameters_ranges_and_nothing_at_all_bring_notices():
    blank = told(CALLS, "zone = {zone} and tons > 5", parameters={"zone": ""})
    assert [(notice.code, notice.text) for notice in blank] == [
        (Code.BLANK_PARAMETER, "parameter 'zone' is blank: its condition was taken away")
    ]
    alone = told(CALLS, "zone = {zone}", parameters={"zone": None})
    assert [notice.code for notice in alone] == [Code.BLANK_PARAMETER, Code.NO_CONDITION]
    gap = told(CALLS, read_criteria([["zone"], ["Outer"], [""]]))
    assert [notice.code for notice in gap] == [Code.BLANK_RANGE_ROW]
    empty = told(CALLS, read_criteria([["zone"], [""]]))
    assert [notice.code for notice in empty] == [Code.BLANK_RANGE_ROW, Code.NO_CONDITION]
    assert told(CALLS, None) == []


@pytest.mark.parametrize(
    ("sought", "near"),
    [("Berht 4710", "Berth 4710"), ("Bert 4710", "Berth 4710"), ("Berthh 4710", "Berth 4710"),
     ("Birth 4710", "Berth 4710"), ("quay", None)],
)  # fmt: skip
def test_among_very_many_texts_one_spelt_alike_is_found(sought, near):
    many = table_from(
        {
            "berth": [f"Berth {number}" for number in range(0, 9000, 3)] * 2
            + [f"Mole {number}" for number in range(4000)],
            "dues": [1] * 10_000,
        }
    )
    (notice, *_) = many.tally("sum of dues", where=f"berth = {sought}").notices
    hint = "" if near is None else f"; one that is spelt much like it is '{near}'"
    assert notice.text.endswith(f"no row holds '{sought}' in column 'berth'{hint}")


def test_measures_bring_notices():
    for measure, codes in (
        ("numbers of vessel", [Code.NO_NUMBERS]),
        ("sum of code", [Code.TEXT_LIKE_NUMBERS, Code.NO_NUMBERS, Code.NOTHING_USED]),
        ("sum of dues", [Code.TEXT_LIKE_NUMBERS]),
        ("sum of tons", []),
        ("filled of vessel", []),
    ):
        assert [notice.code for notice in told(CALLS, None, measure)] == codes
    (like,) = told(CALLS, None, "sum of dues")
    assert like.counts == {"cells": 1}
    assert like.as_dict() == {
        "code": "text-that-looks-like-numbers",
        "text": "among the matched rows 1 cell holds text in column 'dues' that looks like a "
        "number; text is not used: read it with --as-number dues",
        "counts": {"cells": 1},
    }


def test_kept_subtotals_bring_a_notice():
    marked = CALLS.mark(subtotal="vessel = Eider")
    (notice,) = told(marked, None, "sum of tons keep subtotals")
    assert notice.code is Code.SUBTOTALS_KEPT
    assert notice.text == "2 rows of subtotals kept: what they repeat is counted twice"


def test_every_code_has_a_test_here_or_with_the_reader():
    with_reader = {
        Code.TEXT_LIKE_DATES, Code.READ_AS_SAID, Code.MIXED_OFFSETS, Code.UNNAMED_COLUMN, Code.ENCODING_GUESSED,
        Code.WRITTEN_NUMBERS, Code.COLUMN_LEFT_OUT, Code.DIGITS_LOST, Code.MAYBE_THOUSANDS, Code.MIXED_CURRENCIES, Code.TIMES_CUT, Code.BEYOND_THE_LINE, Code.BEFORE_IS_AMONG_OTHERS, Code.SHEET_CHOSEN, Code.OFFSET_TO_UTC, Code.COMPARED_AS_TEXT, Code.TOTAL_OFF, Code.UNSURE_SUBTOTALS, Code.DOUBLE_COUNTING, Code.MARKS_NO_ROW, Code.MARKS_EVERY_ROW, Code.BLANK_AMONG_VALUES, Code.READ_TWO_WAYS, Code.HEADER_FOUND, Code.BLANK_LINES, Code.PASSED_OVER, Code.NO_ROWS, Code.TWIN_FILES, Code.HIDDEN_SHEET, Code.GOES_ON, Code.OUTSIDE_TABLE, Code.MERGED_CELLS,
    }  # fmt: skip
    elsewhere = {
        Code.MANY_EXTREMES,
        Code.MEDIAN_BETWEEN,
        Code.SMALL_PERCENTAGE,
        Code.MODE_TIES,
        Code.OTHER_KINDS,
        Code.FIRST_LINES,
        Code.LINES_OVERLAP,
        Code.IN_NO_LINE,
        Code.LOOK_ALIKES,
        Code.HEADER_AGAIN,
        Code.ROWS_UNREAD,
    }
    here = {code for code, *_ in ON_CRITERIA} | {
        Code.BLANK_PARAMETER, Code.NO_CONDITION, Code.BLANK_RANGE_ROW, Code.NO_NUMBERS,
        Code.SUBTOTALS_KEPT,
    }  # fmt: skip
    assert set(Code) == here | with_reader | elsewhere


def test_of_many_notices_of_one_kind_a_person_sees_the_first(tmp_path):
    for month in range(1, 10):
        (tmp_path / f"{month}.csv").write_text(f"zone,dues\nOuter,{month}\nInner,2\nTotal,1\n")
    found = read_table(tmp_path).tally("sum of dues")
    assert len([each for each in found.notices if each.code is Code.TOTAL_OFF]) == 9
    shown = texts_of(found.notices)
    assert [each.split()[3] for each in shown[:3]] == ["1.csv", "2.csv", "3.csv"]
    assert shown[3] == "and 6 more of this kind (all are in the JSON)"
