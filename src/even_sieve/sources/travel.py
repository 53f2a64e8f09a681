"""Work on far rows on its way to a worker, and what comes of it on its way back.

It goes without the rows that it looks at: columns, lanes and arrays of far rows go as what they
stand for, and are those of a worker's own piece when they arrive. Arrays of a value a row that
stand here go in slices. What could be either a value a row or a table of values does not go.
"""

import pickle
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, fields
from io import BytesIO
from typing import Any, cast

import cloudpickle
import numpy as np

from even_sieve.core.table import Column, Table
from even_sieve.core.table.far import named_arrays
from even_sieve.core.table.far_arrays import FarArray
from even_sieve.core.table.lanes import (
    Array,
    DateLane,
    ErrorLane,
    FixedLane,
    FloatLane,
    TextLane,
    YesNoLane,
)

_LANES = (FixedLane, FloatLane, DateLane, TextLane, YesNoLane, ErrorLane)
#: What of a column and a lane is known beside their fields, and goes with them.
_FACTS = ("counts", "ends")


@dataclass(frozen=True)
class _Absent:
    """Stands for what has a name and is not here: where results are brought together."""

    name: tuple[Any, ...]


class StaysHere(Exception):
    """Something cannot travel: what it is wanted for is done here."""


@dataclass
class Names:
    """What columns, lanes and arrays of rows are called on the way.

    `by_id` names them, `things` has them by name; `long` are arrays of a value a row that are no
    far ones, `own` columns with such or with what is worked out, `whole` the ids of tables of
    values. Of arrays as long as `length` it must be known what they are. `used` are the places of
    the columns that what was packed names.
    """

    by_id: dict[int, tuple[Any, ...]] = field(default_factory=dict)
    things: dict[tuple[Any, ...], Any] = field(default_factory=dict)
    long: list[Array] = field(default_factory=list)
    own: list[Column] = field(default_factory=list)
    whole: set[int] = field(default_factory=set)
    used: set[int] = field(default_factory=set)
    owner: object = None
    length: int = -1

    @classmethod
    def here(
        cls,
        table: Table | None,
        owner: object,
        length: int,
        long: Sequence[Array],
        whole: Sequence[Array],
    ) -> "Names":
        """Return the names where the table is, whose far rows `owner` has."""
        found = cls(owner=owner, length=length, whole={id(each) for each in whole})
        for each in long:
            found._add_long(each)
        columns = () if table is None else table.columns
        for column in (each for each in columns if each.is_made):
            arrays = [each for _, each in named_arrays(column)]
            own = {cast(FarArray, each).key[1:]: each for each in arrays if _is_of(owner, each)}
            for each in arrays:
                found._add_long(each)
            for key, each in own.items():
                found._add(("array", *key), each)
            if len(own) == len(arrays) > 0 and not column.order:
                found._add_column(next(iter(own))[0], column)
            else:
                found.own.append(column)
        return found

    @classmethod
    def there(cls, columns: Mapping[int, Column], long: Sequence[Array]) -> "Names":
        """Return the names where a piece of the rows is, whose columns have these places."""
        found = cls()
        for each in long:
            found._add_long(each)
        for place, column in columns.items():
            found._add_column(place, column)
            for what, array in named_arrays(column):
                found._add(("array", place, what), array)
        return found

    def add_own(self, columns: Sequence[Column]) -> None:
        """Name columns that are no far ones, nor all of far rows, and what they are made of."""
        for number, column in enumerate(columns):
            self._add_column(f"own {number}", column)
            for what, array in named_arrays(column):
                if id(array) not in self.by_id:
                    self._add(("array", f"own {number}", what), array)

    def _add(self, name: tuple[Any, ...], thing: Any) -> None:
        self.by_id[id(thing)] = name
        self.things[name] = thing

    def _add_column(self, place: int | str, column: Column) -> None:
        self._add(("column", place), column)
        for kind, lane in column.lanes.items():
            self._add(("lane", place, kind), lane)

    def _add_long(self, array: Array) -> None:
        if isinstance(array, FarArray):
            for each in () if array.made is None else array.made[1]:
                self._add_long(each)
        elif id(array) not in self.by_id:
            self._add(("long", len(self.long)), array)
            self.long.append(array)

    def cut(self, start: int, stop: int) -> list[Array]:
        """Return the values of some rows of the arrays that are no far ones."""
        return [each[start:stop] for each in self.long]

    def name(self, thing: Any) -> tuple[Any, ...] | None:
        """Return what a thing is called; None for one that goes as it is. Raises `StaysHere`."""
        found = self._known(thing)
        if found is not None and isinstance(found[1], int) and found[0] != "long":
            self.used.add(found[1])
        return found

    def _known(self, thing: Any) -> tuple[Any, ...] | None:
        found = self.by_id.get(id(thing))
        if found is not None:
            return found
        if isinstance(thing, FarArray):
            if thing.made is not None:
                return None
            if not _is_of(self.owner, thing):
                raise StaysHere
            return ("array", *thing.key[1:])
        if isinstance(thing, _Absent):
            return thing.name
        if isinstance(thing, Table):
            raise StaysHere
        long = isinstance(thing, np.ndarray) and thing.ndim and len(thing) == self.length
        if long and id(thing) not in self.whole:
            raise StaysHere
        return None


def _is_of(owner: object, array: Any) -> bool:
    """Tell whether an array stands for far rows that an owner has."""
    return isinstance(array, FarArray) and array.key[:1] == (owner,)


class _Packer(cloudpickle.Pickler):  # type: ignore[misc]
    """Packs things under their names."""

    def __init__(self, file: BytesIO, names: Names) -> None:
        super().__init__(file, protocol=pickle.HIGHEST_PROTOCOL)
        self._names = names

    def persistent_id(self, thing: Any) -> tuple[Any, ...] | None:
        """Return what a thing is called on the way."""
        return self._names.name(thing)

    def reducer_override(self, thing: Any) -> Any:
        """Return how a thing is made again: a column and a lane without what it worked out."""
        if isinstance(thing, FarArray) and thing.made is not None:
            return thing.made
        if isinstance(thing, (Column, *_LANES)):
            return _made_again, (type(thing), _own(thing), _facts(thing))
        return super().reducer_override(thing)


def _own(thing: Any) -> tuple[Any, ...]:
    return tuple(getattr(thing, each.name) for each in fields(thing))


def _facts(thing: Any) -> dict[str, Any]:
    return {name: getattr(thing, name) for name in _FACTS if hasattr(type(thing), name)}


def _made_again(kind: Callable[..., Any], own: tuple[Any, ...], facts: dict[str, Any]) -> Any:
    made = kind(*own)
    made.__dict__.update(facts)
    return made


class _Unpacker(pickle.Unpickler):
    """Finds what was packed under a name."""

    def __init__(self, file: BytesIO, names: Names) -> None:
        super().__init__(file)
        self._names = names

    def persistent_load(self, name: Any) -> Any:
        """Return what has that name here."""
        things = self._names.things
        return things[name] if name in things else _Absent(name)


def pack(thing: Any, names: Names) -> bytes:
    """Return a thing as bytes. Raises `StaysHere` for one that cannot travel."""
    file = BytesIO()
    _Packer(file, names).dump(thing)
    return file.getvalue()


def unpack(packed: bytes, names: Names) -> Any:
    """Return what was packed, with the columns, lanes and arrays that are here."""
    return _Unpacker(BytesIO(packed), names).load()


def pack_work(work: Any, names: Names) -> tuple[bytes, bytes]:
    """Return work as it travels, and the columns before it that it names. Raises `StaysHere`."""
    own = pack(names.own, names)
    names.add_own(names.own)
    return own, pack(work, names)


def unpack_work(packed: tuple[bytes, bytes], names: Names) -> Any:
    """Return work where its rows are."""
    names.add_own(unpack(packed[0], names))
    return unpack(packed[1], names)
