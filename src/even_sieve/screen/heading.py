"""The names of the columns above the cells of a trial."""

from typing import ClassVar

from textual.binding import Binding, BindingType
from textual.message import Message
from textual.widgets import Static

from even_sieve.documents.values import visible


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
