"""A trial of criteria without a screen: edits, what comes of them, and what is offered."""

import itertools
import shlex
from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from even_sieve.core.criteria import parse_criteria
from even_sieve.core.errors import CallError, MeasureError, UnknownColumn
from even_sieve.core.session import Completions, Draft, Session, first_draft, usual_measures
from even_sieve.core.table import Mark, table_from_columns
from even_sieve.core.tally import tally

CALLS = table_from_columns(
    {
        "zone": ["Outer", "Inner", "Outer", "Înner", None, "Total"],
        "dues": [100, 20.5, 7, 8, 9, 144.5],
    }
).marked(Mark.SUBTOTAL, [5])


@pytest.fixture
def trial():
    return Session(CALLS, ["rows", "sum of dues"])


def values(session):
    return [each.value for each in session.figures]


def test_figures_move_with_what_is_typed_and_say_by_how_much(trial):
    assert values(trial) == [5, 144.5]
    outcome = trial.type("zone", "outer").outcome
    assert values(trial) == [2, 107]
    assert outcome.moved["sum of dues"].change == Fraction(-75, 2)
    assert outcome.moved["rows"].before == 5
    assert dict(outcome.holds) == {(0, trial.draft.columns.index("zone")): 2}
    trial.type("dues", "< 50").type("dues", "> 8", row=1)
    assert values(trial) == [4, 136.5]
    assert dict(trial.outcome.left) == {0: 1, 1: 3}
    assert trial.where == "zone = outer and dues < 50 or dues > 8"


@pytest.mark.parametrize(
    ("column", "text", "said"),
    [
        ("dues", "> ", "a value is missing"),
        ("zone", '"Out', "not closed"),
        ("dues", "{least}", "least"),
        ("zone", "> 2031-13", None),
        ("zone", "Outer |", "missing"),
    ],
)
def test_figures_stay_while_a_cell_cannot_be_read(trial, column, text, said):
    trial.type("zone", "Outer")
    before = values(trial)
    outcome = trial.type(column, text).outcome
    if said is None:
        assert outcome.tallies is not None
        return
    (fault,) = outcome.faults
    assert said in fault.text
    assert (fault.row, fault.place) == (0, trial.draft.columns.index(column))
    assert values(trial) == before
    assert trial.undo().outcome.faults == ()


def test_half_of_a_value_moves_nothing_until_the_cell_is_left(trial):
    trial.type("zone", "Ou")
    place = trial.draft.columns.index("zone")
    half = trial.take(trial.work_out(typing=(0, place)))
    assert half.half == (0, place)
    assert values(trial) == [0, 0]  # asked for as it stands


def test_a_column_that_is_not_there_is_told_at_its_place(trial):
    outcome = trial.change(Draft(("zone", "dus"), (("Outer", "5"),))).outcome
    assert [(each.row, each.place) for each in outcome.faults] == [(None, 1)]
    assert "dues" in outcome.faults[0].text
    with pytest.raises(UnknownColumn):
        trial.type("dus", "5")
    with pytest.raises(CallError):
        trial.type(7, "5")
    with pytest.raises(MeasureError):
        trial.ask("summ of dues")
    with pytest.raises(UnknownColumn):
        trial.ask("sum of dus")


def test_edits_are_taken_back_and_made_again(trial):
    trial.type("zone", "Outer").type("zone", "Inner")
    assert trial.undo().where == "zone = Outer"
    assert trial.undo().undo().undo().where == ""
    assert trial.redo().redo().where == "zone = Inner"
    assert trial.undo().type("dues", "1").redo().where == "zone = Outer and dues = 1"


def test_moves_stay_until_something_else_is_said_or_read(trial):
    assert trial.outcome.moves == ()
    moves = trial.type("zone", "Outer").outcome.moves
    assert moves
    assert trial.change(trial.draft.with_row()).outcome.moves == moves
    less = table_from_columns({"zone": ["Outer"], "dues": [1]})
    assert trial.renew(less).outcome.moved["rows"].change == -1


def test_an_answer_to_another_draft_is_dropped(trial):
    late = trial.type("zone", "Outer").work_out()
    trial.type("zone", "Inner")
    assert trial.take(late) is None
    assert values(trial) == [1, 20.5]


def test_criteria_are_laid_out_or_hold_beside_the_draft():
    fits = Session(CALLS, where="zone = Outer and dues > 5 or dues = 9")
    assert fits.draft.range() == [["zone", "dues"], ["Outer", "> 5"], ["", "9"]]
    beside = Session(CALLS, ["rows"], where="not (zone = Outer and dues < 50)")
    assert beside.draft.range() == [[]]
    assert values(beside.type("zone", "Outer")) == [1]
    assert beside.block()["where"] == "(not (zone = Outer and dues < 50)) and (zone = Outer)"


def test_what_is_left_behind_gives_the_same_figures(trial):
    trial.type("zone", "Out* | is blank").type("dues", "> 8")
    words = trial.command_words("calls.csv", ["--strict"])
    assert shlex.split(shlex.join(words)) == words
    where = words[words.index("--where") + 1]
    assert [e.value for e in Session(CALLS, words[3:5], where=where).figures] == values(trial)
    assert trial.draft.range() == [["zone", "dues"], ["Out* | is blank", "> 8"]]


def test_completions_are_values_in_play_the_most_frequent_first():
    offered = Completions(CALLS, {"limit": 5}, Mark.SUBTOTAL)
    assert next((e.text, e.count) for e in offered.of("zone")) == ("Outer", 2)
    assert "Total" not in [e.text for e in offered.of("zone")]
    assert [e.text for e in offered.of("zone", "in")] == ["Inner", "Înner"]
    assert [e.text for e in offered.of("zone", "Outer | în")] == ["Outer | Inner", "Outer | Înner"]
    assert [e.text for e in offered.of("dues", ">= 1")] == [">= 100"]
    assert offered.of("dues")[0].text == ">= "
    assert [e.text for e in offered.of("dues", "{l")] == ["{limit}"]
    assert offered.of("nothing") == []
    assert [e.text for e in offered.names("UE")] == ["dues"]


def test_a_first_draft_and_first_measures_need_no_words():
    assert first_draft(CALLS).columns == ("zone", "dues")
    assert usual_measures(CALLS) == ["rows", "sum of dues", "average of dues"]
    odd = table_from_columns({"dues where zone": [1, 2]})
    assert Session(odd).figures[1].value == 3
    assert usual_measures(table_from_columns({"zone": ["a"]})) == ["rows"]
    empty = Session(table_from_columns({"zone": [], "dues": []}))
    assert values(empty.type("zone", "Outer")) == [0]


_CELL = st.sampled_from(
    ["", "Outer", "O*", "<> Inner", "> 8", "5..50", "is blank", "Inner | 7", ">", '"']
)


@given(st.lists(st.tuples(_CELL, _CELL), min_size=1, max_size=3))
def test_a_draft_says_what_its_range_says(rows):
    trial = Session(CALLS, ["rows", "sum of dues"]).change(Draft(("zone", "dues"), tuple(rows)))
    outcome = trial.outcome
    if outcome.tallies is None:
        assert any(cell in (">", '"') for cell in itertools.chain(*rows)) or outcome.faults
        return
    asked = trial.query.narrowed_by(parse_criteria(trial.where)) if trial.where else trial.query
    again = tally(asked, CALLS, ["rows", "sum of dues"])
    assert [each.value for each in again] == [each.value for each in outcome.tallies]
    assert outcome.tallies[0].account == again[0].account
