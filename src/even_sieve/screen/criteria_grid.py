"""The criteria of a trial as a grid of cells: columns across, alternatives down."""

from dataclasses import dataclass
from typing import ClassVar

from rich.text import Text
from textual import events
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Horizontal, ScrollableContainer, Vertical
from textual.message import Message
from textual.widgets import Input, OptionList, Static
from textual.widgets.option_list import Option

from even_sieve.core.session import Completion, Draft, Outcome
from even_sieve.documents.values import visible
from even_sieve.screen.heading import Heading

_MOST_SHOWN = 40


class CellInput(Input):
    """Where a cell is typed; the keys that move lead through the list while it is open."""

    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("down", "further(1)", "Values", show=False),
        Binding("up", "further(-1)", "Values", show=False),
        Binding("escape", "close", "Close the list", show=False),
        # Before all others: what is typed next, however fast, is typed in the next cell.
        Binding("tab", "aside(1)", "Next cell", show=False, priority=True),
        Binding("shift+tab", "aside(-1)", "Cell before", show=False, priority=True),
        Binding("enter", "take", "Take the value, go down", show=False, priority=True),
    ]

    def action_further(self, step: int) -> None:
        """Open the list, or go on in it; up from the first value leaves it."""
        assert isinstance(self.parent, Cell)
        self.parent.move_in_list(step)

    def action_close(self) -> None:
        """Close the list."""
        assert isinstance(self.parent, Cell)
        self.parent.close_list()

    def action_take(self) -> None:
        """Take the value that is chosen in the list, or go down."""
        assert isinstance(self.parent, Cell)
        self.parent.take()

    def action_aside(self, step: int) -> None:
        """Go on to the next cell of the row, after its last one to the next row."""
        assert isinstance(self.parent, Cell)
        self.parent.leave(0, step)


class Cell(Vertical):
    """One cell: its text, the list of what it could say, and what is told of it."""

    class Typed(Message):
        """The text of a cell changed; where it was `chosen`, no more of it is typed."""

        def __init__(self, cell: "Cell", text: str, *, chosen: bool) -> None:
            super().__init__()
            self.cell, self.text, self.chosen = cell, text, chosen

    class Asked(Message):
        """The list of what the cell could say is wanted."""

        def __init__(self, cell: "Cell") -> None:
            super().__init__()
            self.cell = cell

    class Ended(Message):
        """The cell was left: nothing more of it is typed."""

        def __init__(self, row: int, place: int) -> None:
            super().__init__()
            self.row, self.place = row, place

    def __init__(self, row: int, place: int, text: str) -> None:
        super().__init__()
        self.row, self.place, self._text = row, place, text
        self._offered: list[Completion] = []

    def compose(self) -> ComposeResult:
        """Lay out the text, the list, and the line below."""
        yield CellInput(self._text, placeholder="any", compact=True, select_on_focus=False)
        yield OptionList(classes="offered", markup=False)
        yield Static(classes="told", markup=False)

    @property
    def input(self) -> CellInput:
        """Where it is typed."""
        return self.query_one(CellInput)

    @property
    def values(self) -> OptionList:
        """What it could say."""
        return self.query_one(OptionList)

    def put(self, text: str) -> None:
        """Set the text without telling that it was typed."""
        if self.input.value != text:
            with self.input.prevent(Input.Changed):
                self.input.value = text
                self.input.cursor_position = len(text)

    def tell(self, text: str, *, wrong: bool = False) -> None:
        """Say something under the cell."""
        self.query_one(".told", Static).update(visible(text))
        self.set_class(wrong, "wrong")

    def on_input_changed(self, event: Input.Changed) -> None:
        """Tell that the text changed, and what it could become."""
        event.stop()
        self.post_message(self.Typed(self, event.value, chosen=False))

    def take(self) -> None:
        """Take the value that is chosen in the list, or go on to the cell below."""
        chosen = self.values.highlighted if self.values.has_class("open") else None
        if chosen is None:
            self.close_list()
            self.post_message(self.Ended(self.row, self.place))
            self.leave(1, 0)
        else:
            self._take(chosen)

    def on_option_list_option_selected(self, event: OptionList.OptionSelected) -> None:
        """Take a value that was clicked."""
        event.stop()
        self._take(event.option_index)

    def on_descendant_blur(self, event: events.DescendantBlur) -> None:
        """Close the list when the cell is left."""
        self.call_after_refresh(self._close_if_left)

    def _close_if_left(self) -> None:
        if self.is_attached and not self.has_focus_within:
            self.close_list()
            self.post_message(self.Ended(self.row, self.place))

    def _take(self, position: int) -> None:
        text = self._offered[position].text
        self.put(text)
        self.input.focus()
        self.post_message(self.Typed(self, text, chosen=True))
        self.close_list()
        if text.endswith(" ") or text in ("*", "2..5"):  # it goes on
            self.input.cursor_position = len(text)

    def offer(self, text: str, offered: list[Completion], *, first: bool = False) -> None:
        """Show what the cell could say, unless it says something else by now, or was left.

        `first` highlights the first of them.
        """
        if not self.is_attached or self.input.value != text or not self.has_focus_within:
            return
        self._offered = offered[:_MOST_SHOWN]
        self.values.clear_options()
        self.values.add_options([Option(_offered(each)) for each in self._offered])
        self.values.highlighted = 0 if first and self._offered else None
        self.values.set_class(bool(self._offered), "open")

    def leave(self, down: int, right: int) -> None:
        """Go to another cell at once: what is typed next is typed there."""
        grid = next(each for each in self.ancestors if isinstance(each, CriteriaGrid))
        grid.go_on(self.row, self.place, down, right)

    def move_in_list(self, step: int) -> None:
        """Open the list, or highlight the next value; none before the first."""
        if not self.values.has_class("open"):
            if step > 0:
                self.post_message(self.Asked(self))
            else:
                self.leave(-1, 0)
            return
        at = -1 if self.values.highlighted is None else self.values.highlighted
        at = min(at + step, len(self._offered) - 1)
        self.values.highlighted = None if at < 0 else at

    def close_list(self) -> None:
        """Close the list."""
        for values in self.query(OptionList):  # none where the cell is just being taken away
            values.set_class(False, "open")
            values.highlighted = None


@dataclass(frozen=True)
class Typing:
    """The cell that is typed in, and its text; `only_asked` where nothing was typed."""

    cell: Cell
    text: str
    only_asked: bool = False


def _offered(each: Completion) -> Text:
    count = "" if each.count is None else f"{each.count:,} {'row' if each.count == 1 else 'rows'}"
    about = ", ".join(part for part in (each.about, count) if part)
    return Text.assemble(visible(each.text.strip()), ("  " + about, "dim"))


class CriteriaGrid(ScrollableContainer):
    """All the cells, under the names of their columns."""

    def __init__(self, draft: Draft) -> None:
        super().__init__(id="criteria")
        self._draft = draft

    def compose(self) -> ComposeResult:
        """Lay out a column of cells below each name."""
        with Horizontal(id="columns"):
            for place, name in enumerate(self._draft.columns):
                with Vertical(classes="column"):
                    yield Heading(name, place)
                    for row, texts in enumerate(self._draft.rows):
                        yield Cell(row, place, texts[place])

    async def show(self, draft: Draft) -> None:
        """Show another draft. Cells stay where the columns do, and with them what is typed."""
        before, self._draft = self._draft, draft
        if before.columns != draft.columns:
            await self.recompose()
            return
        for cell in self.query(Cell):
            if cell.row < len(draft.rows):
                cell.put(draft.rows[cell.row][cell.place])
            else:
                await cell.remove()
        for place, column in enumerate(self.query(".column")):
            more = range(len(before.rows), len(draft.rows))
            await column.mount(*(Cell(row, place, draft.rows[row][place]) for row in more))

    def as_typed(self, draft: Draft) -> Draft:
        """Return a draft with what stands in the cells, told or not."""
        for cell in self.query(Cell):
            if draft.rows[cell.row][cell.place] != cell.input.value:
                draft = draft.typed(cell.row, cell.place, cell.input.value)
        return draft

    def cell(self, row: int, place: int) -> Cell | None:
        """Return the cell at a place, if there is one."""
        found = (each for each in self.query(Cell) if (each.row, each.place) == (row, place))
        return next(found, None)

    def go_on(self, row: int, place: int, down: int, right: int) -> None:
        """Focus the next cell in that direction; above the first row stand the names."""
        width = len(self._draft.columns)
        if down < 0 and row == 0:
            self.screen.set_focus(self.query(Heading)[place])
            return
        at = (row + down) * width + place + right
        cell = self.cell(*divmod(at % (width * len(self._draft.rows)), width))
        if cell is not None:
            self.screen.set_focus(cell.input)

    def tell(self, outcome: Outcome) -> None:
        """Say under each cell for how many rows it holds, or what is wrong with it."""
        holds = dict(outcome.holds)
        faults = {(each.row, each.place): each.text for each in outcome.faults}
        for cell in self.query(Cell):
            place = cell.row, cell.place
            if place in faults:
                cell.tell(faults[place], wrong=True)
            elif place == outcome.half:
                cell.tell("")
            elif place in holds:
                count = holds[place]
                cell.tell(f"{count:,} {'row' if count == 1 else 'rows'}", wrong=count == 0)
            elif not self._draft.rows[cell.row][cell.place].strip():
                cell.tell("")
        wrong = {place: text for (row, place), text in faults.items() if row is None}
        for heading in self.query(Heading):
            heading.set_class(heading.place in wrong, "wrong")
