"""The screen of a trial, its keys pressed and its figures read as a person does."""

import asyncio
from pathlib import Path

import pytest
from textual.widgets import DataTable, Digits, OptionList, Static

import even_sieve
from even_sieve.core.query import Query
from even_sieve.core.session import Session
from even_sieve.core.table import table_from_columns
from even_sieve.reports import Report
from even_sieve.reports.adding import add_block
from even_sieve.screen.app import TrialApp
from even_sieve.screen.criteria_grid import Cell
from even_sieve.screen.figures import Figure
from even_sieve.screen.heading import Heading
from even_sieve.screen.surroundings import Surroundings

DATA = Path(even_sieve.__file__).parent / "demo" / "data"
CALLS = even_sieve.read_table(DATA / "calls.csv").core
MEASURES = ["rows", "sum of dues", "average of dues"]


class Driven:
    """An app that a pilot drives, and what it shows."""

    def __init__(self, app, pilot):
        self.app, self.pilot = app, pilot

    async def press(self, *keys):
        await self.pilot.press(*keys)
        await self.still()

    async def write(self, text):
        await self.press(*("space" if char == " " else char for char in text))

    async def still(self):
        """Wait until nothing is worked out any more, nor begins to be."""
        for _ in range(3):
            await self.pilot.pause()
            while (self.app._busy or self.app._again) and not self.app._leaving:
                await asyncio.sleep(0.01)

    def figures(self):
        """The figures on the screen: those drawn large, and those written."""
        return [
            each.query_one(Digits).value or str(each.query_one(".plain", Static).content)
            for each in self.app.screen.query(Figure)
        ]

    def moved(self):
        return [str(each.query_one(".moved", Static).content) for each in self.app.query(Figure)]

    def told(self, row, place):
        cell = next(e for e in self.app.query(Cell) if (e.row, e.place) == (row, place))
        return str(cell.query_one(".told", Static).content)

    def headings(self):
        return [str(each.content) for each in self.app.query(Heading)]

    def offered(self):
        lists = [each for each in self.app.query(OptionList) if each.has_class("open")]
        return [str(each.prompt) for values in lists for each in values.options]


def drive(steps, table=CALLS, size=(127, 39), measures=MEASURES, around=None, **asked):
    """Run steps on the screen of a table; what they raise is raised."""
    query = Query.of(**asked)
    session = Session.of_query(query.of_made_table(), query.made_table(table), measures)
    given = {"title": "calls.csv", "changed": lambda: False, "read_again": lambda: table}
    given |= {"save": lambda *_: "saved", "add": lambda *_: "added"} | (around or {})
    app = TrialApp(session, Surroundings(**given))

    async def run():
        async with app.run_test(size=size) as pilot:
            driven = Driven(app, pilot)
            await driven.still()
            await steps(driven)

    asyncio.run(run())
    assert app.failure is None
    return session


def test_a_value_is_typed_chosen_cleared_and_typed_again():
    async def steps(on):
        assert on.figures()[0] == "438"
        await on.press("tab")
        await on.write("out")
        assert on.offered() == ["Outer  138 rows"]
        assert on.figures()[0] == "438"  # half typed
        await on.press("down", "enter")
        assert on.offered() == []
        assert on.figures()[:2] == ["138", "59,067.21"]
        assert on.told(0, 1) == "138 rows"
        assert on.moved()[0] == "▼ -300, was 438"
        await on.press("ctrl+l")
        assert on.figures()[0] == "438"
        await on.press("ctrl+z")
        assert on.figures()[0] == "138"
        await on.press("ctrl+y")
        assert on.figures()[0] == "438"

    assert drive(steps).where == ""


def test_columns_and_alternatives_are_added_and_taken_away():
    async def steps(on):
        await on.press("ctrl+t")
        await on.write("sta")
        await on.press("enter")
        assert on.headings()[-1] == "status"
        await on.write("late")
        await on.press("escape", "enter")
        await on.write("paid")
        await on.press("escape", "up", "up")
        assert isinstance(on.app.focused, Heading)
        assert on.figures()[0] == "336"
        await on.press("ctrl+n")
        assert len(on.app.session.draft.rows) == 4
        on.app.query(Heading)[len(on.headings()) - 1].focus()
        await on.press("delete")
        assert "status" not in on.headings()
        assert on.figures()[0] == "438"

    drive(steps)


def test_what_cannot_be_read_is_told_under_its_cell_and_figures_stay():
    async def steps(on):
        await on.press("tab")
        await on.write("Outer")
        before = "Outer"
        for typed, said, rows in (
            (">", "a value is missing", "438"),
            ('"Out', "not closed", "438"),
            ("{nowhere}", "nowhere", "438"),
            ("Outer |", "missing", "138"),
        ):
            await on.press("escape", "tab", "shift+tab", "end", *["backspace"] * len(before))
            await on.write(typed)
            assert said in on.told(0, 1)
            assert on.figures()[0] == rows
            before = typed

    drive(steps)


def test_other_figures_are_asked_for_and_refused():
    async def steps(on):
        await on.press("ctrl+o", "ctrl+u")
        await on.write("summ of dues")
        await on.press("enter")
        assert "sum" in str(on.app.screen.query_one(".hint", Static).content)
        await on.press("ctrl+u")
        await on.write("max of dues; rows")
        await on.press("enter")
        assert on.figures() == ["16,668.56", "438"]

    assert drive(steps).measures == ("max of dues", "rows")


def test_one_question_is_open_at_a_time():
    async def steps(on):
        await on.press(*["ctrl+t", "ctrl+o", "ctrl+s", "ctrl+b", "ctrl+n"] * 8)
        assert len(on.app.screen_stack) == 2
        assert len(on.app.session.draft.rows) == 1
        await on.press("escape", "ctrl+n")
        assert len(on.app.session.draft.rows) == 2

    drive(steps)


def test_rows_are_those_that_match_or_all_with_their_verdicts():
    async def steps(on):
        rows = on.app.query_one("#rows", DataTable)
        assert "134 of 438" in str(on.app.query_one("#count", Static).content)
        assert str(rows.get_row_at(0)[1]) == "C0001"
        await on.press("ctrl+g")
        assert rows.get_row_at(2)[:2] == ["4", "hidden"]

    drive(
        steps, where="zone = Outer", hidden="status = withdrawn", subtotal="vessel = Month total*"
    )


def test_a_file_that_changed_is_told_and_read_again():
    longer = table_from_columns({"zone": ["Outer"] * 7, "dues": [1.5] * 7})

    async def steps(on):
        await on.pilot.pause(2.2)
        assert "Ctrl+R" in str(on.app.query_one("#told", Static).content)
        await on.press("ctrl+r")
        assert on.figures()[:2] == ["7", "10.5"]

    short = table_from_columns({"zone": ["Outer"], "dues": [1.5]})
    drive(steps, short, around={"changed": lambda: True, "read_again": lambda: longer})


@pytest.mark.parametrize("size", [(20, 8), (80, 24), (40, 12), (220, 60)])
@pytest.mark.parametrize("table", [CALLS, table_from_columns({"zone": []})])
def test_every_size_and_table_is_shown(size, table):
    async def steps(on):
        await on.write("x")
        await on.press("ctrl+g", "ctrl+p", "ctrl+n", "down", "escape")
        assert len(on.figures()) == len(on.app.session.measures)

    drive(steps, table, size, measures=())


def test_a_block_is_added_to_a_report_that_runs(tmp_path):
    (tmp_path / "calls.csv").write_text((DATA / "calls.csv").read_text())
    report = tmp_path / "dues.toml"

    def add(session, path):
        return add_block(tmp_path / path, session.block("Tried"), {"source": {"file": "calls.csv"}})

    async def steps(on):
        for _ in range(2):
            await on.press("ctrl+b", "ctrl+u")
            await on.write("dues.toml")
            await on.press("enter")
        await on.press("ctrl+b", "ctrl+u")
        await on.write("dues.txt")
        await on.press("enter")
        assert ".toml" in str(on.app.screen.query_one(".hint", Static).content)

    drive(steps, where="zone = Outer", around={"add": add})
    results = Report.from_file(report).run()
    assert [block.result[0].value for block in results.blocks] == [138, 138]


def test_what_nobody_foresaw_ends_without_a_traceback(capsys):
    async def steps(on):
        on.app.session.work_out = None  # nothing that can be called
        await on.press("x")

    with pytest.raises(AssertionError, match="NoneType"):
        drive(steps)
    assert "Traceback" not in capsys.readouterr().err
