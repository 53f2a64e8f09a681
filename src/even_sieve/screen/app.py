"""The screen of a trial: criteria to the left, figures to the right, rows below."""

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any, ClassVar

from rich.text import Text
from textual.app import App, ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Horizontal, Vertical
from textual.widgets import DataTable, Footer, Static

from even_sieve.core.errors import SieveError
from even_sieve.core.session import Draft, Outcome, Session
from even_sieve.core.table import Table
from even_sieve.core.tally import Listing
from even_sieve.documents.values import show_value, visible
from even_sieve.screen.criteria_grid import Cell, CriteriaGrid, Heading
from even_sieve.screen.figures import FigurePane
from even_sieve.screen.look import DAY, NIGHT
from even_sieve.screen.prompts import Asked, Chosen

_ROWS = 200
_LONGEST_CELL = 60
#: So many seconds lie between two looks at whether the files changed.
_LOOKS = 2.0


@dataclass(frozen=True)
class Surroundings:
    """What a screen has to do with files, given to it by whoever opens it.

    `changed` tells whether a file is another one than was read, `read_again` reads it. `save`
    writes the criteria as a range, `add` the block to a report; both return what is told.
    """

    title: str
    changed: Callable[[], bool]
    read_again: Callable[[], Table]
    save: Callable[[Session, Path], str]
    add: Callable[[Session, Path], str]


class TrialApp(App[None]):
    """Criteria are typed, and figures move."""

    CSS_PATH = "screen.tcss"
    ENABLE_COMMAND_PALETTE = False
    HORIZONTAL_BREAKPOINTS = [(0, "-narrow"), (100, "-wide")]  # noqa: RUF012
    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("ctrl+t", "add_column", "Column", priority=True),
        Binding("ctrl+n", "add_row", "Alternative", priority=True),
        Binding("ctrl+o", "ask", "Figures", priority=True),
        Binding("ctrl+z", "undo", "Undo", priority=True),
        Binding("ctrl+y", "redo", "Redo", priority=True),
        Binding("ctrl+l", "clear", "Clear", priority=True),
        Binding("ctrl+g", "all_rows", "Verdicts", priority=True),
        Binding("ctrl+r", "read_again", "Reread", priority=True),
        Binding("ctrl+s", "save", "Save", priority=True),
        Binding("ctrl+b", "add", "Report", priority=True),
        Binding("ctrl+p", "night", "Day/night", priority=True),
        Binding("ctrl+q", "quit", "Leave", priority=True),
    ]

    def __init__(self, session: Session, surroundings: Surroundings, *, night: bool = True) -> None:
        super().__init__()
        self.session, self._around = session, surroundings
        self.failure: BaseException | None = None
        self._night, self._every_row = night, False
        self._busy, self._again = False, False
        self._typing: tuple[int, int] | None = None

    def compose(self) -> ComposeResult:
        """Lay out the panes."""
        yield Static(visible(self._around.title), id="title", markup=False)
        yield Static(id="told", markup=False)
        with Horizontal(id="above"):
            yield CriteriaGrid(self.session.draft, self.session.complete)
            yield FigurePane(id="figures")
        with Vertical(id="below"):
            yield Static(id="count", markup=False)
            yield DataTable(id="rows", cursor_type="row", zebra_stripes=True)
        yield Footer(compact=True)

    def on_mount(self) -> None:
        """Work out the first figures, and begin in the first cell."""
        self.register_theme(DAY)
        self.register_theme(NIGHT)
        self.theme = (NIGHT if self._night else DAY).name
        self._focus(0, 0)
        self.set_interval(_LOOKS, self._look)
        self._work()

    def _focus(self, row: int, place: int) -> None:
        cell = self.query_one(CriteriaGrid).cell(row, place)
        if cell is not None:
            cell.input.focus()

    # What is worked out, beside the typing: one draft at a time, the last one typed.

    def _work(self) -> None:
        if self._busy:
            self._again = True
            return
        self._busy, self._again = True, False
        draft, every = self.session.draft, self._every_row
        self.run_worker(lambda: self._worked(draft, every), thread=True, group="work")

    def _worked(self, draft: Draft, every: bool) -> None:
        try:
            outcome = self.session.work_out(draft, self._typing)
            self.call_from_thread(self._take, outcome)  # type: ignore[arg-type]
            if outcome.tallies is not None and not self._again:
                found = self.session.rows(_ROWS, every_row=every)
                self.call_from_thread(self._show_rows, found)
        except Exception as error:
            self.call_from_thread(self._fail, error)
        finally:
            self.call_from_thread(self._free)

    def _free(self) -> None:
        self._busy = False
        if self._again:
            self._work()

    async def _take(self, outcome: Outcome) -> None:
        taken = self.session.take(outcome)
        if taken is None:
            return
        grid = self.query_one(CriteriaGrid)
        grid.tell(taken)
        await self.query_one(FigurePane).show(taken, self.session.last_figures)
        whole = [each.text for each in taken.faults if each.place is None or each.row is None]
        self._tell("; ".join(whole))

    def _show_rows(self, found: Listing) -> None:
        shown: DataTable[Any] = self.query_one("#rows", DataTable)
        shown.clear(columns=True)
        verdict = () if found.verdicts is None else ("verdict",)
        shown.add_columns("row", *verdict, *(visible(name) for name in found.names))
        verdicts = found.shown_verdicts or ("",) * len(found.rows)
        for number, said, row in zip(found.numbers, verdicts, found.rows, strict=True):
            cells = [
                _cell(show_value(cell, decimals), isinstance(cell, int | float))
                for cell, decimals in zip(row, found.decimals, strict=True)
            ]
            before = () if found.verdicts is None else (said,)
            shown.add_row(str(number), *before, *cells)
        self.query_one("#count", Static).update(found.counted)

    def _tell(self, text: str) -> None:
        told = self.query_one("#told", Static)
        told.update(visible(text))
        told.set_class(bool(text), "open")

    def _look(self) -> None:
        if self._around.changed():
            self._tell("The file changed since it was read: Ctrl+R reads it again")

    # What is typed and chosen.

    def on_cell_typed(self, event: Cell.Typed) -> None:
        """Take a cell as it is typed."""
        self._typing = (event.row, event.place) if event.half else None
        self.session.change(self.session.draft.typed(event.row, event.place, event.text))
        self._work()

    def on_cell_ended(self, event: Cell.Ended) -> None:
        """Take what was typed in a cell as it is: it is no longer half of a value."""
        if self._typing == (event.row, event.place):
            self._typing = None
            self._work()

    async def on_cell_finished(self, event: Cell.Finished) -> None:
        """Go down to the next alternative; one is added below the last that says something."""
        draft = self.session.draft
        if event.row == len(draft.rows) - 1 and any(map(str.strip, draft.rows[-1])):
            await self._change(draft.with_row())
        self._focus(event.row + 1, event.place)

    async def _change(self, draft: Draft) -> None:
        self.session.change(draft)
        await self.query_one(CriteriaGrid).show(self.session.draft)
        self._work()

    def on_heading_pressed(self, event: Heading.Pressed) -> None:
        """Ask which column is wanted in the place of another."""

        async def put(name: str | None) -> None:
            if name is not None:
                await self._change(self.session.draft.named(event.place, name))
                self._focus(0, event.place)

        name = self.session.draft.columns[event.place]
        names = self.session.completions.names
        self.push_screen(Chosen(f"Which column in the place of {visible(name)}?", names), put)

    async def on_heading_removed(self, event: Heading.Removed) -> None:
        """Remove a column and its cells."""
        if len(self.session.draft.columns) > 1:
            await self._change(self.session.draft.without_column(event.place))
            self._focus(0, max(event.place - 1, 0))

    def action_add_column(self) -> None:
        """Ask for one more column of criteria."""

        async def put(name: str | None) -> None:
            if name is not None:
                await self._change(self.session.draft.with_column(name))
                self._focus(0, len(self.session.draft.columns) - 1)

        self.push_screen(Chosen("Criteria on which column?", self.session.completions.names), put)

    async def action_add_row(self) -> None:
        """Add an alternative: rows match where all cells of one of them hold."""
        await self._change(self.session.draft.with_row())
        self._focus(len(self.session.draft.rows) - 1, 0)

    async def action_undo(self) -> None:
        """Take the last edit back."""
        await self._change_to(self.session.undo)

    async def action_redo(self) -> None:
        """Make it again."""
        await self._change_to(self.session.redo)

    async def _change_to(self, step: Callable[[], Session]) -> None:
        step()
        await self.query_one(CriteriaGrid).show(self.session.draft)
        self._work()

    async def action_clear(self) -> None:
        """Clear all cells."""
        await self._change(self.session.draft.cleared())
        self._focus(0, 0)

    def action_ask(self) -> None:
        """Ask for other figures."""

        def refuse(text: str) -> str:
            try:
                self.session.ask(*_measures(text))
            except SieveError as error:
                return str(error)
            return ""

        def put(text: str | None) -> None:
            if text is not None:
                self._work()

        known = "; ".join(self.session.measures)
        question = "Which figures? For example: rows; sum of …; average of …; max of …"
        self.push_screen(Asked(question, known, refuse), put)

    def action_all_rows(self) -> None:
        """Show all rows with the verdict on each, or those that match alone."""
        self._every_row = not self._every_row
        self._work()

    def action_night(self) -> None:
        """Change between the light and the dark palette."""
        self._night = not self._night
        self.theme = (NIGHT if self._night else DAY).name
        self._work()

    def action_read_again(self) -> None:
        """Read the files again."""
        try:
            self.session.renew(self._around.read_again())
        except SieveError as error:
            self._tell(str(error))
            return
        self._tell("")
        self._work()

    def action_save(self) -> None:
        """Save the criteria as a range."""
        self._to_file(
            "Save the criteria as a range in which file?", "criteria.csv", self._around.save
        )

    def action_add(self) -> None:
        """Add the figures to a report file."""
        self._to_file("Add the figures to which report?", "report.toml", self._around.add)

    def _to_file(self, question: str, name: str, write: Callable[[Session, Path], str]) -> None:
        done: list[str] = []

        def refuse(text: str) -> str:
            try:
                done.append(write(self.session, Path(text.strip())))
            except (SieveError, OSError) as error:
                return str(error)
            return ""

        def put(text: str | None) -> None:
            if text is not None:
                self.notify(visible(done[-1]), markup=False)

        self.push_screen(Asked(question, name, refuse), put)

    # What nobody foresaw: the criteria are not lost.

    def _fail(self, error: Exception) -> None:
        self.failure = error
        self.exit(return_code=1)

    def _handle_exception(self, error: Exception) -> None:
        self.failure = error
        super()._handle_exception(error)

    def _fatal_error(self) -> None:
        """End without a traceback: whoever opened the screen says what happened."""
        self._close_messages_no_wait()


def _measures(text: str) -> list[str]:
    return [each.strip() for each in text.split(";") if each.strip()]


def _cell(text: str, numeric: bool) -> Text:
    shown = visible(text)
    shown = shown if len(shown) <= _LONGEST_CELL else f"{shown[: _LONGEST_CELL - 1]}…"
    return Text(shown, justify="right" if numeric else "left")
