"""Criteria ranges: read from rows, mappings and records, and written back."""

from datetime import date

import pytest
from hypothesis import given
from hypothesis import strategies as st

import oracle
import strategies as make
from conftest import mask
from even_sieve import table_from
from even_sieve.core.cells import CellError
from even_sieve.core.criteria import (
    EVERYTHING,
    criteria_from_mapping,
    criteria_from_range,
    criteria_from_records,
    parse_criteria,
    write_criteria,
    write_range,
)
from even_sieve.core.criteria.nodes import all_of, any_of
from even_sieve.core.errors import CriteriaError, SourceError

# Header, rows, the same as text.
READ = [
    (["zone"], [["Outer"]], "zone = Outer"),
    (["zone", "dues"], [["Outer", ">= 500"]], "zone = Outer and dues >= 500"),
    (["zone", "dues"], [["Outer", None], ["", "< 5"]], "zone = Outer or dues < 5"),
    (["arrived", "arrived"], [[">= 2031-01-01", "<= 2031-03-31"]],
     "arrived >= 2031-01-01 and arrived <= 2031-03-31"),
    (["zone", "dues"], [["Outer | R*", ">= 10 & < 20"]],
     "zone = Outer | R* and dues >= 10 and dues < 20"),
    (["zone", "dues"], [["Outer", "< 10 | > 20"]], "zone = Outer and (dues < 10 or dues > 20)"),
    (["dues", "paid", "arrived"], [[500, True, date(2031, 1, 5)]],
     "dues = 500 and paid = yes and arrived = 2031-01-05"),
    (["dues"], [[0.1], [2]], "dues = 0.1 or dues = 2"),
    (["zone", ""], [["Outer", ""]], "zone = Outer"),
]  # fmt: skip
REFUSED = [
    ([], [["Outer"]], "wanted.csv: the criteria range has no header"),
    (["", " "], [["Outer"]], "wanted.csv: the criteria range has no header"),
    (["zone", ""], [["", "5"]], "wanted.csv, row 2: '5' stands under no column name"),
    (["zone"], [["a", "5"]], "wanted.csv, row 2: '5' stands under no column name"),
    (["zone"], [["a"], ["= "]], "wanted.csv, row 3, column 'zone': '= ', position 3: a value is"),
    (["zone"], [[CellError("#N/A")]], "wanted.csv, row 2: column 'zone' holds the error #N/A"),
]


@pytest.mark.parametrize(("header", "rows", "text"), READ)
def test_rows_of_cells_are_alternatives_of_conditions(header, rows, text):
    read = criteria_from_range(header, rows)
    assert read.criteria == parse_criteria(text)
    assert read.notices == ()


@pytest.mark.parametrize(("header", "rows", "message"), REFUSED)
def test_a_range_that_cannot_be_read_is_refused(header, rows, message):
    with pytest.raises((CriteriaError, SourceError)) as caught:
        criteria_from_range(header, rows, source="wanted.csv")
    assert str(caught.value).startswith(message)


def test_a_blank_row_is_passed_over_with_a_notice_and_never_turns_into_everything():
    read = criteria_from_range(["zone", "dues"], [["Outer", ""], ["", None], ["", "> 5"]])
    assert read.criteria == parse_criteria("zone = Outer or dues > 5")
    (notice,) = read.notices
    assert notice.code == "blank-criteria-row"
    assert notice.text == "criteria range, row 3: the row is blank and was passed over"
    assert criteria_from_range(["zone"], [[""], [None]]).criteria == EVERYTHING


def test_mappings_and_records_are_read_as_ranges_are():
    assert criteria_from_mapping({"zone": "Outer", "dues": "> 500"}) == parse_criteria(
        "zone = Outer and dues > 500"
    )
    assert criteria_from_mapping({"zone": ["Outer", "B*"], "dues": 5}) == parse_criteria(
        "zone = Outer | B* and dues = 5"
    )
    assert criteria_from_mapping({"dues": ["< 5", "> 9"]}) == parse_criteria("dues < 5 or dues > 9")
    assert criteria_from_mapping({"zone": "", "dues": None}) is None
    read = criteria_from_records([{"zone": "Outer"}, {"zone": ""}, {"dues": "> 5"}])
    assert read.criteria == parse_criteria("zone = Outer or dues > 5")
    assert [notice.counts for notice in read.notices] == [{"row": 2}]
    with pytest.raises(TypeError, match="a value is needed here, not criteria"):
        criteria_from_mapping({"zone": parse_criteria("zone = Outer")})


def test_criteria_that_do_not_fit_a_range_say_which_part():
    for text, words in (
        ("not (zone = a or dues = 5)", "'not (zone = a or dues = 5)' does not fit"),
        ("zone = a and (dues > 5 or hours > 5)", "'dues > 5 or hours > 5' does not fit"),
        ("zone = a and not (dues > 5 or dues < 2)", "'not (dues > 5 or dues < 2)' does not fit"),
    ):
        with pytest.raises(ValueError, match="does not fit") as caught:
            write_range(parse_criteria(text))
        assert words in str(caught.value)
    with pytest.raises(ValueError, match="no condition"):
        write_range(EVERYTHING)


fitting = st.lists(
    st.lists(make.conditions.map(oracle.spell).map(parse_criteria), min_size=1, max_size=4),
    min_size=1,
    max_size=4,
).map(lambda rows: any_of([all_of(row) for row in rows]))


@given(fitting)
def test_criteria_written_as_a_range_read_back_equal(criteria):
    header, *rows = write_range(criteria)
    assert criteria_from_range(header, rows).criteria == criteria
    assert all(len(row) == len(header) for row in rows)


@given(fitting, make.rows())
def test_a_range_matches_what_its_text_matches(criteria, rows):
    header, *cells = write_range(criteria)
    table = make.table_of(rows)
    read = criteria_from_range(header, cells).criteria
    assert mask(table, read) == mask(table, parse_criteria(write_criteria(criteria)))


@pytest.mark.parametrize(
    "text",
    ["march", "last year", "null", "'", "Q3", "100 to 200", "a, b", "5 May 2031", "kr 5", "ytd"],
)
def test_a_text_in_quotes_keeps_them_where_it_could_mean_something_else(text):
    table = table_from({"paid": [date(2031, 1, 5), date(2031, 3, 5), "open"]})
    said = write_criteria(parse_criteria(f'paid = "{text}"', ["paid"]))
    assert said == f'paid = "{text}"'
    assert table.tally("count", where=said)[0].value == 0  # none holds it, and it is not refused
