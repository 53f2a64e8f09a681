"""How the lines of a breakdown are laid out: along which axes, in which order, how many."""

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

import numpy as np

from even_sieve.core.cells import Cell, CellError
from even_sieve.core.cells.quoting import split_direction
from even_sieve.core.errors import CallError, closest, listed
from even_sieve.core.measures import MeasureRequest
from even_sieve.core.table.arrays import BLOCK, spans, zeros
from even_sieve.core.table.lanes import Array
from even_sieve.core.tally.answers import Breakdown
from even_sieve.core.tally.composite_figures import Composites
from even_sieve.core.tally.keyed_lines import ALL_VALUES, identified, keys_of, numbers_of, values_of

_LABEL = "label"


@dataclass(frozen=True)
class Layout:
    """How a breakdown is laid out.

    `by` and `across` are axes as they are written; `sort` is a measure by its name, or
    `label`, with `asc` or `desc` after it; `top` keeps so many lines and sums up the others.
    """

    by: tuple[str, ...]
    across: str | None = None
    sort: str | None = None
    top: int | None = None


def sorts_by_composite(layout: Layout, composites: Composites) -> bool:
    """Tell whether lines are sorted by a figure worked out from others.

    Raises `CallError` for what can be known only once the lines stand in their order.
    """
    if layout.sort is None:
        return False
    name, _ = _sort_words(layout, composites.wanted)
    request = next((each for each in composites.wanted if each.name == name), None)
    if request is None or not request.parts:
        return False
    if layout.top is not None or request.kind == "running total":
        what = "sorted by" if layout.top is None else "cut by"
        raise CallError(f"lines cannot be {what} '{name}'\nSort by a measure of the rows")
    return True


def sorts_by_label(layout: Layout, requests: Sequence[MeasureRequest]) -> bool:
    """Tell whether lines stand in the order of their labels, or in that from the last one on."""
    return layout.sort is not None and _sort_words(layout, requests)[0] is None


def ordered(
    layout: Layout, requests: Sequence[MeasureRequest], found: Breakdown
) -> Sequence[int] | Array:
    """Return the places of the lines as asked: groups of the outer axes by their subtotals.

    Of lines that are cut those after the first ones may stand as they did.
    """
    name, descending = _sort_words(layout, requests)
    if name is None:
        order = range(len(found.lines))
        return order[::-1] if descending else order
    position = [request.name for request in requests].index(name)
    outer = zip(keys_of(found.subtotals), values_of(found.subtotals, position), strict=True)
    known = {identified(key): value for key, value in outer}
    count = len(layout.by)
    size = count + (layout.across is not None)
    if count == size == 1:
        numbers = numbers_of(found.lines, position)
        if numbers is not None:
            count = len(numbers) if layout.top is None else layout.top
            return _with_first(numbers, count, descending)
    keys, ranks = keys_of(found.lines), []
    for depth in range(1, count + 1):
        if depth == size:
            own = values_of(found.lines, position)
        else:
            others = (ALL_VALUES,) * (size - depth)
            own = [known.get(identified((*key[:depth], *others))) for key in keys]
        ranks.append([_sort_key(value, descending) for value in own])
    each = list(zip(*ranks, strict=True))
    return sorted(range(len(found.lines)), key=each.__getitem__)


def _with_first(numbers: Array, count: int, descending: bool) -> Array:
    """Return the places of numbers, so many of the first ones in order, all others as they are.

    >>> _with_first(np.array([3.0, 5.0, 4.0, 5.0]), 2, True).tolist()
    [1, 3, 0, 2]
    """
    best = np.empty(0, dtype=np.int64)
    for rows in spans(len(numbers), max(BLOCK, count)):
        places = np.concatenate((best, np.arange(rows.start, rows.stop)))
        own = numbers[places]
        best = places[np.argsort(-own if descending else own, kind="stable")[:count]]
    if len(best) == len(numbers):
        return best
    order, end = zeros(len(numbers), np.int64), len(best)
    order[:end], first = best, np.sort(best)
    for rows in spans(len(numbers)):
        places = np.arange(rows.start, rows.stop)
        own = first[np.searchsorted(first, rows.start) : np.searchsorted(first, rows.stop)]
        places = np.delete(places, own - rows.start)
        order[end : end + len(places)] = places
        end += len(places)
    return order


def _sort_words(layout: Layout, requests: Sequence[MeasureRequest]) -> tuple[str | None, bool]:
    """Return the measure to sort by (None for the label) and whether the largest is first."""
    text = layout.sort or f"{requests[0].name} desc"
    names = [request.name for request in requests]
    name, way = split_direction(text, names)
    if name.lower() == _LABEL and name not in names:
        return None, way == "desc"
    descending = way != "asc"
    if name not in names:
        near = closest(name, names)
        hint = f"Did you mean {listed(near)}?" if near else f"Sort by label or {listed(names)}"
        raise CallError(f"there is no measure '{name}' to sort by\n{hint}")
    return name, descending


def _sort_key(value: Cell, descending: bool) -> tuple[int, object]:
    """Return what values are sorted by: numbers, then dates and texts, then none and errors."""
    if value is None or isinstance(value, CellError):
        return 2, 0
    if isinstance(value, int | float | Decimal) and not isinstance(value, bool):
        return 0, -value if descending else value
    text = str(value)
    return 1, [-ord(char) for char in text] if descending else text
