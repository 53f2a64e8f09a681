"""Passes over a table for any number of measures.

The distinct selections, the distinct cells they look at and the distinct states they
gather are found first; then blocks of rows are gone through, on all threads, and the
threads' states are merged. States that need to see the rows again get another pass.
"""

from collections.abc import Callable, Sequence, Set
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field, replace
from multiprocessing import cpu_count

import numpy as np

from even_sieve.core.criteria import Block, blocks
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
from even_sieve.core.progress import Steps
from even_sieve.core.table import Table
from even_sieve.core.table.arrays import keep_memory, let_go
from even_sieve.core.table.lanes import Array
from even_sieve.core.tally.selection import Selection, select

BLOCK = 1 << 18
PIECE = 1 << 16
#: So many bytes of masks a thread may hold on a block; with more of them, blocks are shorter.
_MOST_MASKS = 1 << 27
#: With fewer rows a group in a piece, going through the groups takes as long as the rows.
_ROWS_A_GROUP = 16
#: With fewer rows a group, one thread goes through them all.
_ROWS_OF_MANY = 4


@dataclass(frozen=True, eq=False)
class MeasureJob:
    """One measure over one selection; `whole` is what a share is taken of."""

    measure: Measure
    selection: Selection
    whole: "MeasureJob | None" = None


_View = tuple[int, CellFilter | None]
_Key = tuple[_View, str]


@dataclass(frozen=True, eq=False)
class Grouping:
    """The group of every row (None: all are in one), and how many groups there are."""

    count: int
    codes: Array | None = None


@dataclass
class _Gatherer:
    """What one thread gathers in one pass, one entry a group."""

    grouping: Grouping
    counts: dict[_View, Counts]
    states: dict[_Key, State]

    def __post_init__(self) -> None:
        self.views: dict[_View, list[State]] = {view: [] for view in self.counts}
        for (view, _), state in self.states.items():
            self.views.setdefault(view, []).append(state)

    def add(self, block: Block, masks: dict[int, Array]) -> None:
        """Take in a block, given the mask of every selection on it.

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
                self._add_piece(views, start, stop, mask[start - block.start : stop - block.start])

    def _add_piece(self, views: Sequence[_View], start: int, stop: int, mask: Array) -> None:
        codes = self.grouping.codes
        groups = None if codes is None else codes[start:stop]
        selected = Selected(start, stop, mask, self.grouping.count, groups)
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

    def merge(self, other: "_Gatherer") -> None:
        """Take in what another thread gathered."""
        for view, counts in self.counts.items():
            counts.merge(other.counts[view])
        for key, state in self.states.items():
            state.merge(other.states[key])


@dataclass
class GroupedPass:
    """What is to be gathered under one grouping, pass by pass, and what there is of it."""

    grouping: Grouping
    uncounted: list[_View]
    begin: dict[_Key, Callable[[], State]]
    counts: dict[_View, Counts] = field(default_factory=dict)
    states: dict[_Key, State] = field(default_factory=dict)

    @classmethod
    def of(cls, jobs: Sequence[MeasureJob], grouping: Grouping) -> "GroupedPass":
        """Return the work of the jobs; measures that need the same state share it."""
        views: dict[_View, None] = {}
        first: dict[_Key, Callable[[int, tuple[Target, ...]], State]] = {}
        targets: dict[_Key, list[Target]] = {}
        for job in jobs:
            view = _view(job)
            views[view] = None
            for need in job.measure.needs():
                first.setdefault((view, need.name), need.begin)
                targets.setdefault((view, need.name), []).extend(need.targets)
        begin = {
            key: _starter(start, grouping.count, tuple(targets[key]))
            for key, start in first.items()
        }
        return cls(grouping, list(views), begin)

    def gatherer(self) -> _Gatherer:
        """Return what one thread gathers in the pass to come."""
        counts = {view: Counts(self.grouping.count) for view in self.uncounted}
        return _Gatherer(self.grouping, counts, {key: start() for key, start in self.begin.items()})

    def selections(self) -> set[int]:
        """Return the ids of the selections that the pass to come jobs."""
        return {view[0] for view in self.uncounted} | {view[0] for view, _ in self.begin}

    def take(self, gathered: _Gatherer) -> None:
        """Keep what a pass brought, and go on with the states that need another one."""
        self.counts |= gathered.counts
        self.states |= gathered.states
        self.uncounted = []
        follow = {key: state.following() for key, state in gathered.states.items()}
        self.begin = {key: start for key, start in follow.items() if start is not None}

    def gathered(self, job: MeasureJob) -> Gathered:
        """Return what was gathered for one job."""
        view = _view(job)
        states = {need.name: self.states[view, need.name] for need in job.measure.needs()}
        return Gathered(self.counts[view], states)


def _view(job: MeasureJob) -> _View:
    return id(job.selection), job.measure.cells


def _starter(
    begin: Callable[[int, tuple[Target, ...]], State], groups: int, targets: tuple[Target, ...]
) -> Callable[[], State]:
    return lambda: begin(groups, targets)


@dataclass(frozen=True)
class Pass:
    """What was gathered for each job: over all rows, and under each grouping by group."""

    whole: tuple[Gathered, ...]
    grouped: tuple[tuple[Gathered, ...], ...]


def run_pass(
    table: Table,
    jobs: Sequence[MeasureJob],
    groupings: Sequence[Grouping],
    threads: int,
    shared: Set[int],
) -> Pass:
    """Go through the table, in blocks, on so many threads (0: all cores), as often as states need.

    `shared` are the ids of the probes whose masks are worth keeping on a block.
    """
    wholes = [job.whole for job in jobs if job.whole is not None]
    selections = {id(job.selection): job.selection for job in (*jobs, *wholes)}
    work = [GroupedPass.of((*jobs, *wholes), Grouping(1))]
    work += [GroupedPass.of(jobs, grouping) for grouping in groupings]
    while open_ := [each for each in work if each.uncounted or each.begin]:
        ids = set().union(*(each.selections() for each in open_))
        asked = {key: each for key, each in selections.items() if key in ids}
        for each, gathered in zip(
            open_, _one_pass(table, open_, asked, threads, shared), strict=True
        ):
            each.take(gathered)
    found = [tuple(_with_whole(each.gathered(job), work[0], job) for job in jobs) for each in work]
    return Pass(found[0], tuple(found[1:]))


def _with_whole(gathered: Gathered, every_row: GroupedPass, job: MeasureJob) -> Gathered:
    return gathered if job.whole is None else replace(gathered, whole=every_row.gathered(job.whole))


def _one_pass(
    table: Table,
    work: Sequence[GroupedPass],
    selections: dict[int, Selection],
    threads: int,
    shared: Set[int],
) -> list[_Gatherer]:
    def run(piece: tuple[int, int]) -> list[_Gatherer]:
        gatherers = [each.gatherer() for each in work]
        for block in blocks(*piece, size, shared):
            masks = {key: select(table, each, block) for key, each in selections.items()}
            for gatherer in gatherers:
                gatherer.add(block, masks)
            for mask in masks.values():
                block.give_back(mask)
            told.took(block.stop - block.start)
            let_go()
        return gatherers

    keep_memory()
    told = Steps("going through the rows", table.length)
    size = min(BLOCK, _MOST_MASKS // (len(selections) + len(shared) + 1) + 1)
    # Where most rows are groups of their own, what each thread gathers takes as much as the table.
    many = max(each.grouping.count for each in work) * _ROWS_OF_MANY > table.length > BLOCK
    pieces = _pieces(table.length, 1 if many else threads or cpu_count())
    if len(pieces) == 1:
        return run(pieces[0])
    with ThreadPoolExecutor(len(pieces)) as pool:
        first, *others = pool.map(run, pieces)
    for other in others:
        for gatherer, more in zip(first, other, strict=True):
            gatherer.merge(more)
    return first


def _pieces(length: int, threads: int) -> list[tuple[int, int]]:
    """Return the rows of each thread, whole blocks; at least one piece, maybe of no rows."""
    blocks = -(-length // BLOCK)
    share = max(-(-blocks // max(threads, 1)), 1) * BLOCK
    starts = range(0, max(length, 1), share)
    return [(start, min(start + share, length)) for start in starts]
