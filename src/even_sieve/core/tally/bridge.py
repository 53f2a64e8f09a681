"""The bridge: from the bare column to the reported figure, one step a reason."""

from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction

from even_sieve.core.answer import Answer
from even_sieve.core.cells import Cell, CellError
from even_sieve.core.criteria import EVERYTHING, Criteria, all_of, write_criteria
from even_sieve.core.criteria.blocks import Probe
from even_sieve.core.criteria.nodes import And, Or
from even_sieve.core.criteria.probes import all_probes
from even_sieve.core.errors import AccountError, CallError
from even_sieve.core.measures import Keep, MeasureRequest
from even_sieve.core.notices import Notice
from even_sieve.core.query import Query
from even_sieve.core.table import Mark, Table
from even_sieve.core.tally.answers import Tally
from even_sieve.core.tally.doubts import refuse_doubts
from even_sieve.core.tally.evaluate import evaluate
from even_sieve.core.tally.gathering import MeasureJob
from even_sieve.core.tally.passes import run_pass
from even_sieve.core.tally.plan import Plan
from even_sieve.core.tally.selection import Selection

#: The measures whose parts add up, so that a step has an amount.
BRIDGED = ("sum", "rows", "numbers", "filled")
_MARKS = (
    (Mark.SUBTOTAL, Keep.SUBTOTALS, "subtotal", "subtotal rows"),
    (Mark.HIDDEN, Keep.HIDDEN, "hidden", "hidden rows"),
    (Mark.FILTERED, Keep.FILTERED, "filtered", "filtered rows"),
)
_CELLS = (
    ("blank", "blank cells"),
    ("error", "error cells"),
    ("not_a_number", "cells of another kind"),
)


@dataclass(frozen=True)
class BridgeStep:
    """One step: what it takes away in rows and in amount, and what is left after it.

    `reason` is `start`, a bucket of the account, or `figure`; of the first and the last
    step `rows` and `amount` are what is left.

    >>> import even_sieve
    >>> calls = even_sieve.table_from({"zone": ["Outer", "Inner"], "dues": [120, 80]})
    >>> bridge = calls.bridge("sum of dues", where="zone = Outer")
    >>> [(step.reason, step.rows, str(step.amount)) for step in bridge.steps]
    [('start', 2, '200'), ('unmatched', -1, '-80'), ('figure', 1, '120')]
    """

    reason: str
    label: str
    rows: int
    amount: Fraction
    rows_left: int
    amount_left: Fraction


@dataclass(frozen=True, repr=False)
class Bridge(Answer):
    """The walk from the bare column total to a figure. `tally` is the figure.

    Raises `AccountError` unless every step starts where the one before ended, and the last
    one is the figure, to the last digit.

    >>> from even_sieve import table_from
    >>> calls = table_from({"zone": ["Outer", "Inner"], "dues": [120, 80]})
    >>> found = calls.bridge("sum of dues", where="zone = Outer")
    >>> [(step.label, int(step.amount)) for step in found]
    [('sum of dues, all rows', 200), ('not: zone = Outer', -80), ('sum of dues', 120)]
    """

    tally: Tally
    steps: tuple[BridgeStep, ...]
    notices: tuple[Notice, ...] = ()
    where: str = ""

    def __post_init__(self) -> None:
        start, *middle, end = self.steps
        rows, amount = start.rows, start.amount
        for step in middle:
            rows, amount = rows + step.rows, amount + step.amount
            if (rows, amount) != (step.rows_left, step.amount_left):
                raise AccountError(f"the bridge does not add up at '{step.label}'")
        figure = self.tally.exact
        figure = Fraction(self.tally.value) if figure is None else figure  # type: ignore[arg-type]
        if (rows, amount) != (end.rows, end.amount) or end.rows != self.tally.account.used:
            raise AccountError("the bridge does not end at the figure")
        if amount != figure:
            raise AccountError(f"the bridge ends at {amount}, the figure is {figure}")

    @property
    def name(self) -> str:
        """What the figure is called."""
        return self.tally.name

    def __len__(self) -> int:
        return len(self.steps)

    def __iter__(self) -> Iterator[BridgeStep]:
        return iter(self.steps)


def make_bridge(query: Query, table: Table, measure: str | MeasureRequest) -> Bridge:
    """Return the bridge of a sum or a count. Raises `CallError` for measures that do not add up."""
    plan = Plan.of(query, table)
    plan.refuse_unread(EVERYTHING)  # the bare column is all of it
    request, *_ = plan.requests([measure])
    if request.kind not in BRIDGED:
        raise CallError(
            f"'{request.words}' has no bridge: its parts do not add up\n"
            f"Ask for one of: {', '.join(BRIDGED)}"
        )
    (found,) = evaluate([plan], [request])
    figure = found[0]
    if isinstance(figure.value, CellError) or figure.value is None:
        raise CallError(f"'{request.words}' has no bridge: {figure.reason}")
    refuse_doubts(query, found.notices, found)
    return Bridge(figure, tuple(_steps(plan, request, figure)), found.notices, found.where)


def _steps(plan: Plan, request: MeasureRequest, figure: Tally) -> Iterator[BridgeStep]:
    """Yield the steps; each is the difference of two tallies of their own."""
    turns = [("start", _start_label(request)), *_reasons(plan, request)]
    measure = plan.job(request).measure
    jobs = [MeasureJob(measure, selection) for selection in _selections(plan, request)]
    result = run_pass(plan.table, jobs, (), plan.query.threads, plan.binder.shared)
    rows, amount = 0, Fraction(0)
    for (reason, label), job, gathered in zip(turns, jobs, result.whole, strict=True):
        found = job.measure.finish(gathered, 0)
        left = int(gathered.counts.buckets[0].sum())
        amount_left = _exact(found.value, found.exact)
        if reason == "start" or reason == "unmatched" or left != rows:
            yield BridgeStep(reason, label, left - rows, amount_left - amount, left, amount_left)
        rows, amount = left, amount_left
    for bucket, label in _CELLS:
        count = getattr(figure.account, bucket)
        if count:
            rows -= count
            yield BridgeStep(bucket, label, -count, Fraction(0), rows, amount)
    yield BridgeStep("figure", figure.name, rows, amount, rows, amount)


def _start_label(request: MeasureRequest) -> str:
    return "all rows" if request.column is None else f"{request.words}, all rows"


def _exact(value: Cell, exact: Fraction | None) -> Fraction:
    if exact is not None:
        return exact
    if isinstance(value, int):
        return Fraction(value)
    raise CallError(f"a step has no amount: {value}")


def _kept_in(plan: Plan, request: MeasureRequest) -> frozenset[Keep]:
    return request.keep | plan.query.keep


def _reasons(plan: Plan, request: MeasureRequest) -> Iterator[tuple[str, str]]:
    """Yield the bucket and the label of every step between start and cells."""
    kept = _kept_in(plan, request)
    for _, keep, bucket, label in _MARKS:
        if keep not in kept:
            yield bucket, label
    for part in _conditions(plan, request):
        text = write_criteria(part)
        yield "unmatched", f"not: ({text})" if isinstance(part, Or) else f"not: {text}"


def _conditions(plan: Plan, request: MeasureRequest) -> list[Criteria]:
    """Return the parts of the criteria that must all hold, those of the measure last."""
    both = all_of((plan.shared_for(request), plan.own(request).criteria))
    return list(both.parts) if isinstance(both, And) else [both]


def _selections(plan: Plan, request: MeasureRequest) -> Iterator[Selection]:
    """Yield what is left after each step."""
    everything = plan.binder.probe(EVERYTHING)
    skipped, kept = Mark(0), _kept_in(plan, request)
    yield Selection(everything, skipped)
    for mark, keep, _, _ in _MARKS:
        if keep not in kept:
            skipped |= mark
            yield Selection(everything, skipped)
    left: Probe | None = None
    for part in _conditions(plan, request):
        probe = plan.binder.probe(part)
        left = probe if left is None else all_probes((left, probe))
        plan.binder.shared.add(id(left))
        yield Selection(left, skipped)
