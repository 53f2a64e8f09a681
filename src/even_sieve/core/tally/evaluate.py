"""From requests to tallies: the way through criteria, measures, the pass and the accounts."""

from collections.abc import Iterable, Sequence

import numpy as np

from even_sieve.core.cells import Cell, CellError
from even_sieve.core.criteria import (
    EVERYTHING,
    Criteria,
    write_criteria,
)
from even_sieve.core.errors import NotOneValue
from even_sieve.core.measures import (
    Bucket,
    Gathered,
    Keep,
    Measure,
    MeasureRequest,
)
from even_sieve.core.measures.places import NONE_FOUND, SEVERAL_FOUND
from even_sieve.core.notices import Code, Notice, counted, each_once
from even_sieve.core.table import Mark, Table
from even_sieve.core.tally.account import Account
from even_sieve.core.tally.answers import Tallies, Tally
from even_sieve.core.tally.axes import Group
from even_sieve.core.tally.buckets import Origin
from even_sieve.core.tally.call import Call, Options
from even_sieve.core.tally.composite_figures import Plan
from even_sieve.core.tally.counting import count_rows
from even_sieve.core.tally.passes import MeasureJob, run_pass
from even_sieve.core.tally.review import review
from even_sieve.core.tally.selection import skipped_marks
from even_sieve.core.tally.usual import spell_out


def tally(
    table: Table,
    requests: Sequence[MeasureRequest],
    where: Criteria = EVERYTHING,
    options: Options | None = None,
) -> Tallies:
    """Return the tallies of the measures over the rows for which the criteria hold.

    Raises `UnknownColumn`, `ParameterError`, `UnsuitableColumn`; `AccountError` if the
    buckets of a figure do not add up to the table, which would be a bug.
    """
    options = options or Options()
    call = Call(table, where, options)
    plan = Plan.of(spell_out(table, requests))
    requests = plan.base
    jobs = [call.job(request) for request in requests]
    result = run_pass(table, jobs, (), options.threads, call.binder.shared)
    found = tallies_of(call, requests, jobs, result.whole, 0)
    _refuse_not_one(found)
    matching = _matching(call, found)
    notices = (*call.shared_notices(), *review(call, call.shared.criteria, matching))
    return plan.combine(with_context(call, requests, found, each_once(notices)))


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


def _matching(call: Call, found: Iterable[Tally]) -> int:
    """Return how many rows match the shared criteria: a measure's account may tell."""
    for each in found:
        plain = each.request.where is None and not each.request.regardless
        if plain and not each.request.keep:
            return each.account.matched
    (count,) = count_rows(call, [call.shared.criteria], skipped_marks(call.options.keep))
    return count


def with_context(
    call: Call,
    requests: Iterable[MeasureRequest],
    found: tuple[Tally, ...],
    notices: tuple[Notice, ...] = (),
) -> Tallies:
    """Return the tallies with their shared criteria, and the as-of date if they hang on it."""
    dated = call.shared.hangs_on_date or any(call.own(each).hangs_on_date for each in requests)
    as_of = call.options.settings.as_of.isoformat() if dated else None
    return Tallies(found, notices, write_criteria(call.shared.criteria), as_of)


def tallies_of(
    call: Call,
    requests: Sequence[MeasureRequest],
    jobs: Sequence[MeasureJob],
    gathered: Sequence[Gathered],
    group: int,
    places: tuple[Group, ...] = (),
) -> tuple[Tally, ...]:
    """Return the tallies of one group, from what was gathered for each measure."""
    return tuple(
        _tally(Origin(call, request, places), job, each, group)
        for request, job, each in zip(requests, jobs, gathered, strict=True)
    )


def _tally(origin: Origin, job: MeasureJob, gathered: Gathered, group: int) -> Tally:
    call, request = origin.call, origin.request
    account = _account(call.table, job, gathered, group)
    figure = job.measure.finish(gathered, group)
    notices = (
        *_own_notices(call, request),
        *figure.notices,
        *_account_notices(call.table, job.measure, account, figure.value),
    )
    reason = figure.reason
    if figure.value is None and not account.matched:
        reason = "no row matched"
    return Tally(
        request,
        figure.value,
        account,
        tuple(call.table.number(row) for row in figure.rows),
        reason,
        each_once(notices),
        figure.exact,
        _decimals(job.measure),
        origin,
    )


def _decimals(measure: Measure) -> int:
    """Return how many decimals a figure is shown with: those of its column, none of a share."""
    if measure.column is None or measure.kind in ("share", "variance", "product"):
        return 0
    return measure.column.decimals


def _own_notices(call: Call, request: MeasureRequest) -> tuple[Notice, ...]:
    """Return what concerns a measure's own criteria; found once, however many groups ask."""
    if request not in call.own_notices:
        own = call.own(request)
        found = (*call.condition_notices(own), *review(call, own.criteria, 1))
        call.own_notices[request] = each_once(found)
    return call.own_notices[request]


def _account(table: Table, job: MeasureJob, gathered: Gathered, group: int) -> Account:
    marks = table.count_marks(job.selection.skipped)
    cells = {
        name: gathered.bucket(group, bucket)
        for name, bucket in (
            ("blank", Bucket.BLANK),
            ("error", Bucket.ERROR),
            ("not_a_number", Bucket.NOT_A_NUMBER),
            ("used", Bucket.USED),
        )
    }
    return Account(
        rows=table.length,
        subtotal=marks[Mark.SUBTOTAL],
        hidden=marks[Mark.HIDDEN],
        filtered=marks[Mark.FILTERED],
        unmatched=table.length - sum(marks.values()) - sum(cells.values()),
        **cells,
    )


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
    return tuple(found)


def has_error(tallies: Iterable[Tally]) -> bool:
    """Tell whether a figure is an error that was kept."""
    return any(isinstance(each.value, CellError) for each in tallies)
