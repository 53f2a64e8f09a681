"""Answers in another shape: some measures, other names, other orders, the first lines."""

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import replace
from typing import Any

from even_sieve.core.errors import CallError, NoSuchFigure, closest, listed
from even_sieve.core.notices import Code, Notice, counted
from even_sieve.core.table.lanes import Array
from even_sieve.core.tally.answers import Breakdown, Tallies, Tally
from even_sieve.core.tally.keyed_lines import (
    LazyLines,
    Line,
    key_columns_of,
    keys_of,
    picked,
    told_of,
    values_of,
)
from even_sieve.core.tally.layout import Layout, ordered
from even_sieve.core.understood import refused, text_of, whole_of


def selected(found: Tallies, names: Sequence[str]) -> Tallies:
    """Return some of the tallies, in this order. Raises `NoSuchFigure`."""
    places = _places([tally.name for tally in found], names)
    return replace(found, items=tuple(found.items[place] for place in places))


def renamed(found: Tallies, names: Mapping[str, str]) -> Tallies:
    """Return the tallies under other names. Raises `NoSuchFigure`, `CallError`."""
    new = _names([tally.name for tally in found], names)
    return replace(found, items=tuple(map(_called, found.items, new)))


def selected_measures(found: Breakdown, names: Sequence[str]) -> Breakdown:
    """Return a breakdown with some of its measures, in this order."""
    places = _places([tally.name for tally in found.total], names)
    return _changed(found, places, lambda tallies: selected(tallies, names))


def renamed_measures(found: Breakdown, names: Mapping[str, str]) -> Breakdown:
    """Return a breakdown with its measures under other names."""
    places = list(range(len(found.total)))
    return _changed(found, places, lambda tallies: renamed(tallies, names))


def resorted(found: Breakdown, sort: str) -> Breakdown:
    """Return a breakdown with its lines in the order of a measure, or of the labels."""
    layout = Layout(found.by, found.across, text_of("sort", sort, "a measure's name, or label"))
    order = ordered(layout, [tally.request for tally in found.total], found)
    return replace(found, lines=picked(found.lines, order))


def first_lines(found: Breakdown, count: int) -> Breakdown:
    """Return a breakdown with its first lines alone; a notice says that the total is of all."""
    count, whole = whole_of("the number of lines", count, 0), len(found.lines)
    if count >= whole:
        return found
    text = f"these are the first {count:,} of {counted(whole, 'line')}; the total is that of all"
    notices = (*found.notices, Notice(Code.FIRST_LINES, text, {"lines": whole}))
    return replace(found, lines=picked(found.lines, range(count)), rest=None, notices=notices)


def groups_of(found: Breakdown) -> Iterator[tuple[Any, Sequence[Line]]]:
    """Yield each value of the first axis with the lines under it."""
    keys = keys_of(found.lines)
    start = 0
    for place in range(1, len(keys) + 1):
        if place == len(keys) or keys[place][0] != keys[start][0]:
            yield keys[start][0], picked(found.lines, range(start, place))
            start = place


def _changed(
    found: Breakdown, places: Sequence[int], change: Callable[[Tallies], Tallies]
) -> Breakdown:
    """Return a breakdown whose tallies are changed; `places` are those of its measures now."""
    lines = found.lines

    def line(each: Line) -> Line:
        return Line(each.key, change(each.tallies))

    def values(position: int, at: Array) -> list[Any]:
        return values_of(picked(lines, at), places[position])

    made = LazyLines(
        len(lines),
        lambda i: line(lines[i]),
        lambda at: key_columns_of(picked(lines, at), len(found.axes)),
        values,
        told=lambda position, at: told_of(picked(lines, at), places[position]),
    )
    return replace(
        found,
        lines=made,
        total=change(found.total),
        subtotals=tuple(map(line, found.subtotals)),
        rest=None if found.rest is None else line(found.rest),
    )


def _places(known: Sequence[str], names: Sequence[str]) -> list[int]:
    if not names:
        raise CallError(f"no measure is named\nThere are: {', '.join(known)}")
    for name in names:
        if text_of("the name of a measure", name) not in known:
            raise _no_such(name, known)
    return [known.index(name) for name in names]


def _names(known: Sequence[str], names: Mapping[str, str]) -> list[str]:
    if not isinstance(names, Mapping):
        raise refused("names", "a mapping of names to new ones", names)
    for name, new in names.items():
        if name not in known:
            raise _no_such(name, known)
        text_of(f"the new name of '{name}'", new)
    made = [names.get(name, name).strip() for name in known]
    twice = [name for name in made if made.count(name) > 1 or not name]
    if twice:
        raise CallError(
            f"two measures would be called '{twice[0]}'" if twice[0] else "a name is blank"
        )
    return made


def _no_such(name: object, known: Sequence[str]) -> NoSuchFigure:
    near = closest(str(name), known)
    hint = f"did you mean {listed(near)}?" if near else f"there are: {', '.join(known)}"
    return NoSuchFigure(f"no measure '{name}'; {hint}")


def _called(tally: Tally, name: str) -> Tally:
    return replace(tally, request=replace(tally.request, name=name))
