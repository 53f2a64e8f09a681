"""What the charts have in common: the figure, inks, labels, periods in a row."""

from collections.abc import Sequence
from decimal import Decimal
from math import nan
from typing import TYPE_CHECKING, Any

from even_sieve.core.axes import period_before
from even_sieve.core.cells import Cell
from even_sieve.documents.values import visible

if TYPE_CHECKING:
    from matplotlib.axes import Axes
    from matplotlib.figure import Figure

INK, FAINT = "#222222", "#8a8a8a"
FEW_POINTS = 16
_WIDTH, _ROW = 12.8, 0.62
_LONGEST = 46
#: The scale of a chart overflows from here on.
_TOO_LARGE = 1e300
_LONGEST_GAP = 400
_DOTS_PER_INCH = 100


def new_figure(height: float) -> "Figure":
    """Return a new figure, so many inches high."""
    from even_sieve.documents.picture import Picture

    figure = Picture(figsize=(_WIDTH, height), dpi=_DOTS_PER_INCH, layout="constrained")
    figure.get_layout_engine().set(w_pad=0.15, h_pad=0.15)  # type: ignore[union-attr, call-arg]
    return figure


def new_axes(rows: int) -> "Axes":
    """Return the axes of a new figure, high enough for so many rows of bars; 0 for lines."""
    return new_figure(1.8 + _ROW * rows if rows else 6.4).add_subplot()


def finish(axes: Any, title: str, over_time: bool) -> None:
    """Set the title, the scale of values and the lines behind it."""
    (axes.yaxis if over_time else axes.xaxis).set_major_formatter(lambda value, _: f"{value:,.10g}")
    axes.set_title(title, loc="left", weight="bold", color=INK, pad=14)
    for side in ("top", "right"):
        axes.spines[side].set_visible(False)
    if not over_time:
        axes.spines["left"].set_visible(False)
        axes.tick_params(axis="y", length=0)
    axes.grid(axis="y" if over_time else "x", color="#e4e4e4", linewidth=0.8)
    axes.set_axisbelow(True)


def label_bar(axes: Any, place: float, end: float, text: str, *, bold: bool) -> None:
    """Write a number behind the end of a bar."""
    weight = "bold" if bold else "normal"
    offset = {"xytext": (7, 0), "textcoords": "offset points"}
    axes.annotate(text, (end, place), va="center", ha="left", weight=weight, color=INK, **offset)


def short(label: str) -> str:
    """Return a label as far as there is room for it."""
    label = visible(label)
    return label if len(label) <= _LONGEST else f"{label[: _LONGEST - 1]}…"


def as_float(value: Cell) -> float | str:
    """Return a value to be drawn, nan where there is none; in words what cannot be drawn."""
    if value is None:
        return nan
    if isinstance(value, int | float | Decimal) and -_TOO_LARGE < value < _TOO_LARGE:
        return float(value)
    return str(value)


def periods_between(name: str, labels: Sequence[Any]) -> list[Any]:
    """Return periods one after the other, also those between that have no line; others last."""
    found: list[Any] = []
    last: str | None = None
    for label in labels:
        before = period_before(name, label)
        if before is not None and last is not None:
            found += between(name, last, before)
        found.append(label)
        last = label if before is not None else last
    return found


def between(name: str, last: str, before: str | None) -> list[str]:
    """Return the periods after the last one, up to the one before; none if there are too many."""
    found: list[str] = []
    while before is not None and before > last:
        if len(found) == _LONGEST_GAP:
            return []
        found.append(before)
        before = period_before(name, before)
    return found[::-1]
