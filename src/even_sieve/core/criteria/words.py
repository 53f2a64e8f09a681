"""Criteria in plain English."""

from even_sieve.core.criteria.nodes import And, Condition, Criteria, Not, Or
from even_sieve.core.understood import refused


def describe(criteria: Criteria) -> str:
    """Return the criteria in plain English.

    >>> from even_sieve.core.criteria.grammar import parse_criteria
    >>> describe(parse_criteria("zone = Outer | Inner and arrived in 2031-Q1"))
    'zone is Outer or Inner, and arrived from 1 January 2031 to 31 March 2031, both days included'
    """
    if not isinstance(criteria, Condition | And | Or | Not):
        raise refused("criteria", "what parse_criteria gives, or field(…) compared", criteria)
    if isinstance(criteria, Condition):
        return criteria.test.say(criteria.column, criteria.negated)
    if isinstance(criteria, Not):
        return f"it is not so that ({describe(criteria.part)})"
    if not criteria.parts:
        return "every row"
    if isinstance(criteria, And):
        return ", and ".join(_bracketed(part, Or) for part in criteria.parts)
    joint = "; or " if any(isinstance(part, And) for part in criteria.parts) else ", or "
    return joint.join(map(describe, criteria.parts))


def _bracketed(part: Criteria, kind: type) -> str:
    return f"({describe(part)})" if isinstance(part, kind) else describe(part)
