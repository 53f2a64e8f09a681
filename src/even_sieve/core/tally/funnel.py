"""The funnel: what each condition holds for by itself, and what is left after each in turn."""

from collections.abc import Iterator
from dataclasses import asdict, dataclass

import numpy as np

from even_sieve.core.answer import Answer
from even_sieve.core.criteria import EVERYTHING, Block, Criteria, blocks, write_criteria
from even_sieve.core.criteria.nodes import And, Or
from even_sieve.core.criteria.words import describe
from even_sieve.core.query import Query
from even_sieve.core.table import Table
from even_sieve.core.table.lanes import Array
from even_sieve.core.tally.plan import Plan
from even_sieve.core.tally.selection import Selection, select

_BLOCK, _MOST_MASKS = 1 << 16, 1 << 26


@dataclass(frozen=True)
class FunnelStep:
    """One condition of an alternative: `alone` it holds for, `left` are after it in turn.

    >>> import even_sieve
    >>> calls = even_sieve.table_from({"zone": ["Outer", "Inner"], "dues": [120, 80]})
    >>> steps = calls.funnel("zone = Outer and dues > 200").alternatives[0].steps
    >>> [(step.alone, step.left) for step in steps]
    [(1, 1), (0, 0)]
    """

    condition: str
    words: str
    alone: int
    left: int


@dataclass(frozen=True)
class Alternative:
    """One alternative: the rows it brings `alone`, those `beyond` all others, its steps."""

    criteria: str
    alone: int
    beyond: int
    steps: tuple[FunnelStep, ...]

    @property
    def emptied_by(self) -> FunnelStep | None:
        """The step after which no row is left, if there is one."""
        return next((step for step in self.steps if not step.left), None)


@dataclass(frozen=True, repr=False)
class Funnel(Answer):
    """How criteria come to the rows that match.

    `rows` are the table's, `in_play` those that no mark leaves out, `matching` those that
    match. `words` are the criteria in plain English, `as_of` the date they hang on, if any.

    >>> from even_sieve import table_from
    >>> found = table_from({"dues": [120, 80, 5]}).funnel("dues > 10 and dues < 100")
    >>> found.matching, [step.left for step in found.alternatives[0].steps]
    (1, [2, 1])
    """

    criteria: str
    words: str
    rows: int
    in_play: int
    matching: int
    alternatives: tuple[Alternative, ...]
    as_of: str | None = None

    def as_dict(self) -> dict[str, object]:
        """Return the funnel as JSON has it."""
        plain = asdict(self)
        if self.as_of is None:
            del plain["as_of"]
        for found, alternative in zip(plain["alternatives"], self.alternatives, strict=True):
            step = alternative.emptied_by
            found["emptied_by"] = None if step is None else step.condition
        return plain


def make_funnel(query: Query, table: Table) -> Funnel:
    """Return the funnel of a query's criteria on a table."""
    return funnel_of(Plan.of(query, table))


def funnel_of(plan: Plan) -> Funnel:
    """Return the funnel of a plan's shared criteria."""
    criteria = plan.shared.criteria
    parts = criteria.parts if isinstance(criteria, Or) else (criteria,)
    counts = _Counts(plan, [part.parts if isinstance(part, And) else (part,) for part in parts])
    alternatives = tuple(
        Alternative(write_criteria(part), counts.alone[i], counts.beyond[i], tuple(counts.steps(i)))
        for i, part in enumerate(parts)
        if part != EVERYTHING
    )
    as_of = plan.query.as_of.isoformat() if plan.shared.hangs_on_date else None
    return Funnel(
        write_criteria(criteria),
        describe(criteria),
        plan.table.length,
        counts.in_play,
        counts.matching,
        alternatives,
        as_of,
    )


class _Counts:
    """The rows of every step and alternative, all counted in one pass over the table.

    `in_play` no mark leaves out, `matching` match; an alternative brings `alone`, and of these
    no other one brings those `beyond`.
    """

    def __init__(self, plan: Plan, alternatives: list[tuple[Criteria, ...]]) -> None:
        self.alternatives = alternatives
        self.in_play = self.matching = 0
        self.alone, self.beyond = ([0] * len(alternatives) for _ in range(2))
        self._holds = [[0] * len(steps) for steps in alternatives]
        self._left = [[0] * len(steps) for steps in alternatives]
        binder = plan.binder
        self._probes = [[binder.probe(step) for step in steps] for steps in alternatives]
        size = min(_BLOCK, max(_MOST_MASKS // sum(map(len, self._probes), 1), 1))
        whole = Selection(binder.probe(EVERYTHING), plan.skipped)
        for block in blocks(0, plan.table.length, size, binder.shared):
            self._count(block, select(plan.table, whole, block))

    def _count(self, block: Block, play: Array) -> None:
        """Count one block, of which these rows are in play."""
        brought = [self._left_by(block, play, place) for place in range(len(self.alternatives))]
        by_how_many = np.zeros(len(block), dtype=np.uint32)
        for mask in brought:
            by_how_many += mask
        once = by_how_many == 1
        for place, mask in enumerate(brought):
            self.alone[place] += int(np.count_nonzero(mask))
            self.beyond[place] += int(np.count_nonzero(mask & once))
        self.in_play += int(np.count_nonzero(play))
        self.matching += int(np.count_nonzero(by_how_many))

    def _left_by(self, block: Block, play: Array, place: int) -> Array:
        """Return the rows of a block that one alternative brings, its steps counted."""
        left = play.copy()
        for step, probe in enumerate(self._probes[place]):
            holds = block.own_mask(probe)
            np.logical_and(holds, play, out=holds)
            np.logical_and(left, holds, out=left)
            self._holds[place][step] += int(np.count_nonzero(holds))
            self._left[place][step] += int(np.count_nonzero(left))
            block.give_back(holds)
        return left

    def steps(self, place: int) -> Iterator[FunnelStep]:
        """Yield the steps of an alternative."""
        counts = zip(self.alternatives[place], self._holds[place], self._left[place], strict=True)
        for part, holds, left in counts:
            yield FunnelStep(_written(part), describe(part), holds, left)


def _written(part: Criteria) -> str:
    text = write_criteria(part)
    return f"({text})" if isinstance(part, Or) else text
