"""A column: named cells of any mixture of kinds."""

from bisect import bisect_left
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from functools import cached_property, partial
from itertools import chain
from typing import TYPE_CHECKING

import numpy as np

from even_sieve.core.cells import (
    Cell,
    Kind,
    Places,
    all_like_dates,
    all_like_numbers,
    all_like_times,
    fold,
    out_of_order,
)
from even_sieve.core.cells.likeness import Searching
from even_sieve.core.cells.named_dates import NAMES
from even_sieve.core.cells.written import PLAIN, Conventions
from even_sieve.core.notices import Notice
from even_sieve.core.table.arrays import holds, picked, spans
from even_sieve.core.table.distinct import count_codes, count_different
from even_sieve.core.table.far_arrays import FarArray
from even_sieve.core.table.identities import distinct_of, identity_of, spelt_of
from even_sieve.core.table.keys import Identity
from even_sieve.core.table.lane_cells import cells_of, cells_of_kinds
from even_sieve.core.table.lanes import Array, FixedLane, Lane, Rows, TextLane
from even_sieve.core.table.later import MadeLater
from even_sieve.core.table.look_alikes import look_alikes_in

if TYPE_CHECKING:
    from even_sieve.core.table.sketch import Sketch

#: Numbers with more decimals were worked out, not written down: nobody wants zeros after them.
_BLOCK = 1 << 14
#: So many texts that look like times are looked at.
_MOST_TIMES = 1 << 16
_MOST_SHOWN = 9
#: Bytes that a text takes, more or less.
_TEXT = 64


@dataclass(frozen=True, eq=False)
class Column(MadeLater):
    """Named cells. `states` holds a `Kind` a cell, uint8, shape (n,); None if all are alike.

    `lanes` maps each kind that the column holds to its lane; blanks have none. `notices`
    tells what the reader met on the way, `trimmed` how many cells had outer white space,
    `conventions` how the source writes numbers and dates. `order` lists the values that stand
    first on an axis, in their order there, where it is not that of values: labels, weekdays.
    `shown` is how the source shows all of its numbers: `percent`, or a sign of currency.
    """

    name: str
    length: int
    lanes: dict[Kind, Lane]
    # By factories: a default that the class has would stand for a column that is not made yet.
    states: Array | None = field(default_factory=lambda: None)
    notices: tuple[Notice, ...] = field(default_factory=tuple)
    trimmed: int = field(default_factory=int)
    conventions: Conventions = field(default_factory=lambda: PLAIN)
    order: tuple[Cell, ...] = field(default_factory=tuple)
    shown: str = field(default_factory=str)

    @classmethod
    def later(
        cls, name: str, length: int, make: "Callable[[], Column]", sketch: "Sketch | None" = None
    ) -> "Column":
        """Return a column that is made when more is asked of it than its name and its length.

        A sketch tells what is known of it before.
        """
        return cls.waiting(make, name=name, length=length, _sketch=sketch)

    @property
    def sketch(self) -> "Sketch | None":
        """What is known of a column that is not made yet, if anything is."""
        return self.__dict__.get("_sketch")

    def __sizeof__(self) -> int:
        """Return how many bytes the cells take, as far as they are here."""
        if not self.is_made:
            return 0
        size = 0 if self.states is None else self.states.nbytes
        for lane in self.lanes.values():
            if isinstance(lane, TextLane):
                waits = lane.of_rows is not None
                size += _TEXT * (self.length if waits else len(lane.spellings))
                if waits:
                    continue
            size += lane.values.nbytes
        return size

    def __post_init__(self) -> None:
        if self.states is None and len(self.lanes) != 1:
            raise ValueError(f"column '{self.name}': a column of several kinds needs states")

    @cached_property
    def counts(self) -> dict[Kind, int]:
        """How many cells there are of each kind that occurs."""
        if self.states is None:
            return {next(iter(self.lanes)): self.length} if self.length else {}
        kinds = sorted({*self.lanes, Kind.BLANK})
        if isinstance(self.states, FarArray):
            every = count_codes(self.states, max(Kind) + 1).tolist()
            return {kind: every[kind] for kind in kinds if every[kind]}
        found = dict.fromkeys(kinds, 0)
        for rows in spans(self.length):
            own = self.states[rows]
            for kind in kinds:
                found[kind] += int(np.count_nonzero(own == kind))
        return {kind: count for kind, count in found.items() if count}

    @property
    def leading(self) -> Kind:
        """The kind that a measure of the column is about: numbers, else dates, else text, …"""
        return min(self.counts, default=Kind.BLANK)

    @property
    def words(self) -> str:
        """What the column holds, in words: `numbers, text and blanks`."""
        words = [kind.words for kind in self.counts]
        if len(words) < 2:
            return words[0] if words else "nothing"
        return f"{', '.join(words[:-1])} and {words[-1]}"

    @property
    def only_kind(self) -> Kind:
        """The kind of all cells, where the column has no states."""
        return next(iter(self.lanes), Kind.BLANK)

    @property
    def decimals(self) -> int:
        """How many decimals its numbers are shown with; 0 where those that there are suffice."""
        lane = self.lanes.get(Kind.NUMBER)
        return lane.scale if isinstance(lane, FixedLane) and lane.scale <= _MOST_SHOWN else 0

    def cell(self, row: int) -> Cell:
        """Return the cell at a row, counted from 0."""
        kind = self.only_kind if self.states is None else Kind(int(self.states[row]))
        return None if kind is Kind.BLANK else self.lanes[kind].cell(row)

    def cells(self, rows: Iterable[int] | None = None) -> Iterator[Cell]:
        """Yield the cells, or those of the given rows, counted from 0."""
        if rows is not None:
            return iter(self._cells_at(np.asarray(list(rows), dtype=np.intp)))
        return chain.from_iterable(self.blocks())

    def blocks(self) -> Iterator[list[Cell]]:
        """Yield the cells, some thousands at a time."""
        for start in range(0, self.length, _BLOCK):
            yield self._cells_at(np.arange(start, min(start + _BLOCK, self.length)))

    def _cells_at(self, rows: Array) -> list[Cell]:
        if self.states is not None:
            return cells_of_kinds(self.lanes, self.states[rows], rows)
        lane = next(iter(self.lanes.values()), None)
        return [None] * len(rows) if lane is None else cells_of(lane, rows)

    def take(self, rows: Rows) -> "Column":
        """Return the column of these rows alone."""
        states = None if self.states is None else picked(self.states, rows)
        held = self.lanes
        if states is not None:
            held = {kind: lane for kind, lane in held.items() if holds(states, kind)}
        lanes = {kind: lane.take(rows) for kind, lane in held.items()}
        if states is not None and len(lanes) == 1 and not (states == Kind.BLANK).any():
            states = None
        some = next(iter(lanes.values()), None)
        length = len(states) if states is not None else len(some.values) if some else 0
        return Column(
            self.name, length, lanes, states, self.notices,
            conventions=self.conventions, order=self.order, shown=self.shown,
        )  # fmt: skip

    def values_of(self, kind: Kind) -> tuple[Sequence[Cell], Array]:
        """Return the different values of one kind in order, and each row's place among them.

        The place of a row of another kind is of no meaning.
        """
        return distinct_of(self, kind)

    @cached_property
    def identity(self) -> Identity:
        """Each cell as the number of its value, equal cells alike (worked out once)."""
        return identity_of(self, distinct_of)

    @cached_property
    def spelt(self) -> Identity:
        """The same, but that texts of another spelling are others."""
        return identity_of(self, spelt_of)

    @cached_property
    def used_texts(self) -> Array:
        """The codes of the texts that cells hold, ascending; of a lane there may be more."""
        lane = self.lanes.get(Kind.TEXT)
        if not isinstance(lane, TextLane):
            return np.empty(0, dtype=np.intp)
        used = np.zeros(len(lane.spellings), dtype=bool)
        for rows in spans(self.length):
            codes = lane.codes[rows]
            used[codes if self.states is None else codes[self.states[rows] == Kind.TEXT]] = True
        return np.flatnonzero(used)

    @cached_property
    def look_alikes(self) -> tuple[tuple[str, str], ...]:
        """Its texts that look like others of it and are not equal to these, each with one."""
        lane = self.lanes.get(Kind.TEXT)
        used = partial(getattr, self, "used_texts")
        return tuple(look_alikes_in(lane, used)) if isinstance(lane, TextLane) else ()

    def different(self, kind: Kind) -> tuple[int, Cell, Cell]:
        """Return how many different values of a kind there are, the least and the most of them.

        A text is shown as it is first spelt. 0 and None where the column holds none.
        """
        if kind not in self.counts or kind is Kind.BLANK:
            return 0, None, None
        lane = self.lanes[kind]
        if isinstance(lane, TextLane):
            used, spelt = self.used_texts, lane.spellings
            groups = lane.groups[used]
            first_of_last = used[np.searchsorted(groups, groups[-1])]
            count = 1 + int(np.count_nonzero(groups[1:] != groups[:-1]))
            return count, spelt[int(used[0])], spelt[int(first_of_last)]
        values, states = lane.values, self.states

        def held(rows: slice) -> Array:
            return values[rows] if states is None else values[rows][states[rows] == kind]

        count, ends = count_different(self.length, held)
        return count, lane.to_cell(ends[0].item()), lane.to_cell(ends[1].item())

    @cached_property
    def number_like(self) -> Array | None:
        """Which text codes look like numbers, bool, shape (spellings,); None if none does."""
        return self._like(all_like_numbers, ("", chr(0x10FFFF)))

    @cached_property
    def date_like(self) -> Array | None:
        """Which text codes look like dates, bool, shape (spellings,); None if none does."""
        return self._like(all_like_dates, ("0", ":"), *((name, f"{name}\uffff") for name in NAMES))

    @cached_property
    def times(self) -> list[str]:
        """Its texts that look like times, in order of letters; of very many some of all."""
        like, lane = self._like(all_like_times, ("0", ":")), self.lanes.get(Kind.TEXT)
        if like is None or not isinstance(lane, TextLane):
            return []
        places = np.flatnonzero(like)
        some = places[:: 1 + len(places) // _MOST_TIMES]
        return [lane.spellings[place] for place in (*some.tolist(), int(places[-1]))]

    def times_out_of_order(self, *others: str) -> tuple[str, str] | None:
        """Return two of its texts, and others, that stand in another order as times; or None."""
        times = [*self.times, *others]
        return out_of_order(sorted(times, key=fold)) if times else None

    def _like(
        self, test: Callable[[Sequence[str]], Places], *ends: tuple[str, str]
    ) -> Array | None:
        """Test the spellings whose folded value lies from one of these up to its other end.

        All of those that know how to look at all of them at once.
        """
        lane = self.lanes.get(Kind.TEXT)
        if not isinstance(lane, TextLane):
            return None
        waiting = lane.of_rows
        if waiting is not None and waiting.rows_like(test) is None:
            return None
        found = np.zeros(len(lane.spellings), dtype=bool)
        if isinstance(lane.spellings, Searching):
            found[np.asarray(test(lane.spellings), dtype=np.intp)] = True
            ends = ()
        for low, high in ends:
            start, stop = bisect_left(lane.folded, low), bisect_left(lane.folded, high)
            if start < stop:
                places = np.asarray(test(lane.spellings[start:stop]), dtype=np.intp)
                found[start + places] = True
        return found if found.any() else None
