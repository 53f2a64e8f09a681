"""All lines of a breakdown, one after the other, without making them."""

from collections.abc import Callable, Iterator, Sequence
from functools import partial
from itertools import chain
from typing import Any, cast, overload

from even_sieve.core.cells import Cell
from even_sieve.core.table.arrays import BLOCK, spans
from even_sieve.core.tally import (
    ALL_VALUES,
    Breakdown,
    Line,
    key_columns_of,
    keys_of,
    values_of,
)
from even_sieve.core.tally.keyed_lines import LazyLines


class Stretched(Sequence[Any]):
    """Very many items, of which `make` makes a stretch at a time, and some more after them.

    >>> items = Stretched(3, lambda rows: [10 * i for i in range(rows.start, rows.stop)], ["all"])
    >>> list(items), items[1], items[2:]
    ([0, 10, 20, 'all'], 10, [20, 'all'])
    """

    def __init__(
        self, length: int, make: Callable[[slice], Sequence[Any]], more: Sequence[Any]
    ) -> None:
        self._length, self._make, self._more = length, make, more

    def __len__(self) -> int:
        return self._length + len(self._more)

    def stretches(self) -> Iterator[list[Any]]:
        """Yield all of them, a stretch after the other."""
        for rows in spans(self._length):
            yield [*self._make(rows)]
        yield [*self._more]

    def with_last(self, item: Any) -> "Stretched":
        """Return the same with another last item."""
        return Stretched(self._length, self._make, [*self._more[:-1], item])

    def __iter__(self) -> Iterator[Any]:
        return chain.from_iterable(self.stretches())

    @overload
    def __getitem__(self, place: int) -> Any: ...

    @overload
    def __getitem__(self, place: slice) -> Sequence[Any]: ...

    def __getitem__(self, place: int | slice) -> Any:
        if isinstance(place, slice):
            return [self[each] for each in range(*place.indices(len(self)))]
        at = range(len(self))[place]
        if at < self._length:
            return self._make(slice(at, at + 1))[0]
        return self._more[at - self._length]


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
        lines = result.lines
        many = isinstance(lines, LazyLines) and len(lines) > BLOCK and self._order is None
        self._many = cast(LazyLines, lines) if many else None

    def _stretched_keys(self, lines: LazyLines, place: int) -> Stretched:
        more = [key_columns_of(part, self._axes)[place] for part in self._parts[1:]]
        return Stretched(
            len(lines), lambda rows: lines.keys_at(rows)[place], [*chain.from_iterable(more)]
        )

    def keys(self) -> list[Sequence[Any]]:
        """Return the keys of all of them, a column for each axis."""
        if self._many is not None:
            return [self._stretched_keys(self._many, place) for place in range(self._axes)]
        own = [key_columns_of(part, self._axes) for part in self._parts]
        return [self._laid_out([part[place] for part in own]) for place in range(self._axes)]

    def values(self, position: int) -> Sequence[Cell]:
        """Return the values of a measure on all of them."""
        if self._many is not None:
            lines, more = self._many, [values_of(part, position) for part in self._parts[1:]]
            make = partial(lines.values_at, position)
            return Stretched(len(lines), make, [*chain.from_iterable(more)])
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
