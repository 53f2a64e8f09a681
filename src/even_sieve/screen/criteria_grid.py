"""The criteria of a trial as a grid of cells: columns across, alternatives down."""

from collections.abc import Callable
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

_MOST_SHOWN = 40


class Heading(Static, can_focus=True):
    """The name of a column; pressing Enter on it asks for another one."""

    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("enter", "pressed", "Another column here"),
        Binding("delete", "removed", "Remove this column"),
        Binding("down", "app.focus_next", show=False),
    ]

    class Pressed(Message):
        """The heading was chosen: another column is wanted at its place."""

        def __init__(self, place: int) -> None:
            super().__init__()
            self.place = place

    class Removed(Message):
        """The column is to go."""

        def __init__(self, place: int) -> None:
            super().__init__()
            self.place = place

    def __init__(self, name: str, place: int) -> None:
        super().__init__(visible(name), markup=False)
        self.place = place

    def action_pressed(self) -> None:
        """Ask for another column."""
        self.post_message(self.Pressed(self.place))

    def action_removed(self) -> None:
        """Ask for the column to be removed."""
        self.post_message(self.Removed(self.place))

    def on_click(self) -> None:
        """Ask for another column."""
        self.action_pressed()


class CellInput(Input):
    """Where a cell is typed; the keys that move lead through the list while it is open."""

    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("down", "further(1)", "Values", show=False),
        Binding("up", "further(-1)", "Values", show=False),
        Binding("escape", "close", "Close the list", show=False),
        Binding("tab", "aside(1)", "Next cell", show=False),
        Binding("shift+tab", "aside(-1)", "Cell before", show=False),
    ]

    def action_further(self, step: int) -> None:
        """Open the list, or go on in it; up from the first value leaves it."""
        assert isinstance(self.parent, Cell)
        self.parent.move_in_list(step)

    def action_close(self) -> None:
        """Close the list."""
        assert isinstance(self.parent, Cell)
        self.parent.close_list()

    def action_aside(self, step: int) -> None:
        """Go on to the next cell of the row, after its last one to the next row."""
        assert isinstance(self.parent, Cell)
        self.parent.post_message(Cell.Left(self.parent, 0, step))


class Cell(Vertical):
    """One cell: its text, the list of what it could say, and what is told of it."""

    class Typed(Message):
        """The text of a cell changed; `half` where more of it may be typed yet."""

        def __init__(self, row: int, place: int, text: str, *, half: bool) -> None:
            super().__init__()
            self.row, self.place, self.text, self.half = row, place, text, half

    class Ended(Message):
        """The cell was left: nothing more of it is typed."""

        def __init__(self, row: int, place: int) -> None:
            super().__init__()
            self.row, self.place = row, place

    class Finished(Message):
        """Enter was pressed in a cell."""

        def __init__(self, row: int, place: int) -> None:
            super().__init__()
            self.row, self.place = row, place

    class Left(Message):
        """Another cell is wanted: so many rows down, so many columns to the right."""

        def __init__(self, cell: "Cell", down: int, right: int) -> None:
            super().__init__()
            self.cell, self.down, self.right = cell, down, right

    def __init__(
        self, row: int, place: int, text: str, complete: Callable[[int, str], list[Completion]]
    ) -> None:
        super().__init__()
        self.row, self.place, self._text, self._complete = row, place, text, complete
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
        self._offer()
        self.post_message(self.Typed(self.row, self.place, event.value, half=bool(self._offered)))

    def on_input_submitted(self, event: Input.Submitted) -> None:
        """Take the value that is chosen in the list, or go on to the next cell."""
        event.stop()
        chosen = self.values.highlighted if self.values.has_class("open") else None
        if chosen is None:
            self.close_list()
            self.post_message(self.Ended(self.row, self.place))
            self.post_message(self.Finished(self.row, self.place))
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
        self.post_message(self.Typed(self.row, self.place, text, half=False))
        self.close_list()
        if text.endswith(" ") or text in ("*", "2..5"):  # it goes on
            self.input.cursor_position = len(text)

    def _offer(self) -> None:
        self._offered = self._complete(self.place, self.input.value)[:_MOST_SHOWN]
        self.values.clear_options()
        self.values.add_options([Option(_offered(each)) for each in self._offered])
        self.values.highlighted = None
        self.values.set_class(bool(self._offered), "open")

    def move_in_list(self, step: int) -> None:
        """Open the list, or highlight the next value; none before the first."""
        if not self.values.has_class("open"):
            if step > 0:
                self._offer()
                self.values.highlighted = 0 if self._offered else None
            else:
                self.post_message(self.Left(self, -1, 0))
            return
        at = -1 if self.values.highlighted is None else self.values.highlighted
        at = min(at + step, len(self._offered) - 1)
        self.values.highlighted = None if at < 0 else at

    def close_list(self) -> None:
        """Close the list."""
        for values in self.query(OptionList):  # none where the cell is just being taken away
            values.set_class(False, "open")
            values.highlighted = None


def _offered(each: Completion) -> Text:
    count = "" if each.count is None else f"{each.count:,} {'row' if each.count == 1 else 'rows'}"
    about = ", ".join(part for part in (each.about, count) if part)
    return Text.assemble(visible(each.text.strip()), ("  " + about, "dim"))


class CriteriaGrid(ScrollableContainer):
    """All the cells, under the names of their columns."""

    def __init__(self, draft: Draft, complete: Callable[[int, str], list[Completion]]) -> None:
        super().__init__(id="criteria")
        self._draft, self._complete = draft, complete

    def compose(self) -> ComposeResult:
        """Lay out a column of cells below each name."""
        with Horizontal(id="columns"):
            for place, name in enumerate(self._draft.columns):
                with Vertical(classes="column"):
                    yield Heading(name, place)
                    for row, texts in enumerate(self._draft.rows):
                        yield Cell(row, place, texts[place], self._complete)

    async def show(self, draft: Draft) -> None:
        """Show another draft; the cells stay where only texts differ."""
        before, self._draft = self._draft, draft
        if before.columns != draft.columns or len(before.rows) != len(draft.rows):
            await self.recompose()
            return
        for cell in self.query(Cell):
            cell.put(draft.rows[cell.row][cell.place])

    def cell(self, row: int, place: int) -> Cell | None:
        """Return the cell at a place, if there is one."""
        found = (each for each in self.query(Cell) if (each.row, each.place) == (row, place))
        return next(found, None)

    def on_cell_left(self, event: Cell.Left) -> None:
        """Focus the next cell in that direction; above the first row stand the names."""
        event.stop()
        row, place, width = event.cell.row, event.cell.place, len(self._draft.columns)
        if event.down < 0 and row == 0:
            self.query(Heading)[place].focus()
            return
        at = (row + event.down) * width + place + event.right
        cell = self.cell(*divmod(at % (width * len(self._draft.rows)), width))
        if cell is not None:
            cell.input.focus()

    def tell(self, outcome: Outcome) -> None:
        """Say under each cell for how many rows it holds, or what is wrong with it."""
        holds = dict(outcome.holds)
        faults = {(each.row, each.place): each.text for each in outcome.faults}
        for cell in self.query(Cell):
            place = cell.row, cell.place
            if place in faults:
                cell.tell(faults[place], wrong=True)
            elif place in holds:
                count = holds[place]
                cell.tell(f"{count:,} {'row' if count == 1 else 'rows'}", wrong=count == 0)
            elif not self._draft.rows[cell.row][cell.place].strip():
                cell.tell("")
        wrong = {place: text for (row, place), text in faults.items() if row is None}
        for heading in self.query(Heading):
            heading.set_class(heading.place in wrong, "wrong")
