"""What is worth knowing of criteria as a whole: alternatives at odds, errors let in, nothing left.

What can be seen from the criteria alone costs nothing; rows are counted only where the
criteria give cause.
"""

from collections import Counter
from collections.abc import Iterator
from itertools import permutations

import numpy as np

from even_sieve.core.cells import Kind, format_date
from even_sieve.core.criteria import Criteria, conditions, write_criteria
from even_sieve.core.criteria.conditions import Holding, Holds, OneOf
from even_sieve.core.criteria.implication import implies
from even_sieve.core.criteria.nodes import And, Condition, Not, Or, all_of, negated
from even_sieve.core.criteria.operands import Point
from even_sieve.core.notices import Code, Notice, counted
from even_sieve.core.table import Column
from even_sieve.core.table.lanes import DateLane, FixedLane, FloatLane
from even_sieve.core.tally.counting import count_rows, find_rows
from even_sieve.core.tally.funnel import FunnelStep, funnel_of
from even_sieve.core.tally.plan import Plan

_MOST_PAIRS = 60


def review(plan: Plan, criteria: Criteria, matching: int) -> Iterator[Notice]:
    """Yield notices on prepared criteria that are bound, given how many rows match."""
    if isinstance(criteria, Or):
        yield from _contained(criteria)
        yield from _swallowed(plan, criteria)
    yield from _errors_let_in(plan, criteria)
    if not matching and criteria != And(()):
        yield from _emptied(plan, criteria)


def _contained(criteria: Or) -> Iterator[Notice]:
    """Alternatives that bring nothing, since another holds wherever they do."""
    seen = Counter(criteria.parts)
    parts = list(seen)
    for part, times in seen.items():
        if times > 1:
            text = f"the alternative '{write_criteria(part)}' stands there twice"
            yield Notice(Code.ALTERNATIVE_CONTAINED, text)
    if len(parts) > _MOST_PAIRS:
        return
    for narrow, wide in permutations(parts, 2):
        if implies(narrow, wide) and not (implies(wide, narrow) and _later(parts, narrow, wide)):
            yield Notice(
                Code.ALTERNATIVE_CONTAINED,
                f"the alternative '{write_criteria(narrow)}' brings no row of its own: "
                f"'{write_criteria(wide)}' holds wherever it does",
            )


def _later(parts: list[Criteria], narrow: Criteria, wide: Criteria) -> bool:
    """Of two that contain each other, only the later one is said to bring nothing."""
    return parts.index(narrow) < parts.index(wide)


def _swallowed(plan: Plan, criteria: Or) -> Iterator[Notice]:
    """Exclusions of one alternative whose rows come in through another."""
    if len(criteria.parts) > _MOST_PAIRS:
        return
    found: list[tuple[Criteria, Criteria]] = []
    for position, alternative in enumerate(criteria.parts):
        parts = alternative.parts if isinstance(alternative, And) else (alternative,)
        for exclusion in parts:
            if not _excludes(exclusion):
                continue
            others = criteria.parts[:position] + criteria.parts[position + 1 :]
            found.extend((exclusion, other) for other in others if not implies(other, exclusion))
    if not found:
        return
    let_in = [all_of([other, negated(exclusion)]) for exclusion, other in found]
    counts = count_rows(plan, let_in, plan.skipped)
    for (exclusion, other), count in zip(found, counts, strict=True):
        if count:
            come = f"{counted(count, 'row')} of them {'comes' if count == 1 else 'come'}"
            yield Notice(
                Code.EXCLUSION_SWALLOWED,
                f"'{write_criteria(exclusion)}' leaves rows out of its own alternative only: "
                f"{come} in through '{write_criteria(other)}'; if they are to stay "
                "out, repeat the exclusion there",
                {"rows": count},
            )


def _excludes(part: Criteria) -> bool:
    """Tell whether a part leaves named things out: `!=` or `not`, but not `is not blank`."""
    if isinstance(part, Not):
        return True
    return isinstance(part, Condition) and part.negated and not isinstance(part.test, Holds)


def _errors_let_in(plan: Plan, criteria: Criteria) -> Iterator[Notice]:
    """Matched rows whose criteria column holds an error: an unequal lets errors in."""
    if not _lets_anything_in(criteria):
        return
    columns: dict[str, Column] = {}
    wanted = set()
    for condition in conditions(criteria):
        column = plan.table.column(condition.column)
        if Kind.ERROR in column.counts:
            columns[column.name] = column
        if isinstance(condition.test, Holds) and condition.test.what is Holding.ERROR:
            wanted.add(column.name)
    names = [name for name in columns if name not in wanted]
    if not names:
        return
    asked = [all_of([criteria, Condition(name, Holds(Holding.ERROR))]) for name in names]
    for name, count in zip(names, count_rows(plan, asked, plan.skipped), strict=True):
        if count:
            rows = f"{counted(count, 'matching row')} {'holds' if count == 1 else 'hold'}"
            yield Notice(
                Code.ERRORS_IN_CRITERIA_COLUMN,
                f"{rows} an error in column '{name}', which the criteria ask; "
                f"to leave them out add: {name} is not error",
                {"rows": count},
            )


def _lets_anything_in(criteria: Criteria) -> bool:
    """Tell whether a row can match although a condition on one of its cells does not hold."""
    if isinstance(criteria, And):
        return any(map(_lets_anything_in, criteria.parts))
    return not isinstance(criteria, Condition) or criteria.negated


def _emptied(plan: Plan, criteria: Criteria) -> Iterator[Notice]:
    """The condition after which no row is left, for each alternative."""
    parts = criteria.parts if isinstance(criteria, Or) else (criteria,)
    if criteria is not plan.shared.criteria or len(parts) > _MOST_PAIRS:
        return
    funnel = funnel_of(plan)
    for alternative, part in zip(funnel.alternatives, parts, strict=True):
        step = alternative.emptied_by
        if step is None:
            continue
        position = alternative.steps.index(step)
        before = alternative.steps[position - 1].left if position else funnel.in_play
        nodes = part.parts if isinstance(part, And) else (part,)
        asked = nodes[position]
        if isinstance(asked, Condition) and plan.binder.notices(asked):
            continue  # why it holds for no row is told already
        yield Notice(
            Code.EMPTIED_BY,
            _emptied_text(step, position, before) + _nearest(plan, asked),
            {"rows_before": before, "rows_alone": step.alone},
        )


def _emptied_text(step: FunnelStep, position: int, before: int) -> str:
    if not step.alone:
        return f"'{step.condition}' holds for no row"
    return (
        f"no row is left after '{step.condition}': it holds for {counted(step.alone, 'row')}, "
        f"but for none of the {counted(before, 'row')} that the conditions before it leave"
    )


def _nearest(plan: Plan, part: Criteria) -> str:
    """Return the number or date that comes closest to a single one that was asked for."""
    if not isinstance(part, Condition) or not isinstance(part.test, OneOf) or part.negated:
        return ""
    (value, *more) = part.test.values
    if more or not isinstance(value, Point):
        return ""
    column = plan.table.column(part.column)
    lane = column.lanes.get(value.kind)
    if not isinstance(lane, FixedLane | FloatLane | DateLane):
        return ""
    held = Holding.NUMBER if value.kind is Kind.NUMBER else Holding.DATE
    rows = find_rows(plan, Condition(part.column, Holds(held)), plan.skipped)
    if not len(rows):
        return ""
    asked, (least, most) = value.first(lane), lane.ends
    stored = lane.values[rows].astype(np.float64)
    row = int(rows[int(np.abs(stored - float(min(max(asked, least), most))).argmin())])
    cell = column.cell(row)
    shown = f"{cell:,}".removesuffix(".0") if isinstance(cell, int | float) else format_date(cell)  # type: ignore[arg-type]
    return f"; the closest is {shown} in row {plan.table.number(row)}"
