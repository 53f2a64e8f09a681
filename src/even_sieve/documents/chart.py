"""Charts (Matplotlib), readable in black and white and without telling red from green.

What stands is dark; what is taken away is light with strokes, what is added back light
with dots; every bar carries its number.
"""

from collections.abc import Iterator
from math import isnan, nan
from typing import TYPE_CHECKING, Any

from even_sieve.core.axes import period_before
from even_sieve.core.errors import CallError, closest, listed
from even_sieve.core.notices import counted
from even_sieve.core.tally import Breakdown, Bridge, Tally
from even_sieve.core.understood import text_of
from even_sieve.documents.chart_parts import (
    FAINT,
    FEW_POINTS,
    INK,
    as_float,
    between,
    finish,
    label_bar,
    new_axes,
    short,
)
from even_sieve.documents.figures import show_key
from even_sieve.documents.series_chart import draw_two_axes
from even_sieve.documents.shown import show_figure, show_like
from even_sieve.documents.values import plain_amount

if TYPE_CHECKING:
    from matplotlib.axes import Axes

_STANDS, _TAKEN, _ADDED = "#1f3a5f", "#f2c27b", "#cfe3f5"


def draw_bridge(result: Bridge, axes: "Axes | None" = None) -> "Axes":
    """Draw the bridge: a bar a step from top to bottom, its amount beside it."""
    steps = result.steps
    axes = new_axes(len(steps)) if axes is None else axes
    for place, step in enumerate(steps):
        whole = step.reason in ("start", "figure")
        left = float(plain_amount(step.amount_left))
        change = float(plain_amount(step.amount))
        start, width = (0.0, left) if whole else (left - change, change)
        axes.barh(place, width, left=start, height=0.62, **_style(whole, change))
        sign = "" if whole or not change else "+" if change > 0 else "-"
        shown = sign + show_like(result.tally, step.amount if whole else abs(step.amount))
        rows = counted(step.rows, "row") if step.rows != -1 else "-1 row"
        text = f"{shown}   ({rows})"
        label_bar(axes, place, max(start, start + width), text, bold=whole)
        if place + 1 < len(steps):
            line = [place + 0.31, place + 0.69]
            axes.plot([left, left], line, color=FAINT, linewidth=1, clip_on=False)
    _frame(axes, result)
    return axes


def draw_breakdown(
    result: Breakdown, measure: str | None = None, axes: "Axes | None" = None
) -> "Axes":
    """Draw one measure of a breakdown: bars, lines over periods; two axes as several series.

    The measure is given by its name, the first if left out. The total is not drawn. It is drawn
    on the axes that are given, else on new ones. Raises `CallError` for more than two axes, a
    name that is not there, or values that are no numbers.
    """
    place = _place(result, measure)
    if len(result.axes) > 1:
        return draw_two_axes(result, place, axes)
    name, lines = _series(result, place)
    periods = [label for label, _ in lines if period_before(result.by[0], label) is not None]
    over_time = bool(periods) and periods == sorted(periods)
    if axes is None:
        axes = new_axes(0 if over_time else max(len(lines), 1))
    if over_time:
        _draw_line(axes, result.by[0], lines)
    else:
        _draw_bars(axes, lines)
    axis = result.by[0] if over_time else f"by {result.by[0]}"
    finish(axes, f"{name}, {axis}", over_time)
    return axes


def _place(result: Breakdown, measure: str | None) -> int:
    """Return the position of a measure by its name, the first for None."""
    names = [tally.name for tally in result.total]
    if measure is not None and text_of("the measure", measure) not in names:
        near = closest(measure, names)
        hint = f"Did you mean {listed(near)}?" if near else f"There are: {', '.join(names)}"
        raise CallError(f"there is no measure '{measure}' to draw\n{hint}")
    return 0 if measure is None else names.index(measure)


def _series(result: Breakdown, place: int) -> tuple[str, list[tuple[str, Tally]]]:
    """Return the measure's name, and each line's label with its tally; the rest comes last."""
    name = result.total[place].name
    found = [(short(show_key(line.key[0])), line.tallies[place]) for line in result.with_rest]
    for label, tally in found:
        if isinstance(as_float(tally.value), str):
            raise CallError(f"'{name}' cannot be drawn: at {label} it is {tally.value}")
    return name, found


def _draw_bars(axes: Any, lines: list[tuple[str, Tally]]) -> None:
    for place, (_, tally) in enumerate(lines):
        value = 0.0 if tally.value is None else float(tally.value)  # type: ignore[arg-type]
        axes.barh(place, value, height=0.62, facecolor=_STANDS)
        label_bar(axes, place, max(value, 0.0), show_figure(tally), bold=False)
    axes.set_yticks(range(len(lines)), [label for label, _ in lines])
    axes.invert_yaxis()
    axes.axvline(0, color=INK, linewidth=0.8)
    low, high = axes.get_xlim()
    axes.set_xlim(low, high + (high - low) * 0.12)


def _draw_line(axes: Any, name: str, lines: list[tuple[str, Tally]]) -> None:
    """Draw a point a period, a gap where there is no value; the numbers stand at the points."""
    points = list(_with_gaps(name, lines))
    values = [_as_float(tally) for _, tally in points]
    axes.axhline(0, color=INK, linewidth=0.8)
    axes.plot(range(len(points)), values, color=_STANDS, linewidth=2, marker="o", markersize=6)
    if len(points) <= FEW_POINTS:
        for place, (_, tally) in enumerate(points):
            if tally is not None and tally.value is not None:
                _label_point(axes, place, values, show_figure(tally))
    step = -(-len(points) // FEW_POINTS)
    axes.set_xticks(range(0, len(points), step), [label for label, _ in points][::step])
    axes.margins(y=0.15)
    axes.set_xlim(-0.5, len(points) - 0.5)
    low, high = axes.get_ylim()
    known = [each for each in values if not isnan(each)]
    axes.set_ylim(
        0.0 if all(each >= 0 for each in known) else low,
        0.0 if known and all(each <= 0 for each in known) else high,
    )


def _as_float(tally: Tally | None) -> float:
    return nan if tally is None or tally.value is None else float(tally.value)  # type: ignore[arg-type]


def _with_gaps(name: str, lines: list[tuple[str, Tally]]) -> Iterator[tuple[str, Tally | None]]:
    """Yield the periods one after the other, also those between that have no line.

    What is no period (a blank) comes after a gap.
    """
    last: str | None = None
    for label, tally in lines:
        before = period_before(name, label)
        if before is None:
            yield "", None
        elif last is not None:
            yield from ((each, None) for each in between(name, last, before))
        yield label, tally
        last = label if before is not None else None


def _label_point(axes: Any, place: int, values: list[float], text: str) -> None:
    """Write a number above its point; below it where the line comes down to it."""
    beside = [each for each in values[max(place - 1, 0) : place + 2] if not isnan(each)]
    low = len(beside) > 1 and values[place] == min(beside) < max(beside)
    offset: dict[str, Any] = {"xytext": (0, -9 if low else 9), "textcoords": "offset points"}
    at = place, values[place]
    axes.annotate(text, at, ha="center", va="top" if low else "bottom", color=INK, **offset)


def _style(whole: bool, change: float) -> dict[str, Any]:
    if whole:
        return {"facecolor": _STANDS, "edgecolor": _STANDS}
    hatch, colour = ("..", _ADDED) if change > 0 else ("///", _TAKEN)
    return {"facecolor": colour, "edgecolor": INK, "hatch": hatch, "linewidth": 0.8}


def _frame(axes: Any, result: Bridge) -> None:
    """Set the labels of the steps, the title, and room for the numbers."""
    axes.set_yticks(range(len(result.steps)), [short(step.label) for step in result.steps])
    axes.invert_yaxis()
    axes.axvline(0, color=INK, linewidth=0.8)
    ends = [float(plain_amount(step.amount_left)) for step in result.steps]
    low, high = min(0.0, *ends), max(0.0, *ends)
    room = (high - low or 1.0) * 0.3
    axes.set_xlim(low - (0.02 * (high - low) if low < 0 else 0), high + room)
    axes.xaxis.set_major_formatter(lambda value, _: f"{value:,.10g}")
    axes.set_xlabel(result.name, color=INK)
    title = f"From the bare column to {result.name}"
    axes.set_title(title, loc="left", weight="bold", color=INK, pad=14)
    for side in ("top", "right", "left"):
        axes.spines[side].set_visible(False)
    axes.tick_params(axis="y", length=0)
    axes.grid(axis="x", color="#e4e4e4", linewidth=0.8)
    axes.set_axisbelow(True)
