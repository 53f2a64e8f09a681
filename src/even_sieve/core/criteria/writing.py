"""Criteria written back as text that reads back equal."""

from dataclasses import dataclass
from functools import lru_cache

from even_sieve.core.cells.quoting import quoted
from even_sieve.core.criteria.conditions import Holds, OneOf
from even_sieve.core.criteria.grammar import parse_cell, parse_criteria
from even_sieve.core.criteria.nodes import And, Condition, Criteria, Not, Or
from even_sieve.core.criteria.operands import Operand
from even_sieve.core.criteria.seeming import seems_otherwise
from even_sieve.core.errors import CriteriaError
from even_sieve.core.understood import refused


@dataclass(frozen=True)
class _Writing:
    """Where values are written: in a cell of a criteria range, or after a column."""

    in_cell: bool

    @lru_cache(maxsize=1 << 15)  # noqa: B019 - there are two of these
    def reads_back(self, text: str, values: tuple[Operand, ...]) -> bool:
        """Tell whether the text, after an equal sign, is read as these values."""
        try:
            read = parse_cell(text, "x") if self.in_cell else parse_criteria(f"x = {text}")
        except CriteriaError:
            return False
        return read == Condition("x", OneOf(values))

    def seems_otherwise(self, text: str) -> bool:
        """Tell whether a text without quotes may be meant as something else, and refused."""
        return seems_otherwise(text)


_IN_TEXT, _IN_CELL = _Writing(in_cell=False), _Writing(in_cell=True)


def write_criteria(criteria: Criteria) -> str:
    """Return text that `parse_criteria` reads as equal criteria; empty for no condition.

    >>> write_criteria(parse_criteria("not (zone=outer or dues<>5) and hours in 1..2"))
    'not (zone = outer or dues != 5) and hours in 1..2'
    """
    if not isinstance(criteria, Condition | And | Or | Not):
        raise refused("criteria", "what parse_criteria gives, or field(…) compared", criteria)
    if isinstance(criteria, Condition):
        return write_condition(criteria)
    if isinstance(criteria, Not):
        return f"not ({write_criteria(criteria.part)})"
    joint = " and " if isinstance(criteria, And) else " or "
    return joint.join(_inside(part, criteria) for part in criteria.parts)


def _inside(part: Criteria, whole: Criteria) -> str:
    text = write_criteria(part)
    return f"({text})" if isinstance(whole, And) and not isinstance(part, Condition | Not) else text


def write_condition(condition: Condition) -> str:
    """Return one condition as text, its column first."""
    column = write_column(condition.column) if condition.column else ""
    return condition.test.write(column, condition.negated, _IN_TEXT)


def write_cell(criteria: Criteria) -> str:
    """Return what stands in a cell of a criteria range for conditions on its one column.

    Raises `ValueError` for what does not fit: a `not`, or alternatives inside an `and`.
    """
    if isinstance(criteria, Condition):
        return _write_test(criteria, bare=True)
    alternatives = criteria.parts if isinstance(criteria, Or) else (criteria,)
    clauses = []
    for alternative in alternatives:
        parts = alternative.parts if isinstance(alternative, And) else (alternative,)
        tests = [part for part in parts if isinstance(part, Condition)]
        if len(tests) < len(parts) or not tests:
            text = write_criteria(criteria)
            raise ValueError(f"'{text}' does not fit into one cell of a criteria range")
        clauses.append(" & ".join(_write_test(test, bare=False) for test in tests))
    return " | ".join(clauses)


def _write_test(condition: Condition, *, bare: bool) -> str:
    return condition.test.write_in_cell(condition.negated, bare, _IN_CELL)


@lru_cache(maxsize=1024)
def write_column(name: str) -> str:
    """Return the column's name, in quotes where it could be read otherwise."""
    try:
        read = parse_criteria(f"{name} is blank")
    except CriteriaError:
        read = None
    if isinstance(read, Condition) and read.column == name and isinstance(read.test, Holds):
        return name
    return quoted(name)


def write_value(value: Operand) -> str:
    """Return one value as it stands in a condition."""
    return value.write(_IN_TEXT)
