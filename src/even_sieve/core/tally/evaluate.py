"""From requests to tallies: the way through criteria, measures, the pass and the accounts."""

from collections.abc import Iterable, Sequence
from itertools import islice
from typing import Any

import numpy as np

from even_sieve.core.axes import Group
from even_sieve.core.cells import Cell, CellError
from even_sieve.core.errors import NotOneValue
from even_sieve.core.measures import (
    Gathered,
    Keep,
    Measure,
    MeasureRequest,
)
from even_sieve.core.measures.extremes import Ordered
from even_sieve.core.measures.places import NONE_FOUND, SEVERAL_FOUND
from even_sieve.core.notices import Code, Notice, counted, each_once
from even_sieve.core.query import Query
from even_sieve.core.table import Mark, Table
from even_sieve.core.table.lanes import Array
from even_sieve.core.tally.account import Account
from even_sieve.core.tally.answers import Tallies, Tally
from even_sieve.core.tally.composite_figures import Composites
from even_sieve.core.tally.counting import count_rows
from even_sieve.core.tally.doubts import refuse_doubts
from even_sieve.core.tally.gathering import MeasureJob
from even_sieve.core.tally.passes import run_pass
from even_sieve.core.tally.plan import Plan
from even_sieve.core.tally.review import review


def tally(query: Query, table: Table, measures: Iterable[str | MeasureRequest]) -> Tallies:
    """Return the tallies of the measures over the rows for which the query's criteria hold.

    Raises `UnknownColumn`, `ParameterError`, `UnsuitableColumn`; `AccountError` if the
    buckets of a figure do not add up to the table, which would be a bug.

    >>> from even_sieve.core.table import table_from_columns
    >>> calls = table_from_columns({"zone": ["Outer", "Inner"], "dues": [120.5, 80]})
    >>> tally(Query.of(where="zone = Outer"), calls, ["sum of dues"])[0].value
    120.5
    """
    plan = Plan.of(query, table)
    (found,) = evaluate([plan], plan.requests(measures))
    refuse_doubts(plan.query, found.notices, found)
    return found


def evaluate(plans: Sequence[Plan], requests: Sequence[MeasureRequest]) -> list[Tallies]:
    """Return the tallies of each plan, all from one pass over the one table that they share."""
    first, composites = plans[0], Composites.of(requests)
    jobs = [[plan.job(request) for request in composites.base] for plan in plans]
    every = [job for each in jobs for job in each]
    result = run_pass(first.table, every, (), first.query.threads, first.binder.shared)
    gathered = iter(result.whole)
    return [
        _evaluated(plan, composites, own, list(islice(gathered, len(own))))
        for plan, own in zip(plans, jobs, strict=True)
    ]


def _evaluated(
    plan: Plan, composites: Composites, jobs: Sequence[MeasureJob], gathered: Sequence[Gathered]
) -> Tallies:
    found = tallies_of(plan, composites.base, jobs, gathered, 0)
    _refuse_not_one(found)
    matching = _matching(plan, found)
    notices = (*plan.shared_notices(), *review(plan, plan.shared.criteria, matching))
    return composites.combine(with_context(plan, composites.base, found, each_once(notices)))


def _refuse_not_one(found: Iterable[Tally]) -> None:
    """Raise `NotOneValue` for an `only` that found none or several."""
    for each in found:
        if is_not_one(each) and each.reason is not None:
            raise NotOneValue(each.request.words, each.reason, each.found_at)


def is_not_one(tally: Tally) -> bool:
    """Tell whether an `only` found none or several; a kept error is another matter."""
    value, tokens = tally.value, (NONE_FOUND, SEVERAL_FOUND)
    only = tally.request.kind == "only"
    return only and isinstance(value, CellError) and value.token in tokens


def _matching(plan: Plan, found: Iterable[Tally]) -> int:
    """Return how many rows match the shared criteria: a measure's account may tell."""
    for each in found:
        plain = each.request.where is None and not each.request.regardless
        if plain and not each.request.keep:
            return each.account.matched
    (count,) = count_rows(plan, [plan.shared.criteria], plan.skipped)
    return count


def with_context(
    plan: Plan,
    requests: Iterable[MeasureRequest],
    found: tuple[Tally, ...],
    notices: tuple[Notice, ...] = (),
) -> Tallies:
    """Return the tallies with their shared criteria, and the as-of date if they hang on it."""
    dated = plan.shared.hangs_on_date or any(plan.own(each).hangs_on_date for each in requests)
    as_of = plan.query.as_of.isoformat() if dated else None
    return Tallies(found, notices, plan.shared.criteria, as_of, plan.asked)


def tallies_of(
    plan: Plan,
    requests: Sequence[MeasureRequest],
    jobs: Sequence[MeasureJob],
    gathered: Sequence[Gathered],
    group: int,
    place: tuple[Group, ...] = (),
) -> tuple[Tally, ...]:
    """Return the tallies of one group, from what was gathered for each measure."""
    return tuple(
        _tally(plan, request, job, each, group, place)
        for request, job, each in zip(requests, jobs, gathered, strict=True)
    )


def _tally(
    plan: Plan,
    request: MeasureRequest,
    job: MeasureJob,
    gathered: Gathered,
    group: int,
    place: tuple[Group, ...],
) -> Tally:
    account = _account(plan.table, job, gathered, group)
    figure = job.measure.finish(*gathered.within(group))
    notices = (
        *_own_notices(plan, request),
        *figure.notices,
        *_account_notices(plan.table, job.measure, account, figure.value),
    )
    reason = figure.reason
    if figure.value is None and not account.matched:
        reason = "no row matched"
    return Tally(
        request,
        figure.value,
        account,
        tuple(plan.table.number(row) for row in figure.rows),
        reason,
        each_once(notices),
        figure.exact,
        _decimals(job.measure),
        place,
        plan.asked,
        shown_as="" if job.measure.column is None else job.measure.column.shown,
    )


def _decimals(measure: Measure) -> int:
    """Return how many decimals a figure is shown with: those of its column, none of a share."""
    if measure.column is None or measure.kind in ("share", "variance", "product"):
        return 0
    return measure.column.decimals


def small_percentage(request: MeasureRequest) -> tuple[Notice, ...]:
    """Return the notice on a percentile that was likely meant as a part of one."""
    if request.kind != "percentile" or request.number is None or not 0 < request.number < 1:
        return ()
    meant = f"{request.number * 100:f}".rstrip("0").rstrip(".")
    text = (
        f"{request.name}: {request.number:f} is a number out of a hundred; "
        f"for {request.number:f} of all write percentile {meant}"
    )
    return (Notice(Code.SMALL_PERCENTAGE, text),)


def _own_notices(plan: Plan, request: MeasureRequest) -> tuple[Notice, ...]:
    """Return what concerns a measure's own criteria; found once, however many groups ask."""
    if request not in plan.own_notices:
        own = plan.own(request)
        about = small_percentage(request)
        found = (*about, *plan.condition_notices(own), *review(plan, own.criteria, 1))
        plan.own_notices[request] = each_once(found)
    return plan.own_notices[request]


def _account(table: Table, job: MeasureJob, gathered: Gathered, group: int) -> Account:
    subtotal, hidden, filtered = table.count_marks(job.selection.skipped).values()
    blank, error, other, used = gathered.counts.buckets[group].tolist()
    rows = table.rows_in_all
    left = rows - subtotal - hidden - filtered - blank - error - other - used
    return Account(rows, subtotal, hidden, filtered, left, blank, error, other, used)


def accounts_of(table: Table, job: MeasureJob, gathered: Gathered, groups: Array) -> Array:
    """Return the counts of the accounts of many groups, in the order of their fields, shape (n, 9).

    Raises `AccountError` where one does not add up.
    """
    out = (table.rows_in_all, *table.count_marks(job.selection.skipped).values())
    buckets = gathered.counts.buckets[groups]
    left = table.length - sum(out[1:]) - buckets.sum(axis=1)
    if (left < 0).any() or (buckets < 0).any():
        _account(table, job, gathered, int(groups[(left < 0) | (buckets < 0).any(axis=1)][0]))
    ahead = np.broadcast_to(np.array(out), (len(groups), len(out)))
    return np.concatenate((ahead, left[:, None], buckets), axis=1)


def _account_notices(
    table: Table, measure: Measure, account: Account, value: Cell
) -> tuple[Notice, ...]:
    found = []
    if Keep.SUBTOTALS in measure.request.keep and table.marks is not None:
        count = int(np.count_nonzero(table.marks & Mark.SUBTOTAL))
        if count:
            text = f"{counted(count, 'row')} of subtotals kept: what they repeat is counted twice"
            found.append(Notice(Code.SUBTOTALS_KEPT, text, {"rows": count}))
    if value == 0 and not isinstance(value, bool) and not account.matched:
        text = "no row matched: this 0 stands for nothing found"
        found.append(Notice(Code.NOTHING_USED, text))
    elif value == 0 and measure.kind == "sum" and not account.used:
        text = (
            f"{measure.request.name}: {counted(account.matched, 'row')} matched, "
            "none with a number; this 0 stands for nothing added"
        )
        found.append(Notice(Code.NOTHING_USED, text))
    return (*found, *_of_other_kinds(measure, account))


def may_be_of_few(measure: Measure, used: Any, left: Any) -> Any:
    """Tell where a figure stands on so many cells of one kind, and more of others are left out."""
    return isinstance(measure, Ordered) & (used > 0) & (used < left)


def _of_other_kinds(measure: Measure, account: Account) -> tuple[Notice, ...]:
    """Return the notice on an extreme that likely is of the wrong cells.

    A number among dates leads them, one code of digits a column of names.
    """
    cells, left = measure.cells, account.not_a_number
    if cells is None or cells.kind is None or not may_be_of_few(measure, account.used, left):
        return ()
    text = (
        f"{measure.request.name}: only {counted(account.used, 'row')} of column "
        f"'{cells.column.name}' with {cells.kind.words}, which come before other kinds; "
        f"{counted(left, 'row')} with others left out"
    )
    return (Notice(Code.OTHER_KINDS, text, {"used": account.used, "left_out": left}),)
