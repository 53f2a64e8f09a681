"""Suspected subtotals, marks by hand, and the profile."""

import json

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from even_sieve import CellError, read_table, table_from
from even_sieve.core.errors import MarkError
from even_sieve.core.table import find_subtotals, profile, table_from_columns
from even_sieve.demo.walk import HIDDEN, SUBTOTAL, demo_table

# The columns; for each suspected row (from 1): the rows that it repeats.
FOUND = [
    ({"g": ["a", "b", "Total"], "x": [1, 2, 3]}, {3: (1, 2)}),
    ({"x": [1, 2, 3], "y": [10, 20, 30]}, {3: (1, 2)}),
    ({"x": [1, 2, 3], "y": [10, 20, 31]}, {}),
    ({"x": [1, 2, 3], "y": [10, 20, None]}, {}),
    ({"g": ["a", "b", "sum: both"], "x": [1, 2, 3], "y": [10, 20, None]}, {3: (1, 2)}),
    ({"g": ["a", "total"], "x": [5, 5]}, {2: (1,)}),
    ({"g": ["a", "b"], "x": [5, 5]}, {}),
    ({"g": [*list("ab"), "total", *list("cd"), "total", "grand total"], "x": [1, 2, 3, 4, 5, 9, 12]},
     {3: (1, 2), 6: (4, 5), 7: (3, 6)}),
    ({"x": [1, 2, 3, 4, 5, 9, 12], "y": [1, 1, 2, 1, 1, 2, 4]}, {3: (1, 2), 6: (4, 5), 7: (3, 6)}),
    ({"g": ["a", "b", "c", "total"], "x": [0.01, 0.01, 0.01, 0.02]}, {4: (1, 2, 3)}),
    ({"g": ["a", "b", "total"], "x": [1.25, 2.5, 3.9]}, {}),
    ({"g": ["a", "b", "c", "total"], "x": [1, "waived", None, 1]}, {4: (1, 2, 3)}),
    ({"g": ["a", "b", "total"], "x": [1 / 3, 2 / 3, 1.0]}, {3: (1, 2)}),
    ({"g": ["a", "b", "total"], "x": [0, 0, 0]}, {}),
    ({"g": ["totally", "b", "c"], "x": [1, 2, 3]}, {3: (1, 2)}),
    ({"x": [12.5, 7.0, None, 1000.0, 1e18], "y": [1, 0, None, 1, 1]}, {}),  # beside one so large
    ({"g": ["a"]}, {}),
    ({"x": []}, {}),
]  # fmt: skip


@pytest.mark.parametrize(("columns", "wanted"), FOUND)
def test_rows_that_equal_the_sum_of_those_above_are_suspected(columns, wanted):
    found = find_subtotals(table_from_columns(columns))
    assert {each.row + 1: tuple(row + 1 for row in each.repeats) for each in found} == wanted


@given(
    st.lists(
        st.lists(st.integers(1, 10**6), min_size=2, max_size=5).map(tuple), min_size=1, max_size=5
    ),
    st.booleans(),
)
def test_every_total_that_was_put_in_is_found(groups, grand):
    cells, totals = [], []
    for group in groups:
        cells.extend(group)
        cells.append(sum(group))
        totals.append(len(cells))
    labels = ["total" if i in totals else "call" for i in range(1, len(cells) + 1)]
    if grand and len(groups) > 1:
        cells.append(sum(map(sum, groups)))
        labels.append("grand total")
        totals.append(len(cells))
    table = table_from({"x": np.array(cells) / 100, "label": labels})
    found = [each.row + 1 for each in table.find_subtotals() if each.label is not None]
    assert found == totals
    doubled = table.tally("sum of x")[0].exact
    once = table.mark(subtotal="label = total | grand total").tally("sum of x")[0].exact
    assert doubled >= 2 * once


def test_suspects_are_marked_only_when_asked_for():
    plain = demo_table()
    found = plain.find_subtotals()
    assert [each.label for each in found] == [
        f"Month total 2031-{month:02}" for month in range(1, 13)
    ]
    assert plain.tally("rows")[0].account.subtotal == 0
    by_search, by_hand = plain.mark(subtotal="found"), plain.mark(subtotal=SUBTOTAL)
    assert by_search.core.marks.tolist() == by_hand.core.marks.tolist()


def test_marks_are_set_by_row_numbers_and_by_a_column():
    table = table_from({"x": [1, 2, 3, 4], "mark": [None, "hidden", "total", "Subtotal, hidden"]})
    assert table.mark(hidden=[1, 4]).tally("sum of x")[0].value == 5
    assert table.mark(hidden=np.arange(2, 4).tolist()).tally("sum of x")[0].value == 5
    several = (each for each in ("x > 1", "x < 3"))
    assert table.mark(hidden=several).tally("sum of x")[0].value == 8
    account = table.mark(by="mark").tally("sum of x")[0].account
    assert (account.subtotal, account.hidden, account.used) == (2, 1, 1)
    assert table.mark(by="x").tally("rows")[0].value == 4
    sifted = table.sift("x > 1")
    assert sifted.mark(hidden=[4]).tally("sum of x")[0].value == 5
    for call, message in (
        (lambda: table.mark(hidden=[9]), "no row has the number 9\nThe rows are numbered 1 to 4"),
        (lambda: sifted.mark(hidden=[1]), "no row has the number 1\nThe rows are numbered 2 to 4"),
        (lambda: table_from({"m": ["hidden", "hiden"]}).mark(by="m"), "column 'm', row 2: 'hiden' is no mark\n"
         "Accepted are subtotal, total, hidden, filtered"),
    ):  # fmt: skip
        with pytest.raises(MarkError) as caught:
            call()
        assert str(caught.value) == message


def test_the_profile_says_what_to_look_at_first():
    found = profile(demo_table().core)
    dues = next(column for column in found.columns if column.name == "dues")
    assert dues.kinds == {"numbers": 415, "text": 14, "errors": 3, "blanks": 6}
    assert (dues.distinct, dues.least, dues.most) == (412, 20.0, 16668.56)
    assert [finding.code for finding in found.findings] == [
        "possible-double-counting", "errors", "mixed-kinds", "filled-unlike", "filled-unlike", "spellings",
    ]  # fmt: skip
    assert found.findings[0].rows[:2] == (38, 74)
    assert found.findings[3].rows == (435, 436, 437, 438)
    marked = profile(demo_table().mark(subtotal=SUBTOTAL, hidden=HIDDEN).core)
    assert marked.marked == {"subtotal": 12, "hidden": 18, "filtered": 0}
    assert "possible-double-counting" not in [finding.code for finding in marked.findings]


def test_the_profile_tells_numbers_and_dates_kept_as_text_and_spaces_trimmed(tmp_path):
    file = tmp_path / "a.csv"
    file.write_text("code,when,name\n007, 03/04/2031,x \n008,2031-02-30, y\n12 t,z,q\n")
    found = read_table(file).profile()
    texts = [finding.text for finding in found.findings]
    assert "column 'code': 2 texts that look like numbers, such as '007' in row 2" in texts
    assert "column 'when': 2 texts that look like dates, such as '03/04/2031' in row 2" in texts
    assert [column.trimmed for column in found.columns] == [0, 1, 2]
    empty = table_from({"a": [None], "b": [CellError("#N/A")]}).profile()
    assert [column.distinct for column in empty.columns] == [0, 1]
    assert [finding.code for finding in empty.findings] == ["errors"]


def test_of_very_many_columns_the_first_are_named():
    wide = table_from({f"due {number}": [1.5, 2 + number, 3.5 + number] for number in range(900)})
    (finding,) = wide.profile().findings
    assert "in due 0, due 1, due 2, due 3, due 4 and 895 more columns; to leave" in finding.text


def test_the_profile_is_shown_in_every_format():
    found = table_from({"zone": ["a", "A", None], "dues": [1.5, 2, 3.5]}).profile()
    assert str(found) == (
        "\n column   holds             different   least   most\n"
        " ───────────────────────────────────────────────────\n"
        " zone     2 text, 1 blank           1   a       a\n"
        " dues     3 numbers                 3   1.5     3.5\n\n"
        " 3 rows, of these none marked\n\n Look at first\n"
        " - 1 row looks like a subtotal and would be counted twice: row 3 repeats rows 1 to 2 in dues; to\n"
        " leave them out: --subtotal found\n"
        " - column 'zone': spellings that differ in case count as one: a = A\n"
    )
    plain = json.loads(found.to_json())
    assert plain["columns"][1] == {
        "name": "dues", "kinds": {"numbers": 3}, "distinct": 3, "least": 1.5, "most": 3.5,
        "number_like": 0, "date_like": 0, "trimmed": 0, "spellings": [],
    }  # fmt: skip
    assert found._shown("csv").splitlines()[2] == "dues,3,0,0,0,0,0,3,1.5,3.5,0"
    assert "| dues | 3 numbers | 3 | 1.5 | 3.5 |" in found._shown("markdown")


MONTHS = [("Heron", 640.1), ("Eider", 80), ("Month total 2031-01", 720.1), ("Heron", 5.5), ("Skua", 7.25),
          ("Summe 02/2031", 12.75), ("Eider", 3), ("Heron", 4), ("Gesamt", 7.0)]  # fmt: skip


def months(**changed):
    cells = [(label, changed.get(f"row{i}", dues)) for i, (label, dues) in enumerate(MONTHS, 1)]
    return table_from(
        {"vessel": [label for label, _ in cells], "dues": [dues for _, dues in cells]}
    )


def test_one_total_that_is_off_hides_no_other_and_is_the_headline():
    assert [each.row for each in months().find_subtotals()] == [2, 5, 8]
    off = months(row1=650.1)
    assert [each.row for each in off.find_subtotals()] == [5, 8]
    said = "row 3 is called a total ('Month total 2031-01') and says 720.1 in dues; rows 1 to 2 give 730.1"
    assert off.profile().findings[0].text == said
    told = {
        str(each.code): each.text
        for each in off.mark(subtotal="found").tally("sum of dues").notices
    }
    assert told["total-does-not-add-up"] == f"{said}: it was not marked"
    wrong = months(row6=CellError("#REF!")).profile().findings[0].text
    assert wrong.endswith("holds the error #REF! in dues; rows 4 to 5 give 12.75")


def test_a_plain_figure_that_counts_totals_twice_says_so():
    (notice,) = months().tally("sum of dues").notices
    assert notice.text == (
        "3 rows look like totals of rows above in column 'dues' and may be counted twice: rows 3, 6, 9; "
        "to leave them out: --subtotal found"
    )
    assert months().tally("sum of dues", where="vessel = Heron").notices == ()
    assert months().mark(subtotal="found").tally("sum of dues").notices == ()
    assert [n.code for n in months(row1=1).tally("sum of dues").notices] == [
        "possible-double-counting", "total-does-not-add-up"
    ]  # fmt: skip


@pytest.mark.parametrize("seed", range(200))
def test_no_row_of_noughts_and_ones_is_marked_by_chance(seed):
    rng = np.random.default_rng(seed)
    table = table_from({f"x{i}": rng.integers(0, 2, 60) for i in range(1 + seed % 3)})
    marked = table.mark(subtotal="found")
    assert marked.tally("rows")[0].account.subtotal == 0
    assert all(not suspect.sure for suspect in table.find_subtotals())


def test_totals_without_labels_are_marked_where_chance_can_hardly_make_them():
    cells = [123.45, 67.89, 191.34, 1000.01, 22.22, 1022.23]
    table = table_from({"dues": cells})
    assert [each.row for each in table.find_subtotals() if each.sure] == [2, 5]
    assert table.mark(subtotal="found").tally("sum of dues")[0].value == 1213.57


@pytest.mark.parametrize(("dues", "gives"), [([1_000, 300, 7], "1,300"), ([10.0, 3.0, 7.5], "13")])
def test_whole_amounts_are_told_without_decimals(dues, gives):
    calls = table_from({"vessel": ["Gull", "Tern", "Total"], "dues": dues})
    assert calls.tally("sum of dues").notices[0].text.endswith(f"rows 1 to 2 give {gives}")
