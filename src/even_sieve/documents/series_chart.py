"""Charts of two axes (Matplotlib): lines over time, bars stacked or side by side, small multiples.

Series differ by marks and strokes as well as by colour: they are told apart in black and white.
The colours are those of Okabe and Ito, "Color Universal Design" (2008).
"""

from collections.abc import Sequence
from dataclasses import dataclass
from math import isnan, nan
from typing import TYPE_CHECKING, Any

from even_sieve.core.axes import is_period
from even_sieve.core.errors import CallError
from even_sieve.core.tally import ALL_VALUES, Breakdown, Tally, keys_of, values_of
from even_sieve.documents.chart_parts import (
    FAINT,
    FEW_POINTS,
    INK,
    as_float,
    finish,
    label_bar,
    new_axes,
    new_figure,
    periods_between,
    short,
)
from even_sieve.documents.figures import show_key
from even_sieve.documents.shown import show_like

if TYPE_CHECKING:
    from matplotlib.axes import Axes

_COLOURS = ("#0072b2", "#d55e00", "#009e73", "#cc79a7", "#e69f00", "#56b4e9")
_MARKERS, _STROKES = "osD^vP", ("-", "--", "-.", ":", (0, (5, 1)), (0, (1, 1)))
_HATCHES = ("", "///", "...", "\\\\\\", "xx", "++")
_MOST_TOGETHER = len(_COLOURS)
_MOST_PANELS, _PANELS_A_ROW = 24, 4
#: What adds up, and so can be stacked.
_ADDING = frozenset(("rows", "numbers", "filled", "blanks", "errors", "sum", "share"))


@dataclass(frozen=True)
class _Grid:
    """One measure by two axes: `values[series][category]`, nan where there is none."""

    like: Tally
    axis: str
    others: str
    categories: list[str]
    series: list[str]
    values: list[list[float]]
    over_time: bool

    @property
    def is_stacked(self) -> bool:
        """Whether bars stand on one another: amounts that add up, none of them negative."""
        known = [value for row in self.values for value in row if not isnan(value)]
        return self.like.request.kind in _ADDING and all(value >= 0 for value in known)


def draw_two_axes(result: Breakdown, place: int, axes: "Axes | None") -> "Axes":
    """Draw one measure along two axes: on these axes, or on new ones, which are returned."""
    grid = _grid(result, place)
    if axes is None and len(grid.series) > _MOST_TOGETHER:
        return _draw_panels(grid)
    if axes is None:
        rows = 0 if grid.over_time else len(grid.categories)
        axes = new_axes(rows if grid.is_stacked else rows * max(1, len(grid.series) // 2))
    _draw(axes, grid)
    along = (
        f"{grid.axis}, by {grid.others}" if grid.over_time else f"by {grid.axis} and {grid.others}"
    )
    finish(axes, f"{grid.like.name}, {along}", grid.over_time)
    if grid.series:
        names = {"title": grid.others, "frameon": False}
        axes.legend(loc="upper left", bbox_to_anchor=(1.0, 1.0), **names)
    return axes


def _grid(result: Breakdown, place: int) -> _Grid:
    if len(result.axes) != 2:
        raise CallError(
            "a chart shows one axis or two\nAsk for a breakdown by one, or across another"
        )
    keys, values = keys_of(result.lines), values_of(result.lines, place)
    like, (first, second) = result.total[place], result.axes
    found: dict[tuple[Any, ...], float] = {}
    for key, value in zip(keys, values, strict=True):
        drawn = as_float(value)
        if isinstance(drawn, str):
            raise CallError(
                f"'{like.name}' cannot be drawn: at {', '.join(map(show_key, key))} it is {drawn}"
            )
        found[key] = drawn
    sides = [key[1] for key in keys_of(result.subtotals) if key[0] is ALL_VALUES]
    rows = list(dict.fromkeys(key[0] for key in keys))
    columns = [each for each in sides if each is not ALL_VALUES]
    columns = columns or list(dict.fromkeys(key[1] for key in keys))
    if is_period(second) and not is_period(first):
        first, second, rows, columns = second, first, columns, rows
        found = {(b, a): value for (a, b), value in found.items()}
    over_time = is_period(first)
    rows = periods_between(first, rows) if over_time else rows
    table = [[found.get((row, column), nan) for row in rows] for column in columns]
    labels = [[short(show_key(key)) for key in each] for each in (rows, columns)]
    return _Grid(like, first, second, labels[0], labels[1], table, over_time)


def _draw(axes: Any, grid: _Grid) -> None:
    if grid.over_time:
        _draw_lines(axes, grid)
    elif grid.is_stacked:
        _draw_stacked(axes, grid)
    else:
        _draw_beside(axes, grid)


def _draw_lines(axes: Any, grid: _Grid) -> None:
    for i, (name, values) in enumerate(zip(grid.series, grid.values, strict=True)):
        look = i % _MOST_TOGETHER
        axes.plot(
            range(len(values)), values, label=name, color=_COLOURS[look], linewidth=1.8,
            linestyle=_STROKES[look], marker=_MARKERS[look], markersize=5,
        )  # fmt: skip
    _name_periods(axes, grid.categories, FEW_POINTS)
    axes.axhline(0, color=INK, linewidth=0.8)


def _name_periods(axes: Any, names: Sequence[str], most: int) -> None:
    step = -(-len(names) // most) or 1
    axes.set_xticks(range(0, len(names), step), names[::step])
    axes.set_xlim(-0.5, len(names) - 0.5)


def _draw_stacked(axes: Any, grid: _Grid) -> None:
    ends = [0.0] * len(grid.categories)
    for i, (name, values) in enumerate(zip(grid.series, grid.values, strict=True)):
        widths = [0.0 if isnan(value) else value for value in values]
        axes.barh(range(len(widths)), widths, left=ends, height=0.62, label=name, **_bar(i))
        ends = [end + width for end, width in zip(ends, widths, strict=True)]
    for place, end in enumerate(ends):
        label_bar(axes, place, end, show_like(grid.like, float(f"{end:.12g}")), bold=True)
    _name_bars(axes, grid.categories)


def _draw_beside(axes: Any, grid: _Grid) -> None:
    thick = 0.8 / max(len(grid.series), 1)
    for i, (name, values) in enumerate(zip(grid.series, grid.values, strict=True)):
        places = [place - 0.4 + thick * (i + 0.5) for place in range(len(values))]
        axes.barh(places, values, height=thick * 0.92, label=name, **_bar(i))
        for place, value in zip(places, values, strict=True):
            if not isnan(value):
                label_bar(axes, place, max(value, 0.0), show_like(grid.like, value), bold=False)
    _name_bars(axes, grid.categories)


def _bar(number: int) -> dict[str, Any]:
    look = number % _MOST_TOGETHER
    return {
        "facecolor": _COLOURS[look], "hatch": _HATCHES[look], "edgecolor": "white", "linewidth": 0.6
    }  # fmt: skip


def _name_bars(axes: Any, names: Sequence[str]) -> None:
    axes.set_yticks(range(len(names)), names)
    axes.invert_yaxis()
    axes.axvline(0, color=INK, linewidth=0.8)
    low, high = axes.get_xlim()
    axes.set_xlim(low, high + (high - low) * 0.1)


def _draw_panels(grid: _Grid) -> "Axes":
    """Draw each series by itself, all on one scale; the first panel is returned."""
    if len(grid.series) > _MOST_PANELS:
        raise CallError(
            f"{len(grid.series)} series are too many to draw: at most {_MOST_PANELS}\n"
            "Leave some out by criteria, or ask along one axis"
        )
    across = min(_PANELS_A_ROW, len(grid.series))
    down = -(-len(grid.series) // across)
    height = 2.4 if grid.over_time else 0.9 + 0.34 * len(grid.categories)
    figure = new_figure(0.8 + height * down)
    panels = figure.subplots(
        down, across, sharex=not grid.over_time or "all", sharey=True, squeeze=False
    )
    every = [panel for row in panels for panel in row]
    for panel, name, values in zip(every, grid.series, grid.values, strict=False):
        places = range(len(values))
        if grid.over_time:
            panel.plot(places, values, color=_COLOURS[0], linewidth=1.6, marker="o", markersize=3)
            panel.axhline(0, color=INK, linewidth=0.6)
            _name_periods(panel, grid.categories, 4)
        else:
            panel.barh(places, values, height=0.62, facecolor=_COLOURS[0])
            panel.set_yticks(places, grid.categories)
            panel.axvline(0, color=INK, linewidth=0.6)
        panel.set_title(name, loc="left", fontsize=10, color=INK)
        (panel.yaxis if grid.over_time else panel.xaxis).set_major_formatter(
            lambda value, _: f"{value:,.10g}"
        )
        panel.tick_params(labelsize=8, color=FAINT)
        for side in ("top", "right"):
            panel.spines[side].set_visible(False)
    if not grid.over_time:
        every[0].invert_yaxis()
    for panel in every[len(grid.series) :]:
        panel.set_visible(False)
    along = grid.axis if grid.over_time else f"by {grid.axis}"
    title = f"{grid.like.name}, {along}, for each {grid.others}"
    figure.suptitle(title, x=0.01, ha="left", weight="bold", color=INK)
    first: Axes = every[0]
    return first
