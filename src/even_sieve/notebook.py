"""Trying criteria in a notebook: the same trial as on the terminal, with ipywidgets.

It needs the extra `notebook`: `pip install "even-sieve[notebook]"`.
"""

import html
from collections.abc import Mapping
from typing import Any, Unpack

from even_sieve.core.errors import NotInstalled
from even_sieve.core.query import Asked
from even_sieve.core.session import Move, Session
from even_sieve.core.tally import Account, Tally
from even_sieve.documents.shown import move_words, show_figure
from even_sieve.documents.values import visible
from even_sieve.public.table import Table

_COLOURS = {
    "used": "#14506b", "unmatched": "#d9d4c7", "hidden": "#5d6f2d", "filtered": "#7d8f4d",
    "subtotal": "#8a4b0f", "blank": "#b9b3a3", "error": "#a3261f", "not_a_number": "#8a5a00",
}  # fmt: skip
_SIDE_BY_SIDE = "display:flex;flex-wrap:wrap;gap:1em 2em;margin:.5em 0"
_FIGURE = "width:19em;line-height:1.4"


def panel(table: Table, *measures: str, **asked: Unpack[Asked]) -> "Panel":
    """Return a panel on which criteria are typed, and the figures move.

    `measures` and the keywords are those of `Table.tally`; without measures there are rows, and
    the sum and the average of the first column of numbers. Raises `NotInstalled` without
    ipywidgets, and what `tally` raises for words that cannot be read.

    >>> from even_sieve import table_from
    >>> calls = table_from({"zone": ["Outer", "Inner", "Outer"], "dues": [5, 7, 9]})
    >>> trial = panel(calls, "sum of dues")
    >>> trial.cells[0][0].value = "Outer"
    >>> trial.session.figures[0].value
    14
    """
    session = Session(table.core, measures, **asked)
    session.ask(*session.measures)
    return Panel(session, {name: said for name, said in asked.items() if name != "where"})


class Panel:
    """A panel in a notebook. `session` is the trial behind it, `cells` the cells, row by row."""

    def __init__(self, session: Session, asked: Mapping[str, object]) -> None:
        try:
            import ipywidgets
        except ImportError as error:
            raise NotInstalled("panels", "notebook") from error
        self.session, self._asked, self._w = session, asked, ipywidgets
        self.cells: list[list[Any]] = []
        self._told: list[list[Any]] = []
        self._figures, self._call = ipywidgets.HTML(), ipywidgets.HTML()
        self._grid = ipywidgets.VBox()
        self._filling = False
        self.widget = ipywidgets.VBox([self._buttons(), self._grid, self._figures, self._call])
        self._lay_out()
        self._show()

    def _repr_mimebundle_(self, **how: Any) -> Any:
        return self.widget._repr_mimebundle_(**how)

    def __repr__(self) -> str:
        return f"Panel({self.session.where!r})"

    def _buttons(self) -> Any:
        """Return what changes the shape of the criteria."""
        column = self._w.Dropdown(
            options=[("another column …", ""), *((name, name) for name in self.session.table.names)]
        )

        def add(change: Any) -> None:
            if change["new"]:
                self._change(self.session.draft.with_column(change["new"]))
                column.value = ""

        column.observe(add, "value")
        actions = {
            "Another alternative": lambda: self._change(self.session.draft.with_row()),
            "Undo": lambda: self._change(self.session.undo().draft),
            "Redo": lambda: self._change(self.session.redo().draft),
            "Clear": lambda: self._change(self.session.draft.cleared()),
        }
        made = []
        for words, act in actions.items():
            button = self._w.Button(description=words, layout={"width": "auto"})
            button.on_click(lambda _, act=act: act())
            made.append(button)
        return self._w.HBox([column, *made])

    def _change(self, draft: Any) -> None:
        self.session.change(draft)
        self._lay_out()
        self._show()

    def _lay_out(self) -> None:
        """Lay the cells out as the draft has them."""
        draft = self.session.draft
        names = [
            self._w.HTML(f"<b>{html.escape(visible(name))}</b>", layout={"width": "15em"})
            for name in draft.columns
        ]
        rows = [self._w.HBox(names)]
        self.cells, self._told = [], []
        for row in range(len(draft.rows)):
            cells = [self._cell(row, place) for place in range(len(draft.columns))]
            told = [self._w.HTML(layout={"width": "15em"}) for _ in cells]
            self.cells.append(cells)
            self._told.append(told)
            rows += [self._w.HBox(cells), self._w.HBox(told)]
        self._grid.children = rows

    def _cell(self, row: int, place: int) -> Any:
        text = self.session.draft.rows[row][place]
        cell = self._w.Combobox(
            value=text, placeholder="any", ensure_option=False, layout={"width": "15em"}
        )
        cell.options = self._offered(place, text)

        def typed(change: Any) -> None:
            self.session.change(self.session.draft.typed(row, place, change["new"]))
            cell.options = self._offered(place, change["new"])
            self._show((row, place))

        cell.observe(typed, "value")
        return cell

    def _offered(self, place: int, text: str) -> list[str]:
        return [each.text for each in self.session.complete(place, text)]

    def _show(self, typing: tuple[int, int] | None = None) -> None:
        """Show the figures, and say under each cell what is to be told of it."""
        half = typing is not None and bool(self.cells[typing[0]][typing[1]].options)
        outcome = self.session.take(self.session.work_out(typing=typing if half else None))
        if outcome is None:
            return
        holds = dict(outcome.holds)
        faults = {(each.row, each.place): each.text for each in outcome.faults}
        for row, told in enumerate(self._told):
            for place, each in enumerate(told):
                count = holds.get((row, place))
                fault = faults.get((row, place), "")
                said = "" if count is None else f"{count:,} {'row' if count == 1 else 'rows'}"
                colour = "#a3261f" if fault or count == 0 else "inherit"
                each.value = f'<small style="color:{colour}">{_safe(fault or said)}</small>'
        whole = [text for (row, _), text in faults.items() if row is None]
        said = "Half typed: figures as before" if outcome.half else ""
        if faults:
            said = "; ".join(whole) or "Figures of the last criteria that could be read"
        figures = self.session.last_figures or ()
        shown = [_figure(each, outcome.moved.get(each.name)) for each in figures]
        warned = f'<p style="color:#a3261f">{_safe(said)}</p>' if said else ""
        self._figures.value = f'{warned}<div style="{_SIDE_BY_SIDE}">{"".join(shown)}</div>'
        self._call.value = f"<code>{_safe(self.call)}</code>"

    @property
    def call(self) -> str:
        """The call in Python that gives the same figures."""
        words = [repr(each) for each in self.session.measures]
        criteria = [each for each in (self.session.besides, self.session.where) if each]
        if criteria:
            words.append(f"where={(criteria[0] if len(criteria) == 1 else criteria)!r}")
        words += [f"{name}={said!r}" for name, said in self._asked.items()]
        return f"table.tally({', '.join(words)})"


def _safe(text: str) -> str:
    return html.escape(visible(text)).replace("\n", "<br>")


def _figure(tally: Tally, move: Move | None) -> str:
    """Return a figure as HTML: its name, itself, what it moved by, its account."""
    value = "no value" if tally.value is None else show_figure(tally)
    moved = "as before" if move is None else move_words(tally, move.before, move.change)
    return (
        f'<div style="{_FIGURE}"><b>{_safe(tally.name)}</b>'
        f'<div style="font-size:2em;line-height:1.3">{_safe(value)}</div>'
        f"<small>{_safe(moved)}</small>{_strip(tally.account)}"
        f"<small>{_safe(tally.account.words())}</small></div>"
    )


def _strip(account: Account) -> str:
    parts = [
        f'<span title="{count:,} {name.replace("_", " ")}" style="'
        f"background:{_COLOURS[name]};flex:{count} 0 2px;"
        f'border-right:1px solid white"></span>'
        for name, count in account.strip()
    ]
    return f'<div style="display:flex;height:.8em;margin:.2em 0">{"".join(parts)}</div>'
