"""Criteria in plain English."""

from datetime import date, datetime

from even_sieve.core.cells.dates import DAY, date_from_days, datetime_from_micros
from even_sieve.core.criteria.nodes import (
    And,
    Compared,
    Condition,
    Criteria,
    Holding,
    Meets,
    Not,
    OneOf,
    Or,
    Order,
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
    YesNo,
)

_HOLDS = {
    Holding.BLANK: "blank",
    Holding.FILLED: "filled",
    Holding.ERROR: "an error",
    Holding.NUMBER: "a number",
    Holding.TEXT: "text",
    Holding.DATE: "a date",
    Holding.YES_NO: "a yes/no",
}
_NUMBER_ORDERS = {
    Order.LESS: "below",
    Order.AT_MOST: "at most",
    Order.MORE: "above",
    Order.AT_LEAST: "at least",
}
_DATE_ORDERS = {
    Order.LESS: "before",
    Order.AT_MOST: "no later than the end of",
    Order.MORE: "after",
    Order.AT_LEAST: "on or after",
}
_TEXT_ORDERS = {
    Order.LESS: "before",
    Order.AT_MOST: "no later than",
    Order.MORE: "after",
    Order.AT_LEAST: "no earlier than",
}
_NEGATIVE = {
    "": "not",
    "is": "is not",
    "comes": "does not come",
    "begins with": "does not begin with",
    "ends with": "does not end with",
    "contains": "does not contain",
    "reads": "does not read",
}


def describe(criteria: Criteria) -> str:
    """Return the criteria in plain English.

    >>> from even_sieve.core.criteria.grammar import parse_criteria
    >>> describe(parse_criteria("zone = Outer | Inner and arrived in 2031-Q1"))
    'zone is Outer or Inner, and arrived from 1 January 2031 to 31 March 2031, both days included'
    """
    if isinstance(criteria, Condition):
        return _condition(criteria)
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


def _condition(condition: Condition) -> str:
    column, test, negative = condition.column, condition.test, condition.negated
    if isinstance(test, Meets):
        return f"{'does not meet' if negative else 'meets'} '{test.name}'"
    if isinstance(test, OneOf):
        return f"{column} {_one_of(test.values, negative)}"
    if isinstance(test, Compared):
        verb, rest = _compared(test.order, test.value)
    else:
        verb, rest = "is", _HOLDS[test.what]
    return f"{column} {_NEGATIVE[verb] if negative else verb} {rest}"


def _compared(order: Order, value: Operand) -> tuple[str, str]:
    if isinstance(value, Period | NamedPeriod):
        if isinstance(value, Period) and value.end - value.start == 1:
            return "is", f"{_DATE_ORDERS[order].removesuffix(' the end of')} {_period(value)}"
        return "is", f"{_DATE_ORDERS[order]} {_period(value)}"
    if isinstance(value, Text | YesNo):
        return "comes", f"{_TEXT_ORDERS[order]} {_quoted(value.text)}"
    return "is", f"{_NUMBER_ORDERS[order]} {_value(value)}"


def _one_of(values: tuple[Operand, ...], negative: bool) -> str:
    """Return alternatives in words; those that read alike share their verb."""
    phrases = [_equal(value) for value in values]
    words: list[str] = []
    last = None
    for verb, rest in phrases:
        said = _NEGATIVE[verb] if negative else verb
        words.append(rest if verb == last else f"{said} {rest}".strip())
        last = verb
    if len(words) == 1:
        return words[0]
    if negative:
        alike = len({verb for verb, _ in phrases}) == 1
        return f"{', '.join(words[:-1])} {'or' if alike else 'and'} {words[-1]}"
    return f"{', '.join(words[:-1])} or {words[-1]}"


def _equal(value: Operand) -> tuple[str, str]:
    """Return the verb and the rest of what it is to equal a value, or to lie in it."""
    if isinstance(value, Pattern):
        return _pattern(value)
    if isinstance(value, Window):
        return _window(value)
    if isinstance(value, Period | NamedPeriod):
        return "", _within(value, value)
    return "is", _value(value)


def _pattern(pattern: Pattern) -> tuple[str, str]:
    match pattern.parts:
        case [(str() | Parameter()) as text, Wild.ANY_RUN]:
            return "begins with", _piece(text)
        case [Wild.ANY_RUN, (str() | Parameter()) as text]:
            return "ends with", _piece(text)
        case [Wild.ANY_RUN, (str() | Parameter()) as text, Wild.ANY_RUN]:
            return "contains", _piece(text)
        case [Wild.ANY_RUN]:
            return "is", "any text"
    shown = "".join(_spelt(part) for part in pattern.parts)
    if not any(isinstance(part, Wild) for part in pattern.parts):
        return "is", shown
    return "reads", f"{shown} (* is any run of characters, ? is one)"


def _piece(part: str | Parameter) -> str:
    return _quoted(part) if isinstance(part, str) else _value(part)


def _spelt(part: str | Wild | Parameter) -> str:
    if isinstance(part, str):
        return part
    return part.value if isinstance(part, Wild) else f"{{{part.name}}}"


def _window(window: Window) -> tuple[str, str]:
    low, high = window.low, window.high
    if isinstance(low, Period | NamedPeriod) or isinstance(high, Period | NamedPeriod):
        return "", _within(low, high)
    if low is None:
        return "is", f"at most {_end(high)}"
    if high is None:
        return "is", f"at least {_end(low)}"
    return "is", f"from {_end(low)} to {_end(high)}, both included"


def _end(end: WindowEnd) -> str:
    return "" if end is None else _value(end)


def _within(low: WindowEnd, high: WindowEnd) -> str:
    """Return a span of dates: `from 1 January 2031 to 31 March 2031, both days included`."""
    if low is high and isinstance(low, NamedPeriod):
        return f"in the period '{low.name}'"
    first = _moment(low.start) if isinstance(low, Period) else _end(low)
    last = _moment(_last(high)) if isinstance(high, Period) else _end(high)
    if not first:
        return f"up to {last}, that day included"
    if not last:
        return f"from {first} on, that day included"
    return f"on {first}" if first == last else f"from {first} to {last}, both days included"


def _last(period: Period) -> int:
    return period.end - DAY if period.end % DAY == 0 else period.end - 1


def _value(value: Operand) -> str:
    if isinstance(value, Number):
        # Four digits may be a year, which nobody groups.
        return f"{value.value:,f}" if abs(value.value) >= 10_000 else f"{value.value:f}"
    if isinstance(value, Parameter):
        return f"the value of {{{value.name}}}"
    if isinstance(value, OtherColumn):
        return f"the {value.name} of the same row"
    if isinstance(value, Period | NamedPeriod):
        return _period(value)
    return _quoted(value.text) if isinstance(value, Text | YesNo) else str(value)


def _quoted(text: str) -> str:
    """Return the text, in quotes where it could be taken for other words."""
    plain = all(each.isalnum() or each in " -.'&/" for each in text) and text == text.strip()
    number = text.replace(".", "").replace(",", "").isdigit()
    return text if plain and text and not number else f'"{text}"'


def _period(value: Period | NamedPeriod) -> str:
    if isinstance(value, NamedPeriod):
        return f"the period '{value.name}'"
    if value.end - value.start <= DAY:
        return _moment(value.start)
    return f"{_moment(value.start)} to {_moment(_last(value))}"


def _moment(micros: int) -> str:
    if micros % DAY == 0:
        return _day(date_from_days(micros // DAY))
    at: datetime = datetime_from_micros(micros)
    clock = at.strftime("%H:%M:%S.%f").rstrip("0").rstrip(".") if at.microsecond else (
        at.strftime("%H:%M:%S") if at.second else at.strftime("%H:%M")
    )  # fmt: skip
    return f"{_day(at)} {clock}"


def _day(day: date) -> str:
    return f"{day.day} {_MONTHS[day.month - 1]} {day.year}"


_MONTHS = (
    "January", "February", "March", "April", "May", "June", "July",
    "August", "September", "October", "November", "December",
)  # fmt: skip
