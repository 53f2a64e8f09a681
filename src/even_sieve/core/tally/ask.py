"""From requests to tallies: the way through criteria, measures, the pass and the accounts."""

from collections.abc import Iterable, Sequence
from dataclasses import replace

import numpy as np

from even_sieve.core.cells import Cell, CellError
from even_sieve.core.criteria import (
    EVERYTHING,
    Criteria,
    write_criteria,
)
from even_sieve.core.errors import AccountError, NotOneValue, UnknownColumn
from even_sieve.core.measures import (
    Bucket,
    Gathered,
    Keep,
    Measure,
    MeasureRequest,
)
from even_sieve.core.measures.places import NONE_FOUND, SEVERAL_FOUND
from even_sieve.core.notices import Code, Notice, counted, each_once
from even_sieve.core.table import Column, Mark, Table
from even_sieve.core.tally.account import Account
from even_sieve.core.tally.buckets import Origin, Place
from even_sieve.core.tally.call import Call, Options
from even_sieve.core.tally.counting import count_rows
from even_sieve.core.tally.results import Breakdown, Line, Tallies, Tally
from even_sieve.core.tally.review import review
from even_sieve.core.tally.run import Ask, Pass, run_pass
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
    requests = spell_out(table, requests)
    asks = [call.ask(request) for request in requests]
    result = run_pass(table, asks, None, 1, options.threads, call.binder.shared)
    found = _tallies(call, requests, asks, result.whole, 0)
    _refuse_not_one(found)
    matching = _matching(call, found)
    notices = (*call.shared_notices(), *review(call, call.shared.criteria, matching))
    return _with_context(call, requests, found, each_once(notices))


def _refuse_not_one(found: Iterable[Tally]) -> None:
    """Raise `NotOneValue` for an `only` that found none or several."""
    for each in found:
        if _is_not_one(each) and each.reason is not None:
            raise NotOneValue(each.request.words, each.reason, each.found_at)


def _is_not_one(tally: Tally) -> bool:
    """Tell whether an `only` found none or several; a kept error is another matter."""
    value, tokens = tally.value, (NONE_FOUND, SEVERAL_FOUND)
    only = tally.request.kind == "only"
    return only and isinstance(value, CellError) and value.token in tokens


def _matching(call: Call, found: Iterable[Tally]) -> int:
    """Return how many rows match the shared criteria: a measure's account may tell."""
    for each in found:
        if each.request.where is None and not each.request.keep:
            return each.account.matched
    (count,) = count_rows(call, [call.shared.criteria], skipped_marks(call.options.keep))
    return count


def _with_context(
    call: Call,
    requests: Iterable[MeasureRequest],
    found: tuple[Tally, ...],
    notices: tuple[Notice, ...] = (),
) -> Tallies:
    """Return the tallies with their shared criteria, and the as-of date if they hang on it."""
    dated = call.shared.hangs_on_date or any(call.own(each).hangs_on_date for each in requests)
    as_of = call.options.settings.as_of.isoformat() if dated else None
    return Tallies(found, notices, write_criteria(call.shared.criteria), as_of)


def _tallies(
    call: Call,
    requests: Sequence[MeasureRequest],
    asks: Sequence[Ask],
    gathered: Sequence[Gathered],
    group: int,
    places: tuple[Place, ...] = (),
) -> tuple[Tally, ...]:
    return tuple(
        _tally(Origin(call, request, places), ask, each, group)
        for request, ask, each in zip(requests, asks, gathered, strict=True)
    )


def _tally(origin: Origin, ask: Ask, gathered: Gathered, group: int) -> Tally:
    call, request = origin.call, origin.request
    account = _account(call.table, ask, gathered, group)
    figure = ask.measure.finish(gathered, group)
    notices = (
        *_own_notices(call, request),
        *figure.notices,
        *_account_notices(call.table, ask.measure, account, figure.value),
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
        _decimals(ask.measure),
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


def _account(table: Table, ask: Ask, gathered: Gathered, group: int) -> Account:
    marks = table.count_marks(ask.selection.skipped)
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


def break_down(
    table: Table,
    requests: Sequence[MeasureRequest],
    by: str,
    where: Criteria = EVERYTHING,
    options: Options | None = None,
) -> Breakdown:
    """Return a line of tallies for each value of a column among the rows in play, and a total.

    A row is in play if the shared criteria hold and no mark leaves it out. The lines add
    up to the total, which is worked out separately and compared: `AccountError` if not.
    """
    options = options or Options()
    call = Call(table, where, options)
    column = _by_column(table, by)
    call.columns[column.name] = column
    context = MeasureRequest("rows", name="rows in play")
    requests = spell_out(table, requests)
    everything = [*requests, context]
    asks = [call.ask(request) for request in everything]
    identity = column.identity
    groups, count = identity.codes, len(identity.keys)
    result = run_pass(table, asks, groups, count, options.threads, call.binder.shared)
    lines = _lines(call, requests, asks, result, column)
    total = _without_only(_tallies(call, requests, asks[:-1], result.whole[:-1], 0))
    _check_total(lines, total)
    whole = _with_context(call, requests, total)
    matching = result.whole[-1].bucket(0, Bucket.USED)
    notices = (*call.shared_notices(), *review(call, call.shared.criteria, matching))
    return Breakdown((column.name,), lines, whole, each_once(notices))


def _without_only(total: Sequence[Tally]) -> tuple[Tally, ...]:
    """Return a breakdown's total, in which several values of `only` are no error."""
    return tuple(
        replace(each, value=None, found_at=()) if _is_not_one(each) else each for each in total
    )


def _by_column(table: Table, by: str) -> Column:
    try:
        return table.column(by)
    except UnknownColumn as error:
        raise error.at("by") from None


def _lines(
    call: Call,
    requests: Sequence[MeasureRequest],
    asks: Sequence[Ask],
    result: Pass,
    column: Column,
) -> tuple[Line, ...]:
    keys = column.identity.keys
    grouped = result.grouped or ()
    in_play = sum(each.counts.buckets.sum(axis=1) for each in grouped)
    return tuple(
        Line(
            (keys[group],),
            Tallies(
                _tallies(call, requests, asks[:-1], grouped[:-1], group, (Place(column, group),))
            ),
        )
        for group in np.flatnonzero(in_play).tolist()
    )


def _check_total(lines: Sequence[Line], total: Sequence[Tally]) -> None:
    """Raise `AccountError` unless counts and exact sums of the lines add up to the total."""
    for position, whole in enumerate(total):
        parts = [line.tallies[position] for line in lines]
        used = sum(part.account.used for part in parts)
        if used != whole.account.used:
            raise AccountError(f"'{whole.name}': the lines use {used} rows of {whole.account.used}")
        exact = [part.exact for part in parts]
        if whole.request.kind in ("sum", "share") and None not in exact and whole.exact is not None:
            together = sum(each for each in exact if each is not None)
            if together != whole.exact:
                raise AccountError(f"'{whole.name}': the lines add up to {together}")


def has_error(tallies: Iterable[Tally]) -> bool:
    """Tell whether a figure is an error that was kept."""
    return any(isinstance(each.value, CellError) for each in tallies)
