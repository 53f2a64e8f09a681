"""Criteria as frozen nodes: conditions joined by and, or, not.

Nodes are equal when they mean the same; where each stood in the text is kept beside.
"""

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, field
from typing import TypeAlias

from even_sieve.core.cells.quoting import DEEPEST
from even_sieve.core.criteria.conditions import Test
from even_sieve.core.errors import CallError


class Joinable:
    """Criteria join with `&`, `|` and `~`; Python's own and/or cannot and say so."""

    def __and__(self, other: "Criteria") -> "Criteria":
        return all_of((_node(self), _node(other)))

    def __or__(self, other: "Criteria") -> "Criteria":
        return any_of((_node(self), _node(other)))

    def __invert__(self) -> "Criteria":
        return negated(_node(self))

    def __bool__(self) -> bool:
        raise TypeError(
            "criteria have no truth value of their own\n"
            "Join them with & (and), | (or), ~ (not), each side in parentheses: "
            '(field("zone") == "Outer") & (field("dues") > 500)'
        )


@dataclass(frozen=True)
class Condition(Joinable):
    """One test on one column. Negated, it holds for exactly the other rows."""

    column: str
    test: Test
    negated: bool = False
    position: int = field(default=0, compare=False)


@dataclass(frozen=True)
class And(Joinable):
    """All parts hold. Without parts it is no condition at all and every row matches."""

    parts: tuple["Criteria", ...]


@dataclass(frozen=True)
class Or(Joinable):
    """At least one part holds."""

    parts: tuple["Criteria", ...]


@dataclass(frozen=True)
class Not(Joinable):
    """Exactly the rows for which the part does not hold."""

    part: "Criteria"


Criteria: TypeAlias = Condition | And | Or | Not

EVERYTHING = And(())


def _node(value: object) -> Criteria:
    if isinstance(value, Condition | And | Or | Not):
        return value
    raise TypeError(f"criteria join with criteria, not with {value!r}")


def all_of(parts: Iterable[Criteria]) -> Criteria:
    """Return the parts joined by and, flat; one part stands for itself."""
    flat = tuple(each for part in parts for each in _parts(part, And))
    return flat[0] if len(flat) == 1 else And(flat)


def any_of(parts: Iterable[Criteria]) -> Criteria:
    """Return the parts joined by or, flat; one part stands for itself."""
    flat = tuple(each for part in parts for each in _parts(part, Or))
    return flat[0] if len(flat) == 1 else Or(flat)


def _parts(part: Criteria, kind: type[And] | type[Or]) -> tuple[Criteria, ...]:
    return part.parts if isinstance(part, And | Or) and isinstance(part, kind) else (part,)


def negated(part: Criteria) -> Criteria:
    """Return the criteria that hold for exactly the other rows."""
    if isinstance(part, Not):
        return part.part
    if isinstance(part, Condition):
        return Condition(part.column, part.test, not part.negated, part.position)
    return Not(part)


def inward(criteria: Criteria) -> Criteria:
    """Return equal criteria in which `not` stands before single conditions alone."""
    if isinstance(criteria, Condition):
        return criteria
    if not isinstance(criteria, Not):
        parts = map(inward, criteria.parts)
        return all_of(parts) if isinstance(criteria, And) else any_of(parts)
    part = criteria.part
    if isinstance(part, And | Or):
        opposite = [inward(negated(each)) for each in part.parts]
        return any_of(opposite) if isinstance(part, And) else all_of(opposite)
    return inward(negated(part))


def without_columns(criteria: Criteria, leaves: Callable[[str], bool]) -> Criteria | None:
    """Return the criteria without what they say of some columns; None if nothing is left.

    Every condition on them counts as met, wherever a `not` stood. An alternative of which
    nothing is left asks nothing, so neither do all of them.
    """
    criteria = inward(criteria)
    if isinstance(criteria, Condition):
        return None if leaves(criteria.column) else criteria
    if isinstance(criteria, Not):
        part = without_columns(criteria.part, leaves)
        return None if part is None else negated(part)
    parts = [without_columns(part, leaves) for part in criteria.parts]
    left = [part for part in parts if part is not None]
    if isinstance(criteria, And):
        return all_of(left) if left else None
    return any_of(left) if left and len(left) == len(parts) else None


def refuse_deep(criteria: Criteria) -> None:
    """Raise `CallError` for criteria that are nested deeper than any text may be."""
    level, depth = [criteria], 0
    while level:
        depth += 1
        if depth > 3 * DEEPEST:
            raise CallError(
                f"the criteria are nested more than {3 * DEEPEST} deep\n"
                "Take brackets away: alternatives side by side stay flat"
            )
        level = [
            part
            for each in level
            if not isinstance(each, Condition)
            for part in (each.parts if isinstance(each, And | Or) else (each.part,))
        ]


def conditions(criteria: Criteria) -> Iterator[Condition]:
    """Yield every condition in the order of the text."""
    if isinstance(criteria, Condition):
        yield criteria
    elif isinstance(criteria, Not):
        yield from conditions(criteria.part)
    else:
        for part in criteria.parts:
            yield from conditions(part)
