"""Every form of the vocabulary, in text, in a range and in Python alike, on one small table."""

from datetime import date, datetime

import pytest

from conftest import mask
from even_sieve import field, parameter
from even_sieve.core.cells import CellError
from even_sieve.core.criteria import criteria_from_mapping, criteria_from_range, parse_criteria
from even_sieve.core.table import table_from_columns

LOST = CellError("#N/A", "not found")
TABLE = table_from_columns(
    {
        "zone": ["Outer", "INNER", "outer", None, "Roads"],
        "vessel": ["B*", "Bold Curlew", "Eider", "1996", "and"],
        "dues": [500, 100.5, "waived", None, LOST],
        "arrived": [
            date(2031, 3, 31),
            datetime(2031, 3, 31, 23, 59),
            datetime(2031, 4, 1),
            date(2030, 12, 31),
            None,
        ],
        "departed": [
            datetime(2031, 3, 31, 8),
            datetime(2031, 3, 31, 23, 59),
            date(2031, 4, 2),
            date(2031, 1, 1),
            date(2031, 1, 1),
        ],
        "paid": [True, False, None, True, False],
        "hours in port": [1, 2, 3, 4, 5],
    }
)
AS_OF = date(2031, 4, 1)
PARAMETERS = {
    "floor": 200,
    "ceiling": 600,
    "zone": ["outer", "Roads"],
    "letter": "B*",
    "begin": "b",
    "day": date(2031, 3, 31),
}

# The column, the cell of a range, the same in Python, the rows (from 1) that match.
FORMS = [
    ("zone", "Outer", field("zone") == "Outer", [1, 3]),
    ("zone", "!= Outer", field("zone") != "Outer", [2, 4, 5]),
    ("zone", "<> Outer", ~(field("zone") == "Outer"), [2, 4, 5]),
    ("zone", "Outer | Inner | R*", None, [1, 2, 3, 5]),
    ("zone", "Outer | Inner", field("zone").one_of("Outer", "Inner"), [1, 2, 3]),
    ("zone", "> Inner", field("zone") > "Inner", [1, 3, 5]),
    ("zone", "<= inner", field("zone") <= "inner", [2]),
    ("zone", "is blank", field("zone").is_blank(), [4]),
    ("zone", "is blank", field("zone") == None, [4]),  # noqa: E711
    ("zone", "is not blank", ~field("zone").is_blank(), [1, 2, 3, 5]),
    ("zone", "is filled", field("zone").is_filled(), [1, 2, 3, 5]),
    ("zone", "not Outer", ~(field("zone") == "Outer"), [2, 4, 5]),
    ("zone", "{zone}", field("zone") == parameter("zone"), [1, 3, 5]),
    ("vessel", "B*", field("vessel").like("B*"), [1, 2]),
    ("vessel", '"B*"', field("vessel") == "B*", [1]),
    ("vessel", "B\\*", field("vessel").like("B\\*"), [1]),
    ("vessel", "{letter}", field("vessel") == parameter("letter"), [1]),
    ("vessel", "{begin}*", None, [1, 2]),
    ("vessel", "?????", field("vessel").like("?????"), [3]),
    ("vessel", "*CUR*", field("vessel").like("*CUR*"), [2]),
    ("vessel", '"1996"', field("vessel") == "1996", [4]),
    ("vessel", "1996", field("vessel") == 1996, []),
    ("vessel", '"and"', field("vessel") == "and", [5]),
    ("dues", "> 500", field("dues") > 500, []),
    ("dues", ">= 500", field("dues") >= 500, [1]),
    ("dues", "< 500", field("dues") < 500, [2]),
    ("dues", "<= 100.5", field("dues") <= 100.5, [2]),
    ("dues", "100.50", field("dues") == 100.5, [2]),
    ("dues", "100..500", field("dues").within(100, 500), [1, 2]),
    ("dues", "101..", field("dues").within(101, None), [1]),
    ("dues", "..101", field("dues").within(None, 101), [2]),
    ("dues", "{floor}..{ceiling}", None, [1]),
    ("dues", ">= {floor}", field("dues") >= parameter("floor"), [1]),
    ("dues", ">= 100 & < 200", None, [2]),
    ("dues", "waived", field("dues") == "waived", [3]),
    ("dues", "is error", field("dues").is_error(), [5]),
    ("dues", "is number", field("dues").is_number(), [1, 2]),
    ("dues", "is text", field("dues").is_text(), [3]),
    ("dues", "is date", field("dues").is_date(), []),
    ("arrived", "2031-03-31", field("arrived") == date(2031, 3, 31), [1, 2]),
    ("arrived", "<= 2031-03-31", field("arrived") <= date(2031, 3, 31), [1, 2, 4]),
    ("arrived", "> 2031-03-31", field("arrived") > date(2031, 3, 31), [3]),
    ("arrived", "{day}", field("arrived") == parameter("day"), [1, 2]),
    ("arrived", "2031-01-01..2031-03-31", field("arrived").within("2031-01-01", "2031-03-31"), [1, 2]),
    ("arrived", "2031-01-01/2031-03-31", field("arrived").within("2031-01-01..2031-03-31"), [1, 2]),
    ("arrived", "..2030-12-31", field("arrived").within(None, date(2030, 12, 31)), [4]),
    ("arrived", "2031-Q1", field("arrived").within("2031-Q1"), [1, 2]),
    ("arrived", "2031-04", field("arrived").within("2031-04"), [3]),
    ("arrived", "2031-W14", field("arrived").within("2031-W14"), [1, 2, 3]),
    ("arrived", "in 2030", field("arrived").within("2030"), [4]),
    ("arrived", "last 2 days", field("arrived").within("last 2 days"), [1, 2, 3]),
    ("arrived", "this month", field("arrived").within("this month"), [3]),
    ("arrived", "previous quarter", field("arrived").within("previous quarter"), [1, 2]),
    ("arrived", "year to date", field("arrived").within("year to date"), [1, 2, 3]),
    ("arrived", "FY2031", field("arrived").within("FY2031"), [1, 2, 4]),
    ("arrived", "< 2031-03-31T12:00", field("arrived") < datetime(2031, 3, 31, 12), [1, 4]),
    ("departed", "> @arrived", field("departed") > field("arrived"), [1, 3, 4]),
    ("departed", "@arrived", field("departed") == field("arrived"), [2]),
    ("departed", ">= @arrived", field("departed") >= field("arrived"), [1, 2, 3, 4]),
    ("paid", "yes", field("paid") == True, [1, 4]),  # noqa: E712
    ("paid", "false", field("paid") == False, [2, 5]),  # noqa: E712
    ("paid", "is yes/no", field("paid").is_yes_no(), [1, 2, 4, 5]),
    ("hours in port", "> 4", field("hours in port") > 4, [5]),
    ("#7", "> 4", field("#7") > 4, [5]),
]  # fmt: skip


def matching(criteria):
    found = mask(TABLE, criteria, parameters=PARAMETERS, as_of=AS_OF, fiscal_start=4)
    return [row for row, holds in enumerate(found, 1) if holds]


@pytest.mark.parametrize(("column", "cell", "built", "rows"), FORMS)
def test_a_form_means_the_same_in_text_in_a_range_and_in_python(column, cell, built, rows):
    compared = any(cell.startswith(sign) for sign in ("<", ">", "!", "=", "is ", "in "))
    text = f"{column} {cell}" if compared else f"{column} = {cell}"
    if cell.startswith("not "):
        text = f"not {column} = {cell[4:]}"
    assert matching(parse_criteria(text, TABLE.names)) == rows
    assert matching(criteria_from_range([column], [[cell]]).criteria) == rows
    assert matching(criteria_from_mapping({column: cell})) == rows
    if built is not None:
        assert matching(built) == rows


def test_built_criteria_are_the_nodes_that_the_text_gives():
    for text, built in (
        ("a > 5 and b in 2031-Q1", (field("a") > 5) & field("b").within("2031-Q1")),
        ("a = x or b != B*", (field("a") == "x") | ~field("b").like("B*")),
        ("not (a = x or b = y)", ~((field("a") == "x") | (field("b") == "y"))),
        ("a < @b and c >= {d}", (field("a") < field("b")) & (field("c") >= parameter("d"))),
        ("a = 1 | 2", field("a").one_of(1, 2)),
        ("a = 2031-01-05T10:30", field("a") == datetime(2031, 1, 5, 10, 30)),
    ):
        assert parse_criteria(text) == built


def test_mistakes_in_python_are_told():
    both = field("zone") == "Outer"
    for mistake, kind, words in (
        (lambda: both and both, TypeError, "Join them with & (and), | (or), ~ (not)"),
        (lambda: not both, TypeError, "criteria have no truth value"),
        (lambda: both & "zone = Inner", TypeError, "not with 'zone = Inner'"),
        (lambda: field("dues") > None, ValueError, "'>' needs a value"),
        (lambda: field("dues").one_of(), ValueError, "one_of needs a value"),
        (lambda: field("dues").within("soon"), Exception, "no window or period"),
        (lambda: field("dues").within("a", "b"), ValueError, "'a' is no end of a window"),
    ):
        with pytest.raises(kind) as caught:
            mistake()
        assert words in str(caught.value)
