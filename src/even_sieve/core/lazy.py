"""Sequences whose items are made when they are asked for, and kept."""

from collections.abc import Callable, Iterator, Sequence
from typing import Any, TypeAlias, TypeVar, overload

import numpy as np
from numpy.typing import NDArray

Item = TypeVar("Item")
Places: TypeAlias = NDArray[np.integer[Any]]


class Anew(Sequence[Item]):
    """Items of which each is made anew when it is asked for; `_at` makes that of a place."""

    def _at(self, place: int) -> Item:
        raise NotImplementedError

    @overload
    def __getitem__(self, place: int) -> Item: ...

    @overload
    def __getitem__(self, place: slice) -> Sequence[Item]: ...

    def __getitem__(self, place: int | slice) -> Item | Sequence[Item]:
        places = range(len(self))[place]
        return self._at(places) if isinstance(places, int) else tuple(map(self._at, places))

    def many(self, places: Places) -> list[Item]:
        """Return the items of many places, an array of whole numbers."""
        return list(map(self._at, places.tolist()))


def many_of(items: Sequence[Item], places: Places) -> list[Item]:
    """Return the items of many places of any sequence, at once where it can.

    >>> many_of("abc", np.array([2, 0]))
    ['c', 'a']
    """
    many = getattr(items, "many", None)
    if many is not None:
        found: list[Item] = many(places)
        return found
    return [items[place] for place in places.tolist()]


class LazySequence(Sequence[Item]):
    """So many items, each made from its position, once.

    >>> squares = LazySequence(4, lambda position: position**2)
    >>> squares[2], squares[1:], squares == (0, 1, 4, 9)
    (4, (1, 4, 9), True)
    """

    def __init__(self, length: int, make: Callable[[int], Item]) -> None:
        self._length, self._make = length, make
        self._made: dict[int, Item] = {}

    def __len__(self) -> int:
        return self._length

    @overload
    def __getitem__(self, position: int) -> Item: ...

    @overload
    def __getitem__(self, position: slice) -> Sequence[Item]: ...

    def __getitem__(self, position: int | slice) -> Item | Sequence[Item]:
        if isinstance(position, slice):
            return tuple(self[i] for i in range(*position.indices(self._length)))
        place = range(self._length)[position]
        if place not in self._made:
            self._made[place] = self._make(place)
        return self._made[place]

    def __iter__(self) -> Iterator[Item]:
        made, make = self._made, self._make
        for place in range(self._length):
            if place not in made:
                made[place] = make(place)
            yield made[place]

    def __repr__(self) -> str:
        return f"<{type(self).__name__} of {self._length:,}>"

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Sequence) and tuple(self) == tuple(other)

    def __hash__(self) -> int:
        return hash(tuple(self))

    def __reduce__(self) -> tuple[type[tuple[Item, ...]], tuple[tuple[Item, ...]]]:
        """Travel as the items themselves: what makes them stays behind."""
        return tuple, (tuple(self),)
