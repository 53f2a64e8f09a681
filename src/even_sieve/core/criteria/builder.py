"""Criteria built in Python: the same nodes as the text gives.

>>> from even_sieve.core.criteria import parse_criteria
>>> built = (field("zone") == "Outer") & (field("dues") > 500) | field("vessel").like("B*")
>>> built == parse_criteria("zone = Outer and dues > 500 or vessel = B*")
True
"""

from collections.abc import Mapping, Sequence
from enum import Enum
from typing import TypeAlias

from even_sieve.core.criteria.conditions import Compared, Holding, Holds, OneOf, Order
from even_sieve.core.criteria.grammar import parse_cell
from even_sieve.core.criteria.nodes import Condition, Criteria
from even_sieve.core.criteria.operands import (
    NamedPeriod,
    Number,
    Operand,
    OtherColumn,
    Parameter,
    Period,
    Text,
    Window,
    WindowEnd,
    read_letters,
    read_plain,
)
from even_sieve.core.criteria.settings import PlainValue, operand_of
from even_sieve.core.errors import CriteriaError
from even_sieve.core.understood import refused, text_of

Comparable: TypeAlias = "PlainValue | Field"


def parameter(name: str) -> Parameter:
    """Return the place of a parameter in criteria: `field("dues") >= parameter("floor")`.

    >>> from even_sieve import table_from
    >>> calls = table_from({"dues": [120, 80]})
    >>> large = field("dues") >= parameter("floor")
    >>> calls.tally("rows", where=large, parameters={"floor": 100})[0].value
    1
    """
    return Parameter(text_of("the name of a parameter", name))


class _Alone(Enum):
    """Says that a window was given as one value."""

    ALONE = "alone"


class Field:
    """A column in criteria. Comparing it gives criteria; a text is a text to the letter."""

    __hash__ = None  # type: ignore[assignment]

    def __init__(self, name: str) -> None:
        self.name = name

    def __eq__(self, value: Comparable) -> Criteria:  # type: ignore[override]
        operand = self._operand(value)
        if operand is None:
            return self.is_blank()
        return Condition(self.name, OneOf((operand,)))

    def __ne__(self, value: Comparable) -> Criteria:  # type: ignore[override]
        return ~(self == value)

    def __lt__(self, value: Comparable) -> Criteria:
        return self._compared(Order.LESS, value)

    def __le__(self, value: Comparable) -> Criteria:
        return self._compared(Order.AT_MOST, value)

    def __gt__(self, value: Comparable) -> Criteria:
        return self._compared(Order.MORE, value)

    def __ge__(self, value: Comparable) -> Criteria:
        return self._compared(Order.AT_LEAST, value)

    def one_of(self, *values: Comparable) -> Criteria:
        """Return criteria that hold where the cell equals any of the values."""
        operands = [self._operand(value) for value in values]
        known = tuple(operand for operand in operands if operand is not None)
        if not known:
            raise ValueError(f"field '{self.name}': one_of needs a value")
        found: Criteria = Condition(self.name, OneOf(known))
        return found if len(known) == len(operands) else found | self.is_blank()

    def like(self, pattern: str) -> Criteria:
        r"""Return criteria that hold where the whole text matches: `*` any run, `?` one.

        A backslash makes the next character a letter: `\*` is a star.
        """
        return Condition(self.name, OneOf((read_letters(pattern),)))

    def within(self, first: Comparable, last: "Comparable | _Alone" = _Alone.ALONE) -> Criteria:
        """Return criteria that hold within a window or a period, both ends included.

        One text is read as in criteria: `within("2031-Q1")`, `within("100..500")`. Two
        values are the ends, None an open one: `within(100, None)`.
        """
        if not isinstance(last, _Alone):
            return Condition(self.name, OneOf((Window(self._end(first), self._end(last)),)))
        if not isinstance(first, str):
            return self == first
        read = parse_cell(f"in {first}", self.name)
        if read is None or isinstance(getattr(getattr(read, "test", None), "values", " ")[0], Text):
            raise CriteriaError(first, 1, "this is no window or period", "Write: 2031-Q1, 100..500")
        return read

    def is_blank(self) -> Criteria:
        """Return criteria that hold where the cell is blank."""
        return self._holds(Holding.BLANK)

    def is_filled(self) -> Criteria:
        """Return criteria that hold where the cell is not blank."""
        return self._holds(Holding.FILLED)

    def is_error(self) -> Criteria:
        """Return criteria that hold where the cell is an error."""
        return self._holds(Holding.ERROR)

    def is_number(self) -> Criteria:
        """Return criteria that hold where the cell is a number."""
        return self._holds(Holding.NUMBER)

    def is_text(self) -> Criteria:
        """Return criteria that hold where the cell is text."""
        return self._holds(Holding.TEXT)

    def is_date(self) -> Criteria:
        """Return criteria that hold where the cell is a date."""
        return self._holds(Holding.DATE)

    def is_yes_no(self) -> Criteria:
        """Return criteria that hold where the cell is yes or no."""
        return self._holds(Holding.YES_NO)

    def __repr__(self) -> str:
        return f"field({self.name!r})"

    def _holds(self, what: Holding) -> Criteria:
        return Condition(self.name, Holds(what))

    def _compared(self, order: Order, value: Comparable) -> Criteria:
        operand = self._operand(value)
        if operand is None:
            raise ValueError(f"field '{self.name}': '{order}' needs a value, not a blank")
        return Condition(self.name, Compared(order, operand))

    def _operand(self, value: Comparable) -> Operand | None:
        if isinstance(value, Field):
            return OtherColumn(value.name)
        if hasattr(value, "iloc") or (
            isinstance(value, list | tuple | set | Mapping | Sequence)
            and not isinstance(value, str)
        ):
            accepted = "one value: a number, a date, a text; of several, write .one_of(*values)"
            raise refused(f"what field '{self.name}' is compared with", accepted, value)
        return operand_of(value)

    def _end(self, value: Comparable) -> WindowEnd:
        operand = read_plain(value) if isinstance(value, str) else self._operand(value)
        if operand is None or isinstance(operand, Number | Period | NamedPeriod | Parameter):
            return operand
        raise ValueError(f"field '{self.name}': {value!r} is no end of a window")


def field(name: str) -> Field:
    """Return the column of that name, to be compared: `field("dues") > 500`.

    >>> from even_sieve import table_from, write_criteria
    >>> criteria = (field("zone") == "Outer") & (field("dues") > 500)
    >>> write_criteria(criteria)
    'zone = Outer and dues > 500'
    """
    return Field(text_of("the name of a column", name))
