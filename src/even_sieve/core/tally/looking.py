"""A look at which rows selections leave, a stretch at a time, wherever the rows stand."""

from collections.abc import Callable, Sequence, Set
from dataclasses import dataclass, replace
from operator import add
from typing import Generic, TypeVar

from even_sieve.core.criteria import blocks
from even_sieve.core.criteria.probes import parts_of, tables_of
from even_sieve.core.table.lanes import Array
from even_sieve.core.tally.plan import Plan
from even_sieve.core.tally.selection import Selection, select

Seen = TypeVar("Seen")
_BLOCK = 1 << 16
#: So many bytes of masks are held at a time.
_MOST_MASKS = 1 << 26


@dataclass(frozen=True, eq=False)
class _Look(Generic[Seen]):
    """What is seen of each stretch of rows; `shared` is None on another machine."""

    selections: Sequence[Selection]
    see: Callable[[Sequence[Array], int], Seen]
    marks: Array | None
    shared: Set[int] | None

    def __call__(self, start: int, stop: int, first: int = 0) -> list[Seen]:
        """Return what is seen of the rows; `first` is the place of the first that is here."""
        shared = self.shared
        if shared is None:
            shared = parts_of(each.probe for each in self.selections)[1]
        size = min(_BLOCK, _MOST_MASKS // max(len(self.selections), 1) + 1)
        found = []
        for block in blocks(start, stop, size, shared):
            masks = [select(self.marks, each, block) for each in self.selections]
            found.append(self.see(masks, block.start + first))
            for mask in masks:
                block.give_back(mask)
        return found


def look(
    plan: Plan, selections: Sequence[Selection], see: Callable[[Sequence[Array], int], Seen]
) -> list[Seen]:
    """Return what is seen of each stretch of the rows of a plan's table, in order.

    `see` is given which rows each selection leaves (bool, shape (rows,), to be changed at will)
    and the place in the table of the first of them.
    """
    table = plan.table
    looking = _Look(selections, see, table.marks, plan.binder.shared)
    if table.elsewhere is not None:
        long = [] if table.marks is None else [table.marks]
        arrays = long, tables_of(each.probe for each in selections)
        far = replace(looking, shared=None)
        found: list[Seen] | None = table.elsewhere.run(table, far, add, arrays, lambda _: None)
        if found is not None:
            return found
    return looking(0, table.length)
