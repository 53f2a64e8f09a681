"""Passes over a table for any number of measures.

The distinct selections, the distinct cells they look at and the distinct states they
gather are found first; then blocks of rows are gone through, on all threads, and the
threads' states are merged. States that need to see the rows again get another pass.
"""

from collections.abc import Sequence, Set
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from functools import partial
from multiprocessing import cpu_count

from even_sieve.core.criteria import blocks
from even_sieve.core.criteria.probes import parts_of, tables_of
from even_sieve.core.measures import Gathered
from even_sieve.core.progress import Steps, heard_by, tell
from even_sieve.core.table import Table
from even_sieve.core.table.arrays import as_if_granted, keep_memory, let_go, room
from even_sieve.core.table.lanes import Array
from even_sieve.core.tally.gathering import Gatherer, GroupedPass, Grouping, MeasureJob
from even_sieve.core.tally.ranges import ByRanges, size_of_range
from even_sieve.core.tally.selection import Selection, select

BLOCK = 1 << 18
#: So many bytes of masks a thread may hold on a block; with more of them, blocks are shorter.
_MOST_MASKS = 1 << 27
#: With fewer rows a group, one thread goes through them all.
_ROWS_OF_MANY = 4


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
    heavy = sum(job.is_heavy for job in jobs)
    work = [GroupedPass.of((*jobs, *wholes), Grouping(1))]
    for grouping in groupings:
        size = size_of_range(grouping.count, table.length, heavy) if heavy else grouping.count
        work.append(GroupedPass.of(jobs, grouping, size))
    _gather(table, work, (*jobs, *wholes), threads, shared)
    found = [tuple(_with_whole(each.gathered(job), work[0], job) for job in jobs) for each in work]
    for place, each in enumerate(work):
        if each.size < each.grouping.count:
            further = partial(_further, table, each.grouping, threads, shared)
            found[place] = tuple(
                ByRanges(
                    own.counts,
                    own.states,
                    own.whole,
                    size=each.size,
                    gather=partial(further, job, own),
                )
                if job.is_heavy
                else own
                for own, job in zip(found[place], jobs, strict=True)
            )
    return Pass(found[0], tuple(found[1:]))


def _further(
    table: Table,
    grouping: Grouping,
    threads: int,
    shared: Set[int],
    job: MeasureJob,
    whole: Gathered,
    first: int,
    count: int,
) -> Gathered:
    """Return what a job gathers of so many groups, by a pass of its own."""
    work = GroupedPass.of([job], replace(grouping, count=count, first=first))
    every, what = whole.counts.groups, "going through the groups"
    tell(what, first / every)
    with heard_by(None):
        _gather(table, [work], [job], threads, shared)
    tell(what, (first + count) / every)
    found = work.gathered(job)
    found.counts.text_like_numbers = whole.counts.text_like_numbers
    return replace(found, whole=whole.whole)


def _gather(
    table: Table,
    work: Sequence[GroupedPass],
    jobs: Sequence[MeasureJob],
    threads: int,
    shared: Set[int],
) -> None:
    """Go through the table as often as states need."""
    selections = {id(job.selection): job.selection for job in jobs}
    while open_ := [each for each in work if each.uncounted or each.begin]:
        ids = set().union(*(each.selections() for each in open_))
        asked = {key: each for key, each in selections.items() if key in ids}
        for each, gathered in zip(
            open_, _one_pass(table, open_, asked, threads, shared), strict=True
        ):
            each.take(gathered)


def _with_whole(gathered: Gathered, every_row: GroupedPass, job: MeasureJob) -> Gathered:
    return gathered if job.whole is None else replace(gathered, whole=every_row.gathered(job.whole))


@dataclass(frozen=True, eq=False)
class _Walk:
    """What one pass does with a stretch of rows, on this machine or on another one.

    `shared` are the ids of probes, which another machine does not know: None there. `granted` is
    the memory that the one who asked may take: how states count hangs on it.
    """

    work: Sequence[GroupedPass]
    selections: dict[int, Selection]
    marks: Array | None
    shared: Set[int] | None
    granted: int | None

    def __call__(
        self, start: int, stop: int, first: int = 0, told: Steps | None = None
    ) -> list[Gatherer]:
        """Return what is gathered on the rows; `first` is the place of the first that is here."""
        keep_memory()
        with as_if_granted(self.granted):
            return self._gathered(start, stop, first, told)

    def _gathered(self, start: int, stop: int, first: int, told: Steps | None) -> list[Gatherer]:
        shared = self.shared
        if shared is None:
            shared = parts_of(each.probe for each in self.selections.values())[1]
        size = min(BLOCK, _MOST_MASKS // (len(self.selections) + len(shared) + 1) + 1)
        gatherers = [each.gatherer() for each in self.work]
        for block in blocks(start, stop, size, shared):
            masks = {k: select(self.marks, each, block) for k, each in self.selections.items()}
            for gatherer in gatherers:
                gatherer.add(block, masks, first)
            for mask in masks.values():
                block.give_back(mask)
            if told is not None:
                told.took(block.stop - block.start)
            let_go()
        return gatherers

    def to_travel(self) -> "_Walk":
        """Return the same for another machine, without what it does not need."""
        work = [replace(each, counts={}, states={}) for each in self.work]
        return replace(self, work=work, shared=None)


def _one_pass(
    table: Table,
    work: Sequence[GroupedPass],
    selections: dict[int, Selection],
    threads: int,
    shared: Set[int],
) -> list[Gatherer]:
    walk = _Walk(work, selections, table.marks, shared, room())
    told = Steps("going through the rows", table.length)
    if table.elsewhere is not None:
        codes = [each.grouping.codes for each in work if each.grouping.codes is not None]
        long = codes if table.marks is None else [*codes, table.marks]
        arrays = long, tables_of(each.probe for each in selections.values())
        there = table.elsewhere.run(table, walk.to_travel(), _merged, arrays, told.took)
        if there is not None:
            return [_named(each, own) for each, own in zip(work, there, strict=True)]
    # Where most rows are groups of their own, what each thread gathers takes as much as the table.
    many = max(each.grouping.count for each in work) * _ROWS_OF_MANY > table.length > BLOCK
    pieces = _pieces(table.length, 1 if many else threads or cpu_count())
    if len(pieces) == 1:
        return walk(*pieces[0], 0, told)
    with ThreadPoolExecutor(len(pieces)) as pool:
        first, *others = pool.map(lambda piece: walk(piece[0], piece[1], 0, told), pieces)
    for other in others:
        _merged(first, other)
    return first


def _merged(first: list[Gatherer], other: list[Gatherer]) -> list[Gatherer]:
    """Take what was gathered on other rows into what was on the first ones; return these."""
    for gatherer, more in zip(first, other, strict=True):
        gatherer.merge(more)
    return first


def _named(work: GroupedPass, found: Gatherer) -> Gatherer:
    """Return what was gathered on another machine under the names that it has on this one."""
    counts = dict(zip(work.uncounted, found.counts.values(), strict=True))
    states = dict(zip(work.begin, found.states.values(), strict=True))
    return Gatherer(work.grouping, counts, states)


def _pieces(length: int, threads: int) -> list[tuple[int, int]]:
    """Return the rows of each thread, whole blocks; at least one piece, maybe of no rows."""
    blocks = -(-length // BLOCK)
    share = max(-(-blocks // max(threads, 1)), 1) * BLOCK
    starts = range(0, max(length, 1), share)
    return [(start, min(start + share, length)) for start in starts]
