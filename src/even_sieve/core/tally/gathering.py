"""What measures gather over the rows of a pass: counts and states, by group."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from even_sieve.core.criteria import Block
from even_sieve.core.measures import (
    BlockCells,
    Bucket,
    CellFilter,
    Counts,
    Gathered,
    Measure,
    Selected,
    State,
    Target,
)
from even_sieve.core.table.lanes import Array
from even_sieve.core.tally.selection import Selection

PIECE = 1 << 16
#: With fewer rows a group in a piece, going through the groups takes as long as the rows.
_ROWS_A_GROUP = 16


@dataclass(frozen=True, eq=False)
class MeasureJob:
    """One measure over one selection; `whole` is what a share is taken of."""

    measure: Measure
    selection: Selection
    whole: "MeasureJob | None" = None

    @property
    def is_heavy(self) -> bool:
        """Whether what it gathers takes memory for every group."""
        return not all(need.light for need in self.measure.needs())


_View = tuple[int, CellFilter | None]
_Key = tuple[_View, str]


@dataclass(frozen=True, eq=False)
class Grouping:
    """The group of every row (None: all are in one), and how many groups there are.

    Groups before `first`, and those beyond the count from there on, are passed over.
    """

    count: int
    codes: Array | None = None
    first: int | None = None

    def of(self, rows: slice, mask: Array) -> tuple[Array | None, Array]:
        """Return the groups of some rows, and which of those in the mask are in one of them."""
        if self.codes is None:
            return None, mask
        groups = self.codes[rows]
        if self.first is None:
            return groups, mask
        last = self.first + self.count
        mask = mask & (groups >= self.first) & (groups < last)
        return np.where(mask, groups, self.first) - self.first, mask


@dataclass
class Gatherer:
    """What one thread gathers in one pass, one entry a group."""

    grouping: Grouping
    counts: dict[_View, Counts]
    states: dict[_Key, State]

    def __post_init__(self) -> None:
        self.views: dict[_View, list[State]] = {view: [] for view in self.counts}
        for (view, _), state in self.states.items():
            self.views.setdefault(view, []).append(state)

    def __reduce__(self) -> tuple[Any, ...]:
        """Travel without the groups of the rows that were gone through."""
        return Gatherer, (Grouping(self.grouping.count), self.counts, self.states)

    def add(self, block: Block, masks: dict[int, Array], first: int = 0) -> None:
        """Take in a block, given the mask of every selection on it.

        `first` is the place in the table of the first of the rows that are here.

        Where many rows are selected, cells are looked at in smaller pieces: what is worked
        out from them then stays near the processor.
        """
        by_selection: dict[int, list[_View]] = {}
        for view in self.views:
            by_selection.setdefault(view[0], []).append(view)
        for selection, views in by_selection.items():
            mask = masks[selection]
            gathers = any(self.views[view] for view in views)
            few_groups = self.grouping.count * _ROWS_A_GROUP <= PIECE
            many = gathers and few_groups and np.count_nonzero(mask) > PIECE
            size = PIECE if many else len(block)
            for start in range(block.start, block.stop, size):
                stop = min(start + size, block.stop)
                own = mask[start - block.start : stop - block.start]
                self._add_piece(views, (start, stop), own, first)

    def _add_piece(
        self, views: Sequence[_View], rows: tuple[int, int], mask: Array, first: int
    ) -> None:
        groups, mask = self.grouping.of(slice(*rows), mask)
        selected = Selected(*rows, mask, self.grouping.count, groups, first)
        for view in views:
            counts, used = self.counts.get(view), view[1]
            if used is None:
                selected.count_in(self.counts[view].buckets[:, Bucket.USED])
                continue
            cells = BlockCells(used, selected)
            if counts is not None:
                counts.add(cells)
            for state in self.views[view]:
                state.add(cells)

    def merge(self, other: "Gatherer") -> None:
        """Take in what was gathered of the same on other rows, in the same order.

        What came from another machine goes by other names.
        """
        for counts, more in zip(self.counts.values(), other.counts.values(), strict=True):
            counts.merge(more)
        for state, own in zip(self.states.values(), other.states.values(), strict=True):
            state.merge(own)


@dataclass
class GroupedPass:
    """What is to be gathered under one grouping, pass by pass, and what there is of it."""

    grouping: Grouping
    uncounted: list[_View]
    begin: dict[_Key, Callable[[], State]]
    size: int = 0
    counts: dict[_View, Counts] = field(default_factory=dict)
    states: dict[_Key, State] = field(default_factory=dict)

    @classmethod
    def of(
        cls, jobs: Sequence[MeasureJob], grouping: Grouping, size: int | None = None
    ) -> "GroupedPass":
        """Return the work of the jobs; measures that need the same state share it.

        Of ranges of fewer groups than there are, none but light states are gathered.
        """
        size = grouping.count if size is None else size
        views: dict[_View, None] = {}
        first: dict[_Key, Callable[[int, tuple[Target, ...]], State]] = {}
        targets: dict[_Key, list[Target]] = {}
        for job in jobs:
            view = _view(job)
            views[view] = None
            for need in job.measure.needs():
                if size < grouping.count and not need.light:
                    continue
                first.setdefault((view, need.name), need.begin)
                targets.setdefault((view, need.name), []).extend(need.targets)
        begin = {
            key: _starter(start, grouping.count, tuple(targets[key]))
            for key, start in first.items()
        }
        return cls(grouping, list(views), begin, size)

    def gatherer(self) -> Gatherer:
        """Return what one thread gathers in the pass to come."""
        counts = {view: Counts(self.grouping.count) for view in self.uncounted}
        return Gatherer(self.grouping, counts, {key: start() for key, start in self.begin.items()})

    def selections(self) -> set[int]:
        """Return the ids of the selections that the pass to come jobs."""
        return {view[0] for view in self.uncounted} | {view[0] for view, _ in self.begin}

    def take(self, gathered: Gatherer) -> None:
        """Keep what a pass brought, and go on with the states that need another one."""
        self.counts |= gathered.counts
        self.states |= gathered.states
        self.uncounted = []
        follow = {key: state.following() for key, state in gathered.states.items()}
        self.begin = {key: start for key, start in follow.items() if start is not None}

    def gathered(self, job: MeasureJob) -> Gathered:
        """Return what was gathered for one job."""
        view = _view(job)
        names = (need.name for need in job.measure.needs())
        states = {e: self.states[view, e] for e in names if (view, e) in self.states}
        return Gathered(self.counts[view], states)


def _view(job: MeasureJob) -> _View:
    return id(job.selection), job.measure.cells


def _starter(
    begin: Callable[[int, tuple[Target, ...]], State], groups: int, targets: tuple[Target, ...]
) -> Callable[[], State]:
    return lambda: begin(groups, targets)
