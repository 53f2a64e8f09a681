"""The figures of a trial: each large, with what it moved by, and its account as a strip."""

from textual.app import ComposeResult
from textual.containers import Vertical, VerticalScroll
from textual.widgets import Digits, Static

from even_sieve.core.cells import CellError
from even_sieve.core.session import Move, Outcome
from even_sieve.core.tally import Tallies, Tally
from even_sieve.documents.shown import move_words, show_figure
from even_sieve.documents.values import visible
from even_sieve.screen.look import legend, strip

#: Digits are drawn three cells high; what else a figure holds is written.
_DRAWN = frozenset("0123456789,.-+ ")
_MOST_NOTICES = 4


class Figure(Vertical):
    """One figure."""

    def __init__(self) -> None:
        super().__init__(classes="figure")
        self._tally: Tally | None = None

    def compose(self) -> ComposeResult:
        """Lay out the name, the figure, what it moved by, and its account."""
        yield Static(classes="name", markup=False)
        yield Digits(classes="large")
        yield Static(classes="plain", markup=False)
        yield Static(classes="moved", markup=False)
        yield Static(classes="strip")
        yield Static(classes="account")

    def show(self, tally: Tally, move: Move | None) -> None:
        """Show a figure and its move."""
        self._tally = tally
        text = visible(show_figure(tally)) if tally.value is not None else "no value"
        drawn = set(text) <= _DRAWN and not isinstance(tally.value, CellError)
        self.set_class(drawn, "drawn")
        self.query_one(".name", Static).update(visible(tally.name))
        self.query_one(Digits).update(text if drawn else "")
        reason = f" ({tally.reason})" if tally.reason else ""
        self.query_one(".plain", Static).update(f"{text}{reason}")
        self.query_one(".moved", Static).update(
            "as before" if move is None else visible(move_words(tally, move.before, move.change))
        )
        self._draw()

    def on_resize(self) -> None:
        """Draw the strip as wide as there is room."""
        self._draw()

    def _draw(self) -> None:
        if self._tally is not None and self.is_mounted:
            colours = self.app.theme_variables
            account, width = self._tally.account, max(self.content_size.width, 1)
            self.query_one(".strip", Static).update(strip(account, width, colours))
            self.query_one(".account", Static).update(legend(account, width, colours))


class FigurePane(VerticalScroll):
    """All figures, and what is to be known of them."""

    def compose(self) -> ComposeResult:
        """Begin with the room for notices alone: figures come when they are worked out."""
        yield Static(id="stale", markup=False)
        yield Static(id="notices", markup=False)

    async def show(self, outcome: Outcome, figures: Tallies | None) -> None:
        """Show the figures of an outcome; the last good ones, and said so, where it has none."""
        stale = self.query_one("#stale", Static)
        stale.display = outcome.tallies is None
        last = "Figures of the last criteria that could be read"
        stale.update("Half typed: figures as before" if outcome.half else last)
        if figures is None:
            return
        have = list(self.query(Figure))
        for figure in have[len(figures) :]:
            await figure.remove()
        if missing := [Figure() for _ in range(len(figures) - len(have))]:
            await self.mount(*missing, before=self.query_one("#notices"))
        moved = outcome.moved
        for figure, tally in zip(self.query(Figure), figures, strict=True):
            figure.show(tally, moved.get(tally.name))
            figure.set_class(outcome.tallies is None, "stale")
        self.query_one("#notices", Static).update(_notices(figures))


def _notices(figures: Tallies) -> str:
    every = [*figures.notices, *(each for tally in figures for each in tally.notices)]
    texts = list(dict.fromkeys(visible(each.text) for each in every))
    more = len(texts) - _MOST_NOTICES
    lines = [f"• {text}" for text in texts[:_MOST_NOTICES]]
    return "\n".join([*lines, *([f"• and {more} more: see tally"] if more > 0 else [])])
