"""All lines of a breakdown, one after the other, without making them."""

from collections.abc import Sequence
from typing import Any

from even_sieve.core.cells import Cell
from even_sieve.core.tally import ALL_VALUES, Breakdown, Line, keys_of, values_of


class EveryLine:
    """All lines of a breakdown one after the other: those, the rest, subtotals, the total.

    `keys` and the values of a measure are had without the lines.
    """

    def __init__(self, result: Breakdown) -> None:
        self._result = result
        rest = () if result.rest is None else (result.rest,)
        whole = Line((ALL_VALUES,) * len(result.axes), result.total)
        self._parts: tuple[Sequence[Line], ...] = (result.lines, rest, result.subtotals, (whole,))
        self.keys = [key for part in self._parts for key in keys_of(part)]
        self._values: dict[int, list[Cell]] = {}

    def values(self, position: int) -> list[Cell]:
        """Return the values of a measure on all of them."""
        if position not in self._values:
            parts = (values_of(part, position) for part in self._parts)
            self._values[position] = [value for part in parts for value in part]
        return self._values[position]

    def order(self) -> list[int]:
        """Return their places as they are laid out: each group's subtotals stand below it."""
        lines, rest, subtotals, _ = map(len, self._parts)
        size, first = len(self._result.axes), lines + rest
        waiting: dict[tuple[Any, ...], list[int]] = {}
        for place in range(first, first + subtotals):
            key = self.keys[place]
            given = next((i for i, part in enumerate(key) if part is ALL_VALUES), size)
            waiting.setdefault(key[:given], []).append(place)
        if not waiting:
            return list(range(len(self.keys)))
        found: list[int] = []
        for place in range(first):
            found.append(place)
            key, after = self.keys[place], self.keys[place + 1] if place + 1 < first else ()
            for depth in range(size - 1, 0, -1):
                if after[:depth] != key[:depth]:
                    found += waiting.pop(key[:depth], ())
        return [*found, *(place for left in waiting.values() for place in left), len(self.keys) - 1]
