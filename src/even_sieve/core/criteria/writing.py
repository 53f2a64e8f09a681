"""Criteria written back as text that reads back equal."""

from even_sieve.core.cells.dates import DAY
from even_sieve.core.cells.quoting import quoted
from even_sieve.core.criteria.grammar import parse_cell, parse_criteria
from even_sieve.core.criteria.nodes import (
    And,
    Compared,
    Condition,
    Criteria,
    Holds,
    Meets,
    Not,
    OneOf,
    Or,
)
from even_sieve.core.criteria.operands import (
    NamedPeriod,
    Number,
    Operand,
    OtherColumn,
    Parameter,
    Pattern,
    Period,
    Text,
    Wild,
    Window,
    WindowEnd,
)
from even_sieve.core.criteria.values import is_likely_end
from even_sieve.core.errors import CriteriaError

_ESCAPED = frozenset('\\*?|&"(){}@<>=!≠≤≥')


def write_criteria(criteria: Criteria) -> str:
    """Return text that `parse_criteria` reads as equal criteria; empty for no condition.

    >>> write_criteria(parse_criteria("not (zone=outer or dues<>5) and hours in 1..2"))
    'not (zone = outer or dues != 5) and hours in 1..2'
    """
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
    test = condition.test
    if isinstance(test, Meets):
        return f"not {{{test.name}}}" if condition.negated else f"{{{test.name}}}"
    column = write_column(condition.column)
    if isinstance(test, Holds):
        return f"{column} is {'not ' if condition.negated else ''}{test.what}"
    if isinstance(test, OneOf):
        spans = any(map(_is_span, test.values))
        symbol = "!=" if condition.negated else "in" if spans else "="
        return f"{column} {symbol} {write_values(test.values, in_cell=False)}"
    text = f"{column} {test.order} {_write_ordered(test.value, in_cell=False)}"
    return f"not {text}" if condition.negated else text


def _is_span(value: Operand) -> bool:
    """Tell whether a value is a window or a period longer than a day."""
    if isinstance(value, Period):
        return value.end - value.start > DAY
    return isinstance(value, Window | NamedPeriod)


def write_cell(criteria: Criteria) -> str:
    """Return what stands in a cell of a criteria range for conditions on its one column.

    Raises `ValueError` for what does not fit: a `not`, or alternatives inside an `and`.
    """
    if isinstance(criteria, Condition):
        return _write_cell_test(criteria, bare=True)
    alternatives = criteria.parts if isinstance(criteria, Or) else (criteria,)
    clauses = []
    for alternative in alternatives:
        parts = alternative.parts if isinstance(alternative, And) else (alternative,)
        tests = [part for part in parts if isinstance(part, Condition)]
        if len(tests) < len(parts) or not tests:
            text = write_criteria(criteria)
            raise ValueError(f"'{text}' does not fit into one cell of a criteria range")
        clauses.append(" & ".join(_write_cell_test(test, bare=False) for test in tests))
    return " | ".join(clauses)


def _write_cell_test(condition: Condition, *, bare: bool) -> str:
    """Return one test; a bare one has no `=` before its values."""
    test, negative = condition.test, "not " if condition.negated else ""
    if isinstance(test, Holds):
        return f"is {negative}{test.what}"
    if isinstance(test, Compared):
        return f"{negative}{test.order} {_write_ordered(test.value, in_cell=True)}"
    if isinstance(test, Meets):
        raise ValueError(f"'{write_condition(condition)}' does not fit into a criteria range")
    values = write_values(test.values, in_cell=True)
    if condition.negated:
        return f"!= {values}"
    return values if bare else f"= {values}"


def write_column(name: str) -> str:
    """Return the column's name, in quotes where it could be read otherwise."""
    try:
        read = parse_criteria(f"{name} is blank")
    except CriteriaError:
        read = None
    if isinstance(read, Condition) and read.column == name and isinstance(read.test, Holds):
        return name
    return quoted(name)


def write_values(values: tuple[Operand, ...], *, in_cell: bool) -> str:
    """Return the values with bars between them."""
    return " | ".join(write_value(value, in_cell=in_cell) for value in values)


def write_value(value: Operand, *, in_cell: bool = False) -> str:
    """Return one value as it stands in a condition."""
    if isinstance(value, Text):
        return _write_text(value, in_cell)
    if isinstance(value, Pattern):
        return _write_pattern(value)
    if isinstance(value, Window):
        return f"{_write_end(value.low)}..{_write_end(value.high)}"
    if isinstance(value, OtherColumn):
        return "@" + _write_other(value.name)
    if isinstance(value, Parameter):
        return f"{{{value.name}}}"
    return _write_end(value) if isinstance(value, Number | Period) else value.text


def _write_end(end: WindowEnd) -> str:
    if end is None:
        return ""
    if isinstance(end, Parameter):
        return f"{{{end.name}}}"
    if isinstance(end, Number):
        return end.text or str(end.value)
    return end.text


def _write_other(name: str) -> str:
    plain = all(each.isalnum() or each in " _-.#" for each in name)
    words = {word.lower() for word in name.split()}
    if plain and name == name.strip() and not words & {"and", "or"}:
        return name
    return quoted(name)


def _write_ordered(value: Operand, *, in_cell: bool) -> str:
    """Return the value of an order comparison: a text that had quotes has them again."""
    if isinstance(value, Text) and not value.bare:
        return quoted(value.text)
    return write_value(value, in_cell=in_cell)


def _write_text(value: Text, in_cell: bool) -> str:
    if not value.bare and is_likely_end(value.text):
        return quoted(value.text)
    balanced = value.text[:1] != "(" and value.text.count("(") == value.text.count(")")
    if balanced and _reads_back(value, in_cell):
        return value.text
    return quoted(value.text)


def _reads_back(value: Text, in_cell: bool) -> bool:
    """Tell whether the bare text is read as itself, alone and among others."""
    other = Text("x")
    for text, values in (
        (value.text, (value,)),
        (f"x | {value.text} | x", (other, value, other)),
    ):
        try:
            read = parse_cell(text, "x") if in_cell else parse_criteria(f"x = {text}")
        except CriteriaError:
            return False
        if read != Condition("x", OneOf(values)):
            return False
    return True


def _write_pattern(pattern: Pattern) -> str:
    pieces = []
    for part in pattern.parts:
        if isinstance(part, Wild):
            pieces.append(part.value)
        elif isinstance(part, Parameter):
            pieces.append(f"{{{part.name}}}")
        else:
            pieces.append("".join(f"\\{each}" if _special(each) else each for each in part))
    text = "".join(pieces)
    for word in (" and ", " or ", " not ", " is ", " in "):
        start = text.lower().find(word)
        if start >= 0:
            return text.replace(" ", "\\ ")
    first, last = text[:1], text[-1:]
    begin = "\\" if first.isspace() or text.lower().startswith(("not ", "is ", "in ")) else ""
    return begin + (text[:-1] + "\\" + last if last.isspace() and len(text) > 1 else text)


def _special(char: str) -> bool:
    return char in _ESCAPED
