"""The first lines of a breakdown with all others as one, and the rest of a list of labels."""

from collections.abc import Sequence

import numpy as np

from even_sieve.core.axes import Axis, OthersGroup
from even_sieve.core.errors import CallError
from even_sieve.core.table.arrays import full, pick
from even_sieve.core.table.lanes import narrowest
from even_sieve.core.tally.keyed_lines import LazyLines, Line, keys_of, picked


def cut(axis: Axis, lines: Sequence[Line], top: int, *, in_axis_order: bool) -> Axis:
    """Return the axis of the first lines in order, and of all other groups as one."""
    if not isinstance(lines, LazyLines) or lines.groups is None:
        raise TypeError("lines are cut as they were gathered")
    if top < 1:
        raise CallError("at least one line is chosen\nWrite for example: --top 10")
    chosen: list[int] = lines.groups[:top].tolist()
    if in_axis_order:
        chosen.sort()
    number = full(len(axis.groups), top, narrowest(top + 1))
    number[chosen] = np.arange(top)
    kept = [axis.groups[each] for each in chosen]
    others = len(lines) - top
    rest = OthersGroup(f"{others} others" if others > 1 else "1 other", tuple(kept))
    return Axis(
        axis.name,
        axis.column,
        pick(number, axis.codes),
        (*kept, rest),
        listed=True,
    )


def without_rest(lines: Sequence[Line], axes: Sequence[Axis]) -> tuple[Sequence[Line], Line | None]:
    """Split the rest of a list of labels off the lines."""
    if len(axes) > 1 or not axes[0].listed:
        return lines, None
    last = axes[0].groups[-1]
    places = [place for place, key in enumerate(keys_of(lines)) if key == (last.key,)]
    called_so = [lines[place] for place in places]
    placed = [line for line in called_so if any(last in tally.place for tally in line.tallies)]
    bare = [line for line in called_so if not any(tally.place for tally in line.tallies)]
    rest = next(iter(placed or bare[::-1]), None)
    kept = [i for i in range(len(lines)) if i not in places or lines[i] is not rest]
    return picked(lines, kept), rest
