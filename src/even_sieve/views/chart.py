"""Charts (Matplotlib), readable in black and white and without telling red from green.

What stands is dark; what is taken away is light with strokes, what is added back light
with dots; every bar carries its number.
"""

from typing import TYPE_CHECKING, Any

from even_sieve.core.notices import counted
from even_sieve.core.tally import Bridge
from even_sieve.views.grid import show_amount
from even_sieve.views.values import plain_amount

if TYPE_CHECKING:
    from matplotlib.figure import Figure

_STANDS, _TAKEN, _ADDED = "#1f3a5f", "#f2c27b", "#cfe3f5"
_INK, _FAINT = "#222222", "#8a8a8a"
_WIDTH, _ROW = 12.8, 0.62
_LONGEST = 46
_DOTS_PER_INCH = 100


def draw_bridge(result: Bridge) -> "Figure":
    """Return the bridge as a chart: a bar a step from top to bottom, its amount beside it."""
    from matplotlib.figure import Figure

    steps, decimals = result.steps, result.tally.decimals
    height = 1.8 + _ROW * len(steps)
    figure = Figure(figsize=(_WIDTH, height), dpi=_DOTS_PER_INCH, layout="constrained")
    figure.get_layout_engine().set(w_pad=0.15, h_pad=0.15)  # type: ignore[union-attr, call-arg]
    axes = figure.add_subplot()
    for place, step in enumerate(steps):
        whole = step.reason in ("start", "figure")
        left = float(plain_amount(step.amount_left))
        change = float(plain_amount(step.amount))
        start, width = (0.0, left) if whole else (left - change, change)
        axes.barh(place, width, left=start, height=0.62, **_style(whole, change))
        sign = "" if whole or not change else "+" if change > 0 else "−"
        shown = sign + show_amount(step.amount if whole else abs(step.amount), decimals)
        rows = counted(step.rows, "row") if step.rows != -1 else "-1 row"
        text = f"{shown}   ({rows})".replace("-", "−")
        _label(axes, place, max(start, start + width), text, bold=whole)
        if place + 1 < len(steps):
            line = [place + 0.31, place + 0.69]
            axes.plot([left, left], line, color=_FAINT, linewidth=1, clip_on=False)
    _frame(axes, result)
    return figure


def _style(whole: bool, change: float) -> dict[str, Any]:
    if whole:
        return {"facecolor": _STANDS, "edgecolor": _STANDS}
    hatch, colour = ("..", _ADDED) if change > 0 else ("///", _TAKEN)
    return {"facecolor": colour, "edgecolor": _INK, "hatch": hatch, "linewidth": 0.8}


def _label(axes: Any, place: int, end: float, text: str, *, bold: bool) -> None:
    weight = "bold" if bold else "normal"
    offset = {"xytext": (7, 0), "textcoords": "offset points"}
    axes.annotate(text, (end, place), va="center", ha="left", weight=weight, color=_INK, **offset)


def _frame(axes: Any, result: Bridge) -> None:
    """Set the labels of the steps, the title, and room for the numbers."""
    axes.set_yticks(range(len(result.steps)), [_short(step.label) for step in result.steps])
    axes.invert_yaxis()
    axes.axvline(0, color=_INK, linewidth=0.8)
    ends = [float(plain_amount(step.amount_left)) for step in result.steps]
    low, high = min(0.0, *ends), max(0.0, *ends)
    room = (high - low or 1.0) * 0.3
    axes.set_xlim(low - (0.02 * (high - low) if low < 0 else 0), high + room)
    axes.xaxis.set_major_formatter(lambda value, _: f"{value:,.10g}")
    axes.set_xlabel(result.name, color=_INK)
    title = f"From the bare column to {result.name}"
    axes.set_title(title, loc="left", weight="bold", color=_INK, pad=14)
    for side in ("top", "right", "left"):
        axes.spines[side].set_visible(False)
    axes.tick_params(axis="y", length=0)
    axes.grid(axis="x", color="#e4e4e4", linewidth=0.8)
    axes.set_axisbelow(True)


def _short(label: str) -> str:
    return label if len(label) <= _LONGEST else f"{label[: _LONGEST - 1]}…"
