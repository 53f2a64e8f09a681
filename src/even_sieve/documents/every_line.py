"""All lines of a breakdown, one after the other, without making them."""

from collections.abc import Sequence
from typing import Any

from even_sieve.core.cells import Cell
from even_sieve.core.tally import ALL_VALUES, Breakdown, Line, key_columns_of, keys_of, values_of


class EveryLine:
    """All lines of a breakdown as they are laid out: subtotals below their lines, the total last.

    Keys and values are had as columns, without the lines.
    """

    def __init__(self, result: Breakdown) -> None:
        self._axes = len(result.axes)
        rest = () if result.rest is None else (result.rest,)
        whole = Line((ALL_VALUES,) * self._axes, result.total)
        self._parts: tuple[Sequence[Line], ...] = (result.lines, rest, result.subtotals, (whole,))
        self._order = self._moved() if result.subtotals else None

    def keys(self) -> list[Sequence[Any]]:
        """Return the keys of all of them, a column for each axis."""
        own = [key_columns_of(part, self._axes) for part in self._parts]
        return [self._laid_out([part[place] for part in own]) for place in range(self._axes)]

    def values(self, position: int) -> Sequence[Cell]:
        """Return the values of a measure on all of them."""
        return self._laid_out([values_of(part, position) for part in self._parts])

    def _laid_out(self, parts: Sequence[Sequence[Any]]) -> Sequence[Any]:
        every = [each for part in parts for each in part]
        return every if self._order is None else [every[place] for place in self._order]

    def _moved(self) -> list[int]:
        """Return their places as they are laid out, where there are subtotals."""
        keys = [key for part in self._parts for key in keys_of(part)]
        lines, rest, subtotals, _ = map(len, self._parts)
        first = lines + rest
        waiting: dict[tuple[Any, ...], list[int]] = {}
        for place in range(first, first + subtotals):
            key = keys[place]
            given = next((i for i, part in enumerate(key) if part is ALL_VALUES), self._axes)
            waiting.setdefault(key[:given], []).append(place)
        found: list[int] = []
        for place in range(first):
            found.append(place)
            key, after = keys[place], keys[place + 1] if place + 1 < first else ()
            for depth in range(self._axes - 1, 0, -1):
                if after[:depth] != key[:depth]:
                    found += waiting.pop(key[:depth], ())
        return [*found, *(place for left in waiting.values() for place in left), len(keys) - 1]
