"""The funnel: what each condition holds for by itself, and what is left after each in turn."""

from collections.abc import Iterator, Sequence
from dataclasses import asdict, dataclass, field

import numpy as np

from even_sieve.core.answer import Answer
from even_sieve.core.criteria import EVERYTHING, Criteria, write_criteria
from even_sieve.core.criteria.nodes import And, Or
from even_sieve.core.criteria.words import describe
from even_sieve.core.query import Query
from even_sieve.core.table import Table
from even_sieve.core.table.lanes import Array
from even_sieve.core.tally.looking import look
from even_sieve.core.tally.plan import Plan
from even_sieve.core.tally.selection import Selection


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
        plan.table.rows_in_all,
        counts.in_play + plan.table.rows_in_all - plan.table.length,
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
        asked = [EVERYTHING, *(step for steps in alternatives for step in steps)]
        selections = [Selection(plan.binder.probe(each), plan.skipped) for each in asked]
        sizes = [*map(len, alternatives)]
        for seen in look(plan, selections, lambda masks, _: _steps_seen(masks, sizes)):
            self._add(seen)

    def _add(self, seen: "_Steps") -> None:
        """Take in what was seen of some rows."""
        self.in_play += seen.in_play
        self.matching += seen.matching
        for place, (holds, left) in enumerate(seen.steps):
            self.alone[place] += seen.alone[place]
            self.beyond[place] += seen.beyond[place]
            for step, count in enumerate(holds):
                self._holds[place][step] += count
                self._left[place][step] += left[step]

    def steps(self, place: int) -> Iterator[FunnelStep]:
        """Yield the steps of an alternative."""
        counts = zip(self.alternatives[place], self._holds[place], self._left[place], strict=True)
        for part, holds, left in counts:
            yield FunnelStep(_written(part), describe(part), holds, left)


@dataclass
class _Steps:
    """Rows counted on a stretch: of each alternative those that steps hold for, and leave."""

    in_play: int
    matching: int = 0
    alone: list[int] = field(default_factory=list)
    beyond: list[int] = field(default_factory=list)
    steps: list[tuple[list[int], list[int]]] = field(default_factory=list)


def _steps_seen(masks: Sequence[Array], sizes: Sequence[int]) -> _Steps:
    """Return what is counted on a stretch of rows.

    The first mask is of the rows in play, those after it are of the steps of alternatives, which
    have so many each.
    """
    play, left_to_see = masks[0], iter(masks[1:])
    found = _Steps(int(np.count_nonzero(play)))
    brought = []
    for size in sizes:
        left, holds, counts = play.copy(), [], []
        for _ in range(size):
            mask = next(left_to_see)
            np.logical_and(left, mask, out=left)
            holds.append(int(np.count_nonzero(mask)))
            counts.append(int(np.count_nonzero(left)))
        brought.append(left)
        found.steps.append((holds, counts))
    by_how_many = np.zeros(len(play), dtype=np.uint32)
    for left in brought:
        by_how_many += left
    once = by_how_many == 1
    found.alone = [int(np.count_nonzero(left)) for left in brought]
    found.beyond = [int(np.count_nonzero(left & once)) for left in brought]
    found.matching = int(np.count_nonzero(by_how_many))
    return found


def _written(part: Criteria) -> str:
    text = write_criteria(part)
    return f"({text})" if isinstance(part, Or) else text
