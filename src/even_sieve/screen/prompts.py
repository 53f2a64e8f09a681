"""Small questions on top of the screen: a text, or one of the columns."""

from collections.abc import Callable
from pathlib import Path
from typing import ClassVar

from rich.text import Text
from textual.app import App, ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Vertical
from textual.screen import ModalScreen
from textual.widgets import Input, OptionList, Static
from textual.widgets.option_list import Option

from even_sieve.core.errors import SieveError
from even_sieve.core.session import Completion
from even_sieve.documents.values import visible


class Asked(ModalScreen[str | None]):
    """Asks for a text; `refuse` says what is wrong with it, or nothing."""

    BINDINGS: ClassVar[list[BindingType]] = [Binding("escape", "dismiss(None)", "Leave it")]

    def __init__(
        self, question: str, text: str = "", refuse: Callable[[str], str] = lambda _: ""
    ) -> None:
        super().__init__()
        self._question, self._text, self._refuse = question, text, refuse

    def compose(self) -> ComposeResult:
        """Lay out the question, the room for the answer, and the hint."""
        with Vertical(classes="prompt"):
            yield Static(self._question, markup=False)
            yield Input(self._text)
            yield Static("Enter takes it, Escape leaves it", classes="hint", markup=False)

    def on_input_submitted(self, event: Input.Submitted) -> None:
        """Give the text, or say what is wrong with it."""
        wrong = self._refuse(event.value) if event.value.strip() else "Nothing is written"
        if wrong:
            hint = self.query_one(".hint", Static)
            hint.update(visible(wrong))
            hint.add_class("wrong")
        else:
            self.dismiss(event.value.strip())


class Chosen(ModalScreen[str | None]):
    """Asks for one of the columns; typing narrows them."""

    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("escape", "dismiss(None)", "Leave it"),
        Binding("down", "further(1)", show=False),
        Binding("up", "further(-1)", show=False),
    ]

    def __init__(self, question: str, names: Callable[[str], list[Completion]]) -> None:
        super().__init__()
        self._question, self._names = question, names
        self._found: list[Completion] = []

    def compose(self) -> ComposeResult:
        """Lay out the question, the room to narrow them, and the columns."""
        with Vertical(classes="prompt"):
            yield Static(self._question, markup=False)
            yield Input(placeholder="type a part of its name")
            yield OptionList(markup=False)

    def on_mount(self) -> None:
        """Show all columns."""
        self._narrow("")

    def on_input_changed(self, event: Input.Changed) -> None:
        """Show the columns that are meant."""
        self._narrow(event.value)

    def _narrow(self, typed: str) -> None:
        self._found = self._names(typed)
        shown = self.query_one(OptionList)
        shown.clear_options()
        shown.add_options(
            [
                Option(Text.assemble(visible(each.text), (f"  {each.about}", "dim")))
                for each in self._found
            ]
        )
        shown.highlighted = 0 if self._found else None

    def action_further(self, step: int) -> None:
        """Go on in the list."""
        shown = self.query_one(OptionList)
        if shown.highlighted is not None:
            shown.highlighted = max(0, min(shown.highlighted + step, len(self._found) - 1))

    def on_input_submitted(self) -> None:
        """Give the column that is highlighted."""
        at = self.query_one(OptionList).highlighted
        self.dismiss(None if at is None else self._found[at].text)

    def on_option_list_option_selected(self, event: OptionList.OptionSelected) -> None:
        """Give the column that was clicked."""
        self.dismiss(self._found[event.option_index].text)


def ask_for_file(app: App[None], question: str, name: str, write: Callable[[Path], str]) -> None:
    """Ask for the name of a file, write it, and tell what was done; again where it cannot be."""
    done: list[str] = []

    def refuse(text: str) -> str:
        try:
            done.append(write(Path(text.strip())))
        except (SieveError, OSError) as error:
            return str(error)
        return ""

    def put(text: str | None) -> None:
        if text is not None:
            app.notify(visible(done[-1]), markup=False)

    app.push_screen(Asked(question, name, refuse), put)
