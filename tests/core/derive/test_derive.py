"""Derived columns: how they are written, what they hold, and arithmetic that is exact."""

from datetime import date, datetime
from decimal import Decimal
from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from even_sieve.core.cells import CellError, fold
from even_sieve.core.cells.said import as_text
from even_sieve.core.criteria import Settings
from even_sieve.core.derive import derive
from even_sieve.core.derive.derived_columns import _one_by_one
from even_sieve.core.derive.expressions import names_in, parse_arithmetic, steps_of
from even_sieve.core.errors import SieveError
from even_sieve.core.measures import parse_measure
from even_sieve.core.notices import Code
from even_sieve.core.query import Query
from even_sieve.core.table import table_from_columns
from even_sieve.core.tally import Defence, tally

LOST = CellError("#N/A", "no tariff")
CALLS = table_from_columns(
    {
        "vessel": ["Heron", " Eider  II", None, "Straße"],
        "class": ["barge", "ferry", "ferry", None],
        "dues": [120.5, 80, "waived", None],
        "tons": [1000, 0, 3, LOST],
        "hours in port": [2, 3.5, 1, 1],
        "arrived": [date(2031, 1, 5), None, date(2031, 3, 31), date(2030, 12, 30)],
        "departed": [datetime(2031, 1, 6, 12), datetime(2031, 1, 1), datetime(2031, 3, 31),
                     datetime(2031, 1, 1, 6)],
        "paid": [True, False, None, True],
    }
)  # fmt: skip
NO_DUES = CellError("no number", "'waived' in column 'dues' is no number")
ZERO = CellError("division by zero", "division by zero")
# What is written after the equal sign, and the cells.
WRITTEN = [
    ("dues / tons", [0.1205, ZERO, NO_DUES, LOST]),
    ("round(dues / 3, 2)", [40.17, 26.67, NO_DUES, None]),
    ("round(0.5 - hours in port)", [-2, -3, -1, -1]),
    ("round(hours in port)", [2, 4, 1, 1]),
    ("(dues - 20.25) * 2 + hours in port", [202.5, 123.0, NO_DUES, None]),
    ("-hours in port + abs(0 - 3)", [1, -0.5, 2, 2]),
    ("hours in port - 1 - 1 * 2 / 4", [0.5, 2, -0.5, -0.5]),
    ("max(tons, 1, hours in port)", [1000, 3.5, 3, LOST]),
    ("min(tons, 2)", [2, 0, 2, LOST]),
    ('"hours in port" * .1', [0.2, 0.35, 0.1, 0.1]),
    ("#5 / 3", [2 / 3, 7 / 6, 1 / 3, 1 / 3]),
    ("−tons × 2 ÷ 4", [-500, 0, -1.5, LOST]),
    ("'{class} {tons}'", ["barge 1000", "ferry 0", "ferry 3", LOST]),
    ("'so big' if tons > 500, else „small“", ["so big", "small", "small", "small"]),
    ("tons + paid", [CellError("no number", "'yes' in column 'paid' is no number")] + [...] * 3),
    ('"{vessel} ({class})"', ["Heron (barge)", "Eider  II (ferry)", "(ferry)", "Straße ()"]),
    ('"{tons} t, {arrived}"', ["1000 t, 2031-01-05", "0 t,", "3 t, 2031-03-31", LOST]),
    ("small if tons < 500, medium if tons < 900, else large", ["large", "small", "small", "large"]),
    ('"a, b if" if vessel = H* and dues > 5, 7 if class = ferry', ["a, b if", 7, 7, None]),
    ("yes if dues is number and dues in 100.., else no", ["yes", "no", "no", "no"]),
    ("arrived by month", ["2031-01", None, "2031-03", "2030-12"]),
    ("dues in bands 0, 100", ["100 and above", "0 to below 100", "waived", None]),
    ("year of arrived", [2031, None, 2031, 2030]),
    ("quarter of arrived", [1, None, 1, 4]),
    ("month of arrived", [1, None, 3, 12]),
    ("week of arrived", [1, None, 14, 1]),
    ("day of departed", [6, 1, 31, 1]),
    ("weekday of departed", ["Monday", "Wednesday", "Monday", "Wednesday"]),
    ("upper of vessel", ["HERON", "EIDER  II", None, "STRASSE"]),
    ("lower of vessel", ["heron", "eider  ii", None, "straße"]),
    ("trimmed of vessel", ["Heron", "Eider II", None, "Straße"]),
    ("year of class", [CellError("no date", "a cell of column 'class' is no date")] * 3 + [None]),
    ("departed - arrived", [1.5, None, 0, 2.25]),
]  # fmt: skip
REFUSED = [
    ("= 3", "derive '= 3': a name, '=' and what to work out are needed\n"
     "Write for example: twice = dues * 2"),
    ("Dues = 3 * tons", "derive 'Dues = 3 * tons': there is a column 'Dues' already"),
    ("x = dues /", "derive 'x': 'dues /', position 7: a number or a column is missing"),
    ("x = (dues", "derive 'x': '(dues', position 6: a bracket is not closed"),
    ("x = dues) + 1", "derive 'x': 'dues) + 1', position 5: ')' is not expected here"),
    ('x = dues + "', "derive 'x': 'dues + \"', position 8: this cannot be read"),
    ("x = 3 * 4", "derive 'x': '3 * 4' takes no column\nWrite for example: dues * 2"),
    ("x = min(dues)", "derive 'x': 'min(dues)', position 10: 'min' does not take 1 values"),
    ("x = round(dues, tons)", "derive 'x': 'round(dues, tons)', position 18: 'round' takes a number "
     "of decimals from 0 to 15"),
    ("x = min(tons, 1,5)", "derive 'x': 'min(tons, 1,5)', position 11: '1,5' can be read in two ways\n"
     "Write a number with a point: 1.5; two values apart: 1, 5"),
    ("x = arrived + 3", "derive 'x': 'arrived + 3' holds dates: only one date less another is worked "
     "out, in days"),
    ("x = duse * 2", "derive 'x': no column 'duse'\nDid you mean 'dues'?"),
    ("x = small if tons", "derive 'x': criteria 'tons', position 1: no comparison after 'tons'"),
    ('x = "{vesel}"', "derive 'x': no column 'vesel'\nDid you mean 'vessel'?"),
    ("x = __import__('os')", "derive 'x': '__import__('os')', position 11: '(' is not expected here"),
    ("x = class by month", "derive 'x': by 'class by month': column 'class' holds text and blanks"),
]  # fmt: skip


@pytest.mark.parametrize(("body", "cells"), WRITTEN)
def test_a_derived_column_is_worked_out(body, cells):
    found = list(derive(CALLS, f"new one = {body}").column("new one").cells())
    for cell, wanted in zip(found, cells, strict=True):
        assert wanted is ... or cell == wanted
        assert wanted is ... or isinstance(cell, str) == isinstance(wanted, str)


@pytest.mark.parametrize(("text", "message"), REFUSED)
def test_words_that_cannot_be_worked_out_are_refused(text, message):
    with pytest.raises(SieveError) as caught:
        derive(CALLS, text)
    assert str(caught.value).startswith(message)


def test_a_derived_column_is_a_column_like_any_other():
    table = derive(derive(CALLS, "net = dues - 20.5"), "size = big if net > 70, else small")
    found = tally(Query(), table, [parse_measure("sum of net where size = big")])[0]
    assert (found.value, found.account.used) == (100.0, 1)
    assert Defence(Query(), table).recheck(found).value == 100.0
    assert tally(Query(), table, [parse_measure("errors of net")])[0].value == 1


def test_what_is_to_be_known_of_the_criteria_of_a_ladder_is_told():
    told = derive(CALLS, "size = known if class = fery, else other").column("size").notices
    assert [(each.code, each.text) for each in told] == [
        (Code.VALUE_NOT_FOUND, "column 'size': class = fery: no row can match, for no row holds "
         "'fery' in column 'class'; the closest is 'ferry'")
    ]  # fmt: skip


def test_errors_stay_the_errors_that_they_are():
    lost = [CellError("not found", f"no row with berth = {berth}") for berth in (7, 8)]
    table = table_from_columns({"rate": [2, *lost], "since": [date(2031, 1, 5), *lost]})
    for body in ("rate in bands 0, 5", "since by month", "rate * 2", '"{since}"', "year of since"):
        assert list(derive(table, f"x = {body}").column("x").cells())[1:] == lost


def test_a_ladder_takes_parameters_and_dates():
    settings = Settings({"limit": 100}, date(2031, 3, 31))
    body = "late = old if departed in previous quarter, dear if dues > {limit}, else new"
    cells = list(derive(CALLS, body, settings).column("late").cells())
    assert cells == ["dear", "new", "new", "new"]


@given(
    st.lists(st.tuples(st.integers(-(10**9), 10**9), st.integers(-(10**6), 10**6)), max_size=12),
    st.sampled_from(["a + b", "a - b", "a * b", "a / b", "(a + b) / (a - b)", "round(a / b, 3)"]),
)
def test_arithmetic_is_exact_and_rounded_once(pairs, body):
    a, b = [x / 100 for x, _ in pairs], [y / 1000 for _, y in pairs]
    table = derive(table_from_columns({"a": a, "b": b}), f"c = {body}")
    for (x, y), cell in zip(pairs, table.column("c").cells(), strict=True):
        first, second = Fraction(x, 100), Fraction(y, 1000)
        try:
            true = {
                "a + b": lambda p, q: p + q, "a - b": lambda p, q: p - q,
                "a * b": lambda p, q: p * q, "a / b": lambda p, q: p / q,
                "(a + b) / (a - b)": lambda p, q: (p + q) / (p - q),
                "round(a / b, 3)": lambda p, q: half_away(p / q, 3),
            }[body](first, second)  # fmt: skip
        except ZeroDivisionError:
            assert cell == ZERO
            continue
        assert cell in (true, float(true)) or Fraction(Decimal(repr(cell))) == true


def half_away(value, places):
    scaled = abs(value) * 10**places
    whole = scaled.numerator // scaled.denominator
    whole += scaled - whole >= Fraction(1, 2)
    return Fraction(whole if value >= 0 else -whole, 10**places)


NUMBERS = st.one_of(
    st.integers(-60, 60),
    st.integers(-(10**6), 10**6).map(lambda cents: cents / 100),
    st.integers(-(10**19), 10**19),
    st.floats(allow_nan=False, allow_infinity=False),
    st.decimals(
        allow_nan=False, allow_infinity=False, places=9, min_value=-(10**12), max_value=10**12
    ),
)
OTHERS = st.sampled_from([None, None, "waived", True, ZERO])
PARTS = st.recursive(
    st.sampled_from(["a", "b", "c", "2", "0.125", "3", "100", "0"]),
    lambda part: st.one_of(
        st.tuples(part, st.sampled_from("+-*/"), part).map(lambda own: f"({' '.join(own)})"),
        st.tuples(st.sampled_from(["min", "max"]), part, part).map(
            lambda own: f"{own[0]}({own[1]}, {own[2]})"
        ),
        st.tuples(part, st.integers(0, 6)).map(lambda own: f"round({own[0]}, {own[1]})"),
        part.map(lambda own: f"abs(-{own})"),
    ),
    max_leaves=6,
)


@given(
    st.lists(st.tuples(*[st.one_of(NUMBERS, NUMBERS, OTHERS)] * 3), max_size=9),
    PARTS.filter(
        lambda body: any(name in body.replace("abs", "").replace("max", "") for name in "abc")
    ),
)
def test_results_of_many_rows_are_what_each_is_by_itself(rows, body):
    columns = dict(zip("abc", zip(*rows, strict=True) if rows else ((), (), ()), strict=True))
    table = table_from_columns({name: list(cells) for name, cells in columns.items()})
    steps = steps_of(parse_arithmetic(body))
    names = names_in(steps)
    alone = _one_by_one(steps, names, [table.column(name) for name in names])
    found = list(derive(table, f"z = {body}").column("z").cells())
    for one, cell in zip(alone, found, strict=True):
        assert type(one) is type(cell) or {type(one), type(cell)} <= {int, float, Decimal}
        assert one == cell or shown(one) == shown(cell) or float(one) == cell


def shown(number):
    """A double counts as the decimal that it shows."""
    return Fraction(Decimal(repr(number))) if isinstance(number, float) else Fraction(number)


def test_days_between_dates_and_what_are_none():
    later = [
        date(2031, 3, 2),
        datetime(2031, 3, 1, 12),
        None,
        "soon",
        date(2031, 3, 2),
        date(9999, 12, 31),
    ]
    earlier = [
        date(2031, 3, 1),
        date(2031, 3, 1),
        date(2031, 3, 1),
        date(2031, 3, 1),
        None,
        date(1, 1, 1),
    ]
    table = table_from_columns({"later": later, "earlier": earlier})
    cells = list(derive(table, "days = later - earlier").column("days").cells())
    assert cells[:3] == [1, 0.5, None]
    assert (cells[3].token, cells[4], cells[5]) == ("no date", None, 3_652_058)


def test_each_of_very_many_texts_is_an_error_of_its_own():
    table = table_from_columns({"vessel": [f"Vessel {number}" for number in range(70_000)]})
    cells = list(derive(table, "twice = vessel * 2").column("twice").cells())
    assert cells[-1] == CellError("no number", "'Vessel 69999' in column 'vessel' is no number")
    assert len(set(cells)) == 70_000


_CELLS = st.sampled_from(
    [None, "Heron", "HERON", " Eider", "é", 1, 2.5, True, LOST, date(2031, 1, 5)]
)


@given(st.lists(st.tuples(_CELLS, _CELLS), min_size=1, max_size=12))
def test_a_template_spells_cells_as_they_stand_in_each_row(rows):
    table = table_from_columns({"vessel": [a for a, _ in rows], "class": [b for _, b in rows]})
    expected = []
    for pair in zip(*(column.cells() for column in table.columns), strict=True):
        wrong = next((each for each in pair if isinstance(each, CellError)), None)
        text = wrong or f"{as_text(pair[0])}/{as_text(pair[1])} {as_text(pair[0])}".strip()
        expected.append(text)
    made = derive(table, 'x = "{vessel}/{class} { vessel }"', Settings())
    assert list(made.column("x").cells()) == expected


@given(st.lists(st.tuples(st.sampled_from("aAbB"), st.sampled_from(["x", "X", "bx"])), min_size=1))
def test_texts_of_a_template_that_differ_in_case_are_one_value_spelt_as_first_met(rows):
    table = table_from_columns({"a": [a for a, _ in rows], "b": [b for _, b in rows]})
    first = {}
    for one, other in rows:
        first.setdefault(fold(f"{one}{other}"), f"{one}{other}")
    keys = derive(table, 'x = "{a}{b}"').column("x").identity.keys
    assert list(keys) == [first[each] for each in sorted(first)]


_MOMENTS = st.datetimes(datetime(1583, 1, 1), datetime(2400, 1, 1))


@given(st.lists(_MOMENTS | st.sampled_from([None, "soon", LOST]), max_size=9))
def test_parts_of_many_times_are_those_of_each(cells):
    cells.append(datetime(2031, 1, 5, 3, 30))  # not days alone
    table = table_from_columns({"left": cells})
    parts = {"year": lambda day: day.year, "day": lambda day: day.day, "hour": lambda day: day.hour,
             "week": lambda day: day.isocalendar().week, "weekday": lambda day: f"{day:%A}"}  # fmt: skip
    for part, read in parts.items():
        found = list(derive(table, f"x = {part} of left", Settings()).column("x").cells())
        others = {"soon": CellError("no date", "a cell of column 'left' is no date")}
        expected = [read(c) if isinstance(c, datetime) else others.get(c, c) for c in cells]
        assert found == expected
