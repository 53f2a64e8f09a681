"""Why each row is in or out: matching, or left out by a mark, or by which condition."""

from collections.abc import Sequence

import numpy as np

from even_sieve.core.criteria import Criteria, write_criteria
from even_sieve.core.criteria.nodes import And, Or
from even_sieve.core.table import Mark
from even_sieve.core.table.lanes import Array
from even_sieve.core.table.marks import MARKS
from even_sieve.core.tally.counting import find_rows
from even_sieve.core.tally.plan import Plan

_MARK_WORDS = {Mark.SUBTOTAL: "subtotal", Mark.HIDDEN: "hidden", Mark.FILTERED: "filtered"}


def verdicts(plan: Plan) -> list[str]:
    """Return for each row of the table an empty text if it matches, else why it is out.

    A mark goes first; then the first condition that does not hold, of each alternative.
    """
    out = _marks_out(plan)
    criteria = plan.shared.criteria
    matching = _mask(plan, criteria)
    alternatives = criteria.parts if isinstance(criteria, Or) else (criteria,)
    failed = [_first_failed(plan, part) for part in alternatives]
    found = []
    for row in range(plan.table.length):
        if out[row]:
            found.append(out[row])
        elif matching[row]:
            found.append("")
        else:
            reasons = dict.fromkeys(names[positions[row]] for names, positions in failed)
            found.append("not " + ", not ".join(reasons))
    return found


def _marks_out(plan: Plan) -> list[str]:
    marks, skipped = plan.table.marks, plan.skipped
    if marks is None:
        return [""] * plan.table.length
    words = [
        next((_MARK_WORDS[mark] for mark in MARKS if bits & mark & skipped), "")
        for bits in range(8)
    ]
    return [words[bits] for bits in marks.tolist()]


def _mask(plan: Plan, criteria: Criteria) -> Array:
    mask = np.zeros(plan.table.length, dtype=bool)
    mask[find_rows(plan, criteria, Mark(0))] = True
    return mask


def _first_failed(plan: Plan, alternative: Criteria) -> tuple[Sequence[str], list[int]]:
    """Return the conditions of an alternative, and for each row which one fails first."""
    parts = alternative.parts if isinstance(alternative, And) else (alternative,)
    positions = np.zeros(plan.table.length, dtype=np.intp)
    open_still = np.ones(plan.table.length, dtype=bool)
    for position, part in enumerate(parts):
        fails = open_still & ~_mask(plan, part)
        positions[fails] = position
        open_still &= ~fails
    return [_written(part) for part in parts], positions.tolist()


def _written(part: Criteria) -> str:
    text = write_criteria(part)
    return f"({text})" if isinstance(part, And | Or) else text
