"""The demo's data: made from its seed, and figured out by a plain loop over the same file."""

import csv
from datetime import datetime
from decimal import Decimal, InvalidOperation
from fractions import Fraction

import pytest

from even_sieve import read_criteria, read_parameters, read_table
from even_sieve.core.errors import ParameterError
from even_sieve.demo.make import demo_path, make_files
from even_sieve.demo.walk import FIVE, HIDDEN, QUESTION, SUBTOTAL, demo_table, walk


def plain_rows():
    with demo_path("calls.csv").open(encoding="utf-8", newline="") as file:
        return list(csv.DictReader(file))


def number(text):
    try:
        return Fraction(Decimal(text))
    except InvalidOperation:
        return None


def in_play(row):
    return not row["vessel"].startswith("Month total") and row["status"] != "withdrawn"


def outer_first_quarter(row):
    return row["zone"].lower() == "outer" and datetime.fromisoformat(row["arrived"]).month <= 3


SELECTIONS = [
    (None, in_play),
    (QUESTION, lambda row: in_play(row) and outer_first_quarter(row)),
    ("dues > 500", lambda row: in_play(row) and (number(row["dues"]) or 0) > 500),
    ("vessel = B* or class = tanker",
     lambda row: in_play(row) and (row["vessel"][0] == "B" or row["class"] == "tanker")),
    ("zone != Outer and remarks is filled",
     lambda row: in_play(row) and row["zone"].lower() != "outer" and row["remarks"] != ""),
    ("dues is blank or dues is error",
     lambda row: in_play(row) and row["dues"] in ("", "#N/A")),
]  # fmt: skip


@pytest.mark.parametrize(("where", "wanted"), SELECTIONS)
def test_every_measure_is_what_a_plain_loop_over_the_file_gives(where, wanted):
    rows = [row for row in plain_rows() if wanted(row)]
    dues = [row["dues"] for row in rows]
    numbers = [value for value in map(number, dues) if value is not None]
    filled = [text for text in dues if text not in ("", "#N/A")]
    plain = {
        "rows": len(rows),
        "numbers of dues": len(numbers),
        "filled of dues": len(filled),
        "blanks of dues": dues.count(""),
        "errors of dues": dues.count("#N/A"),
        "distinct of dues": len({number(text) or text for text in filled}),
        "sum of dues": float(sum(numbers)),
        "average of dues": float(sum(numbers) / len(numbers)) if numbers else None,
        "min of dues": float(min(numbers)) if numbers else None,
        "max of dues": float(max(numbers)) if numbers else None,
        "distinct of zone": len({row["zone"].lower() for row in rows}),
        "sum of tonnage": sum(int(row["tonnage"]) for row in rows),
    }
    calls = read_table(demo_path("calls.csv")).mark(subtotal=SUBTOTAL, hidden=HIDDEN)
    found = calls.tally(*plain, where=where)
    assert {each.name: each.value for each in found} == plain


def test_the_data_that_ships_is_what_the_seed_makes():
    for name, text in make_files():
        assert demo_path(name).read_bytes() == text.encode()


def test_the_data_has_every_trouble_that_the_demo_shows():
    calls = demo_table()
    found = calls.tally("errors of dues", "blanks of dues", f"rows where {SUBTOTAL}",
                        f"rows where {HIDDEN}", "rows where dues = waived",
                        "rows where remarks is filled", "rows where departed is blank")  # fmt: skip
    assert all(each.value > 0 for each in found)
    assert 300 <= len(calls) <= 500


def test_month_totals_repeat_the_rows_above_them():
    calls = demo_table()
    totals = calls.tally("sum of dues", where=SUBTOTAL)[0]
    records = calls.tally("sum of dues", where=f"not {SUBTOTAL}")[0]
    assert totals.exact == records.exact
    assert totals.account.used == 12


def test_the_walk_goes_from_the_bare_total_to_a_breakdown():
    steps = list(walk())
    assert [step.command.split()[1] for step in steps] == ["tally"] * len(steps)
    bare, defended = steps[0].result[0], steps[1].result[0]
    assert bare.value > 2 * defended.value
    assert [each.name for each in steps[2].result] == list(FIVE)
    assert (
        sum(line.tallies[0].value for line in steps[-1].result) == steps[-1].result.total[0].value
    )


def test_sifted_tables_keep_numbers_and_marks_and_give_the_same_figures():
    calls = demo_table().mark(subtotal=SUBTOTAL, hidden=HIDDEN)
    for where in (QUESTION, "zone = Roads or dues > 900", "vessel = *"):
        sifted = calls.sift(where)
        assert [each.value for each in sifted.tally(*FIVE)] == [
            each.value for each in calls.tally(*FIVE, where=where)
        ]
        every = calls.listing(where, keep=("hidden", "subtotals"))
        assert sifted.row_numbers == every.numbers
    assert calls.sift(SUBTOTAL).tally("rows")[0].account.subtotal == 12


def test_files_of_criteria_and_parameters_are_read(tmp_path):
    read = read_criteria(demo_path("wanted-with-gap.csv"))
    assert [notice.counts for notice in read.notices] == [{"row": 3}]
    file = tmp_path / "values.csv"
    file.write_text("name,value\nfloor,500\nzone,Outer\nzone,Inner\nday,2031-01-05\nnone,\n")
    found = read_parameters(file)
    assert found["floor"].value == 500
    assert [each.text for each in found["zone"]] == ["Outer", "Inner"]
    assert found["none"] is None
    file.write_text("name\nfloor\n")
    with pytest.raises(ParameterError, match="two columns are needed"):
        read_parameters(file)


def test_several_criteria_must_all_hold():
    calls = demo_table()
    both = calls.tally("rows", where=["zone = Outer", "dues > 500"])[0].value
    assert both == calls.tally("rows", where="zone = Outer and dues > 500")[0].value
    assert both == calls.tally("rows", where={"zone": "Outer", "dues": "> 500"})[0].value
    assert calls.tally()[0].name == "rows"
