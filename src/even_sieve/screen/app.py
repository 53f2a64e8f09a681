"""The screen of a trial: criteria to the left, figures to the right, rows below."""

from collections.abc import Callable
from functools import partial
from typing import ClassVar

from textual.app import App, ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Horizontal
from textual.widgets import Footer, Static

from even_sieve.core.errors import SieveError
from even_sieve.core.session import Draft, Outcome, Session
from even_sieve.documents.values import visible
from even_sieve.screen.criteria_grid import Cell, CriteriaGrid, Typing
from even_sieve.screen.figures import FigurePane
from even_sieve.screen.heading import Heading
from even_sieve.screen.look import DAY, NIGHT
from even_sieve.screen.prompts import Asked, Chosen, ask_for_file
from even_sieve.screen.rows import RowPane
from even_sieve.screen.surroundings import Surroundings

_ROWS = 200
#: So many seconds lie between two looks at whether the files changed.
_LOOKS = 2.0


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
        if not session.draft.ends_blank:
            session.begin(session.draft.with_row())
        self.session, self._around = session, surroundings
        self.failure: BaseException | None = None
        self._night, self._every_row = night, False
        self._busy, self._again, self._leaving = False, False, False
        self._typing: Typing | None = None
        self._asked: Typing | None = None

    def compose(self) -> ComposeResult:
        """Lay out the panes."""
        yield Static(visible(self._around.title), id="title", markup=False)
        yield Static(id="told", markup=False)
        with Horizontal(id="above"):
            yield CriteriaGrid(self.session.draft)
            yield FigurePane(id="figures")
        yield RowPane()
        yield Footer(compact=True)

    def check_action(self, action: str, parameters: tuple[object, ...]) -> bool | None:
        """Leave what the keys do alone while a question stands open: one at a time."""
        own = {each.action for each in self.BINDINGS if isinstance(each, Binding)}
        return len(self.screen_stack) == 1 or action == "quit" or action not in own

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

    def _work(self) -> None:
        """Work out the last draft that was typed, beside the typing: one draft at a time."""
        if self._busy:
            self._again = True
            return
        self._busy, self._again = True, False
        typing, self._asked = self._asked or self._typing, None
        work = partial(self._worked, self.session.draft, typing, self._every_row)
        self.run_worker(work, thread=True, group="work")

    def _worked(self, draft: Draft, typing: Typing | None, every: bool) -> None:
        try:
            offered = typing is not None and self._offer(typing)
            half = typing is not None and bool(offered) and not typing.only_asked
            cell = (typing.cell.row, typing.cell.place) if typing is not None and half else None
            outcome = self.session.work_out(draft, cell)
            self._hand_over(self._take, outcome)
            if outcome.tallies is not None and not self._again:
                found = self.session.rows(_ROWS, every_row=every)
                self._hand_over(self.query_one(RowPane).show, found)
        except Exception as error:
            self._hand_over(self._fail, error)
        finally:
            self._hand_over(self._free)

    def _offer(self, typing: Typing) -> bool:
        """Let a cell show what it could say; tell whether there is anything."""
        offered = self.session.complete(typing.cell.place, typing.text)
        show = partial(typing.cell.offer, typing.text, offered, first=typing.only_asked)
        self._hand_over(show)
        return bool(offered)

    def _free(self) -> None:
        self._busy = False
        if self._again:
            self._work()

    def _hand_over(self, call: Callable[..., object], *given: object) -> None:
        """Call from the thread that works; what comes of it after leaving is let go."""
        if not self._leaving:
            try:
                self.call_from_thread(call, *given)
            except RuntimeError:
                if not self._leaving:
                    raise

    async def _take(self, outcome: Outcome) -> None:
        if self._leaving:
            return
        taken = self.session.take(outcome)
        if taken is None:
            return
        grid = self.query_one(CriteriaGrid)
        grid.tell(taken)
        await self.query_one(FigurePane).show(taken, self.session.last_figures)
        whole = [each.text for each in taken.faults if each.place is None or each.row is None]
        self._tell("; ".join(whole))

    def _tell(self, text: str) -> None:
        told = self.query_one("#told", Static)
        told.update(visible(text))
        told.set_class(bool(text), "open")

    def _look(self) -> None:
        if self._around.changed():
            self._tell("The file changed since it was read: Ctrl+R reads it again")

    async def on_cell_typed(self, event: Cell.Typed) -> None:
        """Take a cell as it is typed; below the last alternative there is always a blank one."""
        cell = event.cell
        self._typing = None if event.chosen else Typing(cell, event.text)
        draft = self.session.draft.typed(cell.row, cell.place, event.text)
        await self._change(draft if draft.ends_blank else draft.with_row())

    def on_cell_asked(self, event: Cell.Asked) -> None:
        """Show what a cell could say."""
        self._asked = Typing(event.cell, event.cell.input.value, only_asked=True)
        self._work()

    def on_cell_ended(self, event: Cell.Ended) -> None:
        """Take what was typed in a cell as it is: it is no longer half of a value."""
        typing = self._typing
        if typing is not None and (typing.cell.row, typing.cell.place) == (event.row, event.place):
            self._typing = None
            self._work()

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
                self.session.ask(*(each.strip() for each in text.split(";") if each.strip()))
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
        question = "Save the criteria as a range in which file?"
        ask_for_file(self, question, "criteria.csv", partial(self._around.save, self.session))

    def action_add(self) -> None:
        """Add the figures to a report file."""
        question = "Add the figures to which report?"
        ask_for_file(self, question, "report.toml", partial(self._around.add, self.session))

    async def action_quit(self) -> None:
        """Leave, behind the keys that still wait where one types."""
        (self.focused or self).call_later(self._leave)

    def _leave(self) -> None:
        self.session.change(self.query_one(CriteriaGrid).as_typed(self.session.draft))
        self._leaving = True
        self.exit()

    def _fail(self, error: Exception) -> None:
        self.failure, self._leaving = error, True
        self.exit(return_code=1)

    def _handle_exception(self, error: Exception) -> None:
        self.failure = error
        super()._handle_exception(error)

    def _fatal_error(self) -> None:
        """End without a traceback: whoever opened the screen says what happened."""
        self._close_messages_no_wait()
