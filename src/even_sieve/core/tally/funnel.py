"""The funnel: what each condition holds for by itself, and what is left after each in turn."""

from dataclasses import asdict, dataclass
from itertools import accumulate

from even_sieve.core.answer import Answer
from even_sieve.core.criteria import Criteria, write_criteria
from even_sieve.core.criteria.nodes import And, Or, all_of, negated
from even_sieve.core.criteria.words import describe
from even_sieve.core.query import Query
from even_sieve.core.table import Table
from even_sieve.core.tally.counting import count_rows
from even_sieve.core.tally.plan import Plan


@dataclass(frozen=True)
class FunnelStep:
    """One condition of an alternative: `alone` it holds for, `left` are after it in turn."""

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
    skipped = plan.skipped
    parts = criteria.parts if isinstance(criteria, Or) else (criteria,)
    asked = [And(()), criteria, *parts, *_beyond(parts)]
    in_play, matching, *rest = count_rows(plan, asked, skipped)
    alone, beyond = rest[: len(parts)], rest[len(parts) :]
    alternatives = tuple(
        Alternative(write_criteria(part), alone[i], beyond[i], _steps(plan, part))
        for i, part in enumerate(parts)
        if part != And(())
    )
    as_of = plan.query.as_of.isoformat() if plan.shared.hangs_on_date else None
    return Funnel(
        write_criteria(criteria),
        describe(criteria),
        plan.table.length,
        in_play,
        matching,
        alternatives,
        as_of,
    )


def _beyond(parts: tuple[Criteria, ...]) -> list[Criteria]:
    """Return criteria for the rows that each part brings and no other one does.

    Runs of parts are nested, not flat, so that each is joined up once and not once a part.
    """
    before = [None, *accumulate(parts, lambda a, b: Or((a, b)))][: len(parts)]
    after = [None, *accumulate(reversed(parts), lambda a, b: Or((a, b)))][: len(parts)][::-1]
    return [
        all_of([part, *(negated(run) for run in (first, last) if run is not None)])
        for part, first, last in zip(parts, before, after, strict=True)
    ]


def _steps(plan: Plan, alternative: Criteria) -> tuple[FunnelStep, ...]:
    parts = alternative.parts if isinstance(alternative, And) else (alternative,)
    turns = [all_of(parts[: i + 1]) for i in range(len(parts))]
    counts = count_rows(plan, [*parts, *turns], plan.skipped)
    return tuple(
        FunnelStep(_written(part), describe(part), counts[i], counts[len(parts) + i])
        for i, part in enumerate(parts)
    )


def _written(part: Criteria) -> str:
    text = write_criteria(part)
    return f"({text})" if isinstance(part, Or) else text
